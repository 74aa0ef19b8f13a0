/**
 * Elementary functions from additions, multiplications and divisions only, which IEEE 754 defines to the last bit.
 * Math.sin, Math.exp and Math.pow may differ in their last bit between versions of a JavaScript engine, and a render in
 * Node would then not equal the sound of the page. Errors are bounded in portableMath.test.ts.
 */

const LN2 = 0.6931471805599453;
const LOG2_E = 1.4426950408889634;
const LOG2_10 = 3.321928094887362;

/** 2^n for whole n from -1022 to 1023, by doubling, which is exact. */
const POWERS = (() => {
  const powers = new Float64Array(2046);
  powers[1022] = 1;
  for (let n = 1; n <= 1023; n++) powers[1022 + n] = powers[1021 + n]! * 2;
  for (let n = 1; n <= 1022; n++) powers[1022 - n] = powers[1023 - n]! / 2;
  return powers;
})();

/** 2^x, relative error below 1e-15. Held at the ends for x outside -1022 to 1023. */
export function exp2(x: number): number {
  const whole = Math.floor(x + 0.5);
  if (whole < -1022) return 0;
  if (whole > 1023) return Infinity;
  const y = (x - whole) * LN2;
  // Taylor series of e^y for |y| <= ln 2 / 2: the first term left out is below 4e-17.
  let e = 1 + y / 13;
  for (let n = 12; n >= 1; n--) e = 1 + (y * e) / n;
  return POWERS[whole + 1022]! * e;
}

export const exp = (x: number): number => exp2(x * LOG2_E);

const bits = new Float64Array(1);
const words = new Int32Array(bits.buffer);

/** log2 of a normal positive number, absolute error below 1e-14. Zero and below give -Infinity. */
export function log2(x: number): number {
  if (!(x > 0)) return -Infinity;
  bits[0] = x;
  let exponent = ((words[1]! >>> 20) & 0x7ff) - 1023;
  words[1] = (words[1]! & 0x800fffff) | 0x3ff00000;
  let mantissa = bits[0];
  if (mantissa > 1.4142135623730951) {
    mantissa /= 2;
    exponent++;
  }
  // ln m = 2 artanh((m - 1) / (m + 1)); |s| < 0.172, so that terms past s^21 are below 1e-19.
  const s = (mantissa - 1) / (mantissa + 1);
  const q = s * s;
  let sum = 0;
  for (let n = 21; n >= 1; n -= 2) sum = sum * q + 1 / n;
  return exponent + 2 * s * sum * LOG2_E;
}

/** Sine of a phase in cycles, absolute error below 1e-14. */
export function sinCycles(cycles: number): number {
  let x = cycles - Math.floor(cycles + 0.5);
  if (x > 0.25) x = 0.5 - x;
  else if (x < -0.25) x = -0.5 - x;
  const a = x * 2 * Math.PI;
  const q = a * a;
  let sum = 1;
  for (let n = 20; n >= 2; n -= 2) sum = 1 - (q * sum) / (n * (n + 1));
  return a * sum;
}

export const cosCycles = (cycles: number): number => sinCycles(cycles + 0.25);

/** Tangent of pi * x, for x from 0 to below 0.5: the prewarping of a filter at x = cutoff / sample rate. */
export const tanPi = (x: number): number => sinCycles(x / 2) / cosCycles(x / 2);

/** 10^(dB / 20). */
export const dbToGain = (db: number): number => exp2((db * LOG2_10) / 20);
/** 20 log10(gain); -Infinity for 0. */
export const gainToDb = (gain: number): number => (20 / LOG2_10) * log2(gain);
