// Oscillators whose wave is bent, or whose phase is turned by another sound: four voices side by side, at four times the
// sample rate. First the phase is bent, then the wave is read, then its value is bent.
import { MIRROR, NONE, SYNC, bendPhase, bendValue, haste } from "./bends";
import { LANES, SEGMENT, exp2 } from "./common";
import { frame0, frame1, frameLevel, levelBits, locate, spread, waveAt, weight0, weight1 } from "./frames";
import { down, downWide } from "./halfband";
import { pulseScale } from "./oscillator";
import { GAINS, GAINS_END, LANE, RATIOS, RATIOS_END, intervalsOf, keep, setGains, setRatios, startGains } from "./unison";

/**
 * What an oscillator is, in the heap: table; whether it holds four corners; stack size; its intervals; both bends; the inner
 * modulator's frame of `plain` waves (-1 none); whether it has a frequency of its own; addresses of the taps that turn the
 * phase and ring (0 none); the table of plain waves; whether two of its saws make a pulse; then the offsets of what rows give
 * (-1 none), in the order of their names here.
 */
const TABLE: usize = 0;
const SQUARE: usize = 4;
const COUNT: usize = 8;
const STACK: usize = 12;
const BEND1: usize = 16;
const BEND2: usize = 20;
const INNER: usize = 24;
const INNER_OWN: usize = 28;
const PM_TAP: usize = 32;
const RING_TAP: usize = 36;
const PLAIN: usize = 40;
const IS_PULSE: usize = 44;
const AT_PITCH: usize = 48;
const AT_DETUNE: usize = 52;
const AT_WIDTH: usize = 56;
const AT_HOLE: usize = 60;
const AT_PLACE: usize = 64;
const AT_PLACE_Y: usize = 68;
const AT_BEND1: usize = 72;
const AT_BEND2: usize = 76;
const AT_PM: usize = 80;
const AT_INNER: usize = 84;
const AT_RATIO: usize = 88;
const AT_RING: usize = 92;
const AT_FEEDBACK: usize = 96;
/** What brings the wave to full scale before its value is bent. */
const FULL: usize = 100;
export const BENT_SPEC: usize = FULL + 12;

/**
 * A group's memory. A vector a voice of the stack: phase, phase of the inner modulator, the last two values, what both
 * bends of the value remember, the last phase as read, and the value that waits for its corner to be smoothed. Then the taps'
 * last frames, what brings the rate down, and four lanes of ratios and gains.
 */
const PHASE: usize = 0;
const INNER_PHASE: usize = 256;
const VALUE1: usize = 512;
const VALUE2: usize = 768;
const BENT1: usize = 1024;
const BENT2: usize = 1280;
/** Each of them takes two more, as far apart. */
const READ: usize = 2560;
const WAITING: usize = 2816;
const TAPS: usize = 3072;
const RATE: usize = 3104;
const STACKS: usize = 3104 + 416;
export const GROUP: usize = STACKS + 4 * LANE;

/** Room: four waves a lane at the start and at the end, and of `plain`; what the segment's stacks are; both sides' sums. */
const ROOM: usize = 8200 * 4;
const WAVES: usize = 8 * ROOM;
const INCREMENTS: usize = WAVES;
const SLOPES: usize = WAVES + 256;
const INNERS: usize = WAVES + 512;
const LEFTS: usize = WAVES + 768;
const LEFT_STEPS: usize = WAVES + 1024;
const RIGHTS: usize = WAVES + 1280;
const RIGHT_STEPS: usize = WAVES + 1536;
/** What the two waves of each lane hold where they were blended of four corners: both places and the level. */
const HELD: usize = WAVES + 1792;
const SUMS: usize = HELD + 4 * 48;
export const BENT_ROOM: usize = SUMS + 8192;

/** log2 of the harmonics' limit, as a share of the sample rate: what folds at four times the rate stays far above. */
const LIMIT: f64 = 0;
const PER_TURN: f32 = <f32>0.15915494309189535;
const CYCLE: f32 = <f32>4294967296.0;
const PER_CYCLE: f32 = <f32>2.3283064365386963e-10;
const PER_CYCLE_24: f32 = <f32>5.960464477539063e-8;

/** Starts a lane: phases are the caller's, the rest is silent. */
export function clearBentLane(group: usize, lane: i32): void {
  const o = <usize>lane << 2;
  for (let i: usize = VALUE1; i < READ; i += 16) store<f32>(group + i + o, 0);
  for (let u: usize = 0; u < 256; u += 16) {
    store<i32>(group + READ + u + o, load<i32>(group + PHASE + u + o));
    store<f32>(group + WAITING + u + o, 0);
  }
  for (let i: usize = TAPS; i < STACKS; i += 16) store<f32>(group + i + o, 0);
}

/** Makes every lane of a group work its stack out anew: it has another size. */
export function resetBent(group: usize): void {
  for (let v: usize = 0; v < 4; v++) {
    const lane = group + STACKS + v * LANE;
    store<f64>(lane + RATIOS, NaN, 128);
    store<f64>(lane + RATIOS_END, NaN, 128);
    store<f64>(lane + GAINS, NaN, 128);
    store<f64>(lane + GAINS_END, NaN, 128);
  }
}

/** A row's value of a lane; `given` where `at` is -1. */
// @ts-ignore: decorator
@inline
function rowValue(row: usize, at: i32, given: f64): f64 {
  return at < 0 ? given : load<f64>(row + at);
}

/** Four lanes of a row. */
// @ts-ignore: decorator
@inline
function rowLanes(row: usize, at: i32, given: f32): v128 {
  if (at < 0) return f32x4.splat(given);
  return v128.shuffle<f32>(f32x4.demote_f64x2_zero(v128.load(row + at)), f32x4.demote_f64x2_zero(v128.load(row + at, 16)), 0, 1, 4, 5);
}

/** Values of four lanes' waves at phases of 0 to 1, by straight lines. */
// @ts-ignore: decorator
@inline
function read4(waves: v128, sizes: v128, p: v128): v128 {
  const x = f32x4.mul(p, sizes);
  const index = i32x4.trunc_sat_f32x4_s(x);
  const at = i32x4.add(waves, i32x4.shl(index, 2));
  const p01 = v128.load64_lane(<usize>i32x4.extract_lane(at, 1), v128.load64_zero(<usize>i32x4.extract_lane(at, 0)), 1);
  const p23 = v128.load64_lane(<usize>i32x4.extract_lane(at, 3), v128.load64_zero(<usize>i32x4.extract_lane(at, 2)), 1);
  const a = v128.shuffle<f32>(p01, p23, 0, 2, 4, 6);
  const b = v128.shuffle<f32>(p01, p23, 1, 3, 5, 7);
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), f32x4.sub(x, f32x4.convert_i32x4_s(index))));
}

/** Both bends of the phase, and the wave there. */
// @ts-ignore: decorator
@inline
function valueAt(type1: i32, type2: i32, p: v128, a1: v128, a2: v128, waves: v128, ends: v128, moved: bool, weight: v128, other: v128, sizes: v128): v128 {
  let x = p;
  if (type1 != NONE && type1 < MIRROR) x = bendPhase(type1, x, a1);
  if (type2 != NONE && type2 < MIRROR) x = bendPhase(type2, x, a2);
  let y = readWave(waves, ends, moved, weight, other, sizes, x);
  if (type1 == MIRROR || type2 == MIRROR) {
    const back = f32x4.sub(f32x4.splat(1), f32x4.abs(f32x4.sub(f32x4.add(x, x), f32x4.splat(1))));
    const z = readWave(waves, ends, moved, weight, other, sizes, back);
    y = f32x4.add(y, f32x4.mul(type1 == MIRROR ? a1 : a2, f32x4.sub(z, y)));
  }
  return y;
}

// @ts-ignore: decorator
@inline
function readWave(waves: v128, ends: v128, moved: bool, weight: v128, other: v128, sizes: v128, p: v128): v128 {
  const y = read4(waves, sizes, p);
  if (!moved) return y;
  return f32x4.add(f32x4.mul(weight, y), f32x4.mul(other, read4(ends, sizes, p)));
}

/** Cycles, 0 to less than 1: of the upper 24 bits, for all 32 would be rounded up to 1. */
// @ts-ignore: decorator
@inline
function unsigned(q: v128): v128 {
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_u(q, 8)), f32x4.splat(PER_CYCLE_24));
}

/** Phases of 2^32 a cycle from cycles of any size. */
// @ts-ignore: decorator
@inline
function turned(cycles: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(cycles, f32x4.nearest(cycles)), f32x4.splat(CYCLE)));
}

/** Plays stacks of up to four voices into `scratch` (64 frames of the left side and 64 of the right one a voice). */
export function oscillateBent(
  spec: usize, group: usize, room: usize, gain: f32, log2Tuning: f64, rows: usize, rowBytes: i32, segments: usize, segmentCount: i32,
  starts: usize, scratch: usize,
): void {
  const sums = room + SUMS;
  memory.fill(sums, 0, 8192);
  for (let i: usize = 0; i < 4 * 48; i += 24) store<f64>(room + HELD + i, NaN);
  for (let s = 0; s < segmentCount; s++) bentSegment(spec, group, room, gain, log2Tuning, rows, rowBytes, segments + <usize>s * SEGMENT, starts);
  // Down to the sample rate, and each voice to where it is poured from.
  for (let side: usize = 0; side < 2; side++) {
    const own = group + RATE + side * 208;
    const from = sums + side * 4096;
    for (let i: usize = 0; i < 64; i += 4) {
      const at = from + (i << 6);
      const a = quarter(own, at), b = quarter(own, at + 64), c = quarter(own, at + 128), d = quarter(own, at + 192);
      spread(scratch + (side << 8) + (i << 2), a, b, c, d);
    }
  }
  for (let i: usize = RATE; i < STACKS; i += 16) {
    const x = v128.load(group + i);
    v128.store(group + i, v128.and(x, f32x4.gt(f32x4.abs(x), f32x4.splat(<f32>1e-15))));
  }
}

// @ts-ignore: decorator
@inline
function quarter(own: usize, at: usize): v128 {
  const a = downWide(own, v128.load(at), v128.load(at, 16));
  return down(own + 80, a, downWide(own, v128.load(at, 32), v128.load(at, 48)));
}

function bentSegment(spec: usize, group: usize, room: usize, gain: f32, log2Tuning: f64, rows: usize, rowBytes: i32, segment: usize, starts: usize): void {
  const from = load<i32>(segment, 8), to = load<i32>(segment, 12);
  const row = rows + <usize>(load<i32>(segment) * rowBytes), end = rows + <usize>(load<i32>(segment, 4) * rowBytes);
  const count = load<i32>(spec + COUNT), stack = load<i32>(spec + STACK);
  const type1 = load<i32>(spec + BEND1), type2 = load<i32>(spec + BEND2);
  const table = <usize>load<i32>(spec + TABLE), square = load<i32>(spec + SQUARE) != 0;
  const plain = <usize>load<i32>(spec + PLAIN), inner = load<i32>(spec + INNER);
  const length = (to - from) << 2;
  const perFrame = 1.0 / <f64>length;
  let waves = i32x4.splat(0), ends = waves, sizes = f32x4.splat(1024), innerWaves = waves, innerSizes = sizes;
  let moved = false;
  let weights = f32x4.splat(1), weightSteps = f32x4.splat(0), others = weightSteps, otherSteps = weightSteps;
  let sounding = i32x4.splat(0);
  for (let v = 0; v < LANES; v++) {
    const start = load<i32>(starts + (<usize>v << 2));
    const o = <usize>v << 2;
    const sounds = start >= 0 && start < to;
    if (!sounds) {
      for (let u = 0; u < count; u++) {
        const at = room + (<usize>u << 4) + o;
        store<i32>(at + INCREMENTS, 0);
        store<i32>(at + SLOPES, 0);
        store<i32>(at + INNERS, 0);
        store<f32>(at + LEFTS, 0);
        store<f32>(at + LEFT_STEPS, 0);
        store<f32>(at + RIGHTS, 0);
        store<f32>(at + RIGHT_STEPS, 0);
      }
      // It reads something: any wave will do.
      const any = load<i32>(table, 8) + load<i32>(table, 16 + 72);
      const anyPlain = load<i32>(plain, 8) + load<i32>(plain, 16 + 72);
      waves = lane(waves, v, any);
      ends = lane(ends, v, any);
      innerWaves = lane(innerWaves, v, anyPlain);
      continue;
    }
    sounding = lane(sounding, v, -1);
    const r = row + (<usize>v << 3), e = end + (<usize>v << 3);
    const own = group + STACKS + <usize>v * LANE;
    const log2a = Math.min(-1.0, load<f64>(r + load<i32>(spec + AT_PITCH)) / 12.0 + log2Tuning);
    const log2b = Math.min(-1.0, load<f64>(e + load<i32>(spec + AT_PITCH)) / 12.0 + log2Tuning);
    const detune = load<f64>(r + load<i32>(spec + AT_DETUNE)), detune1 = load<f64>(e + load<i32>(spec + AT_DETUNE));
    const width = load<f64>(r + load<i32>(spec + AT_WIDTH)), width1 = load<f64>(e + load<i32>(spec + AT_WIDTH));
    setRatios(own + RATIOS, count, detune, stack);
    setRatios(own + RATIOS_END, count, detune1, stack);
    startGains(own + GAINS, count, width, stack);
    setGains(own + GAINS_END, count, width1, stack);
    const inc0 = exp2(log2a) * 1073741824.0, inc1 = exp2(log2b) * 1073741824.0;
    const ratio0 = rowValue(r, load<i32>(spec + AT_RATIO), 0), ratio1 = rowValue(e, load<i32>(spec + AT_RATIO), 0);
    const fixed = load<i32>(spec + INNER_OWN) != 0;
    // Rows give log2 of a ratio, or of Hz: the tuning is log2 of cycles a sample for key 0, that is 8.1758 Hz.
    const innerLog2 = fixed ? ratio1 + log2Tuning - 3.0313597135 : 0;
    const innerInc = fixed ? exp2(Math.min(-1.0, innerLog2)) * 1073741824.0 : 0;
    const ratio = fixed ? 0 : exp2(0.5 * (ratio0 + ratio1));
    // A pulse keeps its loudness; what else is read is level already.
    const hole = load<i32>(spec + IS_PULSE) ? pulseScale(0.5 * (load<f64>(r + load<i32>(spec + AT_HOLE)) + load<f64>(e + load<i32>(spec + AT_HOLE)))) : <f32>1;
    for (let u = 0; u < count; u++) {
      const at = room + (<usize>u << 4) + o;
      const a = inc0 * load<f64>(own + RATIOS + (<usize>u << 3)), b = inc1 * load<f64>(own + RATIOS_END + (<usize>u << 3));
      store<i32>(at + INCREMENTS, <i32>(<i64>a));
      store<i32>(at + SLOPES, <i32>((b - a) * perFrame));
      store<i32>(at + INNERS, <i32>(<i64>(fixed ? innerInc : Math.min(2147483647.0, 0.5 * (a + b) * ratio))));
      const g = gain * hole;
      const l0 = g * load<f32>(own + GAINS + (<usize>u << 2)), l1 = g * load<f32>(own + GAINS_END + (<usize>u << 2));
      const r0 = g * load<f32>(own + GAINS + (<usize>u << 2), 64), r1 = g * load<f32>(own + GAINS_END + (<usize>u << 2), 64);
      store<f32>(at + LEFTS, l0);
      store<f32>(at + LEFT_STEPS, (l1 - l0) * <f32>perFrame);
      store<f32>(at + RIGHTS, r0);
      store<f32>(at + RIGHT_STEPS, (r1 - r0) * <f32>perFrame);
    }
    keep(own + GAINS, own + GAINS_END);
    const b1 = 0.01 * Math.max(rowValue(r, load<i32>(spec + AT_BEND1), 0), rowValue(e, load<i32>(spec + AT_BEND1), 0));
    const b2 = 0.01 * Math.max(rowValue(r, load<i32>(spec + AT_BEND2), 0), rowValue(e, load<i32>(spec + AT_BEND2), 0));
    const turning = 0.7 * (Math.abs(rowValue(e, load<i32>(spec + AT_PM), 0)) + Math.abs(rowValue(e, load<i32>(spec + AT_INNER), 0)) * (fixed ? 1 : Math.max(1.0, ratio)));
    const faster = haste(type1, b1) * haste(type2, b2) * (1.0 + turning);
    const top = Math.max(log2a, log2b) + (count == 1 ? 0 : Math.max(detune, detune1) / 1200.0 + (intervalsOf(stack) ? 1.0 : 0.0));
    const level = frameLevel(top + Math.log2(faster), LIMIT);
    const x0 = rowValue(r, load<i32>(spec + AT_PLACE), 0), x1 = rowValue(e, load<i32>(spec + AT_PLACE), 0);
    const y0 = rowValue(r, load<i32>(spec + AT_PLACE_Y), 0), y1 = rowValue(e, load<i32>(spec + AT_PLACE_Y), 0);
    let wave: usize = 0, ending: usize = 0;
    let w0: f32 = 1, w1: f32 = 1, e0: f32 = 0, e1: f32 = 0;
    if (square) {
      // Of a place that moves, the wave at the end of a segment is the one at the start of the next.
      wave = cornerWave(room, v, table, level, x0, y0, 0);
      ending = wave;
      if (x0 != x1 || y0 != y1) {
        ending = cornerWave(room, v, table, level, x1, y1, wave);
        w1 = 0;
        e1 = 1;
      }
    } else {
      locate(table, level, x0);
      wave = frame0;
      ending = frame1;
      w0 = weight0;
      e0 = weight1;
      locate(table, level, x1);
      if (frame0 == wave && (frame1 == ending || ending == wave)) {
        ending = frame1;
        w1 = weight0;
        e1 = weight1;
      } else {
        // It passes a frame: from the wave at the start to that at the end.
        wave = waveAt(table, level, x0, 0, false, room + <usize>(2 * v) * ROOM);
        ending = waveAt(table, level, x1, 0, false, room + <usize>(2 * v + 1) * ROOM);
        w0 = 1;
        w1 = 0;
        e0 = 0;
        e1 = 1;
      }
    }
    if (e0 != 0 || e1 != 0) moved = true;
    weights = laneF(weights, v, w0);
    weightSteps = laneF(weightSteps, v, (w1 - w0) * <f32>perFrame);
    others = laneF(others, v, e0);
    otherSteps = laneF(otherSteps, v, (e1 - e0) * <f32>perFrame);
    waves = lane(waves, v, <i32>wave);
    ends = lane(ends, v, <i32>ending);
    sizes = f32x4.convert_i32x4_s(lane(i32x4.trunc_sat_f32x4_s(sizes), v, 1 << levelBits(table, level)));
    if (inner >= 0) {
      const innerTop = fixed ? innerLog2 : top + Math.log2(ratio);
      const innerLevel = frameLevel(innerTop, LIMIT);
      innerWaves = lane(innerWaves, v, <i32>waveAt(plain, innerLevel, <f64>inner * 33.333333333333336, 0, false, 0));
      innerSizes = f32x4.convert_i32x4_s(lane(i32x4.trunc_sat_f32x4_s(innerSizes), v, 1 << levelBits(plain, innerLevel)));
    }
  }
  if (!v128.any_true(sounding)) return;
  const hundredth = f32x4.splat(<f32>0.01), one = f32x4.splat(1), zero = f32x4.splat(0);
  const per = f32x4.splat(<f32>perFrame);
  const turn = f32x4.splat(PER_TURN);
  const at1 = load<i32>(spec + AT_BEND1), at2 = load<i32>(spec + AT_BEND2);
  const a10 = bounded(f32x4.mul(hundredth, rowLanes(row, at1, 0))), a20 = bounded(f32x4.mul(hundredth, rowLanes(row, at2, 0)));
  const a11 = f32x4.mul(per, f32x4.sub(bounded(f32x4.mul(hundredth, rowLanes(end, at1, 0))), a10));
  const a21 = f32x4.mul(per, f32x4.sub(bounded(f32x4.mul(hundredth, rowLanes(end, at2, 0))), a20));
  const pm0 = f32x4.mul(turn, rowLanes(row, load<i32>(spec + AT_PM), 0));
  const pm1 = f32x4.mul(per, f32x4.sub(f32x4.mul(turn, rowLanes(end, load<i32>(spec + AT_PM), 0)), pm0));
  // Plain waves are as loud as a saw: a sine of theirs reaches sqrt(2/3), and is brought to 1.
  const full = f32x4.splat(PER_TURN * <f32>1.224744871391589);
  const in0 = f32x4.mul(full, rowLanes(row, load<i32>(spec + AT_INNER), 0));
  const in1 = f32x4.mul(per, f32x4.sub(f32x4.mul(full, rowLanes(end, load<i32>(spec + AT_INNER), 0)), in0));
  const fb0 = f32x4.mul(f32x4.splat(PER_TURN * <f32>0.5), rowLanes(row, load<i32>(spec + AT_FEEDBACK), 0));
  const fb1 = f32x4.mul(per, f32x4.sub(f32x4.mul(f32x4.splat(PER_TURN * <f32>0.5), rowLanes(end, load<i32>(spec + AT_FEEDBACK), 0)), fb0));
  const ring0 = f32x4.mul(hundredth, rowLanes(row, load<i32>(spec + AT_RING), 0));
  const ring1 = f32x4.mul(per, f32x4.sub(f32x4.mul(hundredth, rowLanes(end, load<i32>(spec + AT_RING), 0)), ring0));
  const pmTap = <usize>load<i32>(spec + PM_TAP), ringTap = <usize>load<i32>(spec + RING_TAP);
  const turns = pmTap != 0 && load<i32>(spec + AT_PM) >= 0, rings = ringTap != 0 && load<i32>(spec + AT_RING) >= 0;
  const inners = inner >= 0 && load<i32>(spec + AT_INNER) >= 0, feeds = load<i32>(spec + AT_FEEDBACK) >= 0;
  const pulse = load<i32>(spec + IS_PULSE) != 0;
  const holeShare = f32x4.mul(hundredth, rowLanes(row, load<i32>(spec + AT_HOLE), 50));
  const holeStep = f32x4.mul(per, f32x4.sub(f32x4.mul(hundredth, rowLanes(end, load<i32>(spec + AT_HOLE), 50)), holeShare));
  const scale = f32x4.splat(load<f32>(spec + FULL));
  const syncs = type1 == SYNC || type2 == SYNC;
  const almost = f32x4.splat(<f32>0.99999994);
  const sums = room + SUMS;
  for (let u = 0; u < count; u++) {
    const o = <usize>u << 4;
    let phase = v128.load(group + PHASE + o), innerPhase = v128.load(group + INNER_PHASE + o);
    let increment = v128.load(room + INCREMENTS + o);
    const slope = v128.load(room + SLOPES + o), innerStep = v128.load(room + INNERS + o);
    let l = v128.load(room + LEFTS + o), r = v128.load(room + RIGHTS + o);
    const dl = v128.load(room + LEFT_STEPS + o), dr = v128.load(room + RIGHT_STEPS + o);
    let y1 = v128.load(group + VALUE1 + o), y2 = v128.load(group + VALUE2 + o);
    let before = v128.load(group + READ + o), waiting = v128.load(group + WAITING + o);
    // Bringing the rate down delays a sound by 2 x 3.187 + 2.112 + 1 frames: the wave is read nine and a half ahead.
    let ahead = i32x4.add(i32x4.mul(increment, i32x4.splat(9)), i32x4.shr_s(increment, 1));
    const aheadStep = i32x4.add(i32x4.mul(slope, i32x4.splat(9)), i32x4.shr_s(slope, 1));
    let a1 = a10, a2 = a20, pm = pm0, amount = in0, fb = fb0, ring = ring0, hole = holeShare, weight = weights, other = others;
    let pmLast = v128.load(group + TAPS), ringLast = v128.load(group + TAPS, 16);
    for (let i = 0; i < length; i++) {
      a1 = f32x4.add(a1, a11);
      a2 = f32x4.add(a2, a21);
      weight = f32x4.add(weight, weightSteps);
      other = f32x4.add(other, otherSteps);
      const frame = from + (i >> 2);
      const within = f32x4.splat(<f32>((i & 3) + 1) * <f32>0.25);
      let q = i32x4.add(phase, ahead);
      ahead = i32x4.add(ahead, aheadStep);
      let cycles = zero;
      if (turns) {
        pm = f32x4.add(pm, pm1);
        const next = v128.load(pmTap + (<usize>frame << 4));
        cycles = f32x4.mul(pm, f32x4.add(pmLast, f32x4.mul(within, f32x4.sub(next, pmLast))));
        if ((i & 3) == 3) pmLast = next;
      }
      if (inners) {
        amount = f32x4.add(amount, in1);
        cycles = f32x4.add(cycles, f32x4.mul(amount, read4(innerWaves, innerSizes, unsigned(innerPhase))));
        innerPhase = i32x4.add(innerPhase, innerStep);
      }
      if (feeds) {
        fb = f32x4.add(fb, fb1);
        cycles = f32x4.add(cycles, f32x4.mul(fb, f32x4.add(y1, y2)));
      }
      if (turns || inners || feeds) q = i32x4.add(q, turned(cycles));
      const p = unsigned(q);
      let y = valueAt(type1, type2, p, a1, a2, waves, ends, moved, weight, other, sizes);
      if (pulse) {
        hole = f32x4.add(hole, holeStep);
        const behind = f32x4.sub(p, hole);
        y = f32x4.sub(y, valueAt(type1, type2, f32x4.sub(behind, f32x4.floor(behind)), a1, a2, waves, ends, moved, weight, other, sizes));
      }
      if (syncs) {
        // Where the cycle begins anew the wave jumps: the corner is smoothed over two frames (two-point polynomial).
        const passed = i32x4.sub(q, before);
        const wraps = v128.xor(lessThan(q, before), i32x4.lt_s(passed, i32x4.splat(0)));
        if (v128.any_true(wraps) && !pulse) {
          const forward = i32x4.gt_s(passed, i32x4.splat(0));
          const length1 = f32x4.mul(f32x4.convert_i32x4_s(passed), f32x4.splat(PER_CYCLE));
          // A phase that stands has no length: what that would be is no number, and stays out of the lanes that do not wrap.
          const share = f32x4.div(v128.bitselect(p, f32x4.sub(p, one), forward), length1);
          const since = f32x4.min(f32x4.max(v128.and(wraps, share), zero), one);
          const last = valueAt(type1, type2, almost, a1, a2, waves, ends, moved, weight, other, sizes);
          const first = valueAt(type1, type2, zero, a1, a2, waves, ends, moved, weight, other, sizes);
          const jump = v128.and(wraps, v128.bitselect(f32x4.sub(first, last), f32x4.sub(last, first), forward));
          const left = f32x4.sub(one, since), half = f32x4.splat(0.5);
          waiting = f32x4.add(waiting, f32x4.mul(jump, f32x4.mul(half, f32x4.mul(since, since))));
          y = f32x4.sub(y, f32x4.mul(jump, f32x4.mul(half, f32x4.mul(left, left))));
        }
        before = q;
        const now = waiting;
        waiting = y;
        y = now;
      }
      y = f32x4.mul(y, scale);
      y = bendValue(type1, y, a1, group + BENT1 + o);
      y = bendValue(type2, y, a2, group + BENT2 + o);
      y2 = y1;
      y1 = y;
      if (rings) {
        ring = f32x4.add(ring, ring1);
        const next = v128.load(ringTap + (<usize>frame << 4));
        const m = f32x4.add(ringLast, f32x4.mul(within, f32x4.sub(next, ringLast)));
        if ((i & 3) == 3) ringLast = next;
        y = f32x4.add(y, f32x4.mul(ring, f32x4.sub(f32x4.mul(y, m), y)));
      }
      l = f32x4.add(l, dl);
      r = f32x4.add(r, dr);
      const at = sums + (<usize>((from << 2) + i) << 4);
      v128.store(at, f32x4.add(v128.load(at), f32x4.mul(y, l)));
      v128.store(at, f32x4.add(v128.load(at, 4096), f32x4.mul(y, r)), 4096);
      phase = i32x4.add(phase, increment);
      increment = i32x4.add(increment, slope);
    }
    v128.store(group + PHASE + o, phase);
    v128.store(group + INNER_PHASE + o, innerPhase);
    v128.store(group + VALUE1 + o, v128.and(y1, sounding));
    v128.store(group + VALUE2 + o, v128.and(y2, sounding));
    v128.store(group + READ + o, before);
    v128.store(group + WAITING + o, v128.and(waiting, sounding));
    // What a bend remembers of a lane that waits is not where its voice sets out from: that is silence, as it is alone.
    if (!i32x4.all_true(sounding)) for (let m = BENT1 + o; m < READ; m += 256) v128.store(group + m, v128.and(v128.load(group + m), sounding));
  }
  if (turns) v128.store(group + TAPS, v128.load(pmTap + (<usize>(to - 1) << 4)));
  if (rings) v128.store(group + TAPS, v128.load(ringTap + (<usize>(to - 1) << 4)), 16);
}

/** The wave between four corners: one that a lane holds already, or blended in its room that is not `kept`. */
function cornerWave(room: usize, v: i32, table: usize, level: i32, x: f64, y: f64, kept: usize): usize {
  for (let slot = 0; slot < 2; slot++) {
    const held = room + HELD + <usize>(v * 48 + slot * 24);
    if (load<f64>(held) == x && load<f64>(held, 8) == y && load<i32>(held, 16) == level) return room + <usize>(2 * v + slot) * ROOM;
  }
  const slot = kept == room + <usize>(2 * v) * ROOM ? 1 : 0;
  const held = room + HELD + <usize>(v * 48 + slot * 24);
  store<f64>(held, x);
  store<f64>(held, y, 8);
  store<i32>(held, level, 16);
  return waveAt(table, level, x, y, true, room + <usize>(2 * v + slot) * ROOM);
}

// @ts-ignore: decorator
@inline
function laneF(x: v128, v: i32, value: f32): v128 {
  if (v == 0) return f32x4.replace_lane(x, 0, value);
  if (v == 1) return f32x4.replace_lane(x, 1, value);
  if (v == 2) return f32x4.replace_lane(x, 2, value);
  return f32x4.replace_lane(x, 3, value);
}

// @ts-ignore: decorator
@inline
function bounded(x: v128): v128 {
  return f32x4.max(f32x4.min(x, f32x4.splat(1)), f32x4.splat(0));
}

/** Unsigned comparison. */
// @ts-ignore: decorator
@inline
function lessThan(a: v128, b: v128): v128 {
  return i32x4.lt_u(a, b);
}

// @ts-ignore: decorator
@inline
function lane(x: v128, v: i32, value: i32): v128 {
  if (v == 0) return i32x4.replace_lane(x, 0, value);
  if (v == 1) return i32x4.replace_lane(x, 1, value);
  if (v == 2) return i32x4.replace_lane(x, 2, value);
  return i32x4.replace_lane(x, 3, value);
}
