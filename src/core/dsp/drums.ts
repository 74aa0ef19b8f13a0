import { exp, sinCycles, tanPi } from "./portableMath";

/** Synthetic drums, as is common practice: a sine whose pitch falls, and noise through a filter. Each stroke of one is alike. */

const LN_1000 = 6.907755278982137;
/** What a stroke that falls by 60 dB in so many seconds keeps of its level in a frame. */
const keepOf = (sec: number, sampleRate: number): number => exp(-LN_1000 / (sec * sampleRate));
/** What is left of that each frame where it falls faster and faster, as a Gaussian does: without a corner that clicks. */
const fadeOf = (sec: number, sampleRate: number): number => exp((-2 * LN_1000) / (sec * sampleRate) ** 2);

/** A stroke that is struck again falls so fast that it does not click: by 60 dB in so many seconds. */
const HUSHED_SEC = 0.008;
/** And one that is stopped, in so many. */
const STOPPED_SEC = 0.08;
/** -100 dB: nothing is left. */
const SILENT = 1e-5;

/** One stroke, at most, that rings. */
export abstract class Stroke {
  protected level = 0;
  protected keep = 0;
  /** 1 while it rings on. */
  protected fade = 1;
  private readonly hushed: number;
  private readonly stopped: number;

  constructor(protected readonly sampleRate: number) {
    this.hushed = fadeOf(HUSHED_SEC, sampleRate);
    this.stopped = fadeOf(STOPPED_SEC, sampleRate);
  }

  get sounding(): boolean {
    return this.level > SILENT;
  }

  /** Begins with the next frame, so loud, falling by 60 dB in `decaySec`. */
  strike(gain: number, decaySec: number): void {
    this.level = gain;
    this.keep = keepOf(decaySec, this.sampleRate);
    this.fade = 1;
    this.begin();
  }

  /** Falls silent, too fast to be heard and too slow to click. */
  hush(): void {
    this.fall(this.hushed);
  }

  /** Falls silent as a note does that is let go. */
  stop(): void {
    this.fall(this.stopped);
  }

  private fall(fade: number): void {
    if (fade < this.fade) this.fade = fade;
    this.hushing();
  }

  /** Adds what rings over [from, to) of both sides. */
  abstract mix(left: Float64Array, right: Float64Array, from: number, to: number): void;
  protected abstract begin(): void;
  protected hushing(): void {
    // Most have nothing else that lasts.
  }
}

/** By how much a kick starts above its pitch, and in how many seconds a third of that is left. */
const SWEEP = 5;
const SWEEP_SEC = 0.018;

/** A sine that falls from six times its pitch. */
export class Kick extends Stroke {
  hz = 50;
  private phase = 0;
  private sweep = 0;
  private readonly keepSweep: number;

  constructor(sampleRate: number) {
    super(sampleRate);
    this.keepSweep = exp(-1 / (SWEEP_SEC * sampleRate));
  }

  protected override begin(): void {
    this.phase = 0;
    this.sweep = SWEEP;
  }

  override mix(left: Float64Array, right: Float64Array, from: number, to: number): void {
    let { level, keep, phase, sweep } = this;
    const { fade, keepSweep } = this;
    const step = this.hz / this.sampleRate;
    // Half-way between two samples the pitch lies in the middle of theirs.
    const middle = (1 + keepSweep) / 2;
    for (let i = from; i < to && level > SILENT; i++) {
      const x = level * sinCycles(phase);
      left[i] = left[i]! + x;
      right[i] = right[i]! + x;
      phase += step * (1 + middle * sweep);
      sweep *= keepSweep;
      level *= keep;
      keep *= fade;
    }
    this.level = level;
    this.keep = keep;
    this.phase = phase;
    this.sweep = sweep;
  }
}

/** Constants of a linear congruential generator of 32 bits (Numerical Recipes, "quick and dirty"). */
const FACTOR = 1_664_525;
const OFFSET = 1_013_904_223;
const TO_UNIT = 1 / 0x8000_0000;
/** Noise has the same level in a band at any sample rate. */
const DENSITY_HZ = 48_000;

/** Noise through a two-pole filter in trapezoidal form (Zavalishin, The Art of VA Filter Design). */
abstract class NoiseStroke extends Stroke {
  private noise = 0;
  private s1 = 0;
  private s2 = 0;
  private readonly g: number;
  private readonly a: number;
  private readonly gain: number;

  constructor(
    sampleRate: number,
    hz: number,
    /** 1 / Q. */
    private readonly damping: number,
    /** Shares of the band-pass and of the high-pass. */
    private readonly band: number,
    private readonly high: number,
  ) {
    super(sampleRate);
    this.g = tanPi(Math.min(0.45, hz / sampleRate));
    this.a = 1 / (1 + this.g * (this.g + damping));
    this.gain = Math.sqrt(sampleRate / DENSITY_HZ) * TO_UNIT;
  }

  protected override begin(): void {
    this.noise = 1;
    this.s1 = 0;
    this.s2 = 0;
  }

  protected filtered(left: Float64Array, right: Float64Array, from: number, to: number): void {
    let { noise, s1, s2, level, keep } = this;
    const { g, a, damping, band, high, gain, fade } = this;
    for (let i = from; i < to && level > SILENT; i++) {
      noise = (Math.imul(noise, FACTOR) + OFFSET) | 0;
      const x = noise * gain;
      const v1 = a * (s1 + g * (x - s2));
      const v2 = s2 + g * v1;
      s1 = 2 * v1 - s1;
      s2 = 2 * v2 - s2;
      const y = level * (band * v1 + high * (x - damping * v1 - v2));
      left[i] = left[i]! + y;
      right[i] = right[i]! + y;
      level *= keep;
      keep *= fade;
    }
    this.noise = noise;
    this.s1 = s1;
    this.s2 = s2;
    this.level = level;
    this.keep = keep;
  }
}

const HAT_HZ = 8000;
/** Without resonance (Butterworth). */
const HAT_DAMPING = Math.SQRT2;
const HAT_GAIN = 0.6;

/** High-passed noise. */
export class Hat extends NoiseStroke {
  constructor(sampleRate: number) {
    super(sampleRate, HAT_HZ, HAT_DAMPING, 0, HAT_GAIN);
  }

  override mix(left: Float64Array, right: Float64Array, from: number, to: number): void {
    this.filtered(left, right, from, to);
  }
}

const CLAP_HZ = 1250;
const CLAP_DAMPING = 1 / 1.5;
const CLAP_GAIN = 4 * CLAP_DAMPING;
/** Hands that meet one after the other: so many times before the last, so far apart, each falling by 60 dB in that time. */
const HANDS = 3;
const HANDS_APART_SEC = 0.009;
const HAND_SEC = 0.024;

/** Band-passed noise, struck four times. */
export class Clap extends NoiseStroke {
  private full = 0;
  private tail = 0;
  private hands = 0;
  /** Frames to the next hand. */
  private wait = 0;
  private readonly apart: number;
  private readonly keepHand: number;

  constructor(sampleRate: number) {
    super(sampleRate, CLAP_HZ, CLAP_DAMPING, CLAP_GAIN, 0);
    this.apart = Math.round(HANDS_APART_SEC * sampleRate);
    this.keepHand = keepOf(HAND_SEC, sampleRate);
  }

  protected override begin(): void {
    super.begin();
    this.full = this.level;
    this.tail = this.keep;
    this.keep = this.keepHand;
    this.hands = HANDS;
    this.wait = this.apart;
  }

  protected override hushing(): void {
    this.hands = 0;
  }

  override mix(left: Float64Array, right: Float64Array, from: number, to: number): void {
    let at = from;
    while (this.hands > 0 && at < to) {
      const end = Math.min(to, at + this.wait);
      this.filtered(left, right, at, end);
      this.wait -= end - at;
      at = end;
      if (this.wait > 0) return;
      this.hands--;
      this.wait = this.apart;
      this.level = this.full;
      if (this.hands === 0) this.keep = this.tail;
    }
    this.filtered(left, right, at, to);
  }
}
