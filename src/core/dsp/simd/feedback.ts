import { SEGMENT, SIDE, lanesOf } from "./common";

// What goes from behind the amp back into the filters, of a group of four voices: 64 frames later, a stretch, free of what
// does not move, and bent so that it stays below full scale whatever its gain.
//
// Memory: where the ring is written, 16 bytes; what went in and came out of the high-pass last, left and right; the rings of
// both sides, 128 frames of four lanes each.

const STATE: usize = 16;
const RING: usize = STATE + 64;
const RING_SIDE: usize = 128 * 16;
export const FEEDBACK_GROUP: usize = RING + 2 * RING_SIDE;

/** Adds what came back to a bus. */
export function feedbackIn(memory: usize, segments: usize, segmentCount: i32, bus: usize): void {
  const frames = load<i32>(segments + <usize>(segmentCount - 1) * SEGMENT, 12);
  const at = load<i32>(memory);
  for (let i = 0; i < frames; i++) {
    const r = memory + RING + (<usize>((at + i + 64) & 127) << 4);
    const o = bus + (<usize>i << 4);
    v128.store(o, f32x4.add(v128.load(o), v128.load(r)));
    v128.store(o, f32x4.add(v128.load(o, SIDE), v128.load(r + RING_SIDE)), SIDE);
  }
}

/** Takes a bus at the gain of the amp and that of the feedback; `keep` is the pole of the high-pass. */
export function feedbackOut(
  memory: usize, keep: f32, rows: usize, rowBytes: i32, gainAt: i32, backAt: i32, segments: usize, segmentCount: i32, bus: usize,
): void {
  const at = load<i32>(memory);
  const k = f32x4.splat(keep);
  const one = f32x4.splat(1.0);
  const tiny = f32x4.splat(1e-15);
  let frames = 0;
  for (let side: usize = 0; side < 2; side++) {
    const state = memory + STATE + (side << 5);
    let x1 = v128.load(state), y1 = v128.load(state, 16);
    for (let s = 0; s < segmentCount; s++) {
      const segment = segments + <usize>s * SEGMENT;
      const from = load<i32>(segment, 8), to = load<i32>(segment, 12);
      const row = rows + <usize>(load<i32>(segment) * rowBytes);
      const end = rows + <usize>(load<i32>(segment, 4) * rowBytes);
      let g = f32x4.mul(lanesOf(row + gainAt), lanesOf(row + backAt));
      const g1 = f32x4.mul(lanesOf(end + gainAt), lanesOf(end + backAt));
      const dg = f32x4.mul(f32x4.sub(g1, g), f32x4.splat(<f32>1.0 / <f32>(to - from)));
      for (let i = from; i < to; i++) {
        g = f32x4.add(g, dg);
        const x = f32x4.mul(g, v128.load(bus + side * SIDE + (<usize>i << 4)));
        y1 = f32x4.add(f32x4.sub(x, x1), f32x4.mul(k, y1));
        x1 = x;
        // x / sqrt(1 + x^2): straight where it is low, never above 1.
        const bent = f32x4.div(y1, f32x4.sqrt(f32x4.add(one, f32x4.mul(y1, y1))));
        v128.store(memory + RING + side * RING_SIDE + (<usize>((at + i) & 127) << 4), bent);
      }
      frames = to;
    }
    y1 = v128.and(y1, f32x4.gt(f32x4.abs(y1), tiny));
    v128.store(state, x1);
    v128.store(state, y1, 16);
  }
  store<i32>(memory, (at + frames) & 127);
}

/** Forgets what came back of a lane. */
export function clearFeedbackLane(memory: usize, lane: i32): void {
  for (let o: usize = STATE; o < RING + 2 * RING_SIDE; o += 16) store<f32>(memory + o + (<usize>lane << 2), 0);
}
