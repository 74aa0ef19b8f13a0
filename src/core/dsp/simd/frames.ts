// Oscillators that read wave tables of several frames at twice the sample rate, and what they share with those whose wave
// is bent (bent.ts): a table at a position, level by level, made of the frames beside it.
import { LANES, SEGMENT, exp2 } from "./common";
import { down } from "./halfband";
import { addStack } from "./stack";
import { GAINS, GAINS_END, LANE, RATIOS, RATIOS_END, gainsMove, intervalsOf, keep, setGains, setRatios, startGains } from "./unison";

/**
 * A table of frames in the heap: how many, bytes of each, the first one's address, the address of how alike they are; then
 * for each of its ten levels the bytes to it within a frame and log2 of its size. Of how alike frames are there is one
 * number a frame, its correlation with the next one; or, for four waves at the corners of a square, all sixteen.
 */
const LEVELS_AT: usize = 16;
/** Room for the largest level and its guard, twice. */
const ROOM: usize = 8200 * 4;
/** Behind both: the sums of both sides at twice the rate. */
const WIDE: usize = 4096;
export const FRAMES_ROOM: usize = 2 * ROOM + WIDE;
/** What halves the rate of a group. */
export const HALVES_GROUP: usize = 256;

/** The level with the harmonics that stay below `limit` (log2 of a share of the sample rate) at log2 of cycles a sample. */
export function frameLevel(top: f64, limit: f64): i32 {
  return <i32>Math.max(0, Math.min(9, Math.ceil(9.0 + top - limit)));
}

export function levelBits(table: usize, level: i32): i32 {
  return load<i32>(table + LEVELS_AT + (<usize>level << 3), 4);
}

/** What `locate` and `weigh` found: the frames on both sides of a place, and how much of each; four at the corners of a square. */
export let frame0: usize = 0;
export let frame1: usize = 0;
let frame2: usize = 0;
let frame3: usize = 0;
export let weight0: f32 = 0;
export let weight1: f32 = 0;
let weight2: f32 = 0;
let weight3: f32 = 0;

/** Finds the frames beside a place of 0 to 100 % and their weights; the second has none where the place is on the first. */
export function locate(table: usize, level: i32, x: f64): void {
  const frames = load<i32>(table);
  const bytes = load<i32>(table, 4);
  const place = Math.max(0, Math.min(100, x)) * 0.01 * <f64>(frames - 1);
  const i = min(<i32>place, frames - 1);
  const b = i == frames - 1 ? <f32>0 : <f32>(place - <f64>i);
  frame0 = <usize>load<i32>(table, 8) + load<i32>(table + LEVELS_AT + (<usize>level << 3)) + <usize>(i * bytes);
  frame1 = frame0 + bytes;
  if (b < <f32>1e-5) {
    frame1 = frame0;
    weight0 = 1;
    weight1 = 0;
    return;
  }
  const a = <f32>1.0 - b;
  // As loud between two frames as on them: what two sounds add up to depends on how alike they are.
  const alike = load<f32>(<usize>load<i32>(table, 12) + (<usize>i << 2));
  const gain = <f32>1.0 / sqrt<f32>(max<f32>(<f32>0.05, a * a + b * b + <f32>2.0 * a * b * alike));
  weight0 = a * gain;
  weight1 = b * gain;
}

/** Address of a level of the wave at a place: the frame itself where it stands on one, else made in `out`. */
export function waveAt(table: usize, level: i32, x: f64, y: f64, square: bool, out: usize): usize {
  const count = (1 << levelBits(table, level)) + 1;
  if (square) {
    weigh(table, level, x, y);
    blendCorners(count, out);
    return out;
  }
  locate(table, level, x);
  if (frame1 == frame0) return frame0;
  const wa = f32x4.splat(weight0), wb = f32x4.splat(weight1);
  for (let k: usize = 0; k < <usize>count << 2; k += 16) v128.store(out + k, f32x4.add(f32x4.mul(v128.load(frame0 + k), wa), f32x4.mul(v128.load(frame1 + k), wb)));
  return out;
}

/** Finds the four corners of a square and their weights at two places of 0 to 100 %. */
function weigh(table: usize, level: i32, x: f64, y: f64): void {
  const bytes = load<i32>(table, 4);
  const alike = <usize>load<i32>(table, 12);
  frame0 = <usize>load<i32>(table, 8) + load<i32>(table + LEVELS_AT + (<usize>level << 3));
  frame1 = frame0 + bytes;
  frame2 = frame1 + bytes;
  frame3 = frame2 + bytes;
  const right = <f32>(Math.max(0, Math.min(100, x)) * 0.01), up = <f32>(Math.max(0, Math.min(100, y)) * 0.01);
  const a = (<f32>1 - right) * (<f32>1 - up), b = right * (<f32>1 - up), c = (<f32>1 - right) * up, d = right * up;
  let power: f32 = 0;
  for (let i = 0; i < 4; i++)
    for (let j = 0; j < 4; j++) {
      const wi = i == 0 ? a : i == 1 ? b : i == 2 ? c : d;
      const wj = j == 0 ? a : j == 1 ? b : j == 2 ? c : d;
      power += wi * wj * load<f32>(alike + (<usize>(4 * i + j) << 2));
    }
  const gain = <f32>1.0 / sqrt<f32>(max<f32>(<f32>0.05, power));
  weight0 = a * gain;
  weight1 = b * gain;
  weight2 = c * gain;
  weight3 = d * gain;
}

function blendCorners(count: i32, out: usize): void {
  const wa = f32x4.splat(weight0), wb = f32x4.splat(weight1), wc = f32x4.splat(weight2), wd = f32x4.splat(weight3);
  for (let k: usize = 0; k < <usize>count << 2; k += 16) {
    const low = f32x4.add(f32x4.mul(v128.load(frame0 + k), wa), f32x4.mul(v128.load(frame1 + k), wb));
    const high = f32x4.add(f32x4.mul(v128.load(frame2 + k), wc), f32x4.mul(v128.load(frame3 + k), wd));
    v128.store(out + k, f32x4.add(low, high));
  }
}

/** log2 of the harmonics' limit at twice the rate: what lies above it and folds back stays above 20 kHz. */
const LIMIT: f64 = -0.26;
/** Frames by which halving the rate delays a sound, at the doubled rate: the wave is read that much ahead. */
const DELAY: f64 = 3.187;

/**
 * Plays stacks of up to four voices that read a table of frames into `scratch` (64 frames of the left side and 64 of the
 * right one a voice). Rows give MIDI key, detune (cents), width (%), and the positions (%) of the table; `placeYAt` is -1
 * where frames lie in a row, otherwise they are four corners. `halves` is memory of 256 bytes for the group, `room` for two
 * waves and four voices at the doubled rate.
 */
export function oscillateFrames(
  lanes: usize, halves: usize, room: usize, count: i32, stack: i32, table: usize, log2Tuning: f64, rows: usize, rowBytes: i32,
  pitchAt: i32, detuneAt: i32, widthAt: i32, placeAt: i32, placeYAt: i32, segments: usize, segmentCount: i32, starts: usize, scratch: usize,
): void {
  const square = placeYAt >= 0;
  const wide = room + 2 * ROOM;
  memory.fill(wide, 0, WIDE);
  for (let v = 0; v < LANES; v++) {
    const start = load<i32>(starts + (<usize>v << 2));
    if (start < 0) continue;
    const lane = lanes + <usize>v * LANE;
    const left = wide + (<usize>v << 10);
    const right = left + 512;
    let s = 0;
    while (s < segmentCount) {
      let at = segments + <usize>s * SEGMENT;
      if (load<i32>(at, 12) <= start) {
        s++;
        continue;
      }
      const from = max(start, load<i32>(at, 8));
      const first = at;
      // A corner of another voice is none of this one's.
      while (!(load<i32>(at, 16) & (1 << v)) && s + 1 < segmentCount) {
        s++;
        at += SEGMENT;
      }
      const row = rows + <usize>(load<i32>(first) * rowBytes + (v << 3));
      let end = rows + <usize>(load<i32>(at, 4) * rowBytes + (v << 3));
      const pitch = load<f64>(row + pitchAt), detune = load<f64>(row + detuneAt), width = load<f64>(row + widthAt);
      const x = load<f64>(row + placeAt), y = square ? load<f64>(row + placeYAt) : 0;
      while (s + 1 < segmentCount && stands(end, pitch, pitchAt, detune, detuneAt, width, widthAt, x, placeAt, y, placeYAt)) {
        const next = rows + <usize>(load<i32>(at + SEGMENT, 4) * rowBytes + (v << 3));
        if (!stands(next, pitch, pitchAt, detune, detuneAt, width, widthAt, x, placeAt, y, placeYAt)) break;
        s++;
        at += SEGMENT;
        end = next;
      }
      s++;
      const to = load<i32>(at, 12);
      const log2a = Math.min(-1.0, pitch / 12.0 + log2Tuning), log2b = Math.min(-1.0, load<f64>(end + pitchAt) / 12.0 + log2Tuning);
      const detune1 = load<f64>(end + detuneAt), width1 = load<f64>(end + widthAt);
      const x1 = load<f64>(end + placeAt), y1 = square ? load<f64>(end + placeYAt) : 0;
      setRatios(lane + RATIOS, count, detune, stack);
      startGains(lane + GAINS, count, width, stack);
      let ratios1 = lane + RATIOS, gains1 = lane + GAINS;
      if (detune1 != detune) {
        ratios1 = lane + RATIOS_END;
        setRatios(ratios1, count, detune1, stack);
      }
      if (gainsMove(lane + GAINS, width1, stack)) {
        gains1 = lane + GAINS_END;
        setGains(gains1, count, width1, stack);
      }
      const level = frameLevel(Math.max(log2a, log2b) + (count == 1 ? 0 : Math.max(detune, detune1) / 1200.0 + (intervalsOf(stack) ? 1.0 : 0.0)), LIMIT);
      const bits = levelBits(table, level);
      const inc0 = exp2(log2a) * 2147483648.0;
      const inc1 = log2a == log2b ? inc0 : exp2(log2b) * 2147483648.0;
      const ahead0 = -<i32>(<i64>(inc0 * DELAY)), ahead1 = -<i32>(<i64>(inc1 * DELAY));
      const still = x == x1 && y == y1;
      if (still && (square || count > 4)) {
        // Many voices read a wave that is blended once.
        const wave = waveAt(table, level, x, y, square, room);
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, wave, bits, ahead0, ahead1, 1, 1, true, left, right, from << 1, to << 1);
      } else if (square) {
        weigh(table, level, x, y);
        const a = weight0, b = weight1, c = weight2, d = weight3;
        weigh(table, level, x1, y1);
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, frame0, bits, ahead0, ahead1, a, weight0, false, left, right, from << 1, to << 1);
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, frame1, bits, ahead0, ahead1, b, weight1, false, left, right, from << 1, to << 1);
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, frame2, bits, ahead0, ahead1, c, weight2, false, left, right, from << 1, to << 1);
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, frame3, bits, ahead0, ahead1, d, weight3, true, left, right, from << 1, to << 1);
      } else {
        locate(table, level, x);
        const a = frame0, b = frame1, wa = weight0, wb = weight1;
        if (!still) locate(table, level, x1);
        // Each frame goes straight from what it had at the start to what it has at the end.
        const endA = frame0 == a ? weight0 : frame1 == a ? weight1 : <f32>0;
        const endB = b == a ? <f32>0 : frame0 == b ? weight0 : frame1 == b ? weight1 : <f32>0;
        addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, a, bits, ahead0, ahead1, wa, endA, false, left, right, from << 1, to << 1);
        if (b != a) addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, b, bits, ahead0, ahead1, wb, endB, false, left, right, from << 1, to << 1);
        if (frame0 != a && frame0 != b) addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, frame0, bits, ahead0, ahead1, 0, weight0, false, left, right, from << 1, to << 1);
        if (frame1 != frame0 && frame1 != a && frame1 != b) addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, frame1, bits, ahead0, ahead1, 0, weight1, false, left, right, from << 1, to << 1);
        moveOn(lane, count, inc0, inc1, lane + RATIOS, ratios1, (to - from) << 1);
      }
      if (detune1 != detune) keep(lane + RATIOS, lane + RATIOS_END);
      if (gains1 != lane + GAINS) keep(lane + GAINS, lane + GAINS_END);
    }
  }
  halve(wide, halves, scratch);
}

/** Moves the phases of a stack on, as `addStack` does where it is told to. */
function moveOn(lane: usize, count: i32, inc0: f64, inc1: f64, ratios0: usize, ratios1: usize, length: i32): void {
  const glide = ratios0 != ratios1 || inc0 != inc1;
  const grown = (length * (length - 1)) >> 1;
  for (let u = 0; u < count; u++) {
    const first = inc0 * load<f64>(ratios0 + (<usize>u << 3));
    const inc = <i32>(<i64>first);
    const slope = glide ? <i32>(<i64>((inc1 * load<f64>(ratios1 + (<usize>u << 3)) - first) / <f64>length)) : 0;
    const at = lane + (<usize>u << 2);
    store<i32>(at, load<i32>(at) + inc * length + slope * grown);
  }
}

// @ts-ignore: decorator
@inline
function stands(
  row: usize, pitch: f64, pitchAt: i32, detune: f64, detuneAt: i32, width: f64, widthAt: i32, x: f64, placeAt: i32, y: f64, placeYAt: i32,
): bool {
  return load<f64>(row + pitchAt) == pitch && load<f64>(row + detuneAt) == detune && load<f64>(row + widthAt) == width && load<f64>(row + placeAt) == x && (placeYAt < 0 || load<f64>(row + placeYAt) == y);
}

/** Four frames of four voices, `apart` bytes from each other, turned into four vectors of lanes; and back. */
// @ts-ignore: decorator
@inline
function laneOf(a: v128, b: v128, c: v128, d: v128, frame: i32): v128 {
  if (frame == 0) return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 0, 4, 0, 4), v128.shuffle<f32>(c, d, 0, 4, 0, 4), 0, 1, 4, 5);
  if (frame == 1) return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 1, 5, 1, 5), v128.shuffle<f32>(c, d, 1, 5, 1, 5), 0, 1, 4, 5);
  if (frame == 2) return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 2, 6, 2, 6), v128.shuffle<f32>(c, d, 2, 6, 2, 6), 0, 1, 4, 5);
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 3, 7, 3, 7), v128.shuffle<f32>(c, d, 3, 7, 3, 7), 0, 1, 4, 5);
}

/** Brings four voices of 128 frames a side to 64: memory of 128 bytes a side. */
function halve(wide: usize, halves: usize, scratch: usize): void {
  for (let side: usize = 0; side < 2; side++) {
    const own = halves + (side << 7);
    for (let i: usize = 0; i < 128; i += 8) {
      const from = wide + (side << 9) + (i << 2);
      const to = scratch + (side << 8) + (i << 1);
      let p = v128.load(from), q = v128.load(from, 1024), r = v128.load(from, 2048), t = v128.load(from, 3072);
      const a = down(own, laneOf(p, q, r, t, 0), laneOf(p, q, r, t, 1));
      const b = down(own, laneOf(p, q, r, t, 2), laneOf(p, q, r, t, 3));
      p = v128.load(from, 16); q = v128.load(from, 1040); r = v128.load(from, 2064); t = v128.load(from, 3088);
      const c = down(own, laneOf(p, q, r, t, 0), laneOf(p, q, r, t, 1));
      const d = down(own, laneOf(p, q, r, t, 2), laneOf(p, q, r, t, 3));
      spread(to, a, b, c, d);
    }
    for (let i: usize = 0; i < 128; i += 16) {
      const x = v128.load(own + i);
      v128.store(own + i, v128.and(x, f32x4.gt(f32x4.abs(x), f32x4.splat(<f32>1e-15))));
    }
  }
}

/** Four frames of four lanes to where each voice has its own, 512 bytes apart. */
// @ts-ignore: decorator
@inline
export function spread(to: usize, a: v128, b: v128, c: v128, d: v128): void {
  v128.store(to, laneOf(a, b, c, d, 0));
  v128.store(to, laneOf(a, b, c, d, 1), 512);
  v128.store(to, laneOf(a, b, c, d, 2), 1024);
  v128.store(to, laneOf(a, b, c, d, 3), 1536);
}

/** Silences a lane of the memory that halves the rate, for a note that starts. */
export function clearHalves(halves: usize, lane: i32): void {
  for (let i: usize = 0; i < HALVES_GROUP; i += 16) store<f32>(halves + i + (<usize>lane << 2), 0);
}

/** What other sources hear of one that played into `scratch`: both sides' mean, scaled, 64 frames of four lanes. */
export function tapSource(scratch: usize, tap: usize, scale: f32): void {
  const half = f32x4.splat(<f32>0.5 * scale);
  for (let i: usize = 0; i < 64; i += 4) {
    const l = scratch + (i << 2), r = l + 256;
    const a = f32x4.mul(half, f32x4.add(v128.load(l), v128.load(r)));
    const b = f32x4.mul(half, f32x4.add(v128.load(l, 512), v128.load(r, 512)));
    const c = f32x4.mul(half, f32x4.add(v128.load(l, 1024), v128.load(r, 1024)));
    const d = f32x4.mul(half, f32x4.add(v128.load(l, 1536), v128.load(r, 1536)));
    const to = tap + (i << 4);
    v128.store(to, laneOf(a, b, c, d, 0));
    v128.store(to, laneOf(a, b, c, d, 1), 16);
    v128.store(to, laneOf(a, b, c, d, 2), 32);
    v128.store(to, laneOf(a, b, c, d, 3), 48);
  }
}
