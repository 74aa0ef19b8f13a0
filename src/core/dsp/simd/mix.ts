import { LANES, SEGMENT, SIDE, exp2x4, lanesOf, panCosine, panSine } from "./common";

/**
 * Adds what up to four voices of a source played into `scratch` to a bus, with gains and places (-100 to 100 %, equal
 * power, 0 dB in the middle) that move from row to row.
 */
export function pour(
  scratch: usize, starts: usize, rows: usize, rowBytes: i32, gainAt: i32, panAt: i32, segments: usize, segmentCount: i32, bus: usize,
): void {
  for (let v = 0; v < LANES; v++) {
    if (load<i32>(starts + (<usize>v << 2)) < 0) continue;
    const left = scratch + (<usize>v << 9);
    const right = left + 256;
    for (let s = 0; s < segmentCount; s++) {
      const at = segments + <usize>s * SEGMENT;
      const row = rows + <usize>(load<i32>(at) * rowBytes + (v << 3));
      const end = rows + <usize>(load<i32>(at, 4) * rowBytes + (v << 3));
      const gain0 = load<f64>(row + gainAt), gain1 = load<f64>(end + gainAt);
      const pan0 = load<f64>(row + panAt), pan1 = load<f64>(end + panAt);
      // Most sources stand as they are.
      if (gain0 == 1.0 && gain1 == 1.0 && pan0 == 0.0 && pan1 == 0.0) continue;
      const from = load<i32>(at, 8), to = load<i32>(at, 12);
      const pans = v128.replace_lane<f32>(f32x4.splat(<f32>pan0), 1, <f32>pan1);
      const sines = panSine(pans), cosines = panCosine(pans);
      const gains = v128.replace_lane<f32>(f32x4.splat(<f32>gain0), 1, <f32>gain1);
      const l = f32x4.mul(gains, f32x4.sub(cosines, sines)), r = f32x4.mul(gains, f32x4.add(cosines, sines));
      let gl = f32x4.extract_lane(l, 0), gr = f32x4.extract_lane(r, 0);
      const per = <f32>1.0 / <f32>(to - from);
      const dl = (f32x4.extract_lane(l, 1) - gl) * per, dr = (f32x4.extract_lane(r, 1) - gr) * per;
      for (let i = from; i < to; i++) {
        const o = <usize>i << 2;
        gl += dl;
        gr += dr;
        store<f32>(left + o, load<f32>(left + o) * gl);
        store<f32>(right + o, load<f32>(right + o) * gr);
      }
    }
  }
  for (let i: usize = 0; i < 64; i += 4) {
    transpose(scratch + (i << 2), bus + (i << 4));
    transpose(scratch + 256 + (i << 2), bus + SIDE + (i << 4));
  }
}

/** Four frames of four voices, 512 bytes apart, added to four frames of a bus. */
// @ts-ignore: decorator
@inline
function transpose(from: usize, to: usize): void {
  const a = v128.load(from), b = v128.load(from, 512), c = v128.load(from, 1024), d = v128.load(from, 1536);
  const ab0 = v128.shuffle<f32>(a, b, 0, 4, 1, 5), ab1 = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
  const cd0 = v128.shuffle<f32>(c, d, 0, 4, 1, 5), cd1 = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
  v128.store(to, f32x4.add(v128.load(to), v128.shuffle<f32>(ab0, cd0, 0, 1, 4, 5)));
  v128.store(to, f32x4.add(v128.load(to, 16), v128.shuffle<f32>(ab0, cd0, 2, 3, 6, 7)), 16);
  v128.store(to, f32x4.add(v128.load(to, 32), v128.shuffle<f32>(ab1, cd1, 0, 1, 4, 5)), 32);
  v128.store(to, f32x4.add(v128.load(to, 48), v128.shuffle<f32>(ab1, cd1, 2, 3, 6, 7)), 48);
}

/** Half of log2 of 1 dB as a gain: each side goes half of the way. */
const HALF_DB: f32 = 0.08304820237218406;

/** Adds the lanes of one side over whole fours of frames to a mix, at gains that grow by `step` a frame. */
// @ts-ignore: decorator
@inline
function addLanes(bus: usize, mix: usize, gain: v128, step: v128, from: i32, to: i32): void {
  let g1 = f32x4.add(gain, step), g2 = f32x4.add(g1, step), g3 = f32x4.add(g2, step), g4 = f32x4.add(g3, step);
  const four = f32x4.mul(step, f32x4.splat(4.0));
  for (let i = from; i < to; i += 4) {
    const o = bus + (<usize>i << 4);
    const a = f32x4.mul(v128.load(o), g1), b = f32x4.mul(v128.load(o, 16), g2);
    const c = f32x4.mul(v128.load(o, 32), g3), d = f32x4.mul(v128.load(o, 48), g4);
    // Four sums of four lanes in one go.
    const ab = f32x4.add(v128.shuffle<f32>(a, b, 0, 4, 1, 5), v128.shuffle<f32>(a, b, 2, 6, 3, 7));
    const cd = f32x4.add(v128.shuffle<f32>(c, d, 0, 4, 1, 5), v128.shuffle<f32>(c, d, 2, 6, 3, 7));
    const sum = f32x4.add(v128.shuffle<f32>(ab, cd, 0, 1, 4, 5), v128.shuffle<f32>(ab, cd, 2, 3, 6, 7));
    const f = mix + (<usize>i << 2);
    v128.store(f, f32x4.add(v128.load(f), sum));
    g1 = f32x4.add(g1, four); g2 = f32x4.add(g2, four); g3 = f32x4.add(g3, four); g4 = f32x4.add(g4, four);
  }
}

/**
 * Adds the lanes of a bus to a mix (64 frames of float32 a side), with gains and places that move from row to row, and with
 * what sets the right side above the left one in dB (`apartAt` below 0: nothing).
 */
export function amp(
  rows: usize, rowBytes: i32, gainAt: i32, panAt: i32, apartAt: i32, segments: usize, segmentCount: i32, bus: usize, left: usize, right: usize,
): void {
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    const row = rows + <usize>(load<i32>(at) * rowBytes);
    const end = rows + <usize>(load<i32>(at, 4) * rowBytes);
    const from = load<i32>(at, 8);
    const to = load<i32>(at, 12);
    const per = f32x4.splat(<f32>1.0 / <f32>(to - from));
    const gain0 = lanesOf(row + gainAt);
    const gain1 = lanesOf(end + gainAt);
    if (!v128.any_true(gain0) && !v128.any_true(gain1)) continue;
    const pan0 = lanesOf(row + panAt);
    const pan1 = lanesOf(end + panAt);
    const s0 = panSine(pan0), c0 = panCosine(pan0);
    const moves = !i32x4.all_true(f32x4.eq(pan0, pan1));
    const s1 = moves ? panSine(pan1) : s0;
    const c1 = moves ? panCosine(pan1) : c0;
    // Equal power, 0 dB in the middle: cos(45° + x) and sin(45° + x), times sqrt 2.
    let gl = f32x4.mul(gain0, f32x4.sub(c0, s0));
    let gr = f32x4.mul(gain0, f32x4.add(c0, s0));
    let gl1 = f32x4.mul(gain1, f32x4.sub(c1, s1));
    let gr1 = f32x4.mul(gain1, f32x4.add(c1, s1));
    if (apartAt >= 0) {
      const x0 = f32x4.mul(lanesOf(row + apartAt), f32x4.splat(HALF_DB));
      const x1 = f32x4.mul(lanesOf(end + apartAt), f32x4.splat(HALF_DB));
      gl = f32x4.mul(gl, exp2x4(f32x4.neg(x0)));
      gr = f32x4.mul(gr, exp2x4(x0));
      gl1 = f32x4.mul(gl1, exp2x4(f32x4.neg(x1)));
      gr1 = f32x4.mul(gr1, exp2x4(x1));
    }
    const dl = f32x4.mul(f32x4.sub(gl1, gl), per);
    const dr = f32x4.mul(f32x4.sub(gr1, gr), per);
    const fours = from + ((to - from) & ~3);
    addLanes(bus, left, gl, dl, from, fours);
    addLanes(bus + SIDE, right, gr, dr, from, fours);
    // What is left of a segment that is no multiple of four frames long.
    for (let i = fours; i < to; i++) {
      const n = f32x4.splat(<f32>(i + 1 - from));
      const o = bus + (<usize>i << 4);
      const l = f32x4.mul(v128.load(o), f32x4.add(gl, f32x4.mul(dl, n)));
      const r = f32x4.mul(v128.load(o, SIDE), f32x4.add(gr, f32x4.mul(dr, n)));
      const sum = f32x4.add(v128.shuffle<f32>(l, r, 0, 1, 4, 5), v128.shuffle<f32>(l, r, 2, 3, 6, 7));
      const f = <usize>i << 2;
      store<f32>(left + f, load<f32>(left + f) + (f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1)));
      store<f32>(right + f, load<f32>(right + f) + (f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3)));
    }
  }
}

/** Adds one bus to another. */
export function addBus(from: usize, to: usize): void {
  for (let i: usize = 0; i < 2 * SIDE; i += 16) v128.store(to + i, f32x4.add(v128.load(to + i), v128.load(from + i)));
}

/** Adds a share of one bus, 0 to 100 % and moving from row to row, to another one; with `rest` what that share leaves. */
export function addShare(
  from: usize, to: usize, rows: usize, rowBytes: i32, shareAt: i32, segments: usize, segmentCount: i32, rest: i32,
): void {
  const scale = f32x4.splat(<f32>(rest ? -0.01 : 0.01));
  const base = f32x4.splat(<f32>(rest ? 1.0 : 0.0));
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    const first = load<i32>(at, 8), end = load<i32>(at, 12);
    let g = f32x4.add(base, f32x4.mul(scale, lanesOf(rows + <usize>(load<i32>(at) * rowBytes) + shareAt)));
    const g1 = f32x4.add(base, f32x4.mul(scale, lanesOf(rows + <usize>(load<i32>(at, 4) * rowBytes) + shareAt)));
    const dg = f32x4.mul(f32x4.sub(g1, g), f32x4.splat(<f32>1.0 / <f32>(end - first)));
    for (let i = first; i < end; i++) {
      g = f32x4.add(g, dg);
      for (let side: usize = 0; side < 2 * SIDE; side += SIDE) {
        const o = side + (<usize>i << 4);
        v128.store(to + o, f32x4.add(v128.load(to + o), f32x4.mul(g, v128.load(from + o))));
      }
    }
  }
}

/** The greatest distance from zero of `bytes` bytes of float32. */
export function peakOf(at: usize, bytes: i32): f32 {
  let most = f32x4.splat(0);
  for (let i: usize = 0; i < <usize>bytes; i += 16) most = f32x4.max(most, f32x4.abs(v128.load(at + i)));
  const a = Mathf.max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1));
  return Mathf.max(a, Mathf.max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)));
}

/** Silences `bytes` bytes. */
export function clear(at: usize, bytes: i32): void {
  memory.fill(at, 0, bytes);
}
