// AssemblyScript, compiled to WebAssembly with SIMD by scripts/buildKernels.mjs. Each kernel does the same operations in
// the same order as its TypeScript twin (oscillator.ts, filter.ts), so that both give the same samples to the last bit.
// Addresses are bytes in the module's memory; arrays hold float64.

const SHIFT: i32 = 21;
const FRACTION: i32 = 0x1fffff;
const SCALE: f64 = 1.0 / 2097152.0;

// @ts-ignore: decorator
@inline
function sample(table: usize, offset: i32): v128 {
  return v128.load(table + <usize>offset);
}

/** Twin of addStack: pairs of oscillators, two frames at a time. */
export function addStack(
  table: usize, bases: usize, phases: usize, increments: usize, gainsL: usize, gainsR: usize,
  count: i32, left: usize, right: usize, from: i32, to: i32,
): void {
  const mask = i32x4.splat(FRACTION);
  const scale = f64x2.splat(SCALE);
  for (let u: i32 = 0; u + 1 < count; u += 2) {
    const at = <usize>u << 3;
    const p1 = <i32>load<f64>(phases + at);
    const p2 = <i32>load<f64>(phases + at + 8);
    const i1 = <i32>load<f64>(increments + at);
    const i2 = <i32>load<f64>(increments + at + 8);
    const b1 = <i32>load<f64>(bases + at);
    const b2 = <i32>load<f64>(bases + at + 8);
    const l1 = f64x2.splat(load<f64>(gainsL + at));
    const l2 = f64x2.splat(load<f64>(gainsL + at + 8));
    const r1 = f64x2.splat(load<f64>(gainsR + at));
    const r2 = f64x2.splat(load<f64>(gainsR + at + 8));
    const base = i32x4.replace_lane(i32x4.replace_lane(i32x4.splat(b1), 2, b2), 3, b2);
    const step = i32x4.replace_lane(i32x4.replace_lane(i32x4.splat(i1 << 1), 2, i2 << 1), 3, i2 << 1);
    // Phases of the first oscillator at this frame and the next, then of the second.
    let p = i32x4.replace_lane(i32x4.replace_lane(i32x4.replace_lane(i32x4.splat(p1), 1, p1 + i1), 2, p2), 3, p2 + i2);
    let i = from;
    for (; i + 1 < to; i += 2) {
      const offsets = i32x4.shl(i32x4.add(base, i32x4.shr_u(p, SHIFT)), 3);
      const w = sample(table, i32x4.extract_lane(offsets, 0));
      const x = sample(table, i32x4.extract_lane(offsets, 1));
      const y = sample(table, i32x4.extract_lane(offsets, 2));
      const z = sample(table, i32x4.extract_lane(offsets, 3));
      const a1 = v128.shuffle<f64>(w, x, 0, 2);
      const a2 = v128.shuffle<f64>(y, z, 0, 2);
      const fraction = v128.and(p, mask);
      const f1 = f64x2.mul(f64x2.convert_low_i32x4_s(fraction), scale);
      const f2 = f64x2.mul(f64x2.convert_low_i32x4_s(v128.shuffle<i32>(fraction, fraction, 2, 3, 2, 3)), scale);
      const y1 = f64x2.add(a1, f64x2.mul(f64x2.sub(v128.shuffle<f64>(w, x, 1, 3), a1), f1));
      const y2 = f64x2.add(a2, f64x2.mul(f64x2.sub(v128.shuffle<f64>(y, z, 1, 3), a2), f2));
      const o = <usize>i << 3;
      v128.store(left + o, f64x2.add(v128.load(left + o), f64x2.add(f64x2.mul(y1, l1), f64x2.mul(y2, l2))));
      v128.store(right + o, f64x2.add(v128.load(right + o), f64x2.add(f64x2.mul(y1, r1), f64x2.mul(y2, r2))));
      p = i32x4.add(p, step);
    }
    let q1 = i32x4.extract_lane(p, 0);
    let q2 = i32x4.extract_lane(p, 2);
    if (i < to) {
      const y1 = single(table, b1, q1);
      const y2 = single(table, b2, q2);
      const o = <usize>i << 3;
      store<f64>(left + o, load<f64>(left + o) + (y1 * f64x2.extract_lane(l1, 0) + y2 * f64x2.extract_lane(l2, 0)));
      store<f64>(right + o, load<f64>(right + o) + (y1 * f64x2.extract_lane(r1, 0) + y2 * f64x2.extract_lane(r2, 0)));
      q1 += i1;
      q2 += i2;
    }
    store<f64>(phases + at, <f64>q1);
    store<f64>(phases + at + 8, <f64>q2);
  }
}

// @ts-ignore: decorator
@inline
function single(table: usize, base: i32, p: i32): f64 {
  const at = table + (<usize>(base + (p >>> SHIFT)) << 3);
  const a = load<f64>(at);
  return a + (load<f64>(at + 8) - a) * (<f64>(p & FRACTION) * SCALE);
}

/** Twin of addMix: two frames at a time. */
export function addMix(left: usize, right: usize, mixL: usize, mixR: usize, gainL: f64, gainR: f64, stepL: f64, stepR: f64, from: i32, to: i32): void {
  const gl = f64x2.splat(gainL), gr = f64x2.splat(gainR), dl = f64x2.splat(stepL), dr = f64x2.splat(stepR);
  let k = f64x2.replace_lane(f64x2.splat(1.0), 1, 2.0);
  const two = f64x2.splat(2.0);
  let i = from;
  for (; i + 1 < to; i += 2) {
    const o = <usize>i << 3;
    v128.store(mixL + o, f64x2.add(v128.load(mixL + o), f64x2.mul(v128.load(left + o), f64x2.add(gl, f64x2.mul(dl, k)))));
    v128.store(mixR + o, f64x2.add(v128.load(mixR + o), f64x2.mul(v128.load(right + o), f64x2.add(gr, f64x2.mul(dr, k)))));
    k = f64x2.add(k, two);
  }
  if (i < to) {
    const o = <usize>i << 3;
    const n = f64x2.extract_lane(k, 0);
    store<f64>(mixL + o, load<f64>(mixL + o) + load<f64>(left + o) * (gainL + stepL * n));
    store<f64>(mixR + o, load<f64>(mixR + o) + load<f64>(right + o) * (gainR + stepR * n));
  }
}

/** Twin of lowpass24: left and right in one vector. State rows are l1 l2 r1 r2 l3 l4 r3 r4, coefficients as in filter.ts. */
export function lowpass24(state: usize, a: usize, b: usize, left: usize, right: usize, from: i32, to: i32): void {
  const per = 1.0 / <f64>(to - from);
  const a1 = load<f64>(a), a2 = load<f64>(a + 8), a3 = load<f64>(a + 16);
  const b1 = load<f64>(a + 24), b2 = load<f64>(a + 32), b3 = load<f64>(a + 40);
  const d1 = f64x2.splat((load<f64>(b) - a1) * per), d2 = f64x2.splat((load<f64>(b + 8) - a2) * per);
  const d3 = f64x2.splat((load<f64>(b + 16) - a3) * per), e1 = f64x2.splat((load<f64>(b + 24) - b1) * per);
  const e2 = f64x2.splat((load<f64>(b + 32) - b2) * per), e3 = f64x2.splat((load<f64>(b + 40) - b3) * per);
  let va1 = f64x2.splat(a1), va2 = f64x2.splat(a2), va3 = f64x2.splat(a3);
  let vb1 = f64x2.splat(b1), vb2 = f64x2.splat(b2), vb3 = f64x2.splat(b3);
  let s1 = pair(state, 0, 16), s2 = pair(state, 8, 24), s3 = pair(state, 32, 48), s4 = pair(state, 40, 56);
  let v1: v128, v2: v128, v3: v128, y: v128;
  let i = from;
  for (; i + 1 < to; i += 2) {
    const o = <usize>i << 3;
    const l = v128.load(left + o);
    const r = v128.load(right + o);
    // One frame; written out each time, as the compiler inlines nothing that sets several values.
    va1 = f64x2.add(va1, d1); va2 = f64x2.add(va2, d2); va3 = f64x2.add(va3, d3);
    vb1 = f64x2.add(vb1, e1); vb2 = f64x2.add(vb2, e2); vb3 = f64x2.add(vb3, e3);
    v3 = f64x2.sub(v128.shuffle<f64>(l, r, 0, 2), s4);
    v1 = f64x2.add(f64x2.mul(vb1, s3), f64x2.mul(vb2, v3));
    v2 = f64x2.add(f64x2.add(s4, f64x2.mul(vb2, s3)), f64x2.mul(vb3, v3));
    s3 = f64x2.sub(f64x2.add(v1, v1), s3); s4 = f64x2.sub(f64x2.add(v2, v2), s4);
    v3 = f64x2.sub(v2, s2);
    v1 = f64x2.add(f64x2.mul(va1, s1), f64x2.mul(va2, v3));
    v2 = f64x2.add(f64x2.add(s2, f64x2.mul(va2, s1)), f64x2.mul(va3, v3));
    s1 = f64x2.sub(f64x2.add(v1, v1), s1); s2 = f64x2.sub(f64x2.add(v2, v2), s2);
    y = v2;
    // One frame; written out each time, as the compiler inlines nothing that sets several values.
    va1 = f64x2.add(va1, d1); va2 = f64x2.add(va2, d2); va3 = f64x2.add(va3, d3);
    vb1 = f64x2.add(vb1, e1); vb2 = f64x2.add(vb2, e2); vb3 = f64x2.add(vb3, e3);
    v3 = f64x2.sub(v128.shuffle<f64>(l, r, 1, 3), s4);
    v1 = f64x2.add(f64x2.mul(vb1, s3), f64x2.mul(vb2, v3));
    v2 = f64x2.add(f64x2.add(s4, f64x2.mul(vb2, s3)), f64x2.mul(vb3, v3));
    s3 = f64x2.sub(f64x2.add(v1, v1), s3); s4 = f64x2.sub(f64x2.add(v2, v2), s4);
    v3 = f64x2.sub(v2, s2);
    v1 = f64x2.add(f64x2.mul(va1, s1), f64x2.mul(va2, v3));
    v2 = f64x2.add(f64x2.add(s2, f64x2.mul(va2, s1)), f64x2.mul(va3, v3));
    s1 = f64x2.sub(f64x2.add(v1, v1), s1); s2 = f64x2.sub(f64x2.add(v2, v2), s2);
    v128.store(left + o, v128.shuffle<f64>(y, v2, 0, 2));
    v128.store(right + o, v128.shuffle<f64>(y, v2, 1, 3));
  }
  if (i < to) {
    const o = <usize>i << 3;
    // One frame; written out each time, as the compiler inlines nothing that sets several values.
    va1 = f64x2.add(va1, d1); va2 = f64x2.add(va2, d2); va3 = f64x2.add(va3, d3);
    vb1 = f64x2.add(vb1, e1); vb2 = f64x2.add(vb2, e2); vb3 = f64x2.add(vb3, e3);
    v3 = f64x2.sub(f64x2.replace_lane(f64x2.splat(load<f64>(left + o)), 1, load<f64>(right + o)), s4);
    v1 = f64x2.add(f64x2.mul(vb1, s3), f64x2.mul(vb2, v3));
    v2 = f64x2.add(f64x2.add(s4, f64x2.mul(vb2, s3)), f64x2.mul(vb3, v3));
    s3 = f64x2.sub(f64x2.add(v1, v1), s3); s4 = f64x2.sub(f64x2.add(v2, v2), s4);
    v3 = f64x2.sub(v2, s2);
    v1 = f64x2.add(f64x2.mul(va1, s1), f64x2.mul(va2, v3));
    v2 = f64x2.add(f64x2.add(s2, f64x2.mul(va2, s1)), f64x2.mul(va3, v3));
    s1 = f64x2.sub(f64x2.add(v1, v1), s1); s2 = f64x2.sub(f64x2.add(v2, v2), s2);
    store<f64>(left + o, f64x2.extract_lane(v2, 0));
    store<f64>(right + o, f64x2.extract_lane(v2, 1));
  }
  put(state, 0, 16, s1);
  put(state, 8, 24, s2);
  put(state, 32, 48, s3);
  put(state, 40, 56, s4);
}

// @ts-ignore: decorator
@inline
function pair(state: usize, l: usize, r: usize): v128 {
  return f64x2.replace_lane(f64x2.splat(load<f64>(state + l)), 1, load<f64>(state + r));
}

// @ts-ignore: decorator
@inline
function put(state: usize, l: usize, r: usize, v: v128): void {
  store<f64>(state + l, f64x2.extract_lane(v, 0));
  store<f64>(state + r, f64x2.extract_lane(v, 1));
}
