// Filters of up to four sections, one side at a time, so that the sides may differ: cascades of trapezoidal sections (as
// in filter.ts), formants side by side, a driven four-pole and a comb.
import { SEGMENT, SIDE, exp2, exp2x4, flush, lanesOf, tanh4 } from "./common";
import { prewarp } from "./filter";
import { down, downWide, upFirst, upSecond, upWideFirst, upWideSecond } from "./halfband";

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

/** A value of a row; `given` where `at` is -1. */
// @ts-ignore: decorator
@inline
function valueAt(row: usize, at: i32, given: f32): v128 {
  return at < 0 ? f32x4.splat(given) : lanesOf(row + at);
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

// ---------------------------------------------------------------------------------------------------- driven four-pole

/** A side's memory: four poles, then what doubles the sample rate and what halves it. */
const LADDER_SIDE: usize = 64 + 128 + 128;
/** At this loop gain four poles at the cutoff, each 45 degrees behind, go on by themselves. */
const LOOP: f32 = <f32>4.4;
/** Sound of full scale meets the bend of the curve half-way up. */
const ROOM: f32 = <f32>0.5;

export function clearLadderLane(memory: usize, lane: i32): void {
  for (let i: usize = 0; i < 2 * LADDER_SIDE; i += 16) store<f32>(memory + i + (<usize>lane << 2), 0);
}

/**
 * A low-pass of four equal poles with resonance around all of them (the transistor ladder; trapezoidal as in V. Zavalishin,
 * The Art of VA Filter Design), at twice the sample rate. The loop is solved as if it were linear, and what goes into the
 * poles is bent by tanh: that has no phase of its own, so it oscillates in tune. Rows give log2 of the cutoff, resonance (%),
 * drive (dB) and how far apart the sides are (semitones); -1 leaves one out.
 */
export function ladder(
  memory: usize, log2Rate: f32, rows: usize, rowBytes: i32, cutoffAt: i32, resonanceAt: i32, driveAt: i32, apartAt: i32,
  segments: usize, segmentCount: i32, bus: usize,
): void {
  const right = memory + LADDER_SIDE;
  const one = f32x4.splat(1), half = f32x4.splat(0.5);
  let l1 = v128.load(memory), l2 = v128.load(memory, 16), l3 = v128.load(memory, 32), l4 = v128.load(memory, 48);
  let r1 = v128.load(right), r2 = v128.load(right, 16), r3 = v128.load(right, 32), r4 = v128.load(right, 48);
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    const start = rows + <usize>(load<i32>(at) * rowBytes);
    const end = rows + <usize>(load<i32>(at, 4) * rowBytes);
    const from = load<i32>(at, 8), to = load<i32>(at, 12);
    const per = f32x4.splat(<f32>1.0 / <f32>(to - from));
    const away0 = f32x4.mul(valueAt(start, apartAt, 0), f32x4.splat(<f32>1.0 / <f32>24.0));
    const away1 = f32x4.mul(valueAt(end, apartAt, 0), f32x4.splat(<f32>1.0 / <f32>24.0));
    const c0 = f32x4.sub(valueAt(start, cutoffAt, 0), f32x4.splat(log2Rate + 1));
    const c1 = f32x4.sub(valueAt(end, cutoffAt, 0), f32x4.splat(log2Rate + 1));
    let gl = pole(f32x4.sub(c0, away0)), gr = pole(f32x4.add(c0, away0));
    const dl = f32x4.mul(f32x4.sub(pole(f32x4.sub(c1, away1)), gl), per), dr = f32x4.mul(f32x4.sub(pole(f32x4.add(c1, away1)), gr), per);
    const scale = f32x4.splat(LOOP * <f32>0.01);
    let k = f32x4.mul(scale, valueAt(start, resonanceAt, 0));
    const dk = f32x4.mul(f32x4.sub(f32x4.mul(scale, valueAt(end, resonanceAt, 0)), k), per);
    const perDb = f32x4.splat(<f32>0.16609640474436813);
    const gain1 = exp2x4(f32x4.mul(perDb, valueAt(end, driveAt, 0)));
    let gain = exp2x4(f32x4.mul(perDb, valueAt(start, driveAt, 0)));
    const dGain = f32x4.mul(f32x4.sub(gain1, gain), per);
    // Louder by drive is made softer behind the poles by its root: as loud as it was, about.
    const back = f32x4.splat(<f32>1.0 / ROOM);
    let lower = f32x4.div(back, f32x4.sqrt(gain));
    const dLower = f32x4.mul(f32x4.sub(f32x4.div(back, f32x4.sqrt(gain1)), lower), per);
    for (let i = from; i < to; i++) {
      gl = f32x4.add(gl, dl);
      gr = f32x4.add(gr, dr);
      k = f32x4.add(k, dk);
      gain = f32x4.add(gain, dGain);
      lower = f32x4.add(lower, dLower);
      const frame = bus + (<usize>i << 4);
      const x = v128.load(frame), y = v128.load(frame, SIDE);
      const kl = f32x4.sub(one, gl), kr = f32x4.sub(one, gr);
      const ql = f32x4.mul(gl, gl), qr = f32x4.mul(gr, gr);
      const solvedL = f32x4.div(one, f32x4.add(one, f32x4.mul(k, f32x4.mul(ql, ql))));
      const solvedR = f32x4.div(one, f32x4.add(one, f32x4.mul(k, f32x4.mul(qr, qr))));
      // Half of what resonance takes from the lows is given back.
      const lift = f32x4.mul(f32x4.mul(gain, f32x4.splat(ROOM)), f32x4.add(one, f32x4.mul(k, half)));
      let firstL = one, firstR = one, secondL = one, secondR = one;
      for (let n = 0; n < 2; n++) {
        const inL = f32x4.mul(n == 0 ? upFirst(memory + 64, x) : upSecond(memory + 64, x), lift);
        const inR = f32x4.mul(n == 0 ? upFirst(right + 64, y) : upSecond(right + 64, y), lift);
        const sumL = f32x4.mul(kl, f32x4.add(l4, f32x4.mul(gl, f32x4.add(l3, f32x4.mul(gl, f32x4.add(l2, f32x4.mul(gl, l1)))))));
        const sumR = f32x4.mul(kr, f32x4.add(r4, f32x4.mul(gr, f32x4.add(r3, f32x4.mul(gr, f32x4.add(r2, f32x4.mul(gr, r1)))))));
        const ul = tanh4(f32x4.mul(f32x4.sub(inL, f32x4.mul(k, sumL)), solvedL));
        const ur = tanh4(f32x4.mul(f32x4.sub(inR, f32x4.mul(k, sumR)), solvedR));
        let vl = f32x4.mul(gl, f32x4.sub(ul, l1)), vr = f32x4.mul(gr, f32x4.sub(ur, r1));
        const al = f32x4.add(vl, l1), ar = f32x4.add(vr, r1);
        l1 = f32x4.add(al, vl); r1 = f32x4.add(ar, vr);
        vl = f32x4.mul(gl, f32x4.sub(al, l2)); vr = f32x4.mul(gr, f32x4.sub(ar, r2));
        const bl = f32x4.add(vl, l2), br = f32x4.add(vr, r2);
        l2 = f32x4.add(bl, vl); r2 = f32x4.add(br, vr);
        vl = f32x4.mul(gl, f32x4.sub(bl, l3)); vr = f32x4.mul(gr, f32x4.sub(br, r3));
        const cl = f32x4.add(vl, l3), cr = f32x4.add(vr, r3);
        l3 = f32x4.add(cl, vl); r3 = f32x4.add(cr, vr);
        vl = f32x4.mul(gl, f32x4.sub(cl, l4)); vr = f32x4.mul(gr, f32x4.sub(cr, r4));
        const el = f32x4.add(vl, l4), er = f32x4.add(vr, r4);
        l4 = f32x4.add(el, vl); r4 = f32x4.add(er, vr);
        if (n == 0) { firstL = el; firstR = er; }
        else { secondL = el; secondR = er; }
      }
      v128.store(frame, f32x4.mul(lower, down(memory + 192, firstL, secondL)));
      v128.store(frame, f32x4.mul(lower, down(right + 192, firstR, secondR)), SIDE);
    }
  }
  v128.store(memory, l1); v128.store(memory, l2, 16); v128.store(memory, l3, 32); v128.store(memory, l4, 48);
  v128.store(right, r1); v128.store(right, r2, 16); v128.store(right, r3, 32); v128.store(right, r4, 48);
  for (let i: usize = 0; i < 2 * LADDER_SIDE; i += 16) flush(memory + i);
}

/** What of the way to its input a pole goes at once. */
// @ts-ignore: decorator
@inline
function pole(log2: v128): v128 {
  const g = prewarp(log2);
  return f32x4.div(g, f32x4.add(f32x4.splat(1), g));
}

// ---------------------------------------------------------------------------------------------------- comb

/** A comb's memory: frames that each lane has run, and where the ring is written; then the ring, both sides of each frame. */
const RING: usize = 32;

/** A note that starts finds the ring empty, whatever is in it. */
export function clearCombLane(memory: usize, lane: i32): void {
  store<i32>(memory + (<usize>lane << 2), 0);
}

// @ts-ignore: decorator
@inline
function tap(ring: usize, place: i32, mask: i32, lane: usize): f32 {
  return load<f32>(ring + (<usize>(place & mask) << 5) + lane);
}

/**
 * y = x + f y, a cutoff's cycle later: peaks at its multiples, or half-way between where `sign` is -1. Between frames it reads
 * by a cubic line (Lagrange), which never adds level. Rows give log2 of the cutoff, resonance (%) and how far apart the sides
 * are (semitones, -1 for none). `mask` is the ring's frames less one.
 */
export function comb(
  memory: usize, mask: i32, sign: f32, log2Rate: f32, rows: usize, rowBytes: i32, cutoffAt: i32, resonanceAt: i32, apartAt: i32,
  segments: usize, segmentCount: i32, bus: usize,
): void {
  const ring = memory + RING;
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    const start = rows + <usize>(load<i32>(at) * rowBytes);
    const end = rows + <usize>(load<i32>(at, 4) * rowBytes);
    const from = load<i32>(at, 8), to = load<i32>(at, 12);
    const per = f32x4.splat(<f32>1.0 / <f32>(to - from));
    const one = f32x4.splat(1);
    const f0 = feedback(valueAt(start, resonanceAt, 0)), f1 = feedback(valueAt(end, resonanceAt, 0));
    const age0 = v128.load(memory);
    const place0 = load<i32>(memory, 16);
    for (let side: usize = 0; side < 2; side++) {
      const apart = f32x4.splat(side == 0 ? <f32>-1.0 / <f32>24.0 : <f32>1.0 / <f32>24.0);
      const c0 = f32x4.add(valueAt(start, cutoffAt, 0), f32x4.mul(apart, valueAt(start, apartAt, 0)));
      const c1 = f32x4.add(valueAt(end, cutoffAt, 0), f32x4.mul(apart, valueAt(end, apartAt, 0)));
      let delay = delayOf(c0, log2Rate, mask);
      const dDelay = f32x4.mul(f32x4.sub(delayOf(c1, log2Rate, mask), delay), per);
      let f = f0;
      const df = f32x4.mul(f32x4.sub(f1, f0), per);
      let age = age0;
      let place = place0;
      const lanes = side << 4;
      for (let i = from; i < to; i++) {
        delay = f32x4.add(delay, dDelay);
        f = f32x4.add(f, df);
        const whole = i32x4.trunc_sat_f32x4_s(delay);
        const w = f32x4.sub(delay, f32x4.convert_i32x4_s(whole));
        // Weights of the samples before, at, behind and two behind; what an earlier note left in the ring is none of this one's.
        const wp = f32x4.add(w, one), w1 = f32x4.sub(w, one), w2 = f32x4.sub(w, f32x4.splat(2));
        const k0 = v128.and(f32x4.mul(f32x4.mul(f32x4.mul(w, w1), w2), f32x4.splat(<f32>-1.0 / <f32>6.0)), i32x4.gt_s(age, i32x4.add(whole, i32x4.splat(-2))));
        const k1 = v128.and(f32x4.mul(f32x4.mul(f32x4.mul(wp, w1), w2), f32x4.splat(0.5)), i32x4.gt_s(age, i32x4.add(whole, i32x4.splat(-1))));
        const k2 = v128.and(f32x4.mul(f32x4.mul(f32x4.mul(wp, w), w2), f32x4.splat(-0.5)), i32x4.gt_s(age, whole));
        const k3 = v128.and(f32x4.mul(f32x4.mul(f32x4.mul(wp, w), w1), f32x4.splat(<f32>1.0 / <f32>6.0)), i32x4.gt_s(age, i32x4.add(whole, i32x4.splat(1))));
        const p0 = place - i32x4.extract_lane(whole, 0), p1 = place - i32x4.extract_lane(whole, 1);
        const p2 = place - i32x4.extract_lane(whole, 2), p3 = place - i32x4.extract_lane(whole, 3);
        let y = f32x4.mul(k0, f32x4(tap(ring, p0 + 1, mask, lanes), tap(ring, p1 + 1, mask, lanes + 4), tap(ring, p2 + 1, mask, lanes + 8), tap(ring, p3 + 1, mask, lanes + 12)));
        y = f32x4.add(y, f32x4.mul(k1, f32x4(tap(ring, p0, mask, lanes), tap(ring, p1, mask, lanes + 4), tap(ring, p2, mask, lanes + 8), tap(ring, p3, mask, lanes + 12))));
        y = f32x4.add(y, f32x4.mul(k2, f32x4(tap(ring, p0 - 1, mask, lanes), tap(ring, p1 - 1, mask, lanes + 4), tap(ring, p2 - 1, mask, lanes + 8), tap(ring, p3 - 1, mask, lanes + 12))));
        y = f32x4.add(y, f32x4.mul(k3, f32x4(tap(ring, p0 - 2, mask, lanes), tap(ring, p1 - 2, mask, lanes + 4), tap(ring, p2 - 2, mask, lanes + 8), tap(ring, p3 - 2, mask, lanes + 12))));
        const frame = bus + side * SIDE + (<usize>i << 4);
        let out = f32x4.add(v128.load(frame), f32x4.mul(f32x4.mul(f, f32x4.splat(sign)), y));
        out = v128.and(out, f32x4.gt(f32x4.abs(out), f32x4.splat(<f32>1e-15)));
        v128.store(ring + (<usize>(place & mask) << 5) + lanes, out);
        // As much power as came in, of a sound that has every frequency.
        v128.store(frame, f32x4.mul(out, f32x4.sqrt(f32x4.sub(one, f32x4.mul(f, f)))));
        age = i32x4.add(age, i32x4.splat(1));
        place++;
      }
    }
    v128.store(memory, i32x4.min_s(i32x4.add(age0, i32x4.splat(to - from)), i32x4.splat(1 << 24)));
    store<i32>(memory, (place0 + to - from) & mask, 16);
  }
}

/** 0 to 0.99 for a resonance of 0 to 100 %, faster at first. */
// @ts-ignore: decorator
@inline
function feedback(resonance: v128): v128 {
  const r = f32x4.mul(f32x4.max(f32x4.min(resonance, f32x4.splat(100)), f32x4.splat(0)), f32x4.splat(0.01));
  return f32x4.mul(f32x4.mul(r, f32x4.sub(f32x4.splat(2), r)), f32x4.splat(0.99));
}

// @ts-ignore: decorator
@inline
function delayOf(cutoff: v128, log2Rate: f32, mask: i32): v128 {
  const frames = exp2x4(f32x4.sub(f32x4.splat(log2Rate), cutoff));
  return f32x4.min(f32x4.max(frames, f32x4.splat(4)), f32x4.splat(<f32>(mask - 3)));
}

// ---------------------------------------------------------------------------------------------------- around a filter

/** A side's memory for `saturate`: up twice, down twice, and the last input of the curve with its integral's small part. */
const SATURATE_SIDE: usize = 448;

export function clearSaturateLane(memory: usize, lane: i32): void {
  for (let i: usize = 0; i < 2 * SATURATE_SIDE; i += 16) store<f32>(memory + i + (<usize>lane << 2), 0);
  // ln(1 + e^0), where the curve stands at rest.
  for (let side: usize = 0; side < 2; side++) store<f32>(memory + side * SATURATE_SIDE + 432 + (<usize>lane << 2), <f32>0.6931471805599453);
}

/** ln(1 + e^(-2 |x|)), what ln(2 cosh x) has above |x|: by a series of ten terms of artanh, within 2e-7. */
// @ts-ignore: decorator
@inline
function above(x: v128): v128 {
  const z = exp2x4(f32x4.max(f32x4.mul(f32x4.abs(x), f32x4.splat(<f32>-2.885390081777927)), f32x4.splat(-60)));
  // ln(1 + z) = 2 artanh(z / (2 + z)), whose argument stays below a third.
  const a = f32x4.div(z, f32x4.add(z, f32x4.splat(2)));
  const q = f32x4.mul(a, a);
  let s = f32x4.splat(<f32>(2.0 / 13.0));
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(<f32>(2.0 / 11.0)));
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(<f32>(2.0 / 9.0)));
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(<f32>(2.0 / 7.0)));
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(<f32>(2.0 / 5.0)));
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(<f32>(2.0 / 3.0)));
  return f32x4.mul(f32x4.add(f32x4.mul(s, q), f32x4.splat(2)), a);
}

/**
 * tanh as its mean between two inputs, by its integral ln cosh (J. Parker, V. Zavalishin, E. Le Bivic, "Reducing the aliasing
 * of nonlinear waveshaping using continuous-time convolution", 2016); the curve itself where they lie close together.
 */
// @ts-ignore: decorator
@inline
function meanTanh(memory: usize, x: v128): v128 {
  const before = v128.load(memory), low = v128.load(memory, 16);
  const high = above(x);
  v128.store(memory, x);
  v128.store(memory, high, 16);
  const way = f32x4.sub(x, before);
  const rise = f32x4.add(f32x4.sub(f32x4.abs(x), f32x4.abs(before)), f32x4.sub(high, low));
  const near = f32x4.lt(f32x4.abs(way), f32x4.splat(0.03));
  const mean = f32x4.div(rise, way);
  if (!v128.any_true(near)) return mean;
  return v128.bitselect(tanh4(f32x4.mul(f32x4.add(x, before), f32x4.splat(0.5))), mean, near);
}

/**
 * Bends a bus in place by tanh(c x) / tanh(c), at four times the sample rate: full scale stays where it is, what is softer
 * gets louder. Rows give the drive in dB, 1 + c; at 0 dB nothing is bent.
 */
export function saturate(memory: usize, rows: usize, rowBytes: i32, driveAt: i32, segments: usize, segmentCount: i32, bus: usize): void {
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    const from = load<i32>(at, 8), to = load<i32>(at, 12);
    const per = f32x4.splat(<f32>1.0 / <f32>(to - from));
    const c0 = bend(lanesOf(rows + <usize>(load<i32>(at) * rowBytes) + driveAt));
    const c1 = bend(lanesOf(rows + <usize>(load<i32>(at, 4) * rowBytes) + driveAt));
    const dc = f32x4.mul(f32x4.sub(c1, c0), per);
    for (let side: usize = 0; side < 2; side++) {
      const own = memory + side * SATURATE_SIDE;
      const state = own + 416;
      let c = c0;
      for (let i = from; i < to; i++) {
        c = f32x4.add(c, dc);
        const frame = bus + side * SIDE + (<usize>i << 4);
        const x = f32x4.mul(c, v128.load(frame));
        const a = upFirst(own, x), b = upSecond(own, x);
        const p = meanTanh(state, upWideFirst(own + 128, a));
        const q = meanTanh(state, upWideSecond(own + 128, a));
        const r = meanTanh(state, upWideFirst(own + 128, b));
        const t = meanTanh(state, upWideSecond(own + 128, b));
        const bent = down(own + 288, downWide(own + 208, p, q), downWide(own + 208, r, t));
        v128.store(frame, f32x4.div(bent, tanh4(c)));
      }
    }
  }
  for (let side: usize = 0; side < 2; side++) for (let i: usize = 0; i < 416; i += 16) flush(memory + side * SATURATE_SIDE + i);
}

// @ts-ignore: decorator
@inline
function bend(drive: v128): v128 {
  return f32x4.max(f32x4.sub(exp2x4(f32x4.mul(drive, f32x4.splat(<f32>0.16609640474436813))), f32x4.splat(1)), f32x4.splat(<f32>0.01));
}

/** Blends a bus with `dry`, what it was before. Rows give how much of the bus stays, 0 to 100 %. */
export function blend(dry: usize, rows: usize, rowBytes: i32, mixAt: i32, segments: usize, segmentCount: i32, bus: usize): void {
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    const from = load<i32>(at, 8), to = load<i32>(at, 12);
    const start = rows + <usize>(load<i32>(at) * rowBytes);
    const hundredth = f32x4.splat(0.01);
    let m = f32x4.mul(lanesOf(start + mixAt), hundredth);
    const m1 = f32x4.mul(valueAt(rows + <usize>(load<i32>(at, 4) * rowBytes), mixAt, 100), hundredth);
    const dm = f32x4.mul(f32x4.sub(m1, m), f32x4.splat(<f32>1.0 / <f32>(to - from)));
    for (let i = from; i < to; i++) {
      m = f32x4.add(m, dm);
      for (let side: usize = 0; side < 2 * SIDE; side += SIDE) {
        const o = side + (<usize>i << 4);
        const d = v128.load(dry + o);
        v128.store(bus + o, f32x4.add(d, f32x4.mul(m, f32x4.sub(v128.load(bus + o), d))));
      }
    }
  }
}

/** Copies a bus. */
export function copyBus(from: usize, to: usize): void {
  for (let i: usize = 0; i < 2 * SIDE; i += 16) v128.store(to + i, v128.load(from + i));
}
