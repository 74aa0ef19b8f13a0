// How a wave is bent: its phase before it is read, its value after.
import { exp2, exp2x4 } from "./common";

/** Bends: of the phase up to MIRROR, of the value from FOLD on. */
export const NONE: i32 = 0;
export const SYNC: i32 = 1;
const SQUEEZE: i32 = 2;
const PULSE: i32 = 3;
export const MIRROR: i32 = 4;
const FOLD: i32 = 5;
const QUANTISE: i32 = 6;

/** Where a bend of the value keeps its last input, what its last frame still gives, and its last value. */
const LATE: usize = 512;
const LAST: usize = 1024;
/** Brings back what a triangle of two frames takes from high tones: 1 + c - c/z, c (1 + c) = 1/6 for 1 - w^2/12. */
const LIFT: f32 = <f32>0.14549722436790282;

/** By how much a bend of 0 to 1 makes a wave run faster where it is fastest; bends of the value ask for fewer harmonics, too. */
export function haste(type: i32, amount: f64): f64 {
  if (type == SYNC) return exp2(4.0 * amount);
  if (type == PULSE) return (1.0 + 0.5 * amount) / (1.0 - 0.9 * amount);
  if (type == SQUEEZE) return Math.max(1.0, 0.5 / (0.5 * (1.0 - 0.95 * amount)));
  return type == MIRROR ? 1.0 + 4.0 * amount : type >= FOLD ? 1.0 + 1.5 * amount : 1.0;
}

/** A bend of the phase, 0 to 1 in and out, by an amount of 0 to 1. */
// @ts-ignore: decorator
@inline
export function bendPhase(type: i32, p: v128, amount: v128): v128 {
  const one = f32x4.splat(1), half = f32x4.splat(0.5);
  if (type == SYNC) {
    const x = f32x4.mul(p, exp2x4(f32x4.mul(amount, f32x4.splat(4))));
    return f32x4.sub(x, f32x4.floor(x));
  }
  if (type == SQUEEZE) {
    const d = f32x4.mul(half, f32x4.sub(one, f32x4.mul(amount, f32x4.splat(0.95))));
    const first = f32x4.div(f32x4.mul(half, p), d);
    const second = f32x4.add(half, f32x4.div(f32x4.mul(half, f32x4.sub(p, d)), f32x4.sub(one, d)));
    return v128.bitselect(first, second, f32x4.lt(p, d));
  }
  // The cycle runs in the middle of its time and stands before and after; the more it does, the softer it sets out.
  const rest = f32x4.sub(one, f32x4.mul(amount, f32x4.splat(0.9)));
  const x = f32x4.div(f32x4.sub(p, f32x4.mul(half, f32x4.sub(one, rest))), rest);
  const held = f32x4.max(f32x4.min(x, one), f32x4.splat(0));
  const soft = f32x4.mul(f32x4.mul(held, held), f32x4.sub(f32x4.splat(3), f32x4.add(held, held)));
  return f32x4.add(held, f32x4.mul(amount, f32x4.sub(soft, held)));
}

/** A value folded back where it leaves -1 to 1: a triangle of period 4. */
// @ts-ignore: decorator
@inline
function folded(x: v128): v128 {
  const quarter = f32x4.mul(f32x4.add(x, f32x4.splat(1)), f32x4.splat(0.25));
  const v = f32x4.mul(f32x4.sub(quarter, f32x4.floor(quarter)), f32x4.splat(4));
  return f32x4.sub(f32x4.splat(1), f32x4.abs(f32x4.sub(v, f32x4.splat(2))));
}

/** The integral of that triangle. */
// @ts-ignore: decorator
@inline
function foldedSum(x: v128): v128 {
  const quarter = f32x4.mul(f32x4.add(x, f32x4.splat(1)), f32x4.splat(0.25));
  const v = f32x4.mul(f32x4.sub(quarter, f32x4.floor(quarter)), f32x4.splat(4));
  const two = f32x4.splat(2);
  const late = f32x4.gt(v, two);
  const t = v128.bitselect(f32x4.sub(v, two), v, late);
  const hump = f32x4.sub(t, f32x4.mul(f32x4.mul(t, t), f32x4.splat(0.5)));
  return v128.bitselect(hump, f32x4.neg(hump), late);
}

/**
 * Values on steps of q while the input goes straight from `before` to x, weighted by a triangle over this frame and the one
 * before: each step counts by when it is passed. A mean of one frame, as a fold has it, leaves 8 dB more of what folds back of
 * a saw and 20 dB more of a sine: a step is a jump.
 */
// @ts-ignore: decorator
@inline
function stepped(x: v128, q: v128, memory: usize): v128 {
  const before = v128.load(memory);
  const half = f32x4.splat(0.5), one = f32x4.splat(1);
  const from = f32x4.add(f32x4.div(before, q), half), to = f32x4.add(f32x4.div(x, q), half);
  const first = f32x4.floor(from);
  const way = f32x4.sub(to, from), steps = f32x4.sub(f32x4.floor(to), first);
  const up = f32x4.gt(way, f32x4.splat(0));
  const k = f32x4.abs(steps), less = f32x4.sub(k, one);
  /** Up to the first step, and from each to the next, as shares of the frame. */
  const per = f32x4.div(one, f32x4.max(f32x4.abs(way), f32x4.splat(<f32>1e-9)));
  const at = f32x4.mul(per, v128.bitselect(f32x4.sub(f32x4.add(first, one), from), f32x4.sub(from, first), up));
  const pairs = f32x4.mul(k, less);
  /** Sums of the times at which steps are passed, and of their squares. */
  const times = f32x4.add(f32x4.mul(k, at), f32x4.mul(f32x4.mul(half, pairs), per));
  const third = f32x4.mul(f32x4.splat(<f32>(1.0 / 6)), f32x4.sub(f32x4.add(k, k), one));
  const squares = f32x4.add(f32x4.mul(f32x4.mul(k, at), at), f32x4.mul(f32x4.mul(pairs, per), f32x4.add(at, f32x4.mul(third, per))));
  const height = v128.bitselect(q, f32x4.neg(q), up);
  const start = f32x4.mul(q, first);
  const mean = f32x4.add(start, f32x4.mul(height, f32x4.sub(k, times)));
  const rising = f32x4.mul(half, f32x4.add(start, f32x4.mul(height, f32x4.sub(k, squares))));
  const y = f32x4.add(v128.load(memory, LATE), f32x4.sub(mean, rising));
  const lifted = f32x4.add(y, f32x4.mul(f32x4.splat(LIFT), f32x4.sub(y, v128.load(memory, LAST))));
  v128.store(memory, x);
  v128.store(memory, rising, LATE);
  v128.store(memory, y, LAST);
  return lifted;
}

/**
 * A bend of the value by an amount of 0 to 1. A fold is its mean between the last input and this one by its integral (J. Parker,
 * V. Zavalishin, E. Le Bivic, "Reducing the aliasing of nonlinear waveshaping using continuous-time convolution", 2016).
 */
// @ts-ignore: decorator
@inline
export function bendValue(type: i32, x: v128, amount: v128, memory: usize): v128 {
  if (type < FOLD) return x;
  const half = f32x4.splat(0.5);
  if (type == FOLD) {
    const z = f32x4.mul(x, f32x4.add(f32x4.splat(1), f32x4.mul(amount, f32x4.splat(7))));
    const before = v128.load(memory);
    v128.store(memory, z);
    const way = f32x4.sub(z, before);
    const near = f32x4.lt(f32x4.abs(way), f32x4.splat(<f32>0.02));
    const mean = f32x4.div(f32x4.sub(foldedSum(z), foldedSum(before)), way);
    return v128.bitselect(folded(f32x4.mul(half, f32x4.add(z, before))), mean, near);
  }
  const q = f32x4.max(f32x4.mul(amount, amount), f32x4.splat(<f32>1e-4));
  const bent = stepped(x, q, memory);
  return v128.bitselect(x, bent, f32x4.eq(amount, f32x4.splat(0)));
}
