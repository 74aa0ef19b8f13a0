import { cosCycles, dbToGain, exp, sinCycles } from "./portableMath";

/** Nothing leaves the engine above this true peak, in dB of full scale (common practice for files that are encoded later). */
export const CEILING_DB = -1;
/** What peaks are held to: a little less, as four points a sample may miss the top of a peak by a tenth of a dB. */
const CEILING = dbToGain(CEILING_DB - 0.2);
const LOOKAHEAD_SEC = 0.001;
const RELEASE_SEC = 0.08;
const TAPS = 16;
const HALF = TAPS / 2;
const PHASES = 4;

/** Windowed sinc for points a quarter, a half and three quarters between two samples (Hann window). */
const BETWEEN: readonly Float64Array[] = Array.from({ length: PHASES - 1 }, (_, p) => {
  const at = (p + 1) / PHASES;
  return Float64Array.from({ length: TAPS }, (_, t) => {
    const x = t - (HALF - 1) - at;
    const window = 0.5 + 0.5 * cosCycles(x / TAPS);
    return (window * sinCycles(x / 2)) / (Math.PI * x);
  });
});

/** How much higher than all samples around it a point between two can be at the most. */
const MOST = Math.max(...BETWEEN.map((b) => b.reduce((sum, c) => sum + Math.abs(c), 0)));

/**
 * A limiter for true peaks: samples and three points between each two (as ITU-R BS.1770 measures them, with a filter of
 * our own). It looks ahead about a millisecond, so that the gain has come down when a peak arrives, and recovers within
 * about 80 ms. Sound below the ceiling passes untouched, `delay` frames late.
 */
export class TruePeakLimiter {
  /** Frames by which the sound is late. */
  readonly delay: number;
  private readonly ahead: number;
  private readonly size: number;
  private readonly ringL: Float64Array;
  private readonly ringR: Float64Array;
  /** Gain that each frame needs, and the gain after recovery, whose mean over `ahead` frames is used. */
  private readonly needed: Float64Array;
  private readonly held: Float64Array;
  private heldSum = NaN;
  private recovered = 1;
  private write = 0;
  private slot = 0;
  /** Frames since one last needed less than full gain, and since a loud sample. */
  private calm = Infinity;
  private quiet = Infinity;
  private readonly recovery: number;
  private peakL = 0;
  private peakR = 0;
  /** Set when it had to act; the caller may reset it. */
  acted = false;

  constructor(sampleRate: number) {
    this.ahead = Math.max(8, Math.round(LOOKAHEAD_SEC * sampleRate));
    this.delay = this.ahead - 1 + HALF;
    this.size = this.delay + TAPS + 1;
    this.ringL = new Float64Array(this.size);
    this.ringR = new Float64Array(this.size);
    this.needed = new Float64Array(this.ahead).fill(1);
    this.held = new Float64Array(this.ahead).fill(1);
    this.heldSum = this.ahead;
    this.recovery = 1 - exp(-1 / (RELEASE_SEC * sampleRate));
  }

  /** Limits `count` frames into `outL` and `outR`. A sample that is not a number becomes silence. */
  process(left: Float64Array, right: Float64Array, count: number, outL: Float32Array, outR: Float32Array): void {
    let top = 0;
    for (let i = 0; i < count; i++) {
      const l = Math.abs(left[i]!);
      const r = Math.abs(right[i]!);
      if (l > this.peakL) this.peakL = l;
      if (r > this.peakR) this.peakR = r;
      // Not the same as the greater of both: a NaN shall be noticed.
      if (!(l <= top)) top = l;
      if (!(r <= top)) top = r;
    }
    const resting = this.quiet >= TAPS && this.calm > 3 * this.ahead && this.recovered === 1;
    if (top * MOST <= CEILING && resting) this.pass(left, right, count, outL, outR);
    else this.limit(left, right, count, outL, outR);
  }

  /** Sound too low to be limited goes through as it is. */
  private pass(left: Float64Array, right: Float64Array, count: number, outL: Float32Array, outR: Float32Array): void {
    const { ringL, ringR, size } = this;
    let { write } = this;
    let read = (write + size - this.delay) % size;
    for (let i = 0; i < count; i++) {
      ringL[write] = left[i]!;
      ringR[write] = right[i]!;
      outL[i] = ringL[read]!;
      outR[i] = ringR[read]!;
      if (++write === size) write = 0;
      if (++read === size) read = 0;
    }
    this.write = write;
    this.slot = (this.slot + count) % this.ahead;
  }

  private limit(left: Float64Array, right: Float64Array, count: number, outL: Float32Array, outR: Float32Array): void {
    const { ringL, ringR, size, needed, held, ahead } = this;
    for (let i = 0; i < count; i++) {
      // NaN and infinities fail this comparison; they must not reach a loudspeaker.
      const l = Math.abs(left[i]!) < 1e6 ? left[i]! : 0;
      const r = Math.abs(right[i]!) < 1e6 ? right[i]! : 0;
      const al = Math.abs(l);
      const ar = Math.abs(r);
      ringL[this.write] = l;
      ringR[this.write] = r;
      this.quiet = al * MOST > CEILING || ar * MOST > CEILING ? 0 : this.quiet + 1;
      let need = 1;
      if (this.quiet < TAPS) {
        const top = Math.max(this.truePeak(ringL), this.truePeak(ringR));
        if (top > CEILING) need = CEILING / top;
      }
      this.calm = need < 1 ? 0 : this.calm + 1;
      let gain = 1;
      if (this.calm <= ahead || this.recovered < 1) {
        const at = this.slot;
        needed[at] = need;
        let least = 1;
        for (let k = 0; k < ahead; k++) if (needed[k]! < least) least = needed[k]!;
        const risen = this.recovered + (1 - this.recovered) * this.recovery;
        this.recovered = least < risen ? least : risen > 0.999999 ? 1 : risen;
        gain = this.mean(at);
        this.acted = true;
      } else if (this.heldSum < ahead) {
        gain = this.mean(this.slot);
        if (this.calm > 3 * ahead) {
          held.fill(1);
          this.heldSum = ahead;
        }
      }
      const read = (this.write + size - this.delay) % size;
      outL[i] = ringL[read]! * gain;
      outR[i] = ringR[read]! * gain;
      if (++this.write === size) this.write = 0;
      if (++this.slot === ahead) this.slot = 0;
    }
  }

  /** The mean of the recovered gain over the look-ahead, with the newest value in place `at`. */
  private mean(at: number): number {
    this.heldSum += this.recovered - this.held[at]!;
    this.held[at] = this.recovered;
    return this.heldSum / this.ahead;
  }

  /** The highest of the sample in the middle of the filter and the three points behind it. */
  private truePeak(ring: Float64Array): number {
    const { size, write } = this;
    const first = (write + size - (TAPS - 1)) % size;
    let top = Math.abs(ring[(first + HALF - 1) % size]!);
    for (const taps of BETWEEN) {
      let sum = 0;
      let at = first;
      for (let t = 0; t < TAPS; t++) {
        sum += ring[at]! * taps[t]!;
        if (++at === size) at = 0;
      }
      const a = Math.abs(sum);
      if (a > top) top = a;
    }
    return top;
  }

  /** Peaks before limiting since the last call, written to `out[at]` and `out[at + 1]`. */
  takePeaks(out: Float32Array, at: number): void {
    out[at] = this.peakL;
    out[at + 1] = this.peakR;
    this.peakL = 0;
    this.peakR = 0;
  }
}
