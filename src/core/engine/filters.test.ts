import { describe, expect, test } from "vitest";
import { spectrumOf } from "../../../tests/support/spectrum";
import { Bench, LANES, RATE, ROW, errorDb, noiseDb } from "../../../tests/support/kernelBench";
import { BANK_TYPES, damping, type FilterType } from "../dsp/filter";
import { hash01 } from "../pattern/chance";

/** A TPT state-variable filter in float64 (Zavalishin's integrators), with coefficients ramped as the engine ramps them. */
function svfReference(
  type: FilterType,
  x: readonly number[],
  rows: readonly { log2: number; resonance: number }[],
  ends: readonly (readonly [number, number, number, number])[],
): number[] {
  const coefficients = (r: { log2: number; resonance: number }): number[] => {
    const g = Math.tan(Math.PI * Math.min(2 ** r.log2 / RATE, 0.49));
    const stage = (k: number): number[] => [1 / (1 + g * (g + k)), g / (1 + g * (g + k)), (g * g) / (1 + g * (g + k))];
    const k = (type === "lp24" ? 0.7653668647301796 : Math.SQRT2) * 2 ** (-4.5 * (r.resonance / 100));
    const mix = type === "hp12" ? [1, -k, -1] : type === "bp12" ? [0, k, 0] : [0, 0, 1];
    return [...stage(1.8477590650225735), ...stage(k), ...mix];
  };
  const y: number[] = [];
  const s = [0, 0, 0, 0];
  const stage = (v0: number, c: readonly number[], at: number, ic: number): [number, number] => {
    const v3 = v0 - s[ic + 1]!;
    const v1 = c[at]! * s[ic]! + c[at + 1]! * v3;
    const v2 = s[ic + 1]! + c[at + 1]! * s[ic]! + c[at + 2]! * v3;
    s[ic] = 2 * v1 - s[ic]!;
    s[ic + 1] = 2 * v2 - s[ic + 1]!;
    return [v1, v2];
  };
  for (const [a, b, from, to] of ends) {
    const c0 = coefficients(rows[a]!);
    const c1 = coefficients(rows[b]!);
    for (let i = from; i < to; i++) {
      const c = c0.map((v, k) => v + ((c1[k]! - v) * (i - from + 1)) / (to - from));
      const input = type === "lp24" ? stage(x[i]!, c, 0, 2)[1] : x[i]!;
      const [band, low] = stage(input, c, 3, 0);
      y.push(type === "lp24" ? low : c[6]! * input + c[7]! * band + c[8]! * low);
    }
  }
  return y;
}

describe("the filters", () => {
  const ends = [[0, 1, 0, 16], [1, 2, 16, 32], [2, 3, 32, 45], [3, 4, 45, 64]] as const; // prettier-ignore
  const lanes = [
    [{ log2: Math.log2(900), resonance: 0 }, { log2: Math.log2(900), resonance: 0 }, { log2: Math.log2(900), resonance: 0 }, { log2: Math.log2(900), resonance: 0 }, { log2: Math.log2(900), resonance: 0 }],
    [{ log2: 6, resonance: 90 }, { log2: 9, resonance: 40 }, { log2: 12, resonance: 10 }, { log2: 13, resonance: 70 }, { log2: 8, resonance: 100 }],
    [{ log2: Math.log2(20), resonance: 100 }, { log2: Math.log2(20), resonance: 100 }, { log2: Math.log2(21), resonance: 90 }, { log2: Math.log2(22), resonance: 90 }, { log2: 5, resonance: 90 }],
    [{ log2: Math.log2(20_000), resonance: 0 }, { log2: 14, resonance: 50 }, { log2: 14.2, resonance: 50 }, { log2: 14.28, resonance: 60 }, { log2: 14.28, resonance: 60 }],
  ]; // prettier-ignore

  test.each(["lp24", "lp12", "bp12", "hp12"] as const)(
    "%s: four voices, both sides, cutoff and resonance moving, as in float64 within -130 dB",
    (type) => {
      const b = new Bench();
      const memory = b.heap.take(592);
      lanes[0]!.forEach((_, row) => {
        b.set(row, 0, lanes.map((l) => l[row]!.log2)); // prettier-ignore
        b.set(row, 1, lanes.map((l) => l[row]!.resonance)); // prettier-ignore
      });
      b.segments(ends);
      b.fill((s, l, i) => hash01(s, l, i) - 0.5);
      b.heap.kernels.filter(BANK_TYPES[type], memory, Math.log2(RATE), b.rowsAt, ROW * 8, 0, LANES * 8, b.segmentsAt, ends.length, 1, b.bus); // prettier-ignore
      lanes.forEach((rows, lane) => {
        for (const side of [0, 1] as const) {
          const input = Array.from({ length: 64 }, (_, i) => Math.fround(hash01(side, lane, i) - 0.5));
          // Close to half the rate the tangent's float32 shows.
          expect(noiseDb(b.lane(side, lane), svfReference(type, input, rows, ends))).toBeLessThan(
            lane === 3 ? -110 : -130,
          );
        }
      });
    },
  );

  test.each(["lp24", "bp12"] as const)("%s: a corner of one voice does not touch the others", (type) => {
    const run = (split: boolean): number[][] => {
      const b = new Bench();
      const memory = b.heap.take(592);
      const cutoffs = [[8, 9, 10, 11], [8.5, 9, 11.9, 10], [12, 9.5, 8, 13]]; // prettier-ignore
      cutoffs.forEach((c, row) => {
        b.set(row, 0, c);
        b.set(row, 1, [10, 20, 60, 90]);
      });
      if (split)
        b.segments([[0, 1, 0, 5], [1, 2, 5, 16]], [0b0100]); // prettier-ignore
      else b.segments([[0, 2, 0, 16]]);
      b.fill((s, l, i) => hash01(s, l, i) - 0.5);
      b.heap.kernels.filter(BANK_TYPES[type], memory, Math.log2(RATE), b.rowsAt, ROW * 8, 0, LANES * 8, b.segmentsAt, split ? 2 : 1, 1, b.bus); // prettier-ignore
      return [0, 1, 2, 3].map((lane) => b.lane(0, lane).slice(0, 16));
    };
    const [whole, split] = [run(false), run(true)];
    for (const lane of [0, 1, 3]) expect(errorDb(split[lane]!, whole[lane]!)).toBeLessThan(-125);
    expect(errorDb(split[2]!, whole[2]!)).toBeGreaterThan(-60);
  });

  test.each([
    ["lp24", 300, 0],
    ["lp24", 5000, 80],
    ["lp12", 1000, 40],
    ["bp12", 1000, 60],
    ["hp12", 200, 30],
    ["lp24", 60, 100],
  ] as const)(
    "%s at %d Hz, resonance %d: the response of its formula, measured on an impulse",
    (type, cutoff, resonance) => {
      const n = 131_072;
      const b = new Bench();
      const memory = b.heap.take(592);
      for (const row of [0, 1]) {
        b.set(row, 0, [0, Math.log2(cutoff), 0, 0]);
        b.set(row, 1, [0, resonance, 0, 0]);
      }
      b.segments([[0, 1, 0, 64]]);
      const impulse: number[] = [];
      for (let at = 0; at < n; at += 64) {
        b.fill((s, l, i) => (s === 0 && l === 1 && at + i === 0 ? 1 : 0));
        b.heap.kernels.filter(BANK_TYPES[type], memory, Math.log2(RATE), b.rowsAt, ROW * 8, 0, LANES * 8, b.segmentsAt, 1, at === 0 ? 1 : 0, b.bus); // prettier-ignore
        impulse.push(...b.lane(0, 1));
      }
      const out = spectrumOf(impulse);
      const k0 = damping(type, resonance);
      for (const hz of [30, 60, 100, 300, 1000, 3000, 9000]) {
        const k = Math.round((hz / RATE) * n);
        const w = Math.tan((Math.PI * k) / n) / Math.tan((Math.PI * cutoff) / RATE);
        const second = (damp: number): number => (1 - w * w) ** 2 + (damp * w) ** 2;
        let power = 1 / second(k0);
        if (type === "lp24") power /= second(1.8477590650225735);
        if (type === "bp12") power *= (k0 * w) ** 2;
        if (type === "hp12") power *= w ** 4;
        const expected = 10 * Math.log10(power);
        if (expected < -90) continue;
        expect(10 * Math.log10(out[2 * k]! ** 2 + out[2 * k + 1]! ** 2)).toBeCloseTo(expected, 1);
      }
    },
  );

  test("memory falls silent, and a lane can be cleared alone", () => {
    const b = new Bench();
    const memory = b.heap.take(592);
    for (const row of [0, 1]) b.set(row, 0, [8, 8, 8, 8]);
    b.segments([[0, 1, 0, 64]]);
    const run = (input: number): void => {
      b.fill(() => input);
      b.heap.kernels.filter(0, memory, Math.log2(RATE), b.rowsAt, ROW * 8, 0, LANES * 8, b.segmentsAt, 1, 0, b.bus);
    };
    run(0.5);
    b.heap.kernels.clearLane(memory, 2);
    const state = b.heap.float32(memory, 32);
    for (let i = 0; i < 8; i++) expect(state[i * 4 + 2]).toBe(0);
    expect(state[0]).not.toBe(0);
    for (let block = 0; block < 400; block++) {
      run(0);
      expect(state.every((s) => s === 0 || Math.abs(s) > 1e-15)).toBe(true);
    }
    expect(state.every((s) => s === 0)).toBe(true);
  });
});
