import { describe, expect, test } from "vitest";
import { LANE_IDS, LANES, newLane } from "../patch/lanes";
import {
  accentEvery,
  copyOf,
  evenSpread,
  fillEvenly,
  hitsOf,
  mirror,
  ramp,
  randomFill,
  setRanges,
  setSteps,
  shift,
  withLength,
} from "./fill";

describe("fill tools", () => {
  const text = (hits: number, steps: number) => evenSpread(hits, steps).map((h) => (h ? "x" : ".")).join(""); // prettier-ignore
  test("even spreads are Toussaint's rhythms, up to where they begin", () => {
    // Toussaint 2005, written from memory.
    const table = [
      "x.", "x..", "x...", "x.x", "x.x..", "x.xx", "x.x.x", "x.x.x..", "x..x..x.", "x.x.x.x", "x.x.x.x..",
      "x..x..x..x.", "x.xxxx", "x.xx.xx", "x.xx.xx.", "x.x.x.x.x", "x.x.x.x.x..", "x..x.x..x.x.", "x..x..x..x..x...",
      "x.xxxxxx", "x.xx.x.xx.x.", "x..x.x.x..x.x.x.", "x.xx.x.x.xx.x.x.", "x..x.x.x.x.x..x.x.x.x.x.",
      "x.xx.x.x.x.x.xx.x.x.x.x.",
    ]; // prettier-ignore
    for (const rhythm of table) {
      const hits = rhythm.replaceAll(".", "").length;
      const ours = text(hits, rhythm.length);
      expect(ours[0]).toBe("x");
      expect((rhythm + rhythm).includes(ours), `${hits} in ${rhythm.length}: ${ours}`).toBe(true);
    }
    expect(text(0, 4)).toBe("....");
    expect(text(9, 4)).toBe("xxxx");
    expect(evenSpread(3, 8, 1)).toEqual([...evenSpread(3, 8).slice(1), true]);
  });
  test("ranges go from none to the whole of a row; a lane has 1 to 64 steps", () => {
    const lane = newLane("velocity", 2);
    const { min, max } = LANES.velocity.row;
    const first = (range: number): number => setRanges(lane, "velocity", new Set([0]), range).ranges[0]!;
    expect([-3, 0.4, 0.6, 1e6].map(first)).toEqual([0, 0, 1, max - min]);
    expect(setRanges(lane, "velocity", new Set([0]), 5).ranges).toEqual([5, lane.ranges[1]]);
    expect([-3, 0, 1, 1.6, 64, 900].map((n) => withLength(lane, n).values.length)).toEqual([1, 1, 1, 2, 64, 64]);
  });
  test("each does what it says and stays in range", () => {
    const lane = { ...newLane("velocity", 4), values: [10, 20, 30, 40], ranges: [1, 2, 3, 4] };
    expect(shift(lane, 1)).toMatchObject({ values: [40, 10, 20, 30], ranges: [4, 1, 2, 3] });
    expect(shift(lane, -5).values).toEqual([20, 30, 40, 10]);
    expect(mirror(lane)).toMatchObject({ values: [40, 30, 20, 10], ranges: [4, 3, 2, 1] });
    expect(ramp(lane, "velocity", 100, 300).values).toEqual([100, 167, 200, 200]);
    expect(ramp(newLane("velocity", 2), "velocity", 20, 80).values).toEqual([20, 80]);
    expect(ramp(newLane("velocity", 1), "velocity", 20, 80).values).toEqual([20]);
    expect(accentEvery(lane, "velocity", 3).values).toEqual([120, 20, 30, 120]);
    expect(accentEvery(lane, "velocity", 0).values).toEqual([120, 120, 120, 120]);
    expect(fillEvenly(newLane("play", 8), "play", 3, 0).values).toEqual([1, 0, 0, 1, 0, 0, 1, 0]);
    expect(hitsOf(fillEvenly(newLane("velocity", 16), "velocity", 5, 2), "velocity")).toBe(5);
    expect(setRanges(lane, "velocity", new Set([1, 2]), 9)).toMatchObject({ values: [10, 20, 30, 40], ranges: [1, 9, 9, 4] }); // prettier-ignore
    expect(setSteps(lane, "velocity", new Set([0, 3]), 99)).toMatchObject({ values: [99, 20, 30, 99], ranges: [1, 2, 3, 4] }); // prettier-ignore
    expect(setRanges(lane, "velocity", new Set([0, 1]), 999).ranges[0]).toBe(199);
    expect(withLength(lane, 6).values).toEqual([10, 20, 30, 40, 10, 20]);
    expect(withLength(lane, 2).ranges).toEqual([1, 2]);
    expect(randomFill(lane, "velocity", 1)).toEqual(randomFill(lane, "velocity", 1));
    // Even over the whole range, whole where the lane is: the mean within four deviations, both ends nearly reached.
    for (const id of LANE_IDS) {
      const { row } = LANES[id];
      const drawn = Array.from({ length: 40 }, (_, seed) => randomFill(newLane(id, 64), id, seed).values).flat();
      const span = row.max - row.min;
      expect(Math.abs(drawn.reduce((s, v) => s + v, 0) / drawn.length - (row.min + row.max) / 2)).toBeLessThan(
        (4 * (span + 1)) / Math.sqrt(12 * drawn.length),
      );
      expect(Math.min(...drawn) - row.min).toBeLessThanOrEqual(span / 200);
      expect(row.max - Math.max(...drawn)).toBeLessThanOrEqual(span / 200);
      expect(drawn.every((v) => !row.whole || Number.isInteger(v))).toBe(true);
    }
    expect(setRanges(lane, "velocity", new Set([0]), lane.ranges[0]!)).toBe(lane);
    expect(setRanges(lane, "velocity", new Set([0]), lane.ranges[0]! + 1)).not.toBe(lane);
    expect(setRanges(newLane("octave", 2), "octave", new Set([0]), 1.6).ranges).toEqual([2, 0]);
    expect(setRanges(newLane("gate", 2), "gate", new Set([0]), 1.6).ranges).toEqual([
      LANES.gate.row.whole ? 2 : 1.6,
      0,
    ]);
    expect(new Set(randomFill(newLane("octave", 64), "octave", 1).values)).toEqual(new Set([-3, -2, -1, 0, 1, 2, 3]));
    // From -3 to 3 octaves to 0 to 100 %.
    expect(
      copyOf(newLane("freeA", 2), "freeA", { ...newLane("octave", 3), values: [-3, 0, 3] }, "octave").values,
    ).toEqual([0, 50, 100]);
  });
});
