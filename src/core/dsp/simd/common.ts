// What the kernels share: how rows, segments and buses lie in the heap, and elementary functions.

export const LANES: i32 = 4;
/** Bytes of one side of a bus: 64 frames of four lanes. */
export const SIDE: usize = 1024;
/**
 * Bytes of a segment: the rows at its start and end, its first frame and the one after its last; then a bit for each lane
 * that has a corner at its end (all at the end of a sub-block), the next row at which all lanes end, and its frame.
 */
export const SEGMENT: usize = 32;

/** 2^x by the series of portableMath.ts, summed in pairs: fewer of its steps wait for each other. */
export function exp2(x: f64): f64 {
  const whole = Math.floor(x + 0.5);
  if (whole < -1022) return 0;
  const f = x - whole;
  const f2 = f * f;
  const f4 = f2 * f2;
  const a = 0.6931471805599453 + 0.24022650695910072 * f + (0.05550410866482158 + 0.009618129107628477 * f) * f2;
  const b = 0.0013333558146428443 + 0.0001540353039338161 * f + (1.5252733804059841e-5 + 1.321548679014431e-6 * f) * f2;
  const c = 1.01780860092397e-7 + 7.054911620801123e-9 * f + 4.4455382718708116e-10 * f2;
  return reinterpret<f64>((<i64>whole + 1023) << 52) * ((a + b * f4 + c * (f4 * f4)) * f + 1);
}

/** 2^x of four lanes; relative error below 3e-7. */
// @ts-ignore: decorator
@inline
export function exp2x4(x: v128): v128 {
  const whole = f32x4.nearest(x);
  const f = f32x4.sub(x, whole);
  let e = f32x4.splat(0.00015403530393);
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(0.00133335581464));
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(0.00961812910763));
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(0.05550410866482));
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(0.24022650695910));
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(0.69314718055995));
  e = f32x4.add(f32x4.mul(e, f), f32x4.splat(1.0));
  const power = i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(whole), i32x4.splat(127)), 23);
  return f32x4.mul(e, power);
}

/** Four float64 of a row as float32 lanes. */
// @ts-ignore: decorator
@inline
export function lanesOf(at: usize): v128 {
  return v128.shuffle<f32>(f32x4.demote_f64x2_zero(v128.load(at)), f32x4.demote_f64x2_zero(v128.load(at, 16)), 0, 1, 4, 5);
}

/** Sine of a pan of -100 to 100 %, which is -45° to 45°, by its series. */
// @ts-ignore: decorator
@inline
export function panSine(pan: v128): v128 {
  const x = f32x4.mul(pan, f32x4.splat(<f32>0.007853981633974483));
  const q = f32x4.mul(x, x);
  let s = f32x4.splat(2.7557319e-6);
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(-0.00019841270));
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(0.0083333333));
  s = f32x4.add(f32x4.mul(s, q), f32x4.splat(-0.16666667));
  return f32x4.mul(f32x4.add(f32x4.mul(s, q), f32x4.splat(1.0)), x);
}

// @ts-ignore: decorator
@inline
export function panCosine(pan: v128): v128 {
  const x = f32x4.mul(pan, f32x4.splat(<f32>0.007853981633974483));
  const q = f32x4.mul(x, x);
  let c = f32x4.splat(2.4801587e-5);
  c = f32x4.add(f32x4.mul(c, q), f32x4.splat(-0.0013888889));
  c = f32x4.add(f32x4.mul(c, q), f32x4.splat(0.041666667));
  c = f32x4.add(f32x4.mul(c, q), f32x4.splat(-0.5));
  return f32x4.add(f32x4.mul(c, q), f32x4.splat(1.0));
}

/** tanh of four lanes by its continued fraction, cut off where it is 1: within 1e-4. */
// @ts-ignore: decorator
@inline
export function tanh4(input: v128): v128 {
  const limit = f32x4.splat(4.9);
  const x = f32x4.max(f32x4.min(input, limit), f32x4.neg(limit));
  const q = f32x4.mul(x, x);
  let n = f32x4.add(q, f32x4.splat(378));
  n = f32x4.add(f32x4.mul(n, q), f32x4.splat(17325));
  n = f32x4.add(f32x4.mul(n, q), f32x4.splat(135135));
  let d = f32x4.add(f32x4.mul(q, f32x4.splat(28)), f32x4.splat(3150));
  d = f32x4.add(f32x4.mul(d, q), f32x4.splat(62370));
  d = f32x4.add(f32x4.mul(d, q), f32x4.splat(135135));
  return f32x4.max(f32x4.min(f32x4.div(f32x4.mul(x, n), d), f32x4.splat(1)), f32x4.splat(-1));
}

// @ts-ignore: decorator
@inline
export function flush(at: usize): void {
  const x = v128.load(at);
  // Below this a state is silence; denormals run many times slower.
  v128.store(at, v128.and(x, f32x4.gt(f32x4.abs(x), f32x4.splat(<f32>1e-15))));
}

/** A value of a row; `given` where `at` is -1. */
// @ts-ignore: decorator
@inline
export function valueAt(row: usize, at: i32, given: f32): v128 {
  return at < 0 ? f32x4.splat(given) : lanesOf(row + at);
}
