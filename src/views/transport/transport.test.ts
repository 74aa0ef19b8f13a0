import { describe, expect, test } from "vitest";
import { MeterBallistics } from "./meterBallistics";
import { tapTempo } from "./tapTempo";

describe("tap tempo", () => {
  const tapAt = (times: readonly number[]) =>
    times.reduce((s, t) => tapTempo(s.taps, t), { taps: [] as readonly number[], bpm: null as number | null });
  test("averages the last taps; a quarter lasts 60 000 / BPM ms", () => {
    expect(tapAt([0]).bpm).toBeNull();
    expect(tapAt([0, 500, 1000, 1500]).bpm).toBe(120);
    expect(tapAt([0, 490, 1010, 1500]).bpm).toBe(120);
  });
  test("a pause starts anew, and no tempo leaves the range", () => {
    expect(tapAt([0, 500, 9000]).bpm).toBeNull();
    expect(tapAt([0, 10, 20]).bpm).toBe(400);
  });
});

describe("the peak meter", () => {
  test("rises at once, falls 20 dB in 1.7 s (IEC 60268-10 type I), holds its mark, and tells of overs", () => {
    const meter = new MeterBallistics();
    meter.update([1, 0.5], 0);
    const later = meter.update([0, 0], 1700);
    expect(later.sides[0]!.levelDb).toBeCloseTo(-20, 6);
    expect(meter.update([0, 0], 1701).highestDb).toBeCloseTo(0, 9);
    const held = new MeterBallistics();
    held.update([0.5, 0], 0);
    expect(held.update([0, 0], 1000).sides[0]!.holdDb).toBeCloseTo(-6.02, 2);
    expect(held.update([2, 0], 1100).overDb).toBeCloseTo(6.02, 2);
    held.reset();
    expect(held.update([0, 0], 1200).overDb).toBeNull();
  });
});
