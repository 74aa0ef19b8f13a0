// Filters of up to four sections, one side at a time, so that the sides may differ: cascades of trapezoidal sections (as
// in filter.ts), and formants side by side.
import { SEGMENT, SIDE, exp2, exp2x4, flush, valueAt } from "./common";
import { prewarp } from "./filter";

const LP24: i32 = 0;
const LP12: i32 = 1;
const BP12: i32 = 2;
const HP12: i32 = 3;
const HP24: i32 = 4;
const BP24: i32 = 5;
const NOTCH12: i32 = 6;
const NOTCH24: i32 = 7;
const ALLPASS: i32 = 8;
const VOWEL: i32 = 9;

/** A section's coefficients: three of the loop, then how much of the input, the band and the low goes out. */
const SECTION: usize = 96;
const DESIGN: usize = 4 * SECTION;
/** A side's memory: two integrators a section, the design in force, the next one. */
const STATE: usize = 128;
const BANK_SIDE: usize = STATE + 2 * DESIGN;
/** Behind both sides: what was designed for. */
const DESIGNED: usize = 2 * BANK_SIDE;
export const BANK_GROUP: usize = DESIGNED + 80;

const BUTTERWORTH_12: f32 = <f32>1.4142135623730951;
const BUTTERWORTH_24A: f32 = <f32>1.8477590650225735;
const BUTTERWORTH_24B: f32 = <f32>0.7653668647301796;
/** sqrt(sqrt(2) - 1): two equal sections together have the width of one that is this much narrower. */
const TWICE: f32 = <f32>0.6435942529055827;

function sectionsOf(type: i32): i32 {
  if (type == ALLPASS) return 4;
  if (type == VOWEL) return 3;
  return type == LP24 || type == HP24 || type == BP24 || type == NOTCH24 ? 2 : 1;
}

// @ts-ignore: decorator
@inline
function section(out: usize, g: v128, k: v128, m0: v128, m1: v128, m2: v128): void {
  const one = f32x4.splat(1.0);
  const a1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, k))));
  const a2 = f32x4.mul(g, a1);
  v128.store(out, a1);
  v128.store(out, a2, 16);
  v128.store(out, f32x4.mul(g, a2), 32);
  v128.store(out, m0, 48);
  v128.store(out, m1, 64);
  v128.store(out, m2, 80);
}

/**
 * Formants of the vowels a, e, i, o, u: log2 of Hz of the first three, and their levels in dB against the first, as spoken
 * by men (G. E. Peterson and H. L. Barney, "Control Methods Used in a Study of the Vowels", 1952, table II; from memory).
 */
const FORMANTS: StaticArray<f32> = [
  9.51175, 10.09011, 11.25266, 0, -4, -27,
  9.04985, 10.84549, 11.27612, 0, -15, -22,
  8.07682, 11.16113, 11.55555, 0, -20, -24,
  9.15482, 9.71425, 11.23482, 0, -7, -34,
  8.22882, 9.76487, 11.12928, 0, -16, -40,
];
/** Widths of the formants at middle resonance, in Hz (common practice). */
const FORMANT_WIDTHS: StaticArray<f32> = [80, 100, 140];
const LOG2_1000: f32 = <f32>9.965784284662087;

/** Formant `n` for a place of 0 to 100 % on the way through the vowels, or its level, by its column. */
function formant(place: f32, column: i32): f32 {
  const x = min(max(place, <f32>0), <f32>100) * <f32>0.04;
  const i = min(<i32>x, 3);
  const a = unchecked(FORMANTS[6 * i + column]);
  return a + (unchecked(FORMANTS[6 * i + 6 + column]) - a) * (x - <f32>i);
}

function designVowel(cutoff: v128, narrow: v128, log2Rate: f32, place: v128, out: usize): void {
  const zero = f32x4.splat(0);
  for (let n = 0; n < 3; n++) {
    let hz = zero, gain = zero;
    for (let lane = 0; lane < 4; lane++) {
      const p = lane == 0 ? f32x4.extract_lane(place, 0) : lane == 1 ? f32x4.extract_lane(place, 1) : lane == 2 ? f32x4.extract_lane(place, 2) : f32x4.extract_lane(place, 3);
      const log2Hz = formant(p, n);
      // What a source that falls by 6 dB an octave lacks up there is given back.
      const db = formant(p, 3 + n) + <f32>6.0206 * (log2Hz - formant(p, 0));
      const level = <f32>exp2(<f64>(db * <f32>0.16609640474436813));
      if (lane == 0) { hz = f32x4.replace_lane(hz, 0, log2Hz); gain = f32x4.replace_lane(gain, 0, level); }
      else if (lane == 1) { hz = f32x4.replace_lane(hz, 1, log2Hz); gain = f32x4.replace_lane(gain, 1, level); }
      else if (lane == 2) { hz = f32x4.replace_lane(hz, 2, log2Hz); gain = f32x4.replace_lane(gain, 2, level); }
      else { hz = f32x4.replace_lane(hz, 3, log2Hz); gain = f32x4.replace_lane(gain, 3, level); }
    }
    const k = f32x4.div(f32x4.mul(f32x4.splat(unchecked(FORMANT_WIDTHS[n])), narrow), exp2x4(hz));
    const g = prewarp(f32x4.sub(f32x4.add(hz, f32x4.sub(cutoff, f32x4.splat(LOG2_1000))), f32x4.splat(log2Rate)));
    section(out + <usize>n * SECTION, g, k, zero, f32x4.mul(k, gain), zero);
  }
}

/** Writes a side's sections for a cutoff (log2 of Hz), a resonance (0 to 100 %), a width (octaves) and a vowel (0 to 100 %). */
function designBank(type: i32, cutoff: v128, resonance: v128, width: v128, vowel: v128, log2Rate: f32, out: usize): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  const sharper = exp2x4(f32x4.mul(resonance, f32x4.splat(-0.045)));
  if (type == VOWEL) {
    designVowel(cutoff, exp2x4(f32x4.sub(f32x4.splat(2), f32x4.mul(resonance, f32x4.splat(0.04)))), log2Rate, vowel, out);
    return;
  }
  const g = prewarp(f32x4.sub(cutoff, f32x4.splat(log2Rate)));
  const half = f32x4.mul(width, f32x4.splat(0.5));
  // Between the half-power points of a band-pass lies a width of w octaves where 1/Q = 2 sinh(w ln 2 / 2).
  const wide = f32x4.mul(f32x4.sub(exp2x4(half), exp2x4(f32x4.neg(half))), sharper);
  if (type == LP24 || type == HP24) {
    const k = f32x4.mul(f32x4.splat(BUTTERWORTH_24B), sharper), flat = f32x4.splat(BUTTERWORTH_24A);
    const high = type == HP24;
    section(out, g, flat, high ? one : zero, high ? f32x4.neg(flat) : zero, high ? f32x4.splat(-1) : one);
    section(out + SECTION, g, k, high ? one : zero, high ? f32x4.neg(k) : zero, high ? f32x4.splat(-1) : one);
  } else if (type == LP12 || type == HP12) {
    const k = f32x4.mul(f32x4.splat(BUTTERWORTH_12), sharper);
    section(out, g, k, type == HP12 ? one : zero, type == HP12 ? f32x4.neg(k) : zero, type == HP12 ? f32x4.splat(-1) : one);
  } else if (type == BP12 || type == BP24) {
    const k = type == BP24 ? f32x4.mul(wide, f32x4.splat(<f32>1.0 / TWICE)) : wide;
    section(out, g, k, zero, k, zero);
    if (type == BP24) section(out + SECTION, g, k, zero, k, zero);
  } else if (type == NOTCH12 || type == NOTCH24) {
    const k = type == NOTCH24 ? f32x4.mul(wide, f32x4.splat(TWICE)) : wide;
    section(out, g, k, one, f32x4.neg(k), zero);
    if (type == NOTCH24) section(out + SECTION, g, k, one, f32x4.neg(k), zero);
  } else {
    const m1 = f32x4.mul(wide, f32x4.splat(-2));
    for (let n: usize = 0; n < 4; n++) section(out + n * SECTION, g, wide, one, m1, zero);
  }
}

/** One section over [from, to) of a side, in place, or added to `out` where that is another place. */
function runSection(state: usize, a: usize, b: usize, side: usize, out: usize, from: i32, to: i32): void {
  const per = f32x4.splat(<f32>1.0 / <f32>(to - from));
  let a1 = v128.load(a), a2 = v128.load(a, 16), a3 = v128.load(a, 32);
  let m0 = v128.load(a, 48), m1 = v128.load(a, 64), m2 = v128.load(a, 80);
  const d1 = f32x4.mul(f32x4.sub(v128.load(b), a1), per), d2 = f32x4.mul(f32x4.sub(v128.load(b, 16), a2), per);
  const d3 = f32x4.mul(f32x4.sub(v128.load(b, 32), a3), per), e0 = f32x4.mul(f32x4.sub(v128.load(b, 48), m0), per);
  const e1 = f32x4.mul(f32x4.sub(v128.load(b, 64), m1), per), e2 = f32x4.mul(f32x4.sub(v128.load(b, 80), m2), per);
  let s1 = v128.load(state), s2 = v128.load(state, 16);
  const adds = out != side;
  for (let i = from; i < to; i++) {
    const at = side + (<usize>i << 4);
    a1 = f32x4.add(a1, d1); a2 = f32x4.add(a2, d2); a3 = f32x4.add(a3, d3);
    m0 = f32x4.add(m0, e0); m1 = f32x4.add(m1, e1); m2 = f32x4.add(m2, e2);
    const x = v128.load(at);
    const v3 = f32x4.sub(x, s2);
    const v1 = f32x4.add(f32x4.mul(a1, s1), f32x4.mul(a2, v3));
    const v2 = f32x4.add(f32x4.add(s2, f32x4.mul(a2, s1)), f32x4.mul(a3, v3));
    s1 = f32x4.sub(f32x4.add(v1, v1), s1); s2 = f32x4.sub(f32x4.add(v2, v2), s2);
    const y = f32x4.add(f32x4.add(f32x4.mul(m0, x), f32x4.mul(m1, v1)), f32x4.mul(m2, v2));
    const to1 = out + (<usize>i << 4);
    v128.store(to1, adds ? f32x4.add(v128.load(to1), y) : y);
  }
  v128.store(state, s1);
  v128.store(state, s2, 16);
}

/**
 * Filters a bus in place by cascades, or by formants side by side. Rows give log2 of the cutoff, resonance (%), width
 * (octaves), vowel (%) and by how many semitones the right side lies above the left one; -1 leaves one out. `aside` is room
 * for a side of a bus. Memory: 2 sides of 128 + 768 bytes, and 80 behind them.
 */
export function filterBank(
  type: i32, memory: usize, log2Rate: f32, rows: usize, rowBytes: i32, cutoffAt: i32, resonanceAt: i32, widthAt: i32, vowelAt: i32,
  apartAt: i32, segments: usize, segmentCount: i32, fresh: i32, bus: usize, aside: usize,
): void {
  const known = memory + DESIGNED;
  const sections = sectionsOf(type);
  const bytes = <usize>sections * SECTION;
  const last = sections - 1;
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    const start = rows + <usize>(load<i32>(at) * rowBytes);
    const end = rows + <usize>(load<i32>(at, 4) * rowBytes);
    const from = load<i32>(at, 8), to = load<i32>(at, 12);
    const first = fresh && s == 0;
    if (first) {
      const c = valueAt(start, cutoffAt, 0), r = valueAt(start, resonanceAt, 0);
      const w = valueAt(start, widthAt, <f32>1.9), v = valueAt(start, vowelAt, 0), d = valueAt(start, apartAt, 0);
      keep(known, c, r, w, v, d);
      designSides(type, c, r, w, v, d, log2Rate, memory + STATE);
    }
    const c = valueAt(end, cutoffAt, 0), r = valueAt(end, resonanceAt, 0);
    const w = valueAt(end, widthAt, <f32>1.9), v = valueAt(end, vowelAt, 0), d = valueAt(end, apartAt, 0);
    const kept = isKept(known, c, r, w, v, d);
    if (!kept) {
      designSides(type, c, r, w, v, d, log2Rate, memory + STATE + DESIGN);
      keep(known, c, r, w, v, d);
    }
    for (let side: usize = 0; side < 2; side++) {
      const own = memory + side * BANK_SIDE;
      const a = own + STATE;
      const b = kept ? a : a + DESIGN;
      const sound = bus + side * SIDE;
      if (type == VOWEL) {
        const offset = <usize>from << 4;
        const length = <usize>(to - from) << 4;
        memory_copy(aside + offset, sound + offset, length);
        memory_fill(sound + offset, length);
        for (let n: usize = 0; n < 3; n++) runSection(own + (n << 5), a + n * SECTION, b + n * SECTION, aside, sound, from, to);
      } else {
        for (let n: usize = 0; n <= <usize>last; n++) runSection(own + (n << 5), a + n * SECTION, b + n * SECTION, sound, sound, from, to);
      }
      if (!kept) memory_copy(a, b, bytes);
    }
  }
  for (let side: usize = 0; side < 2; side++) for (let i: usize = 0; i < STATE; i += 16) flush(memory + side * BANK_SIDE + i);
}

function designSides(type: i32, c: v128, r: v128, w: v128, v: v128, d: v128, log2Rate: f32, out: usize): void {
  const away = f32x4.mul(d, f32x4.splat(<f32>1.0 / <f32>24.0));
  designBank(type, f32x4.sub(c, away), r, w, v, log2Rate, out);
  if (v128.any_true(away)) designBank(type, f32x4.add(c, away), r, w, v, log2Rate, out + BANK_SIDE);
  else memory_copy(out + BANK_SIDE, out, DESIGN);
}

function keep(known: usize, c: v128, r: v128, w: v128, v: v128, d: v128): void {
  v128.store(known, c);
  v128.store(known, r, 16);
  v128.store(known, w, 32);
  v128.store(known, v, 48);
  v128.store(known, d, 64);
}

function isKept(known: usize, c: v128, r: v128, w: v128, v: v128, d: v128): bool {
  let same = v128.and(f32x4.eq(c, v128.load(known)), f32x4.eq(r, v128.load(known, 16)));
  same = v128.and(same, f32x4.eq(w, v128.load(known, 32)));
  same = v128.and(same, v128.and(f32x4.eq(v, v128.load(known, 48)), f32x4.eq(d, v128.load(known, 64))));
  return i32x4.all_true(same);
}

function memory_copy(to: usize, from: usize, bytes: usize): void {
  for (let i: usize = 0; i < bytes; i += 16) v128.store(to + i, v128.load(from + i));
}

function memory_fill(at: usize, bytes: usize): void {
  for (let i: usize = 0; i < bytes; i += 16) v128.store(at + i, f32x4.splat(0));
}

/** Silences a lane's integrators, 0 to 3, for a note that starts. */
export function clearBankLane(memory: usize, lane: i32): void {
  for (let side: usize = 0; side < 2; side++)
    for (let i: usize = 0; i < STATE; i += 16) store<f32>(memory + side * BANK_SIDE + i + (<usize>lane << 2), 0);
}
