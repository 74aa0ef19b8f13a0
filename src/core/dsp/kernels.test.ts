import { describe, expect, test } from "vitest";
import { FILTER_LP24, designFilter } from "./filter";
import { filterKernel, hasSimd, lanes, mixKernel, stackKernel, twins } from "./kernels";
import { CYCLE } from "./oscillator";
import { hash01 } from "../pattern/chance";
import { WAVE_SAW, waveLevel, waveTable } from "./waveTables";

/** Runs both twins on the same lanes and hands back what each left there. */
function both(fill: () => void, run: (kernels: typeof twins) => void): [number[][], number[][]] {
  const outcome = (kernels: typeof twins): number[][] => {
    fill();
    run(kernels);
    return Object.values(lanes).map((lane) => [...lane]);
  };
  return [outcome({ stack: stackKernel, filter: filterKernel, mix: mixKernel }), outcome(twins)];
}

describe("SIMD kernels and their TypeScript twins agree to the last bit", () => {
  test("the machine that runs the tests has SIMD", () => {
    expect(hasSimd).toBe(true);
  });

  test.each([
    [2, 0, 64],
    [8, 0, 64],
    [16, 3, 64],
    [6, 17, 18],
    [4, 16, 47],
  ])("a stack of %d over %d to %d", (count, from, to) => {
    const table = waveTable(WAVE_SAW);
    const [simd, plain] = both(
      () => {
        for (let u = 0; u < 16; u++) {
          const log2 = -9 + 7 * hash01(count, u);
          lanes.phases[u] = ((hash01(1, u) - 0.5) * CYCLE) | 0;
          lanes.increments[u] = 2 ** log2 * CYCLE;
          lanes.bases[u] = waveLevel(log2) * table.stride;
          lanes.gainsL[u] = hash01(2, u);
          lanes.gainsR[u] = hash01(3, u);
        }
        for (let i = 0; i < 64; i++) lanes.left[i] = lanes.right[i] = hash01(4, i);
      },
      (kernels) => kernels.stack(table.samples, count, from, to),
    );
    expect(simd).toEqual(plain);
  });

  test.each([
    [0, 64],
    [5, 16],
  ])("the low-pass over %d to %d", (from, to) => {
    const [simd, plain] = both(
      () => {
        designFilter(FILTER_LP24, 300, 60, 48_000, lanes.before);
        designFilter(FILTER_LP24, 4000, 20, 48_000, lanes.after);
        for (let i = 0; i < 8; i++) lanes.state[i] = hash01(5, i) - 0.5;
        for (let i = 0; i < 64; i++) {
          lanes.left[i] = hash01(6, i) - 0.5;
          lanes.right[i] = hash01(7, i) - 0.5;
        }
      },
      (kernels) => kernels.filter(from, to),
    );
    expect(simd).toEqual(plain);
  });

  test.each([
    [0, 16],
    [7, 16],
  ])("the mix over %d to %d", (from, to) => {
    const [simd, plain] = both(
      () => {
        for (let i = 0; i < 64; i++) {
          lanes.left[i] = hash01(8, i) - 0.5;
          lanes.right[i] = hash01(9, i) - 0.5;
          lanes.mixL[i] = lanes.mixR[i] = hash01(10, i);
        }
      },
      (kernels) => kernels.mix(0.3, 0.7, 0.01, -0.02, from, to),
    );
    expect(simd).toEqual(plain);
  });
});
