/**
 * Oscillator kernels. A phase is a signed 32-bit integer, one cycle being 2^32, kept in a Float64Array so that a
 * kernel touches one kind of array. Each kernel adds to `left` and `right` over [from, to).
 */

export const CYCLE = 2 ** 32;
export const MAX_UNISON = 16;
/** A phase's top 11 bits choose a sample of the table, its lower 21 the place between two. */
export const TABLE_BITS = 11;

// Kernels hold these figures as constants of their own: bundlers turn constants of a module into variables, and the
// compiler then adds and masks floats, which is much slower.

/**
 * The first `count` (even) oscillators of a stack of steady pitch and gain, two at a time: half the loads and stores of
 * single ones. Arrays hold a value per oscillator; `phases` is updated.
 */
export function addStack(
  table: Float64Array,
  bases: Float64Array,
  phases: Float64Array,
  increments: Float64Array,
  gainsL: Float64Array,
  gainsR: Float64Array,
  count: number,
  left: Float64Array,
  right: Float64Array,
  from: number,
  to: number,
): void {
  const SHIFT = 21;
  const FRACTION = 0x1fffff;
  const SCALE = 1 / 0x200000;
  // prettier-ignore
  for (let u = 0; u + 1 < count; u += 2) {
    // Every index and phase is forced to a 32-bit integer: left to itself the compiler adds them as floats, more slowly.
    let p1 = phases[u]! | 0;
    let p2 = phases[u + 1]! | 0;
    const i1 = increments[u]! | 0;
    const i2 = increments[u + 1]! | 0;
    const b1 = bases[u]! | 0;
    const b2 = bases[u + 1]! | 0;
    const l1 = gainsL[u]!;
    const l2 = gainsL[u + 1]!;
    const r1 = gainsR[u]!;
    const r2 = gainsR[u + 1]!;
    for (let i = from; i < to; i++) {
      const at1 = (b1 + (p1 >>> SHIFT)) | 0;
      const at2 = (b2 + (p2 >>> SHIFT)) | 0;
      const a1 = table[at1]!;
      const a2 = table[at2]!;
      const y1 = a1 + (table[at1 + 1]! - a1) * ((p1 & FRACTION) * SCALE);
      const y2 = a2 + (table[at2 + 1]! - a2) * ((p2 & FRACTION) * SCALE);
      left[i] = left[i]! + (y1 * l1 + y2 * l2);
      right[i] = right[i]! + (y1 * r1 + y2 * r2);
      p1 = (p1 + i1) | 0;
      p2 = (p2 + i2) | 0;
    }
    phases[u] = p1;
    phases[u + 1] = p2;
  }
}

/** One oscillator, with gains that move by `stepL` and `stepR` a sample. */
export function addWave(
  table: Float64Array,
  base: number,
  phases: Float64Array,
  u: number,
  increment: number,
  slope: number,
  gainL: number,
  gainR: number,
  stepL: number,
  stepR: number,
  left: Float64Array,
  right: Float64Array,
  from: number,
  to: number,
): void {
  const SHIFT = 21;
  const FRACTION = 0x1fffff;
  const SCALE = 1 / 0x200000;
  // prettier-ignore
  let p = phases[u]! | 0;
  let inc = increment | 0;
  const s = slope | 0;
  const b = base | 0;
  let gl = gainL;
  let gr = gainR;
  for (let i = from; i < to; i++) {
    const at = (b + (p >>> SHIFT)) | 0;
    const a = table[at]!;
    const y = a + (table[at + 1]! - a) * ((p & FRACTION) * SCALE);
    left[i] = left[i]! + y * gl;
    right[i] = right[i]! + y * gr;
    p = (p + inc) | 0;
    inc = (inc + s) | 0;
    gl += stepL;
    gr += stepR;
  }
  phases[u] = p;
}

/** A pulse as the difference of two saws that are `width` (a phase) apart; the width moves by `widthStep` a sample. */
export function addPulse(
  table: Float64Array,
  base: number,
  phases: Float64Array,
  u: number,
  increment: number,
  slope: number,
  width: number,
  widthStep: number,
  gainL: number,
  gainR: number,
  stepL: number,
  stepR: number,
  left: Float64Array,
  right: Float64Array,
  from: number,
  to: number,
): void {
  const SHIFT = 21;
  const FRACTION = 0x1fffff;
  const SCALE = 1 / 0x200000;
  // prettier-ignore
  let p = phases[u]! | 0;
  let inc = increment | 0;
  let w = width | 0;
  const s = slope | 0;
  const b = base | 0;
  const ws = widthStep | 0;
  let gl = gainL;
  let gr = gainR;
  for (let i = from; i < to; i++) {
    const at1 = (b + (p >>> SHIFT)) | 0;
    const a1 = table[at1]!;
    const q = (p - w) | 0;
    const at2 = (b + (q >>> SHIFT)) | 0;
    const a2 = table[at2]!;
    const y =
      a2 + (table[at2 + 1]! - a2) * ((q & FRACTION) * SCALE) - a1 - (table[at1 + 1]! - a1) * ((p & FRACTION) * SCALE);
    left[i] = left[i]! + y * gl;
    right[i] = right[i]! + y * gr;
    p = (p + inc) | 0;
    inc = (inc + s) | 0;
    w = (w + ws) | 0;
    gl += stepL;
    gr += stepR;
  }
  phases[u] = p;
}

/** Adds left and right to a mix, with gains that start at `gainL` and `gainR` and move by the steps each frame. */
export function addMix(
  left: Float64Array,
  right: Float64Array,
  mixL: Float64Array,
  mixR: Float64Array,
  gainL: number,
  gainR: number,
  stepL: number,
  stepR: number,
  from: number,
  to: number,
): void {
  // prettier-ignore
  for (let i = from; i < to; i++) {
    const k = i - from + 1;
    mixL[i] = mixL[i]! + left[i]! * (gainL + stepL * k);
    mixR[i] = mixR[i]! + right[i]! * (gainR + stepR * k);
  }
}

/** The place of a unison voice in its spread: -1 (first) to 1 (last), 0 for a single one. */
export const unisonPlace = (index: number, count: number): number => (count === 1 ? 0 : (2 * index) / (count - 1) - 1);

/**
 * Left or right gain (`side` -1 or 1) of a unison voice: equal power across the width, alternating sides so that
 * neither side gets only the high ones; 1 / sqrt(count) keeps the power of voices that drift apart.
 */
export function unisonGain(index: number, count: number, width: number, side: -1 | 1): number {
  const place = unisonPlace(index, count) * (index % 2 === 0 ? 1 : -1);
  return Math.sqrt((1 + side * place * width) / count);
}
