import { describe, expect, test } from "vitest";
import { madeRecording } from "../../../tests/support/recordings";
import { farthest } from "../../../tests/support/same";
import type { Harmonics } from "./fourier";
import { MOST_HARMONICS, cornerTable, frameTable } from "./frameTables";
import { framesOf, guessFrameLength } from "./importedFrames";
import { drawnHarmonics, harmonicsAt, makeTable, ownFrames, tableHarmonics } from "./tables";
import { framesShown } from "./waveShape";
import { weighted } from "./weightedHarmonics";

const of = (cos: number[], sin: number[]): Harmonics => ({ cos: Float64Array.from(cos), sin: Float64Array.from(sin) });
/** A cycle's value at a place of 0 to 1, by Fourier's series. */
const valueAt = ({ cos, sin }: Harmonics, x: number): number =>
  cos.reduce((sum, c, k) => sum + c * Math.cos(2 * Math.PI * (k + 1) * x) + sin[k]! * Math.sin(2 * Math.PI * (k + 1) * x), 0); // prettier-ignore
const PLACES = [0, 0.13, 0.29, 0.5, 0.77];

describe("places between frames", () => {
  test("are straight between the two around them, ends beyond the ends", () => {
    const table = [of([0], [1]), of([4], [3]), of([2], [-5])];
    expect([-10, 0, 25, 50, 75, 100, 130].map((p) => { const { cos, sin } = harmonicsAt(table, p); return [cos[0], sin[0]]; })).toEqual([[0, 1], [0, 1], [2, 2], [4, 3], [3, -1], [2, -5], [2, -5]]); // prettier-ignore
  });
  test("frames are shown from the first to the last", () => {
    const table = [of([0], [1]), of([1], [0]), of([0], [-1])];
    const shown = (count: number): number[][] => framesShown(table, count).map((f) => [...f.slice(0, 2)]);
    const all = shown(9);
    expect(all).toHaveLength(3);
    expect([shown(1), shown(2)]).toEqual([[all[0]], [all[0], all[2]]]);
  });
});

describe("corners", () => {
  const corner = (harmonic: number, phase: number, level: number) => ({ table: "vowels" as const, place: 30, harmonic, phase, level }); // prettier-ignore
  const silent = corner(1, 0, 0);
  test("are cycles set apart by their pitch and begun at their phase, as far as harmonics go", () => {
    const base = harmonicsAt(ownFrames("vowels"), 30);
    const made = tableHarmonics([corner(3, 70, 0.5), silent, silent, silent], 0, 0);
    expect(made.sin).toHaveLength(MOST_HARMONICS);
    const kept = { cos: base.cos.slice(0, Math.floor(MOST_HARMONICS / 3)), sin: base.sin.slice(0, Math.floor(MOST_HARMONICS / 3)) }; // prettier-ignore
    for (const x of PLACES) expect(valueAt(made, x)).toBeCloseTo(0.5 * valueAt(kept, 3 * x + 70 / 360), 9);
    // Harmonics that are no sines are turned as well.
    const spray = { ...corner(2, 70, 1), table: "spray" as const };
    const turned = tableHarmonics([spray, silent, silent, silent], 0, 0);
    const { cos, sin } = harmonicsAt(ownFrames("spray"), 30);
    const half = { cos: cos.slice(0, MOST_HARMONICS / 2), sin: sin.slice(0, MOST_HARMONICS / 2) };
    for (const x of PLACES) expect(valueAt(turned, x)).toBeCloseTo(valueAt(half, 2 * x + 70 / 360), 9);
    const high = tableHarmonics([corner(16, 0, 1), silent, silent, silent], 0, 0);
    expect(high.sin[MOST_HARMONICS - 1]).toBeCloseTo(base.sin[MOST_HARMONICS / 16 - 1]!, 12);
  });
  test("each is as loud as a saw times its level", () => {
    const cycles = [of([0, 0.2], [3, 0]), of([1, 0], [0, 0]), of([0, 0], [0, 7]), of([0, 0], [0.1, 0.1])];
    const table = cornerTable(cycles, [1, 0.5, 0.25, 0]);
    [1, 0.5, 0.25, 0].forEach((level, f) => {
      const cycle = table.samples.subarray(f * table.frameLength, f * table.frameLength + 2 ** table.levels[0]![1]);
      expect(Math.sqrt(cycle.reduce((sum, v) => sum + v * v, 0) / cycle.length)).toBeCloseTo(level / Math.sqrt(3), 4);
    });
  });
});

test("how alike two frames are is the correlation of their cycles; silence is like nothing", () => {
  const alike = (a: Harmonics, b: Harmonics): number => frameTable([a, b]).alike[0]!;
  const [a, b] = [of([0.6], [0.8]), of([0.8], [0.6])];
  expect(alike(a, b)).toBeCloseTo(0.96, 6);
  expect(alike(a, of([-0.6], [-0.8]))).toBeCloseTo(-1, 6);
  expect([alike(a, of([0], [0])), alike(of([1, 0], [0, 0]), of([0, 0], [0, 1]))]).toEqual([0, 0]);
});

test("a weighting is what it says: pattern, thinning, cut, turn and shift, as far as its amount goes", () => {
  const from = of([1, 2, 3, 4, 5], [5, 4, 3, 2, 1]);
  const w = { table: "plain", place: 0, pattern: [1, 0.5], every: 2, low: 1, high: 5, turn: 60, shift: 1 } as const;
  // Harmonics 1, 3 and 5 are left by the thinning, all at the first place of the pattern.
  const weights = [1, 0, 1, 0, 1];
  for (const amount of [0, 0.4, 1]) {
    const made = weighted(from, w, amount);
    const expected = of(new Array<number>(MOST_HARMONICS).fill(0), new Array<number>(MOST_HARMONICS).fill(0));
    weights.forEach((weight, k) => {
      const level = 1 + amount * (weight - 1);
      const turn = (amount * 60 * k * Math.PI) / 180;
      const c = level * (from.cos[k]! * Math.cos(turn) + from.sin[k]! * Math.sin(turn));
      const s = level * (from.sin[k]! * Math.cos(turn) - from.cos[k]! * Math.sin(turn));
      for (const [at, share] of [[k, 1 - amount], [k + 1, amount]] as const) {
        expected.cos[at] = expected.cos[at]! + share * c;
        expected.sin[at] = expected.sin[at]! + share * s;
      }
    });
    expect(farthest(made.cos, expected.cos) + farthest(made.sin, expected.sin)).toBeLessThan(1e-9);
  }
  // Below the first and above the last there is nothing.
  const gone = weighted(from, { ...w, every: 1, turn: 0, pattern: [1], shift: -3 }, 1);
  expect(farthest(gone.cos.slice(0, 4), [4, 5, 0, 0])).toBeLessThan(1e-9);
  expect(weighted(from, { ...w, shift: MOST_HARMONICS }, 1).cos.every((v) => v === 0)).toBe(true);
}); // prettier-ignore

test("a drawn frame is sines of its levels, each begun at its phase in degrees; one that is not said is 0", () => {
  const made = drawnHarmonics({ levels: [1, 0.5, 0.25], phases: [30, 200] });
  for (const x of PLACES) {
    const sine = (h: number, level: number, degrees: number): number => level * Math.sin(2 * Math.PI * (h * x + degrees / 360)); // prettier-ignore
    expect(valueAt(made, x)).toBeCloseTo(sine(1, 1, 30) + sine(2, 0.5, 200) + sine(3, 0.25, 0), 12);
  }
});

test("read straight between its samples, a level has the harmonics that it was given", () => {
  const level = [1, 0.5, 0.25];
  const [h1, h2, h3] = [1, 40, 511];
  const given = of(new Array<number>(MOST_HARMONICS).fill(0), new Array<number>(MOST_HARMONICS).fill(0));
  [h1, h2, h3].forEach((h, i) => (given.sin[h - 1] = level[i]!));
  const { samples, levels, frameLength } = frameTable([given]);
  expect(samples).toHaveLength(frameLength);
  levels.slice(0, 3).forEach(([offset, bits], l) => {
    const [size, fine] = [2 ** bits, 16];
    // Sixteen points between each two: their own images lie far above.
    const between = Float64Array.from({ length: size * fine }, (_, i) => {
      const [a, t] = [Math.floor(i / fine), (i % fine) / fine];
      return samples[offset + a]! * (1 - t) + samples[offset + a + 1]! * t;
    });
    const sum = (h: number): number => between.reduce((s, v, i) => s + v * Math.sin((2 * Math.PI * h * i) / between.length), 0) / between.length;
    const loudest = sum(h1);
    expect(sum(h2) / loudest).toBeCloseTo(0.5, 5);
    // Each level has half of the harmonics of the one before.
    expect(sum(h3) / loudest).toBeCloseTo(l === 0 ? 0.25 : 0, 4);
  });
}); // prettier-ignore

describe("frames of a file", () => {
  test("are as long as most such files have them, short files are one cycle, and no frame is longer than may be", () => {
    expect([2048, 6144, 1024, 3072, 512, 768, 600, 100, 4000, 70_001, 2048 * 256, 1024 * 257].map(guessFrameLength)).toEqual([2048, 2048, 1024, 1024, 512, 256, 600, 100, 4000, 2048, 2048, 2048]); // prettier-ignore
  });
  test("both sides are added up, a third one is not; what is left at the end is left out", () => {
    const sine = (amount: number) => (t: number): number => amount * Math.sin((2 * Math.PI * t * 1000) / 10); // prettier-ignore
    const recorded = madeRecording(25_600, 0.025, sine(0.5), sine(0.25), sine(1));
    const frames = framesOf(recorded, 256);
    expect(frames).toHaveLength(2);
    for (const f of frames) expect(f.sin[0]).toBeCloseTo(0.75, 5);
    expect(() => framesOf(recorded, 641)).toThrow("it is shorter than one cycle of 641 samples");
  });
});

test("tables of our own are made once", () => {
  const made = makeTable({ kind: "own", id: "plain" });
  expect(makeTable({ kind: "own", id: "plain" })).toBe(made);
  expect(ownFrames("plain")).toBe(ownFrames("plain"));
});
