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

/** Values on steps of q, and the part of their integral that is not x^2 / 2. */
// @ts-ignore: decorator
@inline
function stepped(x: v128, q: v128): v128 {
  return f32x4.mul(q, f32x4.floor(f32x4.add(f32x4.div(x, q), f32x4.splat(0.5))));
}

// @ts-ignore: decorator
@inline
function steppedSum(x: v128, q: v128): v128 {
  const u = f32x4.add(f32x4.div(x, q), f32x4.splat(0.5));
  const f = f32x4.sub(u, f32x4.floor(u));
  return f32x4.mul(f32x4.mul(f32x4.splat(0.5), f32x4.mul(q, q)), f32x4.mul(f, f32x4.sub(f32x4.splat(1), f)));
}

/**
 * A bend of the value by an amount of 0 to 1, as its mean between the last input and this one by its integral (J. Parker,
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
  const before = v128.load(memory);
  v128.store(memory, x);
  const way = f32x4.sub(x, before), middle = f32x4.mul(half, f32x4.add(x, before));
  const near = f32x4.lt(f32x4.abs(way), f32x4.mul(q, f32x4.splat(<f32>2e-4)));
  const mean = f32x4.add(middle, f32x4.div(f32x4.sub(steppedSum(x, q), steppedSum(before, q)), way));
  const bent = v128.bitselect(stepped(middle, q), mean, near);
  return v128.bitselect(x, bent, f32x4.eq(amount, f32x4.splat(0)));
}
