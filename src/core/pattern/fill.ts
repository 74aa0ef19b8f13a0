import { LANES, MAX_LANE_STEPS, PLAY, REST, type LaneId, type StepLane } from "../patch/lanes";
import { clampToParameter, fromNorm, toNorm, type Parameter } from "../patch/row";
import { hash01 } from "./chance";

/** Tools that fill a lane's values. Pure: each returns a new lane; lengths stay unless a tool is asked to change them. */

/**
 * Spreads `hits` over `steps` as evenly as whole steps allow, a hit first, turned to the left by `rotation` steps: the
 * rhythms of Toussaint, "The Euclidean Algorithm Generates Traditional Musical Rhythms" (2005), up to where they begin.
 */
export function evenSpread(hits: number, steps: number, rotation = 0): boolean[] {
  const k = Math.min(steps, Math.max(0, hits));
  return Array.from({ length: steps }, (_, i) => {
    const at = (((i + rotation) % steps) + steps) % steps;
    return (at * k) % steps < k;
  });
}

/** A value of a lane as it may be written: in range, whole where only whole numbers are meant. */
export const laneNumber = (id: LaneId, value: number): number => {
  const { row }: { row: Parameter } = LANES[id];
  return clampToParameter(row, row.whole ? Math.round(value) : value);
};

const withValues = (lane: StepLane, id: LaneId, value: (i: number) => number): StepLane => {
  const values = lane.values.map((_, i) => laneNumber(id, value(i)));
  return values.every((v, i) => v === lane.values[i]) ? lane : { ...lane, values };
};

/** Sets steps, numbered from 0, to a value. */
export const setSteps = (lane: StepLane, id: LaneId, steps: ReadonlySet<number>, value: number): StepLane =>
  withValues(lane, id, (i) => (steps.has(i) ? value : lane.values[i]!));

/** Sets how far chance may take steps. */
export function setRanges(lane: StepLane, id: LaneId, steps: ReadonlySet<number>, range: number): StepLane {
  const { row } = LANES[id];
  const held = Math.min(row.max - row.min, Math.max(0, row.whole ? Math.round(range) : range));
  const ranges = lane.ranges.map((r, i) => (steps.has(i) ? held : r));
  return ranges.every((r, i) => r === lane.ranges[i]) ? lane : { ...lane, ranges };
}

/** Gives a lane another length: steps that are new repeat those there are. */
export function withLength(lane: StepLane, length: number): StepLane {
  const n = Math.min(MAX_LANE_STEPS, Math.max(1, Math.round(length)));
  if (n === lane.values.length) return lane;
  const fit = (list: readonly number[]): number[] => Array.from({ length: n }, (_, i) => list[i % list.length]!);
  return { ...lane, values: fit(lane.values), ranges: fit(lane.ranges) };
}

/** The values that a lane goes between when it is filled with hits: play and rest, or high and its default. */
const hitValues = (id: LaneId): { hit: number; none: number } => {
  if (id === "play") return { hit: PLAY, none: REST };
  const { row } = LANES[id];
  return id === "velocity" ? { hit: 120, none: 80 } : { hit: row.max, none: row.default };
};

/** Hits spread evenly, the rest at rest. */
export function fillEvenly(lane: StepLane, id: LaneId, hits: number, rotation: number): StepLane {
  const { hit, none } = hitValues(id);
  const spread = evenSpread(hits, lane.values.length, rotation);
  return withValues(lane, id, (i) => (spread[i] ? hit : none));
}

/** How many of a lane's steps are hits. */
export const hitsOf = (lane: StepLane, id: LaneId): number => lane.values.filter((v) => v === hitValues(id).hit).length;

/** Every n-th step from the first on is a hit, the others keep their values. */
export const accentEvery = (lane: StepLane, id: LaneId, n: number): StepLane =>
  withValues(lane, id, (i) => (i % Math.max(1, n) === 0 ? hitValues(id).hit : lane.values[i]!));

/** A straight way from one value to another over all steps. */
export const ramp = (lane: StepLane, id: LaneId, from: number, to: number): StepLane =>
  withValues(lane, id, (i) => from + ((to - from) * i) / Math.max(1, lane.values.length - 1));

/** The steps in backward order. */
export const mirror = (lane: StepLane): StepLane => ({
  ...lane,
  values: [...lane.values].reverse(),
  ranges: [...lane.ranges].reverse(),
});

/** The steps moved to the right by `by`, round the end. */
export function shift(lane: StepLane, by: number): StepLane {
  const n = lane.values.length;
  const from = (i: number): number => (((i - by) % n) + n) % n;
  return { ...lane, values: lane.values.map((_, i) => lane.values[from(i)]!), ranges: lane.ranges.map((_, i) => lane.ranges[from(i)]!) }; // prettier-ignore
}

/** Values drawn evenly over the whole range from a seed. */
export const randomFill = (lane: StepLane, id: LaneId, seed: number): StepLane => {
  const { row }: { row: Parameter } = LANES[id];
  const span = row.whole ? row.max - row.min + 1 : row.max - row.min;
  return withValues(
    lane,
    id,
    (i) => row.min + (row.whole ? Math.floor(hash01(seed, i) * span) : hash01(seed, i) * span),
  );
};

/** The values of another lane, from its lowest to its highest spread over this one's range; its length, too. */
export const copyOf = (lane: StepLane, id: LaneId, other: StepLane, otherId: LaneId): StepLane => {
  const sized = withLength(lane, other.values.length);
  const from: Parameter = LANES[otherId].row;
  const to: Parameter = LANES[id].row;
  return withValues(sized, id, (i) => fromNorm(to, toNorm(from, other.values[i]!)));
};
