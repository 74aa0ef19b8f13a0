import { LANE_IDS, LANES, MAX_KEPT, type LaneId, type StepLane } from "../patch/lanes";
import { clampToParameter } from "../patch/row";
import { hash01, hash32 } from "./chance";

/** Addresses the draws of lanes apart from others made from the same seed. */
const LANE_VALUE = 0x1a;
const LANE_PLACE = 0x1b;

/** Where a step is. */
export interface StepPlace {
  /** Steps since the arpeggio last started again. */
  readonly count: number;
  /** Steps since the pass began. */
  readonly ofPass: number;
  /** Bars since the pass began. */
  readonly bar: number;
}

/** Which of a lane's steps is taken at a place: there and back plays both ends once. */
export function laneStep(lane: StepLane, id: LaneId, seed: number, { count, ofPass }: StepPlace): number {
  const n = lane.values.length;
  const forward = count % n;
  switch (lane.direction) {
    case "forward":
      return forward;
    case "backward":
      return n - 1 - forward;
    case "pendulum": {
      const there = count % Math.max(1, 2 * n - 2);
      return there < n ? there : 2 * n - 2 - there;
    }
    case "random":
      return hash32(seed, LANE_PLACE, LANE_IDS.indexOf(id), lane.take, ofPass) % n;
    default:
      return lane.direction satisfies never;
  }
}

/**
 * The values that chance gives a lane in one bar, one a step: what the first of the places that take it gets; steps that
 * the bar does not come to are as they are set.
 */
export function drawnInBar(
  lane: StepLane,
  id: LaneId,
  seed: number,
  places: readonly StepPlace[],
  bar: number,
): number[] {
  const values = [...lane.values];
  const seen = new Set<number>();
  const drawing = { ...lane, locked: null };
  for (const place of places) {
    if (place.bar !== bar) continue;
    const step = laneStep(lane, id, seed, place);
    if (!seen.has(step)) values[step] = laneValue(drawing, id, seed, place);
    seen.add(step);
  }
  return values;
}

/** Keeps values as a take and locks the lane to it; the same lane when it holds as many as it can. */
export function keepTake(lane: StepLane, name: string, values: readonly number[]): StepLane {
  if (lane.kept.length >= MAX_KEPT) return lane;
  return { ...lane, kept: [...lane.kept, { name, values }], locked: lane.kept.length };
}

/** Leaves a take out; what was locked to it draws again, what was locked to another stays. */
export function dropTake(lane: StepLane, index: number): StepLane {
  const { locked } = lane;
  return {
    ...lane,
    kept: lane.kept.filter((_, i) => i !== index),
    locked: locked === null || locked === index ? null : locked > index ? locked - 1 : locked,
  };
}

/** Writes a take into the lane as its plain values, which chance does not move. */
export function writeTake(lane: StepLane, index: number): StepLane {
  const take = lane.kept[index];
  if (!take) return lane;
  return {
    ...lane,
    values: lane.values.map((_, i) => take.values[i % take.values.length]!),
    ranges: lane.ranges.map(() => 0),
    locked: null,
  };
}

/**
 * A lane's value at a place: its step's, moved by chance within that step's range and held within what the lane takes, or
 * that of the take that it is locked to. Whole values are drawn evenly among the whole numbers of the range.
 */
export function laneValue(lane: StepLane, id: LaneId, seed: number, place: StepPlace): number {
  const step = laneStep(lane, id, seed, place);
  const kept = lane.locked === null ? undefined : lane.kept[lane.locked];
  if (kept) return kept.values[step % kept.values.length]!;
  const value = lane.values[step]!;
  const range = lane.ranges[step]!;
  if (range === 0) return value;
  const { row } = LANES[id];
  const when = lane.freshBars === 0 ? place.ofPass : Math.floor(place.bar / lane.freshBars);
  const draw = hash01(seed, LANE_VALUE, LANE_IDS.indexOf(id), lane.take, when, step);
  if (row.whole) {
    const reach = Math.floor(range);
    return clampToParameter(row, value - reach + Math.floor(draw * (2 * reach + 1)));
  }
  return clampToParameter(row, value + range * (2 * draw - 1));
}
