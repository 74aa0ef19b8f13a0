import { exp2, tanPi } from "./portableMath";

/**
 * Trapezoidal state-variable filters (TPT; V. Zavalishin, The Art of VA Filter Design, and A. Simper, Solving the
 * continuous SVF equations): in tune and stable while the cutoff moves. Coefficients are given for both ends of a
 * stretch and ramp between them.
 */

export const FILTER_LP24 = 0;
export const FILTER_LP12 = 1;
export const FILTER_BP12 = 2;
export const FILTER_HP12 = 3;

/** The fourth-order Butterworth's two stages: 1/Q = 2 cos(pi/8) and 2 cos(3 pi/8). */
const BUTTERWORTH_4 = [1.8477590650225735, 0.7653668647301796] as const;
const BUTTERWORTH_2 = Math.SQRT2;
/** Octaves by which full resonance lowers the damping: Q 16 on 12 dB, 30 on the second stage of 24 dB. */
const RESONANCE_OCTAVES = 4.5;

/** Per stage a1, a2, a3; then the mix of input, band and low. Nine numbers. */
export const COEFFICIENTS = 9;
/** Two integrators a stage and side. */
export const FILTER_STATE = 8;

/** Damping k = 1/Q of the resonant stage for a resonance of 0 to 100 %. At 0 the filters are Butterworth. */
export const damping = (type: number, resonance: number): number =>
  (type === FILTER_LP24 ? BUTTERWORTH_4[1] : BUTTERWORTH_2) * exp2((-resonance / 100) * RESONANCE_OCTAVES);

function writeStage(out: Float64Array, at: number, g: number, k: number): void {
  const a1 = 1 / (1 + g * (g + k));
  out[at] = a1;
  out[at + 1] = g * a1;
  out[at + 2] = g * g * a1;
}

/** Writes the coefficients for a cutoff (Hz, held below 0.49 of the sample rate) and a resonance (0 to 100 %). */
export function designFilter(
  type: number,
  cutoffHz: number,
  resonance: number,
  sampleRate: number,
  out: Float64Array,
): void {
  const g = tanPi(Math.min(cutoffHz / sampleRate, 0.49));
  const k = damping(type, resonance);
  writeStage(out, 0, g, k);
  writeStage(out, 3, g, BUTTERWORTH_4[0]);
  out[6] = type === FILTER_HP12 ? 1 : 0;
  out[7] = type === FILTER_HP12 ? -k : type === FILTER_BP12 ? k : 0;
  out[8] = type === FILTER_HP12 ? -1 : type === FILTER_BP12 ? 0 : 1;
}

/** One 12 dB stage in place on a stereo pair over [from, to), from coefficients `a` to `b`. */
export function filter12(
  state: Float64Array,
  a: Float64Array,
  b: Float64Array,
  left: Float64Array,
  right: Float64Array,
  from: number,
  to: number,
): void {
  const per = 1 / (to - from);
  let a1 = a[0]!, a2 = a[1]!, a3 = a[2]!, m0 = a[6]!, m1 = a[7]!, m2 = a[8]!; // prettier-ignore
  const d1 = (b[0]! - a1) * per, d2 = (b[1]! - a2) * per, d3 = (b[2]! - a3) * per; // prettier-ignore
  const e0 = (b[6]! - m0) * per, e1 = (b[7]! - m1) * per, e2 = (b[8]! - m2) * per; // prettier-ignore
  let l1 = state[0]!, l2 = state[1]!, r1 = state[2]!, r2 = state[3]!; // prettier-ignore
  for (let i = from; i < to; i++) {
    a1 += d1;
    a2 += d2;
    a3 += d3;
    m0 += e0;
    m1 += e1;
    m2 += e2;
    const x = left[i]!;
    const v3 = x - l2;
    const v1 = a1 * l1 + a2 * v3;
    const v2 = l2 + a2 * l1 + a3 * v3;
    l1 = 2 * v1 - l1;
    l2 = 2 * v2 - l2;
    left[i] = m0 * x + m1 * v1 + m2 * v2;
    const y = right[i]!;
    const w3 = y - r2;
    const w1 = a1 * r1 + a2 * w3;
    const w2 = r2 + a2 * r1 + a3 * w3;
    r1 = 2 * w1 - r1;
    r2 = 2 * w2 - r2;
    right[i] = m0 * y + m1 * w1 + m2 * w2;
  }
  state[0] = l1;
  state[1] = l2;
  state[2] = r1;
  state[3] = r2;
}

/** The 24 dB low-pass: both stages in one loop, in place on a stereo pair over [from, to). */
export function lowpass24(
  state: Float64Array,
  a: Float64Array,
  b: Float64Array,
  left: Float64Array,
  right: Float64Array,
  from: number,
  to: number,
): void {
  const per = 1 / (to - from);
  let a1 = a[0]!, a2 = a[1]!, a3 = a[2]!, b1 = a[3]!, b2 = a[4]!, b3 = a[5]!; // prettier-ignore
  const d1 = (b[0]! - a1) * per, d2 = (b[1]! - a2) * per, d3 = (b[2]! - a3) * per; // prettier-ignore
  const e1 = (b[3]! - b1) * per, e2 = (b[4]! - b2) * per, e3 = (b[5]! - b3) * per; // prettier-ignore
  let l1 = state[0]!, l2 = state[1]!, r1 = state[2]!, r2 = state[3]!; // prettier-ignore
  let l3 = state[4]!, l4 = state[5]!, r3 = state[6]!, r4 = state[7]!; // prettier-ignore
  for (let i = from; i < to; i++) {
    a1 += d1;
    a2 += d2;
    a3 += d3;
    b1 += e1;
    b2 += e2;
    b3 += e3;
    // The damped stage first: the resonant one then meets a signal without its highest harmonics.
    let v3 = left[i]! - l4;
    let v1 = b1 * l3 + b2 * v3;
    let v2 = l4 + b2 * l3 + b3 * v3;
    l3 = 2 * v1 - l3;
    l4 = 2 * v2 - l4;
    v3 = v2 - l2;
    v1 = a1 * l1 + a2 * v3;
    v2 = l2 + a2 * l1 + a3 * v3;
    l1 = 2 * v1 - l1;
    l2 = 2 * v2 - l2;
    left[i] = v2;
    v3 = right[i]! - r4;
    v1 = b1 * r3 + b2 * v3;
    v2 = r4 + b2 * r3 + b3 * v3;
    r3 = 2 * v1 - r3;
    r4 = 2 * v2 - r4;
    v3 = v2 - r2;
    v1 = a1 * r1 + a2 * v3;
    v2 = r2 + a2 * r1 + a3 * v3;
    r1 = 2 * v1 - r1;
    r2 = 2 * v2 - r2;
    right[i] = v2;
  }
  state[0] = l1;
  state[1] = l2;
  state[2] = r1;
  state[3] = r2;
  state[4] = l3;
  state[5] = l4;
  state[6] = r3;
  state[7] = r4;
}

/** Below this a state is silence. JavaScript does not flush denormals, and they run many times slower. */
const SILENT = 1e-15;

/** Sets denormal-bound states to zero; call once a block. */
export function flushState(state: Float64Array): void {
  for (let i = 0; i < state.length; i++) if (Math.abs(state[i]!) < SILENT) state[i] = 0;
}

/**
 * Magnitude in dB at `hz` of the filter as `designFilter` sets it: the analogue prototype at the frequency that the
 * bilinear transform maps to `hz`. Floor -160.
 */
export function filterMagnitudeDb(
  type: number,
  cutoffHz: number,
  resonance: number,
  sampleRate: number,
  hz: number,
): number {
  const ratio = tanPi(Math.min(hz / sampleRate, 0.4999)) / tanPi(Math.min(cutoffHz / sampleRate, 0.49));
  const k = damping(type, resonance);
  const denominator = (damp: number): number => (1 - ratio * ratio) ** 2 + (damp * ratio) ** 2;
  let power = 1 / denominator(k);
  if (type === FILTER_LP24) power /= denominator(BUTTERWORTH_4[0]);
  else if (type === FILTER_BP12) power *= (k * ratio) ** 2;
  else if (type === FILTER_HP12) power *= ratio ** 4;
  return Math.max(-160, 10 * Math.log10(power));
}
