// What stands around a filter: drive before it, and its blend with the sound that came in.
import { SEGMENT, SIDE, exp2x4, flush, lanesOf, tanh4, valueAt } from "./common";
import { down, downWide, upFirst, upSecond, upWideFirst, upWideSecond } from "./halfband";

/** A side's memory for `saturate`: up twice, down twice, and the last input of the curve with its integral's small part. */
const SATURATE_SIDE: usize = 448;
export const SATURATE_GROUP: usize = 2 * SATURATE_SIDE;

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
