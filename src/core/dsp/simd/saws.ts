// Saws of low and middle pitch: straight lines, and at each jump what a band-limited one lacks
// (src/core/dsp/bandLimitedStep.ts). No table of a cycle is read, which would not stay in the first cache.

import { BEFORE, BLOCK, GAINS, GAINS_SIDE, GAIN_STEPS, HALF, HALF_CYCLE, LIST, PHASES, SEGMENT_BIT, SLOPES, STARTS, STEPS, SUM, SUM_SIDE, TO_UNIT } from "./sawRoom";

/** Jumps that were noted, and segments, of a block by now. */
export let listed: i32 = 0;
let known: i32 = 0;
/** Where the lines of both sides are at the end of the segments so far. */
let lineL: f64 = 0;
let lineR: f64 = 0;

/** Lanes below `count`. */
// @ts-ignore: decorator
@inline
function firstOf(count: i32): v128 {
  return i32x4.lt_s(i32x4(0, 1, 2, 3), i32x4.splat(count));
}

/** The sum of four lanes, in all of them. */
// @ts-ignore: decorator
@inline
function totals(x: v128): v128 {
  const two = f32x4.add(x, v128.shuffle<i32>(x, x, 2, 3, 0, 1));
  return f32x4.add(two, v128.shuffle<i32>(two, two, 1, 0, 3, 2));
}

// @ts-ignore: decorator
@inline
function total(x: v128): f32 {
  return f32x4.extract_lane(totals(x), 0);
}

/** Starts a block. */
// @ts-ignore: decorator
@inline
export function beginSaws(): void {
  listed = 0;
  known = 0;
}

/** Writes down the gains of saws, and of a pulse those of its other saws, that are taken from them. */
function keepGains(to: usize, gains: usize, count: i32, pulse: bool, scale: f32): void {
  const scales = f32x4.splat(scale);
  for (let u = 0; u < count; u += 4) {
    const o4 = <usize>u << 2;
    const ours = firstOf(count - u);
    const l = v128.and(f32x4.mul(v128.load(gains + o4), scales), ours);
    const r = v128.and(f32x4.mul(v128.load(gains + o4, 64), scales), ours);
    v128.store(to + o4, l);
    v128.store(to + o4, r, GAINS_SIDE);
    if (pulse) {
      v128.store(to + o4, f32x4.neg(l), 64);
      v128.store(to + o4, f32x4.neg(r), 64 + GAINS_SIDE);
    }
  }
}

/** By how much a frame the gains of a segment move to those of the next one. */
// @ts-ignore: decorator
@inline
function keepSteps(gains: usize, steps: usize, pulse: bool, per: f32): void {
  const pers = f32x4.splat(per);
  const end = gains + (pulse ? 128 : 64);
  while (gains < end) {
    v128.store(steps, f32x4.mul(f32x4.sub(v128.load(gains, 256), v128.load(gains)), pers));
    v128.store(steps, f32x4.mul(f32x4.sub(v128.load(gains, 256 + GAINS_SIDE), v128.load(gains, GAINS_SIDE)), pers), GAINS_SIDE);
    gains += 16;
    steps += 16;
  }
}

/** Notes saws by the bits of a mask of four. */
// @ts-ignore: decorator
@inline
function note(mask: i32, first: i32): void {
  let at = LIST + (<usize>listed << 2);
  store<i32>(at, first);
  at += <usize>((mask & 1) << 2);
  store<i32>(at, first + 1);
  at += <usize>((mask & 2) << 1);
  store<i32>(at, first + 2);
  at += <usize>(mask & 4);
  store<i32>(at, first + 3);
  listed += popcnt(mask);
}

/** start + rise n + bend n (n - 1) / 2 of both sides, from a frame of the block on; written, not added. */
// @ts-ignore: decorator
@inline
function drawLines(at: usize, startL: f32, riseL: v128, bendL: v128, startR: f32, riseR: v128, bendR: v128, length: i32): void {
  const order = f32x4(0, 1, 2, 3), grown = f32x4(0, 0, 1, 3), next = f32x4(6, 10, 14, 18), four = f32x4.splat(4), sixteen = f32x4.splat(16);
  let l = f32x4.add(f32x4.splat(startL), f32x4.add(f32x4.mul(riseL, order), f32x4.mul(bendL, grown)));
  let r = f32x4.add(f32x4.splat(startR), f32x4.add(f32x4.mul(riseR, order), f32x4.mul(bendR, grown)));
  let upL = f32x4.add(f32x4.mul(riseL, four), f32x4.mul(bendL, next));
  let upR = f32x4.add(f32x4.mul(riseR, four), f32x4.mul(bendR, next));
  const moreL = f32x4.mul(bendL, sixteen), moreR = f32x4.mul(bendR, sixteen);
  // Up to three frames too many: the next segment writes over them, or nobody reads them.
  const end = at + (<usize>length << 2);
  while (at < end) {
    v128.store(at, l);
    v128.store(at, r, SUM_SIDE);
    l = f32x4.add(l, upL);
    r = f32x4.add(r, upR);
    upL = f32x4.add(upL, moreL);
    upR = f32x4.add(upR, moreR);
    at += 16;
  }
}

/** start + rise n + bend n (n - 1) / 2 + turn n n (n - 1) / 2, for gains that move. */
// @ts-ignore: decorator
@inline
function drawCurves(at: usize, start: f32, rise: f32, bend: f32, turn: f32, length: i32): void {
  const a = f32x4.splat(start), b = f32x4.splat(rise), c = f32x4.splat(bend), d = f32x4.splat(turn);
  const half = f32x4.splat(0.5), one = f32x4.splat(1), four = f32x4.splat(4);
  let n = f32x4(0, 1, 2, 3);
  const end = at + (<usize>length << 2);
  while (at < end) {
    const grown = f32x4.mul(f32x4.mul(n, f32x4.sub(n, one)), half);
    const line = f32x4.add(a, f32x4.mul(b, n));
    v128.store(at, f32x4.add(line, f32x4.mul(grown, f32x4.add(c, f32x4.mul(d, n)))));
    n = f32x4.add(n, four);
    at += 16;
  }
}

/**
 * One segment, [from, to) of a block, of a stack of saws as `addStack` of stack.ts has them: draws its lines and notes
 * its jumps. Gains stand still in the whole block, or are `ramped` in all of its segments. Of a pulse the saws that are
 * `hollow` behind the phase, less those at the phase. A phase must rise by less than an eightieth of a cycle and more than
 * 2^16 a frame, and its rise must change by less than a fifth of a percent a frame. `late` for the last segment of the block.
 */
// @ts-ignore: decorator
@inline
export function addSaws(
  lane: usize, ratios0: usize, ratios1: usize, gains0: usize, gains1: usize, scale: f32, ramped: bool, count: i32, inc0: f64, inc1: f64,
  pulse: bool, hollow: i32, from: i32, to: i32, late: bool,
): void {
  const length = to - from;
  const out = SUM + BLOCK + (<usize>from << 2);
  const early = known == 0;
  const stacks = pulse ? 2 : 1;
  const perFrame = f64x2.splat(1.0 / <f64>length);
  const start = f64x2.splat(inc0), stop = f64x2.splat(inc1);
  const glide = ratios0 != ratios1 || inc0 != inc1;
  const unit = f32x4.splat(TO_UNIT);
  const zero = f32x4.splat(0);
  // Jumps that lie less than fourteen frames outside of the block reach into it.
  const window = late ? length + HALF - 1 : length;
  const inWindow = i32x4.splat(window), grownWindow = i32x4.splat((window * (window - 1)) >> 1);
  const grown = (length * (length - 1)) >> 1;
  const row = <usize>known << 7;
  const gains = GAINS + (ramped ? <usize>known << 8 : 0), gainSteps = GAIN_STEPS + (<usize>known << 8);
  if (early) keepGains(gains, gains0, count, pulse, scale);
  if (ramped) {
    keepGains(gains + 256, gains1, count, pulse, scale);
    keepSteps(gains, gainSteps, pulse, <f32>(1.0 / <f64>length));
  }
  let startL = zero, startR = zero, riseL = zero, riseR = zero, bendL = zero, bendR = zero, turnL = zero, turnR = zero;
  for (let u = 0; u < count; u += 4) {
    const o8 = <usize>u << 3;
    const o4 = <usize>u << 2;
    const phases = v128.load(lane + o4);
    const first0 = f64x2.mul(start, v128.load(ratios0 + o8)), first1 = f64x2.mul(start, v128.load(ratios0 + o8, 16));
    const step = v128.shuffle<i64>(i32x4.trunc_sat_f64x2_s_zero(first0), i32x4.trunc_sat_f64x2_s_zero(first1), 0, 2);
    let slope = i32x4.splat(0);
    if (glide) {
      const slope0 = f64x2.mul(f64x2.sub(f64x2.mul(stop, v128.load(ratios1 + o8)), first0), perFrame);
      const slope1 = f64x2.mul(f64x2.sub(f64x2.mul(stop, v128.load(ratios1 + o8, 16)), first1), perFrame);
      slope = v128.shuffle<i64>(i32x4.trunc_sat_f64x2_s_zero(slope0), i32x4.trunc_sat_f64x2_s_zero(slope1), 0, 2);
    }
    const ours = firstOf(count - u);
    let ahead = i32x4.mul(step, inWindow);
    if (glide) ahead = i32x4.add(ahead, i32x4.mul(slope, grownWindow));
    let ago = i32x4.splat(0);
    if (early) {
      ago = i32x4.mul(step, i32x4.splat(HALF));
      if (glide) ago = i32x4.sub(ago, i32x4.mul(slope, i32x4.splat((HALF * (HALF + 1)) >> 1)));
    }
    for (let behind = 0; behind < stacks; behind++) {
      const q = pulse && behind == 0 ? i32x4.sub(phases, i32x4.splat(hollow)) : phases;
      const saw = (behind << 4) + u;
      const at = row + (<usize>saw << 2);
      v128.store(PHASES + at, q);
      v128.store(STEPS + at, step);
      v128.store(SLOPES + at, slope);
      note(i32x4.bitmask(v128.and(ours, i32x4.lt_u(i32x4.add(q, ahead), q))), saw | (known << SEGMENT_BIT));
      if (early) note(i32x4.bitmask(v128.and(ours, i32x4.lt_u(q, ago))), saw | BEFORE);
      const s4 = <usize>saw << 2;
      const l = v128.load(gains + s4), r = v128.load(gains + s4, GAINS_SIDE);
      const rise = f32x4.mul(f32x4.convert_i32x4_s(step), unit);
      riseL = f32x4.add(riseL, f32x4.mul(rise, l));
      riseR = f32x4.add(riseR, f32x4.mul(rise, r));
      let height = zero, bend = zero;
      if (early || ramped) {
        height = f32x4.mul(f32x4.convert_i32x4_s(v128.xor(q, i32x4.splat(HALF_CYCLE))), unit);
        startL = f32x4.add(startL, f32x4.mul(height, l));
        startR = f32x4.add(startR, f32x4.mul(height, r));
      }
      if (glide) {
        bend = f32x4.mul(f32x4.convert_i32x4_s(slope), unit);
        bendL = f32x4.add(bendL, f32x4.mul(bend, l));
        bendR = f32x4.add(bendR, f32x4.mul(bend, r));
      }
      if (ramped) {
        const lStep = v128.load(gainSteps + s4), rStep = v128.load(gainSteps + s4, GAINS_SIDE);
        const further = f32x4.add(height, rise), twice = f32x4.add(rise, rise);
        riseL = f32x4.add(riseL, f32x4.mul(further, lStep));
        riseR = f32x4.add(riseR, f32x4.mul(further, rStep));
        bendL = f32x4.add(bendL, f32x4.mul(twice, lStep));
        bendR = f32x4.add(bendR, f32x4.mul(twice, rStep));
        turnL = f32x4.add(turnL, f32x4.mul(bend, lStep));
        turnR = f32x4.add(turnR, f32x4.mul(bend, rStep));
      }
    }
    let moved = i32x4.add(phases, i32x4.mul(step, i32x4.splat(length)));
    if (glide) moved = i32x4.add(moved, i32x4.mul(slope, i32x4.splat(grown)));
    v128.store(lane + o4, v128.bitselect(moved, phases, ours));
  }
  store<i32>(STARTS + (<usize>known << 2), from);
  known++;
  store<i32>(STARTS + (<usize>known << 2), to);
  if (ramped) {
    drawCurves(out, total(startL), total(riseL), total(bendL), total(turnL), length);
    drawCurves(out + SUM_SIDE, total(startR), total(riseR), total(bendR), total(turnR), length);
    return;
  }
  if (early) {
    lineL = total(startL);
    lineR = total(startR);
  }
  const upL = totals(riseL), upR = totals(riseR), moreL = totals(bendL), moreR = totals(bendR);
  drawLines(out, <f32>lineL, upL, moreL, <f32>lineR, upR, moreR, length);
  lineL += <f64>f32x4.extract_lane(upL, 0) * <f64>length + <f64>f32x4.extract_lane(moreL, 0) * <f64>grown;
  lineR += <f64>f32x4.extract_lane(upR, 0) * <f64>length + <f64>f32x4.extract_lane(moreR, 0) * <f64>grown;
}
