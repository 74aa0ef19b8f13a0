import { SEGMENT, SIDE, exp2x4, valueAt } from "./common";

/** A comb's memory: frames that each lane has run, and where the ring is written; then the ring, both sides of each frame. */
export const RING: usize = 32;
/** Bytes of a frame of the ring: four lanes a side. */
export const FRAME: usize = 32;

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
