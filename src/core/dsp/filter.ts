import { exp2, tanPi } from "./portableMath";

/** The filters' types as the kernels know them, and their response as a formula. */

export const FILTER_TYPES = { lp24: 0, lp12: 1, bp12: 2, hp12: 3 } as const;
export type FilterType = keyof typeof FILTER_TYPES;

/** The fourth-order Butterworth's two stages: 1/Q = 2 cos(pi/8) and 2 cos(3 pi/8). */
const BUTTERWORTH_4 = [1.8477590650225735, 0.7653668647301796] as const;
const BUTTERWORTH_2 = Math.SQRT2;
/** Octaves by which full resonance lowers the damping: Q 16 on 12 dB, 30 on the second stage of 24 dB. */
const RESONANCE_OCTAVES = 4.5;

/** Damping k = 1/Q of the resonant stage for a resonance of 0 to 100 %. At 0 the filters are Butterworth. */
export const damping = (type: FilterType, resonance: number): number =>
  (type === "lp24" ? BUTTERWORTH_4[1] : BUTTERWORTH_2) * exp2((-resonance / 100) * RESONANCE_OCTAVES);

/**
 * Magnitude in dB at `hz` of a filter of the engine: the analogue prototype at the frequency that the bilinear transform
 * maps to `hz`. Floor -160.
 */
export function filterMagnitudeDb(
  type: FilterType,
  cutoffHz: number,
  resonance: number,
  sampleRate: number,
  hz: number,
): number {
  const ratio = tanPi(Math.min(hz / sampleRate, 0.4999)) / tanPi(Math.min(cutoffHz / sampleRate, 0.49));
  const k = damping(type, resonance);
  const denominator = (damp: number): number => (1 - ratio * ratio) ** 2 + (damp * ratio) ** 2;
  let power = 1 / denominator(k);
  if (type === "lp24") power /= denominator(BUTTERWORTH_4[0]);
  else if (type === "bp12") power *= (k * ratio) ** 2;
  else if (type === "hp12") power *= ratio ** 4;
  return Math.max(-160, 10 * Math.log10(power));
}
