// Stacks of an oscillator: how far their voices lie apart, and how loud each is on either side.

import { exp2 } from "./common";

/** Bytes of a lane's memory: phases i32 x 16; ratios f64 x 16 and their detune; gains f32 x 16 a side and their width. */
export const LANE: usize = 64 + 2 * (128 + 8) + 2 * (128 + 8);
export const RATIOS: usize = 64;
export const RATIOS_END: usize = 64 + 136;
export const GAINS: usize = 64 + 272;
export const GAINS_END: usize = 64 + 272 + 136;

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

/** Copies ratios or gains with what they are of: so few bytes that a call of the runtime would take longer. */
// @ts-ignore: decorator
@inline
export function keep(to: usize, from: usize): void {
  for (let i: usize = 0; i < 128; i += 16) v128.store(to + i, v128.load(from + i));
  store<f64>(to, load<f64>(from, 128), 128);
}
