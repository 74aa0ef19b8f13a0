import type { Recording } from "../format/wavRead";
import { harmonicsOfCycle, type Harmonics } from "./fourier";
import { MAX_FRAMES, MOST_HARMONICS } from "./frameTables";
import { cosCycles, sinCycles } from "./portableMath";
import { FRAME_LENGTHS } from "./tableSpec";

/** What a file of frames has where nothing is said, the most usual first (common practice). */
const USUAL = [2048, 1024, 512, 256] as const;

/** The length of frame that a file of so many samples most likely has: a short one is a single cycle. */
export function guessFrameLength(samples: number): number {
  const fits = USUAL.find((n) => samples % n === 0 && samples / n <= MAX_FRAMES);
  if (fits !== undefined) return fits;
  return samples <= FRAME_LENGTHS.max ? Math.max(FRAME_LENGTHS.min, samples) : USUAL[0];
}

/** Harmonics of a cycle of any length, by Fourier's sums. */
function harmonicsOfAny(cycle: Float32Array, count: number): Harmonics {
  const n = cycle.length;
  const cosine = Float64Array.from({ length: n }, (_, i) => cosCycles(i / n));
  const sine = Float64Array.from({ length: n }, (_, i) => sinCycles(i / n));
  const cos = new Float64Array(count);
  const sin = new Float64Array(count);
  for (let h = 1; h <= count && h < n / 2; h++) {
    let c = 0;
    let s = 0;
    for (let i = 0, k = 0; i < n; i++, k = (k + h) % n) {
      c += cycle[i]! * cosine[k]!;
      s += cycle[i]! * sine[k]!;
    }
    cos[h - 1] = (2 * c) / n;
    sin[h - 1] = (2 * s) / n;
  }
  return { cos, sin };
}

const isPowerOfTwo = (n: number): boolean => Number.isInteger(Math.log2(n));

/**
 * The frames of a sound that is cut into cycles of `length` samples: 256 at the most, each free of its mean; what is left at
 * the end and is no whole cycle is left out. Sides are added up. Throws RangeError where there is not one whole cycle.
 */
export function framesOf({ channels }: Recording, length: number): Harmonics[] {
  const first = channels[0]!;
  const count = Math.min(MAX_FRAMES, Math.floor(first.length / length));
  if (count < 1) throw new RangeError(`it is shorter than one cycle of ${length} samples`);
  const sides = channels.slice(0, 2);
  return Array.from({ length: count }, (_, f) => {
    const cycle = first.slice(f * length, (f + 1) * length);
    for (const side of sides.slice(1)) for (let i = 0; i < length; i++) cycle[i] = cycle[i]! + side[f * length + i]!;
    return isPowerOfTwo(length) ? harmonicsOfCycle(cycle, MOST_HARMONICS) : harmonicsOfAny(cycle, MOST_HARMONICS);
  });
}
