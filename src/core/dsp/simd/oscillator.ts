import { LANES, SEGMENT, exp2 } from "./common";
import { pourSaws } from "./jumps";
import { MOST_SEGMENTS } from "./sawRoom";
import { addSaws, beginSaws } from "./saws";
import { addStack } from "./stack";
import { GAINS, GAINS_END, LANE, RATIOS, RATIOS_END, gainsMove, intervalsOf, keep, setGains, setRatios, startGains } from "./unison";

/** Log2 of cycles a frame between which a saw is made of its jumps: above, they come so often that its table is faster. */
const HIGHEST: f64 = -6.33;
const LOWEST: f64 = -15.5;
/** Fewer saws, two of each pulse, are read from their table as fast. */
const FEWEST: i32 = 3;
/** Frames in which a pitch must not move by more than an octave for that. */
const STEEP: f64 = 320.0;
/** By how many percent a frame a width may move for that. */
const WIDENING: f64 = 0.02;

/**
 * How many keys a pitch may lie beside a straight line where segments are played as one, times 2^32 cycles a frame: what
 * lies between them over 64 frames is then 2^-23 of a turn at the most.
 */
const BESIDE: f64 = 512.0 / (64.0 * 0.5 * 0.057762265046662105);
/** Keys by which a pitch may move in such segments: the rise of a frequency is then as straight. */
const NEARBY: f64 = 0.03;

/** Octaves of a key. */
const PER_KEY: f64 = 1.0 / 12.0;
/** Octaves of a cent. */
const PER_CENT: f64 = 1.0 / 1200.0;

/**
 * Keeps the loudness of a pulse at that of a square: its power is 4 d (1 - d), with the mean taken out; narrow ones, whose
 * power lies where ears are keen, get a little less.
 */
// @ts-ignore: decorator
@inline
export function pulseScale(width: f64): f32 {
  const d = width / 100.0;
  const power = 4.0 * d * (1.0 - d);
  const lack = 1.0 - power;
  return <f32>((1.0 - 0.35 * lack * lack * lack) / Math.sqrt(power));
}

/** 2^x: of what hardly moves by a series of five terms, which is right to the last bits below a thousandth. */
// @ts-ignore: decorator
@inline
function nearlyOne(x: f64): f64 {
  if (Math.abs(x) > 0.001) return exp2(x);
  const y = x * 0.6931471805599453;
  const y2 = y * y;
  return 1.0 + y + y2 * (0.5 + y * 0.16666666666666666 + y2 * 0.041666666666666664);
}

/** Silences both sides of a voice. */
// @ts-ignore: decorator
@inline
function clearVoice(left: usize): void {
  const zero = i32x4.splat(0);
  for (let i: usize = 0; i < 512; i += 16) v128.store(left + i, zero);
}

/** How a voice's saws are made of their jumps in a block: not at all, with gains that stand still, or that move. */
const NOT: i32 = 0;
const STILL: i32 = 1;
const RAMPED: i32 = 2;

/** A block is if its pitch is neither too high nor too low, nothing moves too fast, and a pulse keeps its width. */
// @ts-ignore: decorator
@inline
function ofJumps(
  lane: usize, v: i32, start: i32, count: i32, stack: i32, log2Tuning: f64, rows: usize, rowBytes: i32,
  pitchAt: i32, detuneAt: i32, widthAt: i32, pulseAt: i32, segments: usize, segmentCount: i32,
): i32 {
  if (segmentCount > MOST_SEGMENTS) return NOT;
  const octave = count == 1 ? 0.0 : intervalsOf(stack) ? 1.0 : 0.0;
  let ramped = false;
  let row: usize = 0, pitch: f64 = 0, detune: f64 = 0, width: f64 = 0, hole: f64 = 0, from = start;
  for (let s = 0; s < segmentCount; s++) {
    const at = segments + <usize>s * SEGMENT;
    if (load<i32>(at, 12) <= start) continue;
    if (row == 0) {
      row = rows + <usize>(load<i32>(at) * rowBytes + (v << 3));
      pitch = load<f64>(row + pitchAt);
      detune = load<f64>(row + detuneAt);
      width = load<f64>(row + widthAt);
      hole = load<f64>(row + pulseAt);
      const log2 = pitch * PER_KEY + log2Tuning, far = count == 1 ? 0.0 : detune * PER_CENT;
      if (log2 + far + octave > HIGHEST || log2 - far < LOWEST) return NOT;
      startGains(lane + GAINS, count, width, stack);
      if (gainsMove(lane + GAINS, width, stack)) ramped = true;
    }
    // A corner of another voice is none of this one's.
    if (!(load<i32>(at, 16) & (1 << v)) && s + 1 < segmentCount) continue;
    const end = rows + <usize>(load<i32>(at, 4) * rowBytes + (v << 3));
    const to = load<i32>(at, 12);
    if (load<f64>(end + pulseAt) != hole) return NOT;
    const width1 = load<f64>(end + widthAt);
    if (width1 != width) {
      if (Math.abs(width1 - width) > WIDENING * <f64>(to - from)) return NOT;
      width = width1;
      ramped = true;
    }
    const pitch1 = load<f64>(end + pitchAt), detune1 = load<f64>(end + detuneAt);
    if (pitch1 != pitch || detune1 != detune) {
      const log2 = pitch1 * PER_KEY + log2Tuning, far = count == 1 ? 0.0 : detune1 * PER_CENT;
      if (log2 + far + octave > HIGHEST || log2 - far < LOWEST) return NOT;
      const turn = Math.abs(pitch1 - pitch) * PER_KEY + Math.abs(detune1 - detune) * PER_CENT;
      if (turn * STEEP > <f64>(to - from)) return NOT;
      pitch = pitch1;
      detune = detune1;
    }
    from = to;
  }
  return row == 0 ? NOT : ramped ? RAMPED : STILL;
}

/**
 * Plays the stacks of up to four voices into `scratch`, 64 frames of the left side and 64 of the right one a voice.
 * `levels` holds an address and log2 of the size for each of 31 tables, each with the harmonics of a third of an octave
 * more than the one before, and behind them where rests of steps are, or 0; `starts` the first frame of each lane, -1
 * where none sounds. Rows give MIDI key, detune (cents), width (%) and pulse width (%).
 */
export function oscillate(
  lanes: usize, count: i32, stack: i32, pulse: i32, gain: f32, levels: usize, log2Tuning: f64,
  rows: usize, rowBytes: i32, pitchAt: i32, detuneAt: i32, widthAt: i32, pulseAt: i32,
  segments: usize, segmentCount: i32, starts: usize, scratch: usize,
): void {
  const rests = <usize>load<i32>(levels, 248);
  for (let v = 0; v < LANES; v++) {
    const start = load<i32>(starts + (<usize>v << 2));
    const left = scratch + (<usize>v << 9);
    if (start < 0) {
      clearVoice(left);
      continue;
    }
    const lane = lanes + <usize>v * LANE;
    const right = left + 256;
    // Where one segment ends the next one starts.
    let knownLog2: f64 = NaN, knownInc: f64 = 0;
    const jumps = rests == 0 || (pulse ? 2 * count : count) < FEWEST ? NOT : ofJumps(lane, v, start, count, stack, log2Tuning, rows, rowBytes, pitchAt, detuneAt, widthAt, pulseAt, segments, segmentCount);
    if (jumps == NOT) clearVoice(left);
    else beginSaws();
    let s = 0;
    while (s < segmentCount) {
      let at = segments + <usize>s * SEGMENT;
      if (load<i32>(at, 12) <= start) {
        s++;
        continue;
      }
      const from = max(start, load<i32>(at, 8));
      // A corner of another voice is none of this one's.
      const first = at;
      while (!(load<i32>(at, 16) & (1 << v)) && s + 1 < segmentCount) {
        s++;
        at += SEGMENT;
      }
      const row = rows + <usize>(load<i32>(first) * rowBytes + (v << 3));
      let end = rows + <usize>(load<i32>(at, 4) * rowBytes + (v << 3));
      const pitch = load<f64>(row + pitchAt);
      const detune = load<f64>(row + detuneAt);
      const width = load<f64>(row + widthAt);
      const hole = load<f64>(row + pulseAt);
      let steady = load<f64>(end + pitchAt) == pitch && load<f64>(end + detuneAt) == detune && load<f64>(end + widthAt) == width && load<f64>(end + pulseAt) == hole;
      // Segments in which nothing moves are played in one go.
      while (steady && s + 1 < segmentCount) {
        const next = rows + <usize>(load<i32>(at + SEGMENT, 4) * rowBytes + (v << 3));
        if (load<f64>(next + pitchAt) != pitch || load<f64>(next + detuneAt) != detune || load<f64>(next + widthAt) != width || load<f64>(next + pulseAt) != hole) break;
        s++;
        at += SEGMENT;
        end = next;
      }
      // Above half the sample rate there is nothing to hear.
      const log2a = Math.min(-1.0, pitch * PER_KEY + log2Tuning);
      const inc0 = log2a == knownLog2 ? knownInc : exp2(log2a) * 4294967296.0;
      // So are those over which the pitch alone moves, and goes straight on; jumps are of pulses whose width stands.
      if (jumps != NOT && !steady && load<f64>(end + detuneAt) == detune && load<f64>(end + widthAt) == width) {
        // Of the lines from its start, those that pass each end so far near enough lie between a least and a greatest rise.
        const near = BESIDE / inc0;
        let least: f64 = -1e9, greatest: f64 = 1e9;
        while (s + 1 < segmentCount) {
          let n = s + 1;
          let last = at + SEGMENT;
          while (!(load<i32>(last, 16) & (1 << v)) && n + 1 < segmentCount) {
            n++;
            last += SEGMENT;
          }
          const next = rows + <usize>(load<i32>(last, 4) * rowBytes + (v << 3));
          const move = load<f64>(next + pitchAt) - pitch;
          if (Math.abs(move) > NEARBY || load<f64>(next + detuneAt) != detune || load<f64>(next + widthAt) != width) break;
          const passed = load<f64>(end + pitchAt) - pitch;
          const per = 1.0 / <f64>(load<i32>(at, 12) - from);
          least = Math.max(least, (passed - near) * per);
          greatest = Math.min(greatest, (passed + near) * per);
          const length = <f64>(load<i32>(last, 12) - from);
          if (move < least * length || move > greatest * length) break;
          s = n;
          at = last;
          end = next;
        }
      }
      s++;
      const to = load<i32>(at, 12);
      const log2b = Math.min(-1.0, load<f64>(end + pitchAt) * PER_KEY + log2Tuning);
      const detune1 = load<f64>(end + detuneAt);
      const width1 = load<f64>(end + widthAt);
      if (load<f64>(lane + RATIOS, 128) != detune) setRatios(lane + RATIOS, count, detune, stack);
      startGains(lane + GAINS, count, width, stack);
      let ratios1 = lane + RATIOS;
      let gains1 = lane + GAINS;
      if (detune1 != detune) {
        ratios1 = lane + RATIOS_END;
        setRatios(ratios1, count, detune1, stack);
      }
      if (gainsMove(lane + GAINS, width1, stack)) {
        gains1 = lane + GAINS_END;
        setGains(gains1, count, width1, stack);
      }
      const inc1 = log2a == log2b ? inc0 : inc0 * nearlyOne(log2b - log2a);
      knownLog2 = log2b;
      knownInc = inc1;
      if (jumps != NOT) {
        const scale = pulse ? gain * pulseScale(hole) : gain;
        const hollow = pulse ? <i32>(<i64>(hole * 42949672.96)) : 0;
        addSaws(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, scale, jumps == RAMPED, count, inc0, inc1, pulse != 0, hollow, from, to, s == segmentCount);
      } else {
        const top = Math.max(log2a, log2b) + (count == 1 ? 0 : Math.max(detune, detune1) * PER_CENT + (intervalsOf(stack) ? 1.0 : 0.0));
        const level = <i32>Math.max(0, Math.min(30, Math.ceil(30.0 + 3.0 * (top + 1.0))));
        const table = <usize>load<i32>(levels + (<usize>level << 3));
        const bits = load<i32>(levels + (<usize>level << 3), 4);
        if (pulse) {
          // The difference of two saws that are a pulse width apart.
          const hole1 = load<f64>(end + pulseAt);
          const scale0 = gain * pulseScale(hole);
          const scale1 = gain * pulseScale(hole1);
          const w0 = <i32>(<i64>(hole * 42949672.96));
          const w1 = <i32>(<i64>(hole1 * 42949672.96));
          addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, table, bits, w0, w1, scale0, scale1, false, left, right, from, to);
          addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, table, bits, 0, 0, -scale0, -scale1, true, left, right, from, to);
        } else {
          addStack(lane, lane + RATIOS, ratios1, lane + GAINS, gains1, count, inc0, inc1, table, bits, 0, 0, gain, gain, true, left, right, from, to);
        }
      }
      if (detune1 != detune) keep(lane + RATIOS, lane + RATIOS_END);
      if (gains1 != lane + GAINS) keep(lane + GAINS, lane + GAINS_END);
    }
    if (jumps != NOT) pourSaws(rests, jumps == RAMPED, left, right, start);
  }
}
