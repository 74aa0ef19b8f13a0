// The jumps of a block's saws: where they lie, what a band-limited one lacks, and how far their lines fall.

import { BEFORE, BLOCK, ELSEWHERE, FALL, FALL_SIDE, FOUND, GAINS, GAINS_SIDE, GAIN_STEPS, HALF, LIST, MARGIN, NEXT, PAD, PHASES, PLACES, ROW, SEGMENT_BIT, SINK, SLOPES, STARTS, STEPS, SUM, SUM_SIDE } from "./sawRoom";
import { listed } from "./saws";

// @ts-ignore: decorator
@inline
function addRest(at: usize, row: usize, w: v128, gl: v128, gr: v128): void {
  const y = f32x4.add(v128.load(row), f32x4.mul(v128.load(row, NEXT), w));
  v128.store(at, f32x4.add(v128.load(at), f32x4.mul(y, gl)));
  v128.store(at, f32x4.add(v128.load(at, SUM_SIDE), f32x4.mul(y, gr)), SUM_SIDE);
}

/** A word of each of four saws. */
// @ts-ignore: decorator
@inline
function gather(at: usize, a: usize, b: usize, c: usize, d: usize): v128 {
  return v128.load32_lane(at + d, v128.load32_lane(at + c, v128.load32_lane(at + b, v128.load32_zero(at + a), 1), 2), 3);
}

/** Where a noted saw's words are. */
// @ts-ignore: decorator
@inline
function placeOf(noted: i32): usize {
  return <usize>(((noted & 31) << 2) | ((noted >> SEGMENT_BIT) << 7));
}

/** Finds the frame of the block behind each noted jump, and how long ago it was there, in places. */
function findJumps(): void {
  const end = LIST + (<usize>listed << 2);
  // What is noted behind the last one are saws, too.
  for (let at = LIST; at < end; at += 16) {
    const noted = v128.load(at);
    const a = placeOf(i32x4.extract_lane(noted, 0)), b = placeOf(i32x4.extract_lane(noted, 1));
    const c = placeOf(i32x4.extract_lane(noted, 2)), d = placeOf(i32x4.extract_lane(noted, 3));
    const q = gather(PHASES, a, b, c, d), step = gather(STEPS, a, b, c, d), slope = gather(SLOPES, a, b, c, d);
    const one = i32x4.splat(1), half = f32x4.splat(0.5);
    const ago = i32x4.ne(v128.and(noted, i32x4.splat(BEFORE)), i32x4.splat(0));
    const per = f32x4.div(f32x4.splat(1), f32x4.convert_i32x4_s(step));
    const away = f32x4.mul(f32x4.convert_i32x4_u(v128.bitselect(q, i32x4.neg(q), ago)), per);
    let t = v128.bitselect(f32x4.neg(away), away, ago);
    const bent = f32x4.mul(f32x4.mul(half, f32x4.convert_i32x4_s(slope)), per);
    t = f32x4.sub(t, f32x4.mul(bent, f32x4.mul(t, f32x4.sub(t, f32x4.splat(1)))));
    let n = i32x4.trunc_sat_f32x4_s(f32x4.ceil(t));
    const before = i32x4.sub(n, one);
    const rise = i32x4.add(step, i32x4.mul(slope, before));
    const behind = i32x4.add(i32x4.add(q, i32x4.mul(step, n)), i32x4.mul(slope, i32x4.shr_s(i32x4.mul(n, before), 1)));
    const place = f32x4.div(f32x4.convert_i32x4_s(behind), f32x4.convert_i32x4_s(rise));
    // What is rounded may put it one frame beside, and what bends fast a few.
    const off = f32x4.floor(place);
    n = i32x4.sub(n, i32x4.trunc_sat_f32x4_s(off));
    const o = FOUND + ((at - LIST) << 1);
    const places = f32x4.mul(f32x4.sub(place, off), f32x4.splat(PLACES));
    v128.store(o, v128.shuffle<i32>(n, places, 0, 4, 1, 5));
    v128.store(o, v128.shuffle<i32>(n, places, 2, 6, 3, 7), 16);
  }
}

/** Notes that lines fall at a frame, and sink from there on. */
// @ts-ignore: decorator
@inline
function fallFrom(frame: i32, l: f32, lMore: f32, r: f32, rMore: f32): void {
  const fall = FALL + (<usize>frame << 2), sink = SINK + (<usize>frame << 2);
  store<f32>(fall, load<f32>(fall) - l);
  store<f32>(fall, load<f32>(fall, FALL_SIDE) - r, FALL_SIDE);
  store<f32>(sink, load<f32>(sink) - lMore);
  store<f32>(sink, load<f32>(sink, FALL_SIDE) - rMore, FALL_SIDE);
}

/** Adds what each jump lacks, and notes where the lines fall. */
// @ts-ignore: decorator
@inline
function addJumps(rests: usize, ramped: bool): void {
  const begin = load<i32>(STARTS);
  const end = LIST + (<usize>listed << 2);
  let found = FOUND;
  for (let at = LIST; at < end; at += 4) {
    const noted = load<i32>(at);
    const saw = <usize>(noted & 31) << 2;
    const segment = <usize>(noted >> SEGMENT_BIT);
    const start = load<i32>(STARTS + (segment << 2)), stop = load<i32>(STARTS + (segment << 2), 4);
    const frame = start + load<i32>(found);
    const place = load<f32>(found, 4);
    found += 8;
    const whole = <i32>place;
    const w = f32x4.splat(place - <f32>whole);
    const first = (frame - HALF) & ~3;
    const row = rests + <usize>(whole * ROW + PAD + ((first - frame + HALF) << 2));
    const to = SUM + <usize>((first + MARGIN) << 2);
    const o = saw + (ramped ? segment << 8 : 0);
    // A jump down by two: so much of what is lacking.
    const l = load<f32>(GAINS + o) * 2, r = load<f32>(GAINS + o, GAINS_SIDE) * 2;
    let gl = f32x4.splat(l), gr = f32x4.splat(r);
    if (ramped) {
      const lMore = load<f32>(GAIN_STEPS + o) * 2, rMore = load<f32>(GAIN_STEPS + o, GAINS_SIDE) * 2;
      const lStep = f32x4.splat(lMore), rStep = f32x4.splat(rMore);
      const along = f32x4.add(f32x4.splat(<f32>(first - start)), f32x4(0, 1, 2, 3)), four = f32x4.splat(4);
      gl = f32x4.add(gl, f32x4.mul(lStep, along));
      gr = f32x4.add(gr, f32x4.mul(rStep, along));
      const lFour = f32x4.mul(lStep, four), rFour = f32x4.mul(rStep, four);
      if (frame > start && frame < stop) {
        fallFrom(frame, l + lMore * <f32>(frame - start), lMore, r + rMore * <f32>(frame - start), rMore);
        // The next segment starts from where the phases are then.
        if (stop < 64) fallFrom(stop, -l - lMore * <f32>(stop - start), -lMore, -r - rMore * <f32>(stop - start), -rMore);
      }
      for (let k: usize = 0; k < 128; k += 16) {
        addRest(to + k, row + k, w, gl, gr);
        gl = f32x4.add(gl, lFour);
        gr = f32x4.add(gr, rFour);
      }
      continue;
    }
    // The lines start behind a jump of their first frame.
    const inside = frame > begin && frame < 64;
    const fall = FALL + (<usize>(inside ? frame : ELSEWHERE) << 2);
    store<f32>(fall, load<f32>(fall) - l);
    store<f32>(fall, load<f32>(fall, FALL_SIDE) - r, FALL_SIDE);
    addRest(to, row, w, gl, gr);
    addRest(to + 16, row + 16, w, gl, gr);
    addRest(to + 32, row + 32, w, gl, gr);
    addRest(to + 48, row + 48, w, gl, gr);
    addRest(to + 64, row + 64, w, gl, gr);
    addRest(to + 80, row + 80, w, gl, gr);
    addRest(to + 96, row + 96, w, gl, gr);
    addRest(to + 112, row + 112, w, gl, gr);
  }
}

/** Sums of four lanes up to each. */
// @ts-ignore: decorator
@inline
function summed(x: v128): v128 {
  const zero = i32x4.splat(0);
  const two = f32x4.add(x, v128.shuffle<i32>(zero, x, 0, 4, 5, 6));
  return f32x4.add(two, v128.shuffle<i32>(zero, two, 0, 1, 4, 5));
}

// @ts-ignore: decorator
@inline
function lastOf(x: v128): v128 {
  return v128.shuffle<i32>(x, x, 3, 3, 3, 3);
}

/** What a side's four frames have fallen by, from what fell at each of them and sank up to the one before. */
// @ts-ignore: decorator
@inline
function fallOf(falls: v128, fallen: v128, sunk: v128, sinks: v128, ramped: bool): v128 {
  const down = ramped ? f32x4.add(falls, v128.shuffle<i32>(sunk, sinks, 0, 4, 5, 6)) : falls;
  return f32x4.add(summed(down), fallen);
}

/** Writes what was drawn to both sides, with its falls, which it clears. */
// @ts-ignore: decorator
@inline
function pourBoth(left: usize, right: usize, ramped: bool): void {
  const zero = f32x4.splat(0);
  let fallenL = zero, fallenR = zero, sunkL = zero, sunkR = zero;
  for (let i: usize = 0; i < 256; i += 16) {
    let sinksL = zero, sinksR = zero;
    if (ramped) {
      sinksL = f32x4.add(summed(v128.load(SINK + i)), sunkL);
      sinksR = f32x4.add(summed(v128.load(SINK + i, FALL_SIDE)), sunkR);
      v128.store(SINK + i, zero);
      v128.store(SINK + i, zero, FALL_SIDE);
    }
    const downL = fallOf(v128.load(FALL + i), fallenL, sunkL, sinksL, ramped);
    const downR = fallOf(v128.load(FALL + i, FALL_SIDE), fallenR, sunkR, sinksR, ramped);
    v128.store(FALL + i, zero);
    v128.store(FALL + i, zero, FALL_SIDE);
    fallenL = lastOf(downL);
    fallenR = lastOf(downR);
    if (ramped) {
      sunkL = lastOf(sinksL);
      sunkR = lastOf(sinksR);
    }
    v128.store(left + i, f32x4.add(v128.load(SUM + BLOCK + i), downL));
    v128.store(right + i, f32x4.add(v128.load(SUM + BLOCK + i, SUM_SIDE), downR));
  }
}

/** Writes what was drawn to both sides of a voice, 64 frames of which those before `from` are silent. */
export function pourSaws(rests: usize, ramped: bool, left: usize, right: usize, from: i32): void {
  findJumps();
  if (ramped) {
    addJumps(rests, true);
    pourBoth(left, right, true);
  } else {
    addJumps(rests, false);
    pourBoth(left, right, false);
    store<f32>(FALL, 0, ELSEWHERE << 2);
    store<f32>(FALL + FALL_SIDE, 0, ELSEWHERE << 2);
  }
  for (let i = 0; i < from; i++) {
    store<f32>(left + (<usize>i << 2), 0);
    store<f32>(right + (<usize>i << 2), 0);
  }
}
