// Saws of low and middle pitch: straight lines, and at each jump what a band-limited one lacks
// (src/core/dsp/bandLimitedStep.ts). No table of a cycle is read, which would not stay in the first cache.

/** As src/core/dsp/bandLimitedStep.ts writes them. */
const HALF: i32 = 14;
const PLACES: f32 = 256.0;
const PAD: i32 = 16;
const ROW: i32 = 288;
const NEXT: i32 = 144;

/** Half a cycle: a phase less that, read as signed, is the saw. */
const HALF_CYCLE: i32 = <i32>0x80000000;
const TO_UNIT: f32 = 4.656612873077393e-10;

/** A voice's sound, a side each: 32 frames, 64 of a block, 32 frames. What lies outside of the block is never read. */
const SUM: usize = memory.data(1024, 16);
const SUM_SIDE: usize = 512;
const MARGIN: i32 = 32;
const BLOCK: usize = 128;
/** By how much the lines fall at each frame, a side each, and a place for what falls elsewhere. Zero between two voices. */
const FALL: usize = memory.data(576, 16);
const FALL_SIDE: usize = 288;
const ELSEWHERE: i32 = 64;
/** The same, by how much more they fall a frame from there on: where gains move. */
const SINK: usize = memory.data(576, 16);
/**
 * Of up to 32 saws, sixteen and as many a pulse width apart: gains of the left side and of the right one where the block
 * starts; where they move, at the start of each segment and at the end of the last one, and by how much a frame.
 */
const GAINS: usize = memory.data(2304, 16);
const GAINS_SIDE: usize = 128;
const GAIN_STEPS: usize = memory.data(2048, 16);
/** The same of each segment: phases where it starts, steps, slopes. */
const PHASES: usize = memory.data(1024, 16);
const STEPS: usize = memory.data(1024, 16);
const SLOPES: usize = memory.data(1024, 16);
/** Frame at which each segment starts, and at which the last one ends. */
const STARTS: usize = memory.data(48, 16);
/** Jumps of the block: which saw (five bits), whether it lies before the block (one bit), and the segment. */
const LIST: usize = memory.data(288, 16);
const BEFORE: i32 = 32;
const SEGMENT_BIT: i32 = 6;
/** Where they are: frame, and places since then. */
const FOUND: usize = memory.data(576, 16);
/** Segments that fit. */
export const MOST_SEGMENTS: i32 = 8;

let listed: i32 = 0;
let known: i32 = 0;
/** Where the lines of both sides are at the end of the segments so far. */
let lineL: f64 = 0;
let lineR: f64 = 0;

// @ts-ignore: decorator
@inline
function firstOf(count: i32): v128 {
  return i32x4.lt_s(i32x4(0, 1, 2, 3), i32x4.splat(count));
}

// @ts-ignore: decorator
@inline
function total(x: v128): f32 {
  const two = f32x4.add(x, v128.shuffle<i32>(x, x, 2, 3, 0, 1));
  return f32x4.extract_lane(two, 0) + f32x4.extract_lane(two, 1);
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
function drawLines(at: usize, start: f32, rise: f32, bend: f32, length: i32): void {
  const b = f32x4.splat(bend), r = f32x4.splat(rise);
  let line = f32x4.add(f32x4.splat(start), f32x4.add(f32x4.mul(r, f32x4(0, 1, 2, 3)), f32x4.mul(b, f32x4(0, 0, 1, 3))));
  let up = f32x4.add(f32x4.mul(r, f32x4.splat(4)), f32x4.mul(b, f32x4(6, 10, 14, 18)));
  const upMore = f32x4.mul(b, f32x4.splat(16));
  // Up to three frames too many: the next segment writes over them, or nobody reads them.
  const end = at + (<usize>length << 2);
  while (at < end) {
    v128.store(at, line);
    line = f32x4.add(line, up);
    up = f32x4.add(up, upMore);
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
 * One segment, [from, to) of a block, of a stack of saws as `addStack` of oscillator.ts has them: draws its lines and notes
 * its jumps. Gains stand still in the whole block, or are `ramped` in all of its segments. Of a pulse the saws that are `hollow` behind the phase, less those at the phase. A
 * phase must rise by less than an eightieth of a cycle and more than 2^16 a frame, and its rise must change by less than
 * a fifth of a percent a frame. `late` for the last segment of the block.
 */
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
      if (ramped) {
        const lStep = v128.load(gainSteps + s4), rStep = v128.load(gainSteps + s4, GAINS_SIDE);
        const height = f32x4.mul(f32x4.convert_i32x4_s(v128.xor(q, i32x4.splat(HALF_CYCLE))), unit);
        const rise = f32x4.mul(f32x4.convert_i32x4_s(step), unit), bend = f32x4.mul(f32x4.convert_i32x4_s(slope), unit);
        startL = f32x4.add(startL, f32x4.mul(height, l));
        startR = f32x4.add(startR, f32x4.mul(height, r));
        const further = f32x4.add(height, rise), twice = f32x4.add(rise, rise);
        riseL = f32x4.add(riseL, f32x4.add(f32x4.mul(rise, l), f32x4.mul(further, lStep)));
        riseR = f32x4.add(riseR, f32x4.add(f32x4.mul(rise, r), f32x4.mul(further, rStep)));
        bendL = f32x4.add(bendL, f32x4.add(f32x4.mul(bend, l), f32x4.mul(twice, lStep)));
        bendR = f32x4.add(bendR, f32x4.add(f32x4.mul(bend, r), f32x4.mul(twice, rStep)));
        turnL = f32x4.add(turnL, f32x4.mul(bend, lStep));
        turnR = f32x4.add(turnR, f32x4.mul(bend, rStep));
        continue;
      }
      if (early) {
        const height = f32x4.mul(f32x4.convert_i32x4_s(v128.xor(q, i32x4.splat(HALF_CYCLE))), unit);
        startL = f32x4.add(startL, f32x4.mul(height, l));
        startR = f32x4.add(startR, f32x4.mul(height, r));
      }
      const rise = f32x4.mul(f32x4.convert_i32x4_s(step), unit);
      riseL = f32x4.add(riseL, f32x4.mul(rise, l));
      riseR = f32x4.add(riseR, f32x4.mul(rise, r));
      if (glide) {
        const bend = f32x4.mul(f32x4.convert_i32x4_s(slope), unit);
        bendL = f32x4.add(bendL, f32x4.mul(bend, l));
        bendR = f32x4.add(bendR, f32x4.mul(bend, r));
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
  const upL = total(riseL), upR = total(riseR), moreL = total(bendL), moreR = total(bendR);
  drawLines(out, <f32>lineL, upL, moreL, length);
  drawLines(out + SUM_SIDE, <f32>lineR, upR, moreR, length);
  lineL += <f64>upL * <f64>length + <f64>moreL * <f64>grown;
  lineR += <f64>upR * <f64>length + <f64>moreR * <f64>grown;
}

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
    const start = load<i32>(STARTS + (<usize>(noted >> SEGMENT_BIT) << 2));
    const frame = start + load<i32>(found);
    const place = load<f32>(found, 4);
    found += 8;
    const whole = <i32>place;
    const w = f32x4.splat(place - <f32>whole);
    const first = (frame - HALF) & ~3;
    const row = rests + <usize>(whole * ROW + PAD + ((first - frame + HALF) << 2));
    const to = SUM + <usize>((first + MARGIN) << 2);
    const o = saw + (ramped ? <usize>(noted >> SEGMENT_BIT) << 8 : 0);
    // A jump down by two: so much of what is lacking.
    const l = load<f32>(GAINS + o) * 2, r = load<f32>(GAINS + o, GAINS_SIDE) * 2;
    let gl = f32x4.splat(l), gr = f32x4.splat(r);
    if (ramped) {
      const lStep = f32x4.splat(load<f32>(GAIN_STEPS + o) * 2), rStep = f32x4.splat(load<f32>(GAIN_STEPS + o, GAINS_SIDE) * 2);
      const along = f32x4.add(f32x4.splat(<f32>(first - start)), f32x4(0, 1, 2, 3)), four = f32x4.splat(4);
      gl = f32x4.add(gl, f32x4.mul(lStep, along));
      gr = f32x4.add(gr, f32x4.mul(rStep, along));
      const lFour = f32x4.mul(lStep, four), rFour = f32x4.mul(rStep, four);
      const end = load<i32>(STARTS + (<usize>(noted >> SEGMENT_BIT) << 2), 4);
      if (frame > start && frame < end) {
        // The next segment starts from where the phases are then.
        const lMore = load<f32>(GAIN_STEPS + o) * 2, rMore = load<f32>(GAIN_STEPS + o, GAINS_SIDE) * 2;
        fallFrom(frame, l + lMore * <f32>(frame - start), lMore, r + rMore * <f32>(frame - start), rMore);
        if (end < 64) fallFrom(end, -l - lMore * <f32>(end - start), -lMore, -r - rMore * <f32>(end - start), -rMore);
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

/** Writes one side of what was drawn, with its falls, which it clears. */
// @ts-ignore: decorator
@inline
function pourSide(to: usize, sum: usize, fall: usize, sink: usize, ramped: bool): void {
  const zero = f32x4.splat(0);
  let fallen = zero, sunk = zero;
  for (let i: usize = 0; i < 256; i += 16) {
    let down = v128.load(fall + i);
    v128.store(fall + i, zero);
    if (ramped) {
      // A frame sinks by what sank up to the one before it.
      const all = f32x4.add(summed(v128.load(sink + i)), sunk);
      down = f32x4.add(down, v128.shuffle<i32>(sunk, all, 0, 4, 5, 6));
      sunk = lastOf(all);
      v128.store(sink + i, zero);
    }
    down = f32x4.add(summed(down), fallen);
    fallen = lastOf(down);
    v128.store(to + i, f32x4.add(v128.load(sum + i), down));
  }
}

/** Writes what was drawn to both sides of a voice, 64 frames of which those before `from` are silent. */
export function pourSaws(rests: usize, ramped: bool, left: usize, right: usize, from: i32): void {
  findJumps();
  const sum = SUM + BLOCK;
  if (ramped) {
    addJumps(rests, true);
    pourSide(left, sum, FALL, SINK, true);
    pourSide(right, sum + SUM_SIDE, FALL + FALL_SIDE, SINK + FALL_SIDE, true);
  } else {
    addJumps(rests, false);
    pourSide(left, sum, FALL, SINK, false);
    pourSide(right, sum + SUM_SIDE, FALL + FALL_SIDE, SINK + FALL_SIDE, false);
    store<f32>(FALL, 0, ELSEWHERE << 2);
    store<f32>(FALL + FALL_SIDE, 0, ELSEWHERE << 2);
  }
  for (let i = 0; i < from; i++) {
    store<f32>(left + (<usize>i << 2), 0);
    store<f32>(right + (<usize>i << 2), 0);
  }
}
