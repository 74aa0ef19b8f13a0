import { LANES, SEGMENT, exp2 } from "./common";
import { MOST_SEGMENTS, addSaws, beginSaws, pourSaws } from "./saws";

/** Bytes of a lane's memory: phases i32 x 16; ratios f64 x 16 and their detune; gains f32 x 16 a side and their width. */
export const LANE: usize = 64 + 2 * (128 + 8) + 2 * (128 + 8);
export const RATIOS: usize = 64;
export const RATIOS_END: usize = 64 + 136;
export const GAINS: usize = 64 + 272;
export const GAINS_END: usize = 64 + 272 + 136;

/** Log2 of cycles a frame between which a saw is made of its jumps: above, they come so often that its table is faster. */
const HIGHEST: f64 = -6.33;
const LOWEST: f64 = -15.5;
/** Frames in which a pitch must not move by more than an octave for that. */
const STEEP: f64 = 320.0;
/** By how many percent a frame a width may move for that. */
const WIDENING: f64 = 0.02;

/** Octaves of a key. */
const PER_KEY: f64 = 1.0 / 12.0;

/** Stacks of intervals that a unison goes through voice by voice: none; octaves; fifths and octaves; minor; major. */
const STACK_SIZES: StaticArray<i32> = [1, 2, 3, 4, 4];
const STACKS: StaticArray<f64> = [
  1, 1, 1, 1,
  1, 2, 1, 1,
  1, 1.4983070768766815, 2, 1,
  1, 1.189207115002721, 1.4983070768766815, 2,
  1, 1.2599210498948732, 1.4983070768766815, 2,
];

/**
 * What a unison is beside its size, in one number: its intervals in the lowest four bits, the law by which its voices are
 * spread in the next four (0 evenly, 1 towards the middle, 2 towards the ends), and in eight more how much of its level, in
 * percent, each voice but the middle ones lacks.
 */
// @ts-ignore: decorator
@inline
export function intervalsOf(stack: i32): i32 {
  return stack & 15;
}

/** Frequency ratios of a stack for a detune in cents: voices spread from -detune to detune, by the stack's intervals. */
export function setRatios(at: usize, count: i32, detune: f64, stack: i32): void {
  if (load<f64>(at, 128) == detune) return;
  store<f64>(at, detune, 128);
  const law = (stack >> 4) & 15;
  if (law == 0 || count == 1) spreadRatios(at, count, detune);
  else
    for (let u = 0; u < count; u++) {
      const place = (2.0 * <f64>u) / <f64>(count - 1) - 1.0;
      const size = Math.abs(place);
      const far = law == 1 ? size * size : Math.sqrt(size);
      store<f64>(at + (<usize>u << 3), exp2(((place < 0 ? -far : far) * detune) / 1200.0));
    }
  const intervals = intervalsOf(stack);
  if (intervals == 0) return;
  const size = unchecked(STACK_SIZES[intervals]);
  for (let u = 0; u < count; u++) {
    const o = at + (<usize>u << 3);
    store<f64>(o, load<f64>(o) * unchecked(STACKS[4 * intervals + (u % size)]));
  }
}

function spreadRatios(at: usize, count: i32, detune: f64): void {
  if (count == 1) {
    store<f64>(at, 1.0);
    return;
  }
  // 2^x by its series: x stays within a twelfth, so that seven terms give twelve digits. Two voices at a time.
  const step = (detune / (600.0 * <f64>(count - 1))) * 0.6931471805599453;
  let x = f64x2.add(f64x2.splat((-detune / 1200.0) * 0.6931471805599453), f64x2.mul(f64x2.splat(step), f64x2(0, 1)));
  const next = f64x2.splat(2 * step);
  for (let u = 0; u < count; u += 2) {
    let e = f64x2.add(f64x2.splat(0.008333333333333333), f64x2.mul(x, f64x2.splat(0.001388888888888889)));
    e = f64x2.add(f64x2.splat(0.041666666666666664), f64x2.mul(x, e));
    e = f64x2.add(f64x2.splat(0.16666666666666666), f64x2.mul(x, e));
    e = f64x2.add(f64x2.splat(0.5), f64x2.mul(x, e));
    e = f64x2.add(f64x2.splat(1.0), f64x2.mul(x, e));
    v128.store(at + (<usize>u << 3), f64x2.add(f64x2.splat(1.0), f64x2.mul(x, e)));
    x = f64x2.add(x, next);
  }
}

/**
 * Gains of both sides for a width of 0 to 100 %: equal power, 1 / sqrt(count) for voices that drift apart, or as much in all
 * where the outer ones lack some. The lowest and the highest voice stand on opposite sides, and so do the two next to them, the other way round.
 */
export function setGains(at: usize, count: i32, width: f64, stack: i32): void {
  const key = gainKey(width, stack);
  if (load<f64>(at, 128) == key) return;
  store<f64>(at, key, 128);
  const lack = stack >> 8;
  // Of an even number, the two in the middle stand out.
  const middle = (count - 1) >> 1, others = count - (count & 1 ? 1 : 2);
  const outer = <f32>(1.0 - <f64>lack / 100.0);
  const whole = count > 2 ? <f32>(count - others) + <f32>others * outer * outer : <f32>count;
  const per = f32x4.splat(<f32>1.0 / whole);
  const one = f32x4.splat(1.0);
  const toPlace = f32x4.splat(count == 1 ? <f32>0 : <f32>2.0 / <f32>(count - 1));
  const last = i32x4.splat(count - 1);
  const share = f32x4.splat(<f32>(width / 100.0));
  for (let u = 0; u < count; u += 4) {
    const voice = i32x4.add(i32x4.splat(u), i32x4(0, 1, 2, 3));
    const place = count == 1 ? f32x4.splat(0) : f32x4.sub(f32x4.mul(f32x4.convert_i32x4_s(voice), toPlace), one);
    // The sign of every other pair, counted from the ends, is turned.
    const turn = i32x4.shl(i32x4.min_s(voice, i32x4.sub(last, voice)), 31);
    const spread = v128.xor(f32x4.mul(place, share), turn);
    const o = <usize>u << 2;
    v128.store(at + o, f32x4.sqrt(f32x4.mul(f32x4.sub(one, spread), per)));
    v128.store(at + o, f32x4.sqrt(f32x4.mul(f32x4.add(one, spread), per)), 64);
  }
  if (lack == 0 || count < 3) return;
  for (let u = 0; u < count; u++) {
    if (u == middle || u == count - 1 - middle) continue;
    const o = at + (<usize>u << 2);
    store<f32>(o, load<f32>(o) * outer);
    store<f32>(o, load<f32>(o, 64) * outer, 64);
  }
}

/** Tells gains apart that are worked out: by their width, and by what the outer voices lack. */
// @ts-ignore: decorator
@inline
function gainKey(width: f64, stack: i32): f64 {
  return width + 1024.0 * <f64>(stack >> 8);
}

/** Gains where a segment starts: after an edit of what outer voices lack, those that were heard before it. */
// @ts-ignore: decorator
@inline
export function startGains(at: usize, count: i32, width: f64, stack: i32): void {
  const known = load<f64>(at, 128);
  if (known == known && <i32>(known / 1024.0) != stack >> 8) return;
  setGains(at, count, width, stack);
}

/** Whether gains that a segment starts with are others than those that it ends with. */
// @ts-ignore: decorator
@inline
export function gainsMove(at: usize, width1: f64, stack: i32): bool {
  return load<f64>(at, 128) != gainKey(width1, stack);
}

/** Forgets the ratios and gains of a lane, so that the next stretch works them out: the stack has another size. */
export function resetLane(lane: usize): void {
  store<f64>(lane + RATIOS, NaN, 128);
  store<f64>(lane + RATIOS_END, NaN, 128);
  store<f64>(lane + GAINS, NaN, 128);
  store<f64>(lane + GAINS_END, NaN, 128);
}

/** Four frames of a wave, by a straight line between its samples: what lies before and behind each phase. */
// @ts-ignore: decorator
@inline
function wave4(table: v128, q: v128, shift: i32, mask: v128, scale: v128): v128 {
  const at = i32x4.add(table, i32x4.shl(i32x4.shr_u(q, shift), 2));
  const at01 = <u64>i64x2.extract_lane(at, 0), at23 = <u64>i64x2.extract_lane(at, 1);
  const p01 = v128.load64_lane(<usize>(at01 >> 32), v128.load64_zero(<usize>at01), 1);
  const p23 = v128.load64_lane(<usize>(at23 >> 32), v128.load64_zero(<usize>at23), 1);
  const a = v128.shuffle<f32>(p01, p23, 0, 2, 4, 6);
  const b = v128.shuffle<f32>(p01, p23, 1, 3, 5, 7);
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), f32x4.mul(f32x4.convert_i32x4_s(v128.and(q, mask)), scale)));
}

/** Phases of four frames that start at `q`, with an increment that grows by `slope` a frame; all lanes alike. */
// @ts-ignore: decorator
@inline
function phases4(q: v128, increment: v128, slope: v128): v128 {
  return i32x4.add(q, i32x4.add(i32x4.mul(increment, i32x4(0, 1, 2, 3)), i32x4.mul(slope, i32x4(0, 0, 1, 3))));
}

/** What those phases move by in four frames; it grows by 16 x slope each time. */
// @ts-ignore: decorator
@inline
function steps4(increment: v128, slope: v128): v128 {
  return i32x4.add(i32x4.shl(increment, 2), i32x4.mul(slope, i32x4(6, 10, 14, 18)));
}

// @ts-ignore: decorator
@inline
function ramp4(from: v128, step: v128): v128 {
  return f32x4.add(from, f32x4.mul(step, f32x4(0, 1, 2, 3)));
}

/** The first and the second lane, spread over all four. */
// @ts-ignore: decorator
@inline
function ofA(x: v128): v128 {
  return v128.shuffle<i32>(x, x, 0, 0, 0, 0);
}

// @ts-ignore: decorator
@inline
function ofB(x: v128): v128 {
  return v128.shuffle<i32>(x, x, 1, 1, 1, 1);
}

/**
 * Adds two oscillators over `fours` frames from `from` on; 32 - `shift` is log2 of the table's size. Phases, their steps
 * and slopes, gains and their steps hold the oscillators in their first two lanes. Gains stand still unless `ramped`.
 */
// @ts-ignore: decorator
@inline
function pair(
  shift: i32, ramped: bool, q: v128, step: v128, slope: v128, l: v128, lStep: v128, r: v128, rStep: v128,
  table: usize, left: usize, right: usize, from: i32, fours: i32,
): void {
  const mask = i32x4.splat((1 << shift) - 1);
  const scale = f32x4.splat(<f32>1.0 / <f32>(<i32>1 << shift));
  const slopeA = ofA(slope), slopeB = ofB(slope), stepA = ofA(step), stepB = ofB(step);
  let qsA = phases4(ofA(q), stepA, slopeA), qsB = phases4(ofB(q), stepB, slopeB);
  let dA = steps4(stepA, slopeA), dB = steps4(stepB, slopeB);
  const bendA = i32x4.shl(slopeA, 4), bendB = i32x4.shl(slopeB, 4);
  let glA = ofA(l), grA = ofA(r), glB = ofB(l), grB = ofB(r);
  let sl = f32x4.splat(0), sr = sl, tl = sl, tr = sl;
  if (ramped) {
    sl = ofA(lStep); sr = ofA(rStep); tl = ofB(lStep); tr = ofB(rStep);
    glA = ramp4(glA, sl); grA = ramp4(grA, sr); glB = ramp4(glB, tl); grB = ramp4(grB, tr);
    const four = f32x4.splat(4.0);
    sl = f32x4.mul(sl, four); sr = f32x4.mul(sr, four); tl = f32x4.mul(tl, four); tr = f32x4.mul(tr, four);
  }
  const end = left + (<usize>(from + fours) << 2);
  const apart = right - left;
  const tables = i32x4.splat(<i32>table);
  for (let at = left + (<usize>from << 2); at < end; at += 16) {
    const y = wave4(tables, qsA, shift, mask, scale);
    const z = wave4(tables, qsB, shift, mask, scale);
    v128.store(at, f32x4.add(v128.load(at), f32x4.add(f32x4.mul(y, glA), f32x4.mul(z, glB))));
    v128.store(at + apart, f32x4.add(v128.load(at + apart), f32x4.add(f32x4.mul(y, grA), f32x4.mul(z, grB))));
    qsA = i32x4.add(qsA, dA);
    qsB = i32x4.add(qsB, dB);
    dA = i32x4.add(dA, bendA);
    dB = i32x4.add(dB, bendB);
    if (ramped) {
      glA = f32x4.add(glA, sl);
      grA = f32x4.add(grA, sr);
      glB = f32x4.add(glB, tl);
      grB = f32x4.add(grB, tr);
    }
  }
}

/** The same of one oscillator alone, the first of the lanes, whose gains stand still. */
// @ts-ignore: decorator
@inline
function lone(
  shift: i32, q: v128, step: v128, slope: v128, l: v128, r: v128, table: usize, left: usize, right: usize, from: i32, fours: i32,
): void {
  const mask = i32x4.splat((1 << shift) - 1);
  const scale = f32x4.splat(<f32>1.0 / <f32>(<i32>1 << shift));
  const slopes = ofA(slope), steps = ofA(step), bends = i32x4.shl(slopes, 4);
  const gl = ofA(l), gr = ofA(r);
  let qs = phases4(ofA(q), steps, slopes), d = steps4(steps, slopes);
  const tables = i32x4.splat(<i32>table);
  const end = left + (<usize>(from + fours) << 2);
  const apart = right - left;
  for (let at = left + (<usize>from << 2); at < end; at += 16) {
    const y = wave4(tables, qs, shift, mask, scale);
    v128.store(at, f32x4.add(v128.load(at), f32x4.mul(y, gl)));
    v128.store(at + apart, f32x4.add(v128.load(at + apart), f32x4.mul(y, gr)));
    qs = i32x4.add(qs, d);
    d = i32x4.add(d, bends);
  }
}

/**
 * Adds one stack over [from, to) to `left` and `right`: two oscillators and four frames at a time, linear interpolation
 * in a table of 2^bits samples (10 to 14) and a guard. A phase is a 32-bit integer, one cycle being 2^32; increments and gains move
 * evenly from their start to their end. The wave is read `offset` behind the phase. Phases move on when `advance` is set.
 */
export function addStack(
  lane: usize, ratios0: usize, ratios1: usize, gains0: usize, gains1: usize, count: i32,
  inc0: f64, inc1: f64, table: usize, bits: i32, offset0: i32, offset1: i32, scale0: f32, scale1: f32, advance: bool,
  left: usize, right: usize, from: i32, to: i32,
): void {
  const length = to - from;
  const per = f32x4.splat(<f32>1.0 / <f32>length);
  const shift = 32 - bits;
  const perFrame = f64x2.splat(1.0 / <f64>length);
  const offsets = i32x4.splat(offset0);
  const offsetStep = i32x4.splat(offset0 == offset1 ? 0 : (offset1 - offset0) / length);
  const fours = length & ~3;
  const ramped = gains0 != gains1 || scale0 != scale1;
  const start = f64x2.splat(inc0), stop = f64x2.splat(inc1);
  const glide = ratios0 != ratios1 || inc0 != inc1;
  for (let u = 0; u < count; u += 2) {
    const o8 = <usize>u << 3;
    const o4 = <usize>u << 2;
    // The last of an odd stack is alone, or beside a silent twin where gains move.
    const second = u + 1 < count;
    const both = i32x4(-1, second ? -1 : 0, 0, 0);
    const phases = v128.load64_zero(lane + o4);
    const first = f64x2.mul(start, v128.load(ratios0 + o8));
    const inc = i32x4.trunc_sat_f64x2_s_zero(first);
    const slope = glide ? i32x4.trunc_sat_f64x2_s_zero(f64x2.mul(f64x2.sub(f64x2.mul(stop, v128.load(ratios1 + o8)), first), perFrame)) : i32x4.splat(0);
    const step = i32x4.sub(inc, offsetStep);
    const q = i32x4.sub(phases, offsets);
    const l = v128.and(f32x4.mul(v128.load64_zero(gains0 + o4), f32x4.splat(scale0)), both);
    const r = v128.and(f32x4.mul(v128.load64_zero(gains0 + o4, 64), f32x4.splat(scale0)), both);
    let lStep = f32x4.splat(0), rStep = lStep;
    if (ramped) {
      lStep = f32x4.mul(f32x4.sub(v128.and(f32x4.mul(v128.load64_zero(gains1 + o4), f32x4.splat(scale1)), both), l), per);
      rStep = f32x4.mul(f32x4.sub(v128.and(f32x4.mul(v128.load64_zero(gains1 + o4, 64), f32x4.splat(scale1)), both), r), per);
    }
    if (fours > 0) {
      // Shifts by a figure that the compiler knows are much faster, and most stacks have gains that stand still.
      if (!second && !ramped) {
        if (bits == 12) lone(20, q, step, slope, l, r, table, left, right, from, fours);
        else if (bits == 13) lone(19, q, step, slope, l, r, table, left, right, from, fours);
        else if (bits == 14) lone(18, q, step, slope, l, r, table, left, right, from, fours);
        else if (bits == 11) lone(21, q, step, slope, l, r, table, left, right, from, fours);
        else lone(22, q, step, slope, l, r, table, left, right, from, fours);
      } else if (ramped) {
        if (bits == 12) pair(20, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 13) pair(19, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 14) pair(18, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 11) pair(21, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else pair(22, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
      } else {
        if (bits == 12) pair(20, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 13) pair(19, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 14) pair(18, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 11) pair(21, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else pair(22, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
      }
    }
    // What is left of a segment that is no multiple of four frames long.
    for (let n = fours; n < length; n++) {
      const grown = (n * (n - 1)) >> 1;
      const at = i32x4.add(q, i32x4.add(i32x4.mul(step, i32x4.splat(n)), i32x4.mul(slope, i32x4.splat(grown))));
      const y = wave1(table, i32x4.extract_lane(at, 0), shift);
      const z = wave1(table, i32x4.extract_lane(at, 1), shift);
      const frame = <usize>(from + n) << 2;
      const m = f32x4.splat(<f32>n);
      const gl = f32x4.add(l, f32x4.mul(lStep, m)), gr = f32x4.add(r, f32x4.mul(rStep, m));
      store<f32>(left + frame, load<f32>(left + frame) + y * f32x4.extract_lane(gl, 0) + z * f32x4.extract_lane(gl, 1));
      store<f32>(right + frame, load<f32>(right + frame) + y * f32x4.extract_lane(gr, 0) + z * f32x4.extract_lane(gr, 1));
    }
    if (advance) {
      const grown = (length * (length - 1)) >> 1;
      const moved = i32x4.add(phases, i32x4.add(i32x4.mul(inc, i32x4.splat(length)), i32x4.mul(slope, i32x4.splat(grown))));
      if (second) v128.store64_lane(lane + o4, moved, 0);
      else v128.store32_lane(lane + o4, moved, 0);
    }
  }
}

// @ts-ignore: decorator
@inline
export function wave1(table: usize, q: i32, shift: i32): f32 {
  const at = table + (<usize>(<u32>q >> <u32>shift) << 2);
  const a = load<f32>(at);
  return a + (load<f32>(at, 4) - a) * (<f32>(q & ((1 << shift) - 1)) / <f32>(<i32>1 << shift));
}

/**
 * Keeps the loudness of a pulse at that of a square: its power is 4 d (1 - d), with the mean taken out; narrow ones, whose
 * power lies where ears are keen, get a little less.
 */
// @ts-ignore: decorator
@inline
export function pulseScale(width: f64): f32 {
  const d = width / 100.0;
  const power = 4.0 * d * (1.0 - d);
  const lack = 1.0 - power;
  return <f32>((1.0 - 0.35 * lack * lack * lack) / Math.sqrt(power));
}

/** Copies ratios or gains with what they are of: so few bytes that a call of the runtime would take longer. */
// @ts-ignore: decorator
@inline
export function keep(to: usize, from: usize): void {
  for (let i: usize = 0; i < 128; i += 16) v128.store(to + i, v128.load(from + i));
  store<f64>(to, load<f64>(from, 128), 128);
}

/** Silences both sides of a voice. */
// @ts-ignore: decorator
@inline
function clearVoice(left: usize): void {
  const zero = i32x4.splat(0);
  for (let i: usize = 0; i < 512; i += 16) v128.store(left + i, zero);
}

/** How a voice's saws are made of their jumps in a block: not at all, with gains that stand still, or that move. */
const NOT: i32 = 0;
const STILL: i32 = 1;
const RAMPED: i32 = 2;

/** A block is if its pitch is neither too high nor too low, nothing moves too fast, and a pulse keeps its width. */
// @ts-ignore: decorator
@inline
function ofJumps(
  lane: usize, v: i32, start: i32, count: i32, stack: i32, log2Tuning: f64, rows: usize, rowBytes: i32,
  pitchAt: i32, detuneAt: i32, widthAt: i32, pulseAt: i32, segments: usize, segmentCount: i32,
): i32 {
  if (segmentCount > MOST_SEGMENTS) return NOT;
  const octave = count == 1 ? 0.0 : intervalsOf(stack) ? 1.0 : 0.0;
  let ramped = false;
  let row: usize = 0, pitch: f64 = 0, detune: f64 = 0, width: f64 = 0, hole: f64 = 0, from = start;
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    if (load<i32>(at, 12) <= start) continue;
    if (row == 0) {
      row = rows + <usize>(load<i32>(at) * rowBytes + (v << 3));
      pitch = load<f64>(row + pitchAt);
      detune = load<f64>(row + detuneAt);
      width = load<f64>(row + widthAt);
      hole = load<f64>(row + pulseAt);
      const log2 = pitch * PER_KEY + log2Tuning, far = count == 1 ? 0.0 : detune / 1200.0;
      if (log2 + far + octave > HIGHEST || log2 - far < LOWEST) return NOT;
      startGains(lane + GAINS, count, width, stack);
      if (gainsMove(lane + GAINS, width, stack)) ramped = true;
    }
    // A corner of another voice is none of this one's.
    if (!(load<i32>(at, 16) & (1 << v)) && s + 1 < segmentCount) continue;
    const end = rows + <usize>(load<i32>(at, 4) * rowBytes + (v << 3));
    const to = load<i32>(at, 12);
    if (load<f64>(end + pulseAt) != hole) return NOT;
    const width1 = load<f64>(end + widthAt);
    if (width1 != width) {
      if (Math.abs(width1 - width) > WIDENING * <f64>(to - from)) return NOT;
      width = width1;
      ramped = true;
    }
    const pitch1 = load<f64>(end + pitchAt), detune1 = load<f64>(end + detuneAt);
    if (pitch1 != pitch || detune1 != detune) {
      const log2 = pitch1 * PER_KEY + log2Tuning, far = count == 1 ? 0.0 : detune1 / 1200.0;
      if (log2 + far + octave > HIGHEST || log2 - far < LOWEST) return NOT;
      const turn = Math.abs(pitch1 - pitch) * PER_KEY + Math.abs(detune1 - detune) / 1200.0;
      if (turn * STEEP > <f64>(to - from)) return NOT;
      pitch = pitch1;
      detune = detune1;
    }
    from = to;
  }
  return row == 0 ? NOT : ramped ? RAMPED : STILL;
}

/**
 * Plays the stacks of up to four voices into `scratch`, 64 frames of the left side and 64 of the right one a voice.
 * `levels` holds an address and log2 of the size for each of 31 tables, each with the harmonics of a third of an octave
 * more than the one before, and behind them where rests of steps are, or 0; `starts` the first frame of each lane, -1
 * where none sounds. Rows give MIDI key, detune (cents), width (%) and pulse width (%).
 */
export function oscillate(
  lanes: usize, count: i32, stack: i32, pulse: i32, gain: f32, levels: usize, log2Tuning: f64,
  rows: usize, rowBytes: i32, pitchAt: i32, detuneAt: i32, widthAt: i32, pulseAt: i32,
  segments: usize, segmentCount: i32, starts: usize, scratch: usize,
): void {
  const rests = <usize>load<i32>(levels, 248);
  for (let v = 0; v < LANES; v++) {
    const start = load<i32>(starts + (<usize>v << 2));
    const left = scratch + (<usize>v << 9);
    if (start < 0) {
      clearVoice(left);
      continue;
    }
    const lane = lanes + <usize>v * LANE;
    const right = left + 256;
    // Where one segment ends the next one starts.
    let knownLog2: f64 = NaN, knownInc: f64 = 0;
    const jumps = rests == 0 ? NOT : ofJumps(lane, v, start, count, stack, log2Tuning, rows, rowBytes, pitchAt, detuneAt, widthAt, pulseAt, segments, segmentCount);
    if (jumps == NOT) clearVoice(left);
    else beginSaws();
    let s = 0;
    while (s < segmentCount) {
      let at = segments + <usize>s * SEGMENT;
      if (load<i32>(at, 12) <= start) {
        s++;
        continue;
      }
      const from = max(start, load<i32>(at, 8));
      // A corner of another voice is none of this one's.
      const first = at;
      while (!(load<i32>(at, 16) & (1 << v)) && s + 1 < segmentCount) {
        s++;
        at += SEGMENT;
      }
      const row = rows + <usize>(load<i32>(first) * rowBytes + (v << 3));
      let end = rows + <usize>(load<i32>(at, 4) * rowBytes + (v << 3));
      const pitch = load<f64>(row + pitchAt);
      const detune = load<f64>(row + detuneAt);
      const width = load<f64>(row + widthAt);
      const hole = load<f64>(row + pulseAt);
      let steady = load<f64>(end + pitchAt) == pitch && load<f64>(end + detuneAt) == detune && load<f64>(end + widthAt) == width && load<f64>(end + pulseAt) == hole;
      // Segments in which nothing moves are played in one go.
      while (steady && s + 1 < segmentCount) {
        const next = rows + <usize>(load<i32>(at + SEGMENT, 4) * rowBytes + (v << 3));
        if (load<f64>(next + pitchAt) != pitch || load<f64>(next + detuneAt) != detune || load<f64>(next + widthAt) != width || load<f64>(next + pulseAt) != hole) break;
        s++;
        at += SEGMENT;
        end = next;
      }
      s++;
      const to = load<i32>(at, 12);
      // Above half the sample rate there is nothing to hear.
      const log2a = Math.min(-1.0, pitch * PER_KEY + log2Tuning);
      const log2b = Math.min(-1.0, load<f64>(end + pitchAt) * PER_KEY + log2Tuning);
      const detune1 = load<f64>(end + detuneAt);
      const width1 = load<f64>(end + widthAt);
      setRatios(lane + RATIOS, count, detune, stack);
      startGains(lane + GAINS, count, width, stack);
      let ratios1 = lane + RATIOS;
      let gains1 = lane + GAINS;
      if (detune1 != detune) {
        ratios1 = lane + RATIOS_END;
        setRatios(ratios1, count, detune1, stack);
      }
      if (gainsMove(lane + GAINS, width1, stack)) {
        gains1 = lane + GAINS_END;
        setGains(gains1, count, width1, stack);
      }
      const top = Math.max(log2a, log2b) + (count == 1 ? 0 : Math.max(detune, detune1) / 1200.0 + (intervalsOf(stack) ? 1.0 : 0.0));
      const level = <i32>Math.max(0, Math.min(30, Math.ceil(30.0 + 3.0 * (top + 1.0))));
      const table = <usize>load<i32>(levels + (<usize>level << 3));
      const bits = load<i32>(levels + (<usize>level << 3), 4);
      const inc0 = log2a == knownLog2 ? knownInc : exp2(log2a) * 4294967296.0;
      const inc1 = log2a == log2b ? inc0 : exp2(log2b) * 4294967296.0;
      knownLog2 = log2b;
      knownInc = inc1;
      if (jumps != NOT) {
        const scale = pulse ? gain * pulseScale(hole) : gain;
        const hollow = pulse ? <i32>(<i64>(hole * 42949672.96)) : 0;
        addSaws(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, scale, jumps == RAMPED, count, inc0, inc1, pulse != 0, hollow, from, to, s == segmentCount);
      } else if (pulse) {
        // The difference of two saws that are a pulse width apart.
        const hole1 = load<f64>(end + pulseAt);
        const scale0 = gain * pulseScale(hole);
        const scale1 = gain * pulseScale(hole1);
        const w0 = <i32>(<i64>(hole * 42949672.96));
        const w1 = <i32>(<i64>(hole1 * 42949672.96));
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, table, bits, w0, w1, scale0, scale1, false, left, right, from, to);
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, table, bits, 0, 0, -scale0, -scale1, true, left, right, from, to);
      } else {
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, table, bits, 0, 0, gain, gain, true, left, right, from, to);
      }
      if (detune1 != detune) keep(lane + RATIOS, lane + RATIOS_END);
      if (gains1 != lane + GAINS) keep(lane + GAINS, lane + GAINS_END);
    }
    if (jumps != NOT) pourSaws(rests, jumps == RAMPED, left, right, start);
  }
}
