// The true peaks of a stretch of sound: what lies on samples, and at three points between each two (src/core/dsp/limiter.ts).

const TAPS: i32 = 16;
/** The sample in the middle of the filters. */
const MIDDLE: usize = 7 << 2;

/**
 * Writes the highest of both sides around each of `count` frames to `tops`, four at a time: the room of each side and of
 * `tops` ends at a multiple of four frames. A side begins with the 15 frames before; `between` holds three filters of 16 taps.
 */
export function truePeaks(left: usize, right: usize, between: usize, count: i32, tops: usize): void {
  for (let i = 0; i < count; i += 4) {
    const l = left + (<usize>i << 2), r = right + (<usize>i << 2);
    let a1 = f32x4.splat(0), a2 = a1, a3 = a1, b1 = a1, b2 = a1, b3 = a1;
    for (let t = 0; t < TAPS; t++) {
      const o = <usize>t << 2;
      const x = v128.load(l + o), y = v128.load(r + o);
      const c1 = v128.load32_splat(between + o), c2 = v128.load32_splat(between + o, 64), c3 = v128.load32_splat(between + o, 128);
      a1 = f32x4.add(a1, f32x4.mul(x, c1)); b1 = f32x4.add(b1, f32x4.mul(y, c1));
      a2 = f32x4.add(a2, f32x4.mul(x, c2)); b2 = f32x4.add(b2, f32x4.mul(y, c2));
      a3 = f32x4.add(a3, f32x4.mul(x, c3)); b3 = f32x4.add(b3, f32x4.mul(y, c3));
    }
    let top = f32x4.max(f32x4.abs(v128.load(l + MIDDLE)), f32x4.abs(v128.load(r + MIDDLE)));
    top = f32x4.max(top, f32x4.max(f32x4.abs(a1), f32x4.abs(b1)));
    top = f32x4.max(top, f32x4.max(f32x4.abs(a2), f32x4.abs(b2)));
    top = f32x4.max(top, f32x4.max(f32x4.abs(a3), f32x4.abs(b3)));
    v128.store(tops + (<usize>i << 2), top);
  }
}
