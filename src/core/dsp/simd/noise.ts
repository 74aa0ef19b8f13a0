import { LANES, SEGMENT, exp2, panCosine, panSine } from "./common";

/** Bytes of a lane's noise: two states of chance; the values that are held and how much of a draw has gone by; filters. */
export const NOISE_LANE: usize = 8 + 16 + 8 + 64;

/** Starts a lane's noise from a seed that is not 0, with everything at rest. */
export function seedNoise(lane: usize, seedL: i32, seedR: i32): void {
  memory.fill(lane, 0, NOISE_LANE);
  store<i32>(lane, seedL);
  store<i32>(lane, seedR, 4);
  // The first value is drawn at once.
  store<f64>(lane, 1.0, 24);
}

/** The next of 2^32 - 1 numbers (Marsaglia, "Xorshift RNGs", 2003). */
// @ts-ignore: decorator
@inline
function draw(x: i32): i32 {
  x ^= x << 13;
  x ^= <i32>(<u32>x >> 17);
  return x ^ (x << 5);
}

/** One value of coloured noise from a white one; `at` holds seven float32 of memory. */
// @ts-ignore: decorator
@inline
function coloured(at: usize, colour: i32, white: f32): f32 {
  if (colour == 0) return white;
  if (colour == 2) {
    // A leaky sum: 6 dB an octave above some 20 Hz.
    const y = load<f32>(at) * <f32>0.9975 + white * <f32>0.0706;
    store<f32>(at, y);
    return y;
  }
  // Six one-poles that follow 3 dB an octave within a tenth of a decibel (P. Kellet's filter, from memory).
  const b0 = load<f32>(at) * <f32>0.99886 + white * <f32>0.0555179;
  const b1 = load<f32>(at, 4) * <f32>0.99332 + white * <f32>0.0750759;
  const b2 = load<f32>(at, 8) * <f32>0.969 + white * <f32>0.153852;
  const b3 = load<f32>(at, 12) * <f32>0.8665 + white * <f32>0.3104856;
  const b4 = load<f32>(at, 16) * <f32>0.55 + white * <f32>0.5329522;
  const b5 = load<f32>(at, 20) * <f32>-0.7616 - white * <f32>0.016898;
  const b6 = load<f32>(at, 24);
  store<f32>(at, b0); store<f32>(at, b1, 4); store<f32>(at, b2, 8); store<f32>(at, b3, 12); store<f32>(at, b4, 16); store<f32>(at, b5, 20);
  store<f32>(at, white * <f32>0.115926, 24);
  return b0 + b1 + b2 + b3 + b4 + b5 + b6 + white * <f32>0.5362;
}

/**
 * Plays noise for up to four voices into `scratch`, as `oscillate` does. Rows give width (0 to 100 %) and log2 of the draws
 * a second; `perSample` is log2 of the sample rate. A draw at that rate or above is one at every sample.
 */
export function noise(
  lanes: usize, colour: i32, gain: f32, perSample: f64,
  rows: usize, rowBytes: i32, widthAt: i32, rateAt: i32, segments: usize, segmentCount: i32, starts: usize, scratch: usize,
): void {
  memory.fill(scratch, 0, 2048);
  for (let v = 0; v < LANES; v++) {
    const start = load<i32>(starts + (<usize>v << 2));
    if (start < 0) continue;
    const lane = lanes + <usize>v * NOISE_LANE;
    const left = scratch + (<usize>v << 9);
    const right = left + 256;
    let a = load<i32>(lane), b = load<i32>(lane, 4);
    let heldA = load<f32>(lane, 8), heldB = load<f32>(lane, 12);
    let gone = load<f64>(lane, 24);
    for (let s = 0; s < segmentCount; s++) {
      const at = segments + <usize>s * SEGMENT;
      const to = load<i32>(at, 12);
      if (to <= start) continue;
      const from = max(start, load<i32>(at, 8));
      const end = rows + <usize>(load<i32>(at, 4) * rowBytes + (v << 3));
      const step = exp2(Math.min(0.0, load<f64>(end + rateAt) - perSample));
      // Half of the width each way between the middle and two noises of their own, with equal power.
      const angle = f32x4.splat(<f32>load<f64>(end + widthAt));
      const mid = f32x4.extract_lane(panCosine(angle), 0) * gain, side = f32x4.extract_lane(panSine(angle), 0) * gain;
      for (let i = from; i < to; i++) {
        gone += step;
        if (gone >= 1.0) {
          gone -= 1.0;
          a = draw(a);
          b = draw(b);
          heldA = <f32>a * <f32>4.656612873077393e-10;
          heldB = <f32>b * <f32>4.656612873077393e-10;
        }
        const m = coloured(lane + 32, colour, heldA), w = coloured(lane + 64, colour, heldB);
        const o = <usize>i << 2;
        store<f32>(left + o, mid * m + side * w);
        store<f32>(right + o, mid * m - side * w);
      }
    }
    store<i32>(lane, a);
    store<i32>(lane, b, 4);
    store<f32>(lane, heldA, 8);
    store<f32>(lane, heldB, 12);
    store<f64>(lane, gone, 24);
  }
}
