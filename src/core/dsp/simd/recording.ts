import { LANES, SEGMENT, exp2 } from "./common";

/** A lane: where it reads (float64, frames of the recording), how far into the recording a note is to start (a share of it), whether it has begun, whether it is over, frames since it began. */
export const LANE: usize = 32;
/** A description of a recording, as heap.ts writes it: channels, levels, taps, then of each level left, right, frames. */
const FIRST_LEVEL: usize = 16;
const LEVEL: usize = 12;
/** Rows of the taps: 16 weights and 16 differences. */
const TAP_ROW: usize = 128;
/** Cut ends fade over so many frames of the output. */
const EDGE: f64 = 64.0;
const LEAST_TURN: f64 = 32.0;

/** Lets a lane start anew; `further` is a share of the recording that is added to where it starts. */
export function beginRecording(lane: usize, further: f64): void {
  store<f64>(lane, 0.0);
  store<f64>(lane, further, 8);
  store<i32>(lane, 0, 16);
  store<i32>(lane, 0, 20);
  store<f64>(lane, 0.0, 24);
}

/** A value between samples: `at` is the first of the 16 around it, `row` the taps of its place, `part` how far it is to the next. */
// @ts-ignore: decorator
@inline
function between(at: usize, row: usize, part: v128): f32 {
  let a = f32x4.mul(v128.load(at), f32x4.add(v128.load(row), f32x4.mul(part, v128.load(row, 64))));
  let b = f32x4.mul(v128.load(at, 16), f32x4.add(v128.load(row, 16), f32x4.mul(part, v128.load(row, 80))));
  a = f32x4.add(a, f32x4.mul(v128.load(at, 32), f32x4.add(v128.load(row, 32), f32x4.mul(part, v128.load(row, 96)))));
  b = f32x4.add(b, f32x4.mul(v128.load(at, 48), f32x4.add(v128.load(row, 48), f32x4.mul(part, v128.load(row, 112)))));
  a = f32x4.add(a, b);
  return f32x4.extract_lane(a, 0) + f32x4.extract_lane(a, 1) + (f32x4.extract_lane(a, 2) + f32x4.extract_lane(a, 3));
}

/** What `read` found on both sides. */
let readL: f32 = 0;
let readR: f32 = 0;

/** Reads both sides of a level at a place in its own frames. */
// @ts-ignore: decorator
@inline
function read(left: usize, right: usize, taps: usize, frames: f64, place: f64): void {
  const whole = Math.floor(max(0.0, min(place, frames)));
  const x = (place - whole) * 256.0;
  const phase = <i32>min(255.0, max(0.0, x));
  const part = f32x4.splat(<f32>(x - <f64>phase));
  const row = taps + <usize>phase * TAP_ROW;
  // The value lies between the eighth and the ninth.
  const offset = (<isize>whole - 7) << 2;
  readL = between(left + offset, row, part);
  readR = left == right ? readL : between(right + offset, row, part);
}

/**
 * Plays a recording for up to four voices into `scratch`, as `oscillate` does. Rows give the MIDI key (`log2Root` turns it
 * into log2 of frames of the recording a sample), where it starts, where it ends and where a loop goes back to (0 to 100 %
 * of it), and over how many ms the loop's ends are blended. With `loops` it goes round from its end, else it is then silent.
 */
export function playRecording(
  lanes: usize, about: usize, loops: i32, log2Root: f64, gain: f32, framesPerMs: f64, rows: usize, rowBytes: i32, pitchAt: i32,
  fromAt: i32, toAt: i32, backAt: i32, seamAt: i32, segments: usize, segmentCount: i32, starts: usize, scratch: usize,
): void {
  memory.fill(scratch, 0, 2048);
  const levels = load<i32>(about, 4);
  const taps = <usize>load<u32>(about, 8);
  const whole = <f64>load<i32>(about + FIRST_LEVEL, 8);
  for (let v = 0; v < LANES; v++) {
    const start = load<i32>(starts + (<usize>v << 2));
    if (start < 0) continue;
    const lane = lanes + <usize>v * LANE;
    if (load<i32>(lane, 20)) continue;
    const outL = scratch + (<usize>v << 9);
    const outR = outL + 256;
    let place = load<f64>(lane);
    let since = load<f64>(lane, 24);
    let over = false;
    for (let s = 0; s < segmentCount && !over; s++) {
      const at = segments + <usize>s * SEGMENT;
      const to = load<i32>(at, 12);
      if (to <= start) continue;
      const from = max(start, load<i32>(at, 8));
      const a = rows + <usize>(load<i32>(at) * rowBytes + (v << 3));
      const b = rows + <usize>(load<i32>(at, 4) * rowBytes + (v << 3));
      if (!load<i32>(lane, 16)) {
        store<i32>(lane, 1, 16);
        place = whole * min(1.0, load<f64>(b + fromAt) * 0.01 + load<f64>(lane, 8));
        // What begins in the middle of a sound fades in.
        since = place > 0.0 ? 0.0 : EDGE;
      }
      const log2b = load<f64>(b + pitchAt) / 12.0 + log2Root;
      const stepB = exp2(log2b);
      const stepA = exp2(load<f64>(a + pitchAt) / 12.0 + log2Root);
      const grow = (stepB - stepA) / <f64>(to - load<i32>(at, 8));
      let step = stepA + grow * <f64>(from - load<i32>(at, 8));
      const level = min(levels - 1, max(0, <i32>Math.floor(log2b + 0.5)));
      const entry = about + FIRST_LEVEL + <usize>level * LEVEL;
      const left = <usize>load<u32>(entry), right = <usize>load<u32>(entry, 4);
      const frames = <f64>load<i32>(entry, 8);
      const down = exp2(-<f64>level);
      const end = max(1.0, whole * load<f64>(b + toAt) * 0.01);
      const back = max(0.0, min(whole * load<f64>(b + backAt) * 0.01, end - LEAST_TURN));
      const turn = end - back;
      // The blend reaches no further back than the recording does, and over half of the loop at the most.
      const seam = loops ? min(load<f64>(b + seamAt) * framesPerMs, min(turn * 0.5, back)) : 0.0;
      for (let i = from; i < to; i++) {
        if (place >= end) {
          if (!loops) { over = true; break; }
          place = back + (place - end) % turn;
        }
        read(left, right, taps, frames, place * down);
        let l = readL, r = readR;
        const left_ = end - place;
        if (left_ < seam) {
          const share = <f32>(1.0 - left_ / seam);
          read(left, right, taps, frames, (place - turn) * down);
          l += (readL - l) * share;
          r += (readR - r) * share;
        } else if (!loops && left_ < EDGE * step && end < whole) {
          const share = <f32>(left_ / (EDGE * step));
          l *= share;
          r *= share;
        }
        let g = gain;
        if (since < EDGE) {
          g *= <f32>((since + 1.0) / EDGE);
          since += 1.0;
        }
        store<f32>(outL + (<usize>i << 2), l * g);
        store<f32>(outR + (<usize>i << 2), r * g);
        step += grow;
        place += step;
      }
    }
    store<f64>(lane, place);
    store<f64>(lane, since, 24);
    if (over) store<i32>(lane, 1, 20);
  }
}
