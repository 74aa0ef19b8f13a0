/**
 * Elementary functions from additions, multiplications and divisions only, which IEEE 754 defines to the last bit.
 * Math.sin, Math.exp and Math.pow may differ in their last bit between versions of a JavaScript engine, and a render in
 * Node would then not equal the sound of the page. Errors are bounded in portableMath.test.ts.
 */

const LOG2_E = 1.4426950408889634;
const LOG2_10 = 3.321928094887362;

/** 2^n for whole n from -1022 to 1023, by doubling, which is exact; 0 before them and Infinity behind. */
const POWERS = (() => {
  const powers = new Float64Array(2048);
  powers[1023] = 1;
  for (let n = 1; n <= 1024; n++) powers[1023 + n] = powers[1022 + n]! * 2;
  for (let n = 1; n <= 1022; n++) powers[1023 - n] = powers[1024 - n]! / 2;
  return powers;
})();

/**
 * 2^x, relative error below 1e-14. Held at the ends for x outside -1022 to 1023. It names neither Infinity nor NaN, which are
 * variables of the language: where the compiler has not seen such a line run, every result becomes an object on the heap.
 */
export function exp2(x: number): number {
  const held = x < -1023 ? -1023 : x > 1024 ? 1024 : x;
  const whole = Math.floor(held + 0.5);
  const f = held - whole;
  // Taylor series of 2^f, terms (ln 2)^n / n!, for |f| <= 1/2: the first one left out is below 7e-15.
  let e = 4.4455382718708116e-10;
  e = e * f + 7.054911620801123e-9;
  e = e * f + 1.01780860092397e-7;
  e = e * f + 1.321548679014431e-6;
  e = e * f + 1.5252733804059841e-5;
  e = e * f + 0.0001540353039338161;
  e = e * f + 0.0013333558146428443;
  e = e * f + 0.009618129107628477;
  e = e * f + 0.05550410866482158;
  e = e * f + 0.24022650695910072;
  e = e * f + 0.6931471805599453;
  return POWERS[whole + 1023]! * (e * f + 1);
}

export const exp = (x: number): number => exp2(x * LOG2_E);

const bits = new Float64Array(1);
const words = new Int32Array(bits.buffer);

/** 1/21, 1/19, ... 1: the series of the inverse hyperbolic tangent. */
const ODD = Float64Array.from({ length: 11 }, (_, k) => 1 / (21 - 2 * k));

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
  for (let k = 0; k < ODD.length; k++) sum = sum * q + ODD[k]!;
  return exponent + 2 * s * sum * LOG2_E;
}

/** Sine of a phase in cycles, absolute error below 1e-14. */
export function sinCycles(cycles: number): number {
  let x = cycles - Math.floor(cycles + 0.5);
  if (x > 0.25) x = 0.5 - x;
  else if (x < -0.25) x = -0.5 - x;
  // Taylor series, terms (2 pi)^n / n!, for |x| <= 1/4: the first one left out is below 2e-18.
  const q = x * x;
  let s = 0.0011309237482517963;
  s = s * q + -0.012031585942120627;
  s = s * q + 0.10422916220813984;
  s = s * q + -0.7181223017785006;
  s = s * q + 3.819952584848282;
  s = s * q + -15.09464257682299;
  s = s * q + 42.058693944897655;
  s = s * q + -76.70585975306139;
  s = s * q + 81.60524927607506;
  s = s * q + -41.34170224039976;
  s = s * q + 6.283185307179586;
  return s * x;
}

export const cosCycles = (cycles: number): number => sinCycles(cycles + 0.25);

/** Tangent of pi * x, for x from 0 to below 0.5: the prewarping of a filter at x = cutoff / sample rate. */
export function tanPi(x: number): number {
  const s = sinCycles(x / 2);
  return s / Math.sqrt(1 - s * s);
}

/** 10^(dB / 20). */
export const dbToGain = (db: number): number => exp2((db * LOG2_10) / 20);
/** 20 log10(gain); -Infinity for 0. */
export const gainToDb = (gain: number): number => (20 / LOG2_10) * log2(gain);
