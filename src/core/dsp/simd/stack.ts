// Stacks that read the table of a wave.

/** Four frames of a wave, by a straight line between its samples: what lies before and behind each phase. */
// @ts-ignore: decorator
@inline
function wave4(table: v128, q: v128, shift: i32, mask: v128, scale: v128): v128 {
  const at = i32x4.add(table, i32x4.shl(i32x4.shr_u(q, shift), 2));
  const at01 = <u64>i64x2.extract_lane(at, 0), at23 = <u64>i64x2.extract_lane(at, 1);
  const p01 = v128.load64_lane(<usize>(at01 >> 32), v128.load64_zero(<usize>at01), 1);
  const p23 = v128.load64_lane(<usize>(at23 >> 32), v128.load64_zero(<usize>at23), 1);
  const a = v128.shuffle<f32>(p01, p23, 0, 2, 4, 6);
  const b = v128.shuffle<f32>(p01, p23, 1, 3, 5, 7);
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), f32x4.mul(f32x4.convert_i32x4_s(v128.and(q, mask)), scale)));
}

/** Phases of four frames that start at `q`, with an increment that grows by `slope` a frame; all lanes alike. */
// @ts-ignore: decorator
@inline
function phases4(q: v128, increment: v128, slope: v128): v128 {
  return i32x4.add(q, i32x4.add(i32x4.mul(increment, i32x4(0, 1, 2, 3)), i32x4.mul(slope, i32x4(0, 0, 1, 3))));
}

/** What those phases move by in four frames; it grows by 16 x slope each time. */
// @ts-ignore: decorator
@inline
function steps4(increment: v128, slope: v128): v128 {
  return i32x4.add(i32x4.shl(increment, 2), i32x4.mul(slope, i32x4(6, 10, 14, 18)));
}

// @ts-ignore: decorator
@inline
function ramp4(from: v128, step: v128): v128 {
  return f32x4.add(from, f32x4.mul(step, f32x4(0, 1, 2, 3)));
}

/** The first and the second lane, spread over all four. */
// @ts-ignore: decorator
@inline
function ofA(x: v128): v128 {
  return v128.shuffle<i32>(x, x, 0, 0, 0, 0);
}

// @ts-ignore: decorator
@inline
function ofB(x: v128): v128 {
  return v128.shuffle<i32>(x, x, 1, 1, 1, 1);
}

/**
 * Adds two oscillators over `fours` frames from `from` on; 32 - `shift` is log2 of the table's size. Phases, their steps
 * and slopes, gains and their steps hold the oscillators in their first two lanes. Gains stand still unless `ramped`.
 */
// @ts-ignore: decorator
@inline
function pair(
  shift: i32, ramped: bool, q: v128, step: v128, slope: v128, l: v128, lStep: v128, r: v128, rStep: v128,
  table: usize, left: usize, right: usize, from: i32, fours: i32,
): void {
  const mask = i32x4.splat((1 << shift) - 1);
  const scale = f32x4.splat(<f32>1.0 / <f32>(<i32>1 << shift));
  const slopeA = ofA(slope), slopeB = ofB(slope), stepA = ofA(step), stepB = ofB(step);
  let qsA = phases4(ofA(q), stepA, slopeA), qsB = phases4(ofB(q), stepB, slopeB);
  let dA = steps4(stepA, slopeA), dB = steps4(stepB, slopeB);
  const bendA = i32x4.shl(slopeA, 4), bendB = i32x4.shl(slopeB, 4);
  let glA = ofA(l), grA = ofA(r), glB = ofB(l), grB = ofB(r);
  let sl = f32x4.splat(0), sr = sl, tl = sl, tr = sl;
  if (ramped) {
    sl = ofA(lStep); sr = ofA(rStep); tl = ofB(lStep); tr = ofB(rStep);
    glA = ramp4(glA, sl); grA = ramp4(grA, sr); glB = ramp4(glB, tl); grB = ramp4(grB, tr);
    const four = f32x4.splat(4.0);
    sl = f32x4.mul(sl, four); sr = f32x4.mul(sr, four); tl = f32x4.mul(tl, four); tr = f32x4.mul(tr, four);
  }
  const end = left + (<usize>(from + fours) << 2);
  const apart = right - left;
  const tables = i32x4.splat(<i32>table);
  for (let at = left + (<usize>from << 2); at < end; at += 16) {
    const y = wave4(tables, qsA, shift, mask, scale);
    const z = wave4(tables, qsB, shift, mask, scale);
    v128.store(at, f32x4.add(v128.load(at), f32x4.add(f32x4.mul(y, glA), f32x4.mul(z, glB))));
    v128.store(at + apart, f32x4.add(v128.load(at + apart), f32x4.add(f32x4.mul(y, grA), f32x4.mul(z, grB))));
    qsA = i32x4.add(qsA, dA);
    qsB = i32x4.add(qsB, dB);
    dA = i32x4.add(dA, bendA);
    dB = i32x4.add(dB, bendB);
    if (ramped) {
      glA = f32x4.add(glA, sl);
      grA = f32x4.add(grA, sr);
      glB = f32x4.add(glB, tl);
      grB = f32x4.add(grB, tr);
    }
  }
}

/** The same of one oscillator alone, the first of the lanes, whose gains stand still. */
// @ts-ignore: decorator
@inline
function lone(
  shift: i32, q: v128, step: v128, slope: v128, l: v128, r: v128, table: usize, left: usize, right: usize, from: i32, fours: i32,
): void {
  const mask = i32x4.splat((1 << shift) - 1);
  const scale = f32x4.splat(<f32>1.0 / <f32>(<i32>1 << shift));
  const slopes = ofA(slope), steps = ofA(step), bends = i32x4.shl(slopes, 4);
  const gl = ofA(l), gr = ofA(r);
  let qs = phases4(ofA(q), steps, slopes), d = steps4(steps, slopes);
  const tables = i32x4.splat(<i32>table);
  const end = left + (<usize>(from + fours) << 2);
  const apart = right - left;
  for (let at = left + (<usize>from << 2); at < end; at += 16) {
    const y = wave4(tables, qs, shift, mask, scale);
    v128.store(at, f32x4.add(v128.load(at), f32x4.mul(y, gl)));
    v128.store(at + apart, f32x4.add(v128.load(at + apart), f32x4.mul(y, gr)));
    qs = i32x4.add(qs, d);
    d = i32x4.add(d, bends);
  }
}

/**
 * Adds one stack over [from, to) to `left` and `right`: two oscillators and four frames at a time, linear interpolation
 * in a table of 2^bits samples (10 to 14) and a guard. A phase is a 32-bit integer, one cycle being 2^32; increments and gains move
 * evenly from their start to their end. The wave is read `offset` behind the phase. Phases move on when `advance` is set.
 */
export function addStack(
  lane: usize, ratios0: usize, ratios1: usize, gains0: usize, gains1: usize, count: i32,
  inc0: f64, inc1: f64, table: usize, bits: i32, offset0: i32, offset1: i32, scale0: f32, scale1: f32, advance: bool,
  left: usize, right: usize, from: i32, to: i32,
): void {
  const length = to - from;
  const per = f32x4.splat(<f32>1.0 / <f32>length);
  const shift = 32 - bits;
  const perFrame = f64x2.splat(1.0 / <f64>length);
  const offsets = i32x4.splat(offset0);
  const offsetStep = i32x4.splat(offset0 == offset1 ? 0 : (offset1 - offset0) / length);
  const fours = length & ~3;
  const ramped = gains0 != gains1 || scale0 != scale1;
  const start = f64x2.splat(inc0), stop = f64x2.splat(inc1);
  const glide = ratios0 != ratios1 || inc0 != inc1;
  for (let u = 0; u < count; u += 2) {
    const o8 = <usize>u << 3;
    const o4 = <usize>u << 2;
    // The last of an odd stack is alone, or beside a silent twin where gains move.
    const second = u + 1 < count;
    const both = i32x4(-1, second ? -1 : 0, 0, 0);
    const phases = v128.load64_zero(lane + o4);
    const first = f64x2.mul(start, v128.load(ratios0 + o8));
    const inc = i32x4.trunc_sat_f64x2_s_zero(first);
    const slope = glide ? i32x4.trunc_sat_f64x2_s_zero(f64x2.mul(f64x2.sub(f64x2.mul(stop, v128.load(ratios1 + o8)), first), perFrame)) : i32x4.splat(0);
    const step = i32x4.sub(inc, offsetStep);
    const q = i32x4.sub(phases, offsets);
    const l = v128.and(f32x4.mul(v128.load64_zero(gains0 + o4), f32x4.splat(scale0)), both);
    const r = v128.and(f32x4.mul(v128.load64_zero(gains0 + o4, 64), f32x4.splat(scale0)), both);
    let lStep = f32x4.splat(0), rStep = lStep;
    if (ramped) {
      lStep = f32x4.mul(f32x4.sub(v128.and(f32x4.mul(v128.load64_zero(gains1 + o4), f32x4.splat(scale1)), both), l), per);
      rStep = f32x4.mul(f32x4.sub(v128.and(f32x4.mul(v128.load64_zero(gains1 + o4, 64), f32x4.splat(scale1)), both), r), per);
    }
    if (fours > 0) {
      // Shifts by a figure that the compiler knows are much faster, and most stacks have gains that stand still.
      if (!second && !ramped) {
        if (bits == 12) lone(20, q, step, slope, l, r, table, left, right, from, fours);
        else if (bits == 13) lone(19, q, step, slope, l, r, table, left, right, from, fours);
        else if (bits == 14) lone(18, q, step, slope, l, r, table, left, right, from, fours);
        else if (bits == 11) lone(21, q, step, slope, l, r, table, left, right, from, fours);
        else lone(22, q, step, slope, l, r, table, left, right, from, fours);
      } else if (ramped) {
        if (bits == 12) pair(20, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 13) pair(19, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 14) pair(18, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 11) pair(21, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else pair(22, true, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
      } else {
        if (bits == 12) pair(20, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 13) pair(19, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 14) pair(18, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else if (bits == 11) pair(21, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
        else pair(22, false, q, step, slope, l, lStep, r, rStep, table, left, right, from, fours);
      }
    }
    // What is left of a segment that is no multiple of four frames long.
    for (let n = fours; n < length; n++) {
      const grown = (n * (n - 1)) >> 1;
      const at = i32x4.add(q, i32x4.add(i32x4.mul(step, i32x4.splat(n)), i32x4.mul(slope, i32x4.splat(grown))));
      const y = wave1(table, i32x4.extract_lane(at, 0), shift);
      const z = wave1(table, i32x4.extract_lane(at, 1), shift);
      const frame = <usize>(from + n) << 2;
      const m = f32x4.splat(<f32>n);
      const gl = f32x4.add(l, f32x4.mul(lStep, m)), gr = f32x4.add(r, f32x4.mul(rStep, m));
      store<f32>(left + frame, load<f32>(left + frame) + y * f32x4.extract_lane(gl, 0) + z * f32x4.extract_lane(gl, 1));
      store<f32>(right + frame, load<f32>(right + frame) + y * f32x4.extract_lane(gr, 0) + z * f32x4.extract_lane(gr, 1));
    }
    if (advance) {
      const grown = (length * (length - 1)) >> 1;
      const moved = i32x4.add(phases, i32x4.add(i32x4.mul(inc, i32x4.splat(length)), i32x4.mul(slope, i32x4.splat(grown))));
      if (second) v128.store64_lane(lane + o4, moved, 0);
      else v128.store32_lane(lane + o4, moved, 0);
    }
  }
}

// @ts-ignore: decorator
@inline
function wave1(table: usize, q: i32, shift: i32): f32 {
  const at = table + (<usize>(<u32>q >> <u32>shift) << 2);
  const a = load<f32>(at);
  return a + (load<f32>(at, 4) - a) * (<f32>(q & ((1 << shift) - 1)) / <f32>(<i32>1 << shift));
}
