import { cosCycles, dbToGain, exp, sinCycles } from "./portableMath";

/** Nothing leaves the engine above this true peak, in dB of full scale (common practice for files that are encoded later). */
export const CEILING_DB = -1;
/** What peaks are held to: a little less, as four points a sample may miss the top of a peak by a tenth of a dB. */
const CEILING = dbToGain(CEILING_DB - 0.2);
const LOOKAHEAD_SEC = 0.001;
const RELEASE_SEC = 0.08;
export const TAPS = 16;
const HALF = TAPS / 2;
/** Frames before those that are measured, which the filters reach back to. */
const BEFORE = TAPS - 1;
const PHASES = 4;

/** Windowed sincs for points a quarter, a half and three quarters between two samples (Hann window), one behind the other. */
export const BETWEEN = Float32Array.from({ length: (PHASES - 1) * TAPS }, (_, i) => {
  const at = (Math.floor(i / TAPS) + 1) / PHASES;
  const x = (i % TAPS) - (HALF - 1) - at;
  const window = 0.5 + 0.5 * cosCycles(x / TAPS);
  return (window * sinCycles(x / 2)) / (Math.PI * x);
});

/** How much higher than all samples around it a point between two can be at the most. */
const MOST = Math.max(
  ...[0, 1, 2].map((p) => BETWEEN.slice(p * TAPS, (p + 1) * TAPS).reduce((sum, c) => sum + Math.abs(c), 0)),
);

/** Where true peaks are measured. */
export interface PeakRoom {
  /** Frames that are measured at once, at the most. */
  readonly frames: number;
  /** A side each: `TAPS` - 1 frames that came before, then those that are measured. */
  readonly left: Float32Array;
  readonly right: Float32Array;
  /** The highest of both sides around each frame: the sample in the middle of the filters, and the points behind it. */
  readonly tops: Float32Array;
  measure(count: number): void;
}

/** NaN and infinities fail this comparison; they must not reach a loudspeaker. */
const audible = (x: number): number => (Math.abs(x) < 1e6 ? x : 0);

const aheadOf = (sampleRate: number): number => Math.max(8, Math.round(LOOKAHEAD_SEC * sampleRate));
/** Frames by which limited sound is late. */
export const delayOf = (sampleRate: number): number => aheadOf(sampleRate) - 1 + HALF;

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
  /**
   * Gains that frames needed, each lower than all that came after it within `ahead` frames, and the frames that needed them;
   * the first and the one behind the last. So the lowest is at hand.
   */
  private readonly needed: Float64Array;
  private readonly neededAt: Float64Array;
  private first = 0;
  private past = 0;
  private frame = 0;
  /** The gain after recovery, whose mean over `ahead` frames is used. */
  private readonly held: Float64Array;
  private heldSum = NaN;
  private readonly gains: Float64Array;
  private recovered = 1;
  private write = 0;
  private slot = 0;
  /** Frames since the gain was last below one, and since a block with a loud sample. */
  private calm = Infinity;
  private quiet = Infinity;
  private readonly recovery: number;
  private peakL = 0;
  private peakR = 0;
  /** Set when it had to act; the caller may reset it. */
  acted = false;

  constructor(
    sampleRate: number,
    private readonly room: PeakRoom,
  ) {
    this.ahead = aheadOf(sampleRate);
    this.delay = delayOf(sampleRate);
    this.size = this.delay + TAPS + 1;
    this.ringL = new Float64Array(this.size);
    this.ringR = new Float64Array(this.size);
    this.needed = new Float64Array(this.ahead + 1);
    this.neededAt = new Float64Array(this.ahead + 1);
    this.held = new Float64Array(this.ahead).fill(1);
    this.heldSum = this.ahead;
    this.gains = new Float64Array(room.frames);
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
      // A NaN stays one, and is not low.
      top = Math.max(top, l, r);
    }
    const resting = this.quiet >= TAPS && this.calm >= this.ahead;
    const low = top * MOST <= CEILING;
    this.quiet = low ? this.quiet + count : 0;
    if (low && resting) return this.pass(left, right, count, outL, outR);
    const { frames } = this.room;
    for (let from = 0; from < count; from += frames)
      this.limit(left, right, from, Math.min(count, from + frames), outL, outR);
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
  }

  private limit(left: Float64Array, right: Float64Array, from: number, to: number, outL: Float32Array, outR: Float32Array): void {
    const { ringL, ringR, size, gains } = this;
    this.measure(left, right, from, to);
    this.findGains(to - from);
    let { write } = this;
    let read = (write + size - this.delay) % size;
    for (let i = from; i < to; i++) {
      ringL[write] = audible(left[i]!);
      ringR[write] = audible(right[i]!);
      const gain = gains[i - from]!;
      outL[i] = ringL[read]! * gain;
      outR[i] = ringR[read]! * gain;
      if (++write === size) write = 0;
      if (++read === size) read = 0;
    }
    this.write = write;
  } // prettier-ignore

  /** Writes the gain at which each of the measured frames hands out what was ahead of it. */
  private findGains(count: number): void {
    const { gains, ahead } = this;
    const { tops } = this.room;
    let { calm, slot } = this;
    for (let i = 0; i < count; i++) {
      const least = this.least(CEILING / Math.max(tops[i]!, CEILING));
      const risen = this.recovered + (1 - this.recovered) * this.recovery;
      this.recovered = least < risen ? least : risen > 0.999999 ? 1 : risen;
      calm = this.recovered < 1 ? 0 : calm + 1;
      if (calm === 0) this.acted = true;
      gains[i] = this.mean(slot);
      if (++slot === ahead) slot = 0;
      this.frame++;
    }
    this.calm = calm;
    this.slot = slot;
  }

  /** Measures frames together with those that came before. */
  private measure(left: Float64Array, right: Float64Array, from: number, to: number): void {
    const { ringL, ringR, size, room } = this;
    let read = (this.write + size - BEFORE) % size;
    for (let t = 0; t < BEFORE; t++) {
      room.left[t] = ringL[read]!;
      room.right[t] = ringR[read]!;
      if (++read === size) read = 0;
    }
    for (let i = from; i < to; i++) {
      room.left[BEFORE + i - from] = audible(left[i]!);
      room.right[BEFORE + i - from] = audible(right[i]!);
    }
    room.measure(to - from);
  }

  /** Notes what this frame needs; the lowest that any of the last `ahead` frames needs. */
  private least(need: number): number {
    const { needed, neededAt, ahead } = this;
    const size = ahead + 1;
    while (this.first !== this.past && neededAt[this.first]! <= this.frame - ahead) this.first = (this.first + 1) % size;
    for (let last = (this.past + ahead) % size; this.first !== this.past && needed[last]! >= need; last = (this.past + ahead) % size) this.past = last;
    needed[this.past] = need;
    neededAt[this.past] = this.frame;
    this.past = (this.past + 1) % size;
    return needed[this.first]!;
  } // prettier-ignore

  /** The mean of the recovered gain over the look-ahead, with the newest value in place `at`. */
  private mean(at: number): number {
    this.heldSum += this.recovered - this.held[at]!;
    this.held[at] = this.recovered;
    return this.heldSum / this.ahead;
  }

  /** Peaks before limiting since the last call, written to `out[at]` and `out[at + 1]`. */
  takePeaks(out: Float32Array, at: number): void {
    out[at] = this.peakL;
    out[at + 1] = this.peakR;
    this.peakL = 0;
    this.peakR = 0;
  }
}
