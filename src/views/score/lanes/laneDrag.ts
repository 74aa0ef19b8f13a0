import { LANES, PLAY, REST, TIE, type LaneId, type StepLane } from "@/core/patch/lanes";
import { fromNorm, toNorm, type Parameter } from "@/core/patch/row";
import type { Step } from "@/core/pattern/arpeggio";
import { laneNumber } from "@/core/pattern/fill";
import { laneStep } from "@/core/pattern/lane";
import { tickToX, xToTick, type Timeline } from "../timeline";

/** Where a lane is drawn: its steps across the song, its values from top to bottom. */
export interface LaneView {
  readonly timeline: Timeline;
  readonly steps: readonly Step[];
  /** Of a step, which of the lane's values it takes. */
  readonly indices: readonly number[];
  readonly height: number;
}

/** Room above the highest and below the lowest value, in pixels. */
const ROOM = 4;

/** Which of a lane's values each step of the pass takes. */
export const indicesOf = (lane: StepLane, id: LaneId, seed: number, steps: readonly Step[]): number[] =>
  steps.map((s) => laneStep(lane, id, seed, s));

export const valueY = (v: Pick<LaneView, "height">, id: LaneId, value: number): number =>
  ROOM + (1 - toNorm(LANES[id].row, value)) * (v.height - 2 * ROOM);

const valueAt = (v: LaneView, id: LaneId, y: number): number => {
  const row: Parameter = LANES[id].row;
  const norm = 1 - (y - ROOM) / (v.height - 2 * ROOM);
  return laneNumber(id, fromNorm(row, Math.min(1, Math.max(0, norm))));
};

/** The step of the pass under a place, by its index; -1 for none. */
export function stepAt(v: LaneView, x: number): number {
  const tick = xToTick(v.timeline, x);
  let low = 0;
  let high = v.steps.length - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    const step = v.steps[middle]!;
    if (tick < step.tick) high = middle - 1;
    else if (tick >= step.end) low = middle + 1;
    else return middle;
  }
  return -1;
}

/** The middle and the width of a step, in pixels. */
export function stepBox(v: LaneView, step: Step): { x: number; width: number } {
  const x = tickToX(v.timeline, step.tick);
  return { x, width: tickToX(v.timeline, step.end) - x };
}

interface Px {
  readonly x: number;
  readonly y: number;
}

/** What a stroke does to a lane: draws values, or opens the range of chance round them. */
export interface Stroke {
  readonly what: "values" | "ranges";
  readonly last: Px;
  /** The value that a stroke on the play lane paints. */
  readonly paints: number | null;
  readonly gesture: string;
}

/** What a press on the play lane makes of a step: each press takes the next of play, tie and rest. */
const nextPlay = (value: number): number => (value === PLAY ? TIE : value === TIE ? REST : PLAY);

export function beginStroke(lane: StepLane, id: LaneId, v: LaneView, at: Px, alt: boolean, gesture: string): Stroke {
  const index = v.indices[stepAt(v, at.x)];
  const paints = id === "play" && !alt && index !== undefined ? nextPlay(lane.values[index]!) : null;
  return { what: alt ? "ranges" : "values", last: at, paints, gesture };
}

/** A stroke from where it was to `at`: every step that is crossed takes the value of the line between. */
export function stroke(lane: StepLane, id: LaneId, v: LaneView, s: Stroke, at: Px): StepLane {
  const from = stepAt(v, s.last.x);
  const to = stepAt(v, at.x);
  if (to === -1 && from === -1) return lane;
  const [a, b] = [from === -1 ? to : from, to === -1 ? from : to];
  const values = [...lane.values];
  const ranges = [...lane.ranges];
  const { row } = LANES[id];
  const turn = a <= b ? 1 : -1;
  for (let i = a; ; i += turn) {
    const { x, width } = stepBox(v, v.steps[i]!);
    const part = at.x === s.last.x ? 1 : Math.min(1, Math.max(0, (x + width / 2 - s.last.x) / (at.x - s.last.x)));
    const y = i === b ? at.y : s.last.y + (at.y - s.last.y) * part;
    const index = v.indices[i]!;
    const drawn = valueAt(v, id, y);
    if (s.what === "ranges") ranges[index] = Math.min(row.max - row.min, Math.abs(drawn - lane.values[index]!));
    else values[index] = s.paints ?? drawn;
    if (i === b) break;
  }
  const same = values.every((x, i) => x === lane.values[i]) && ranges.every((x, i) => x === lane.ranges[i]);
  return same ? lane : { ...lane, values, ranges };
}
