import { LANE_IDS, LANES, type LaneId, type StepLane } from "../patch/lanes";
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
 * A lane's value at a place: its step's, moved by chance within that step's range and held within what the lane takes.
 * Whole values are drawn evenly among the whole numbers of the range.
 */
export function laneValue(lane: StepLane, id: LaneId, seed: number, place: StepPlace): number {
  const step = laneStep(lane, id, seed, place);
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
