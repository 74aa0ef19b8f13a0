import type { HarmonicWeights } from "../patch/kinds/oscillator";
import type { Harmonics } from "./fourier";
import { MOST_HARMONICS } from "./frameTables";
import { cosCycles, sinCycles } from "./portableMath";

/** Frames from the cycle as it is to the cycle as it is weighted: so fine that turns go round and do not cross fade. */
const WEIGHTED_FRAMES = 17;

/** What a weighting leaves of a harmonic, 0 to 1. */
function weightOf(w: HarmonicWeights, h: number): number {
  if (h < w.low || h > w.high || (h - 1) % w.every !== 0) return 0;
  return w.pattern[(h - 1) % w.pattern.length]!;
}

/**
 * A cycle whose harmonics are weighted by a pattern that repeats, thinned to every so many, cut below and above a number,
 * turned by so many degrees a harmonic, and moved up or down by so many numbers; an amount of 0 to 1 of all that. What would
 * fall below the first harmonic or above the last is left out.
 */
export function weighted(from: Harmonics, w: HarmonicWeights, amount: number): Harmonics {
  const cos = new Float64Array(MOST_HARMONICS);
  const sin = new Float64Array(MOST_HARMONICS);
  // What lies outside of an array is not kept by it.
  const add = (h: number, c: number, s: number): void => {
    cos[h - 1] = cos[h - 1]! + c;
    sin[h - 1] = sin[h - 1]! + s;
  };
  for (let h = 1; h <= from.cos.length; h++) {
    const level = 1 + amount * (weightOf(w, h) - 1);
    // The first harmonic stays where it is.
    const cycles = (amount * w.turn * (h - 1)) / 360;
    const [co, si] = [cosCycles(cycles), sinCycles(cycles)];
    const c = level * (from.cos[h - 1]! * co + from.sin[h - 1]! * si);
    const s = level * (from.sin[h - 1]! * co - from.cos[h - 1]! * si);
    add(h, (1 - amount) * c, (1 - amount) * s);
    add(h + w.shift, amount * c, amount * s);
  }
  return { cos, sin };
}

/** Frames from no amount to all of it. */
export const weightedFrames = (from: Harmonics, w: HarmonicWeights): Harmonics[] =>
  Array.from({ length: WEIGHTED_FRAMES }, (_, i) => weighted(from, w, i / (WEIGHTED_FRAMES - 1)));
