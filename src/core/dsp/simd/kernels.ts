// AssemblyScript, compiled to WebAssembly with SIMD by scripts/buildKernels.mjs. Each kernel does the same operations in
// the same order as its TypeScript twin (oscillator.ts, filter.ts), so that both give the same samples to the last bit.
// Addresses are bytes in the module's memory; arrays hold float64.

const SHIFT: i32 = 21;
const FRACTION: i32 = 0x1fffff;
const SCALE: f64 = 1.0 / 2097152.0;

// @ts-ignore: decorator
@inline
function interpolated(table: usize, base: i32, p: i32, q: i32): v128 {
  // Two neighbouring samples of the table for each of two phases, turned into two values and two followers.
  const x = v128.load(table + (<usize>(base + (p >>> SHIFT)) << 3));
  const y = v128.load(table + (<usize>(base + (q >>> SHIFT)) << 3));
  const a = v128.shuffle<f64>(x, y, 0, 2);
  const b = v128.shuffle<f64>(x, y, 1, 3);
  const f = f64x2.replace_lane(f64x2.splat(<f64>(p & FRACTION) * SCALE), 1, <f64>(q & FRACTION) * SCALE);
  return f64x2.add(a, f64x2.mul(f64x2.sub(b, a), f));
}

/** Twin of addStack: pairs of oscillators, two frames at a time. */
export function addStack(
  table: usize, bases: usize, phases: usize, increments: usize, gainsL: usize, gainsR: usize,
  count: i32, left: usize, right: usize, from: i32, to: i32,
): void {
  for (let u: i32 = 0; u + 1 < count; u += 2) {
    const at = <usize>u << 3;
    let p1 = <i32>load<f64>(phases + at);
    let p2 = <i32>load<f64>(phases + at + 8);
    const i1 = <i32>load<f64>(increments + at);
    const i2 = <i32>load<f64>(increments + at + 8);
    const b1 = <i32>load<f64>(bases + at);
    const b2 = <i32>load<f64>(bases + at + 8);
    const l1 = f64x2.splat(load<f64>(gainsL + at));
    const l2 = f64x2.splat(load<f64>(gainsL + at + 8));
    const r1 = f64x2.splat(load<f64>(gainsR + at));
    const r2 = f64x2.splat(load<f64>(gainsR + at + 8));
    let i = from;
    for (; i + 1 < to; i += 2) {
      const y1 = interpolated(table, b1, p1, p1 + i1);
      const y2 = interpolated(table, b2, p2, p2 + i2);
      const o = <usize>i << 3;
      v128.store(left + o, f64x2.add(v128.load(left + o), f64x2.add(f64x2.mul(y1, l1), f64x2.mul(y2, l2))));
      v128.store(right + o, f64x2.add(v128.load(right + o), f64x2.add(f64x2.mul(y1, r1), f64x2.mul(y2, r2))));
      p1 += i1 << 1;
      p2 += i2 << 1;
    }
    if (i < to) {
      const y1 = f64x2.extract_lane(interpolated(table, b1, p1, p1), 0);
      const y2 = f64x2.extract_lane(interpolated(table, b2, p2, p2), 0);
      const o = <usize>i << 3;
      store<f64>(left + o, load<f64>(left + o) + (y1 * f64x2.extract_lane(l1, 0) + y2 * f64x2.extract_lane(l2, 0)));
      store<f64>(right + o, load<f64>(right + o) + (y1 * f64x2.extract_lane(r1, 0) + y2 * f64x2.extract_lane(r2, 0)));
      p1 += i1;
      p2 += i2;
    }
    store<f64>(phases + at, <f64>p1);
    store<f64>(phases + at + 8, <f64>p2);
  }
}

/** Twin of lowpass24: left and right in one vector. State rows are l1 l2 r1 r2 l3 l4 r3 r4, coefficients as in filter.ts. */
export function lowpass24(state: usize, a: usize, b: usize, left: usize, right: usize, from: i32, to: i32): void {
  const per = 1.0 / <f64>(to - from);
  let a1 = load<f64>(a), a2 = load<f64>(a + 8), a3 = load<f64>(a + 16);
  let b1 = load<f64>(a + 24), b2 = load<f64>(a + 32), b3 = load<f64>(a + 40);
  const d1 = (load<f64>(b) - a1) * per, d2 = (load<f64>(b + 8) - a2) * per, d3 = (load<f64>(b + 16) - a3) * per;
  const e1 = (load<f64>(b + 24) - b1) * per, e2 = (load<f64>(b + 32) - b2) * per, e3 = (load<f64>(b + 40) - b3) * per;
  let s1 = pair(state, 0, 16), s2 = pair(state, 8, 24), s3 = pair(state, 32, 48), s4 = pair(state, 40, 56);
  const two = f64x2.splat(2.0);
  for (let i = from; i < to; i++) {
    a1 += d1;
    a2 += d2;
    a3 += d3;
    b1 += e1;
    b2 += e2;
    b3 += e3;
    const o = <usize>i << 3;
    let v3 = f64x2.sub(f64x2.replace_lane(f64x2.splat(load<f64>(left + o)), 1, load<f64>(right + o)), s4);
    let v1 = f64x2.add(f64x2.mul(f64x2.splat(b1), s3), f64x2.mul(f64x2.splat(b2), v3));
    let v2 = f64x2.add(f64x2.add(s4, f64x2.mul(f64x2.splat(b2), s3)), f64x2.mul(f64x2.splat(b3), v3));
    s3 = f64x2.sub(f64x2.mul(two, v1), s3);
    s4 = f64x2.sub(f64x2.mul(two, v2), s4);
    v3 = f64x2.sub(v2, s2);
    v1 = f64x2.add(f64x2.mul(f64x2.splat(a1), s1), f64x2.mul(f64x2.splat(a2), v3));
    v2 = f64x2.add(f64x2.add(s2, f64x2.mul(f64x2.splat(a2), s1)), f64x2.mul(f64x2.splat(a3), v3));
    s1 = f64x2.sub(f64x2.mul(two, v1), s1);
    s2 = f64x2.sub(f64x2.mul(two, v2), s2);
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
