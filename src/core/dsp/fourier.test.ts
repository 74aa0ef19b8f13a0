import { describe, expect, it } from "vitest";
import { farthest } from "../../../tests/support/same";
import { cycleOf, harmonicsOfCycle, transform } from "./fourier";

/** Values without a pattern, -1 to 1. */
const values = (count: number, seed: number): Float64Array =>
  Float64Array.from({ length: count }, (_, i) => Math.sin(seed + i * i * 1.7));

it("harmonics of a cycle go up to just below half of its samples; above there are none", () => {
  const cycle = Float64Array.from({ length: 16 }, (_, i) => [1, 2, 5, 7].reduce((s, h) => s + h * Math.sin((2 * Math.PI * h * i) / 16) + Math.cos((2 * Math.PI * h * i) / 16), 3)); // prettier-ignore
  const { cos, sin } = harmonicsOfCycle(cycle, 12);
  const expected = [1, 2, 0, 0, 5, 0, 7, 0, 0, 0, 0, 0];
  expect(farthest(sin, expected)).toBeLessThan(1e-12);
  expect(farthest(cos, expected.map(Math.sign))).toBeLessThan(1e-12);
});

describe("transform, against the sum of its definition", () => {
  it.each([2, 4, 8, 16, 32, 64, 128])("%i values, there and back", (n) => {
    const [re, im] = [values(n, 1), values(n, 2)];
    const sums = (sign: number): [number, number][] =>
      Array.from({ length: n }, (_, k) => {
        let [x, y] = [0, 0];
        for (let i = 0; i < n; i++) {
          const angle = (sign * 2 * Math.PI * i * k) / n;
          x += re[i]! * Math.cos(angle) - im[i]! * Math.sin(angle);
          y += re[i]! * Math.sin(angle) + im[i]! * Math.cos(angle);
        }
        return [x, y];
      });
    for (const inverse of [false, true]) {
      const [x, y] = [re.slice(), im.slice()];
      transform(x, y, inverse);
      sums(inverse ? 1 : -1).forEach(([a, b], k) => {
        expect(x[k]).toBeCloseTo(a, 10);
        expect(y[k]).toBeCloseTo(b, 10);
      });
    }
  });

  it("refuses other lengths", () => {
    for (const n of [0, 1, 3, 12])
      expect(() => transform(new Float64Array(n), new Float64Array(n))).toThrow(RangeError);
    expect(() => transform(new Float64Array(8), new Float64Array(4))).toThrow(RangeError);
  });
});

describe("cycles and their harmonics", () => {
  const harmonics = { cos: values(31, 3), sin: values(31, 4) };

  it.each([
    [64, 1],
    [64, 5],
    [64, 16],
    [64, 31],
    [128, 40],
    [16, 31],
  ])("%i samples of the first %i harmonics, against their Fourier sum", (size, top) => {
    const cycle = cycleOf(harmonics, top, size, (h) => 1 / h);
    for (let i = 0; i < size; i++) {
      let sum = 0;
      // What would fold back is left out.
      for (let h = 1; h <= Math.min(top, 31) && h < size / 2; h++) {
        const angle = (2 * Math.PI * h * i) / size;
        sum += (harmonics.cos[h - 1]! * Math.cos(angle) + harmonics.sin[h - 1]! * Math.sin(angle)) / h;
      }
      expect(cycle[i]).toBeCloseTo(sum, 12);
    }
  });

  it("come back from the cycle", () => {
    const { cos, sin } = harmonicsOfCycle(
      cycleOf(harmonics, 31, 128, () => 1).map((v) => v + 0.25),
      20,
    );
    cos.forEach((c, i) => expect(c).toBeCloseTo(harmonics.cos[i]!, 12));
    sin.forEach((s, i) => expect(s).toBeCloseTo(harmonics.sin[i]!, 12));
  });
});
