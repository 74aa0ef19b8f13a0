// Twice the sample rate and back: two chains of all-passes whose sum halves the band (R. A. Valenzuela and A. G.
// Constantinides, "Digital signal processing schemes for efficient interpolation and decimation", 1983), with the
// coefficients of an elliptic design: at 96 kHz 20 kHz pass and everything from 28 kHz on is 96 dB down. One direction of one
// side takes 128 bytes of memory, between twice and four times the rate 80.

// @ts-ignore: decorator
@inline
function chain(at: usize, a: f32, b: f32, c: f32, x: v128): v128 {
  const m1 = v128.load(at, 16), m2 = v128.load(at, 32);
  const y = f32x4.add(f32x4.mul(f32x4.splat(a), f32x4.sub(x, m1)), v128.load(at));
  const z = f32x4.add(f32x4.mul(f32x4.splat(b), f32x4.sub(y, m2)), m1);
  const w = f32x4.add(f32x4.mul(f32x4.splat(c), f32x4.sub(z, v128.load(at, 48))), m2);
  v128.store(at, x);
  v128.store(at, y, 16);
  v128.store(at, z, 32);
  v128.store(at, w, 48);
  return w;
}

/** The first and the second half of a sample. */
// @ts-ignore: decorator
@inline
export function upFirst(at: usize, x: v128): v128 {
  return chain(at, <f32>0.044181909, <f32>0.330744162, <f32>0.702052852, x);
}

// @ts-ignore: decorator
@inline
export function upSecond(at: usize, x: v128): v128 {
  return chain(at + 64, <f32>0.16418886, <f32>0.515086943, <f32>0.894889642, x);
}

/** One sample of two halves. */
// @ts-ignore: decorator
@inline
export function down(at: usize, first: v128, second: v128): v128 {
  return f32x4.mul(f32x4.splat(0.5), f32x4.add(upFirst(at, second), upSecond(at, first)));
}

// @ts-ignore: decorator
@inline
function wideEven(at: usize, x: v128): v128 {
  const m1 = v128.load(at, 16);
  const y = f32x4.add(f32x4.mul(f32x4.splat(0.070224059), f32x4.sub(x, m1)), v128.load(at));
  const z = f32x4.add(f32x4.mul(f32x4.splat(0.684541359), f32x4.sub(y, v128.load(at, 32))), m1);
  v128.store(at, x);
  v128.store(at, y, 16);
  v128.store(at, z, 32);
  return z;
}

// @ts-ignore: decorator
@inline
function wideOdd(at: usize, x: v128): v128 {
  const w = f32x4.add(f32x4.mul(f32x4.splat(0.28508628), f32x4.sub(x, v128.load(at, 64))), v128.load(at, 48));
  v128.store(at, x, 48);
  v128.store(at, w, 64);
  return w;
}

/** The halves of a sample at twice the rate: four times the rate, 89 dB down where it would fall onto what is heard. */
// @ts-ignore: decorator
@inline
export function upWideFirst(at: usize, x: v128): v128 {
  return wideEven(at, x);
}

// @ts-ignore: decorator
@inline
export function upWideSecond(at: usize, x: v128): v128 {
  return wideOdd(at, x);
}

/** One sample at twice the rate of two at four times. */
// @ts-ignore: decorator
@inline
export function downWide(at: usize, first: v128, second: v128): v128 {
  return f32x4.mul(f32x4.splat(0.5), f32x4.add(wideEven(at, second), wideOdd(at, first)));
}
