import { dbToGain, exp, sinCycles } from "../dsp/portableMath";
import type { Clock } from "./clock";
import type { SongProgram } from "./program";
import { strikeWithin, type Struck } from "./strokes";

/** Hz of the click on a bar's first beat and on the others, and the time in which one falls to a third. */
const BAR_HZ = 1760;
const BEAT_HZ = 1174.66;
const DECAY_SEC = 0.012;
/** What each falls from. */
const GAIN = dbToGain(-10);
const MARK_HZ = 2637.02;
const MARK_GAIN = dbToGain(-16);
/** Time constants after which nothing of it is left (-78 dB). */
const OVER = 9;

/** A short tone that falls. */
class Ring {
  private hz = 0;
  /** Frames since it began; it is over after `lasts`. */
  private age: number;
  private readonly lasts: number;
  private readonly keep: number;
  private gain = 0;

  constructor(private readonly sampleRate: number) {
    this.lasts = Math.ceil(OVER * DECAY_SEC * sampleRate);
    this.age = this.lasts;
    this.keep = exp(-1 / (DECAY_SEC * sampleRate));
  }

  /** Begins with the next frame that is mixed. */
  strike(hz: number, gain: number): void {
    this.hz = hz;
    this.age = 0;
    this.gain = gain;
  }

  /** Adds what rings over [from, to) of both sides. */
  mix(left: Float64Array, right: Float64Array, from: number, to: number): void {
    for (let i = from; i < to && this.age < this.lasts; i++, this.age++) {
      const x = this.gain * sinCycles((this.age * this.hz) / this.sampleRate);
      left[i] = left[i]! + x;
      right[i] = right[i]! + x;
      this.gain *= this.keep;
    }
  }
}

const UNLIMITED = Float64Array.of(Infinity);

/** Clicks at places of the song, softer than those of the beats: the rhythm of a modulator, heard and never rendered. */
export class Marks implements Struck {
  /** Ticks of a pass, in order. */
  ticks: Float64Array = new Float64Array(0);
  private readonly ring: Ring;

  constructor(sampleRate: number) {
    this.ring = new Ring(sampleRate);
  }

  strike(): void {
    this.ring.strike(MARK_HZ, MARK_GAIN);
  }

  mix(left: Float64Array, right: Float64Array, from: number, to: number): void {
    this.ring.mix(left, right, from, to);
  }

  /** Adds the clicks that fall within the stretch of `length` frames from `frame` on, while the song plays. */
  song(clock: Clock, frame: number, length: number, left: Float64Array, right: Float64Array): void {
    strikeWithin(this, this.ticks, clock, UNLIMITED, frame, length, left, right);
  }
}

/** A click on every beat, another one on each bar's first: heard with the song, never rendered into a file. */
export class Click {
  on = false;
  private readonly ring: Ring;

  constructor(private readonly sampleRate: number) {
    this.ring = new Ring(sampleRate);
  }

  /** Adds the clicks of the beats that fall within the stretch of `length` frames from `frame` on, while the song plays. */
  song(clock: Clock, song: SongProgram, frame: number, length: number, left: Float64Array, right: Float64Array): void {
    if (!this.on) return this.ring.mix(left, right, 0, length);
    let done = 0;
    // From the beat before: its frame may be rounded into this stretch.
    for (let beat = Math.floor(clock.passTickAt(frame) / song.beatTicks); ; beat++) {
      const tick = beat * song.beatTicks;
      const at = clock.frameOf(clock.passStart + tick) - frame;
      // No stretch goes beyond the end of the loop.
      if (at >= length) break;
      if (at < 0) continue;
      this.beat(tick, song, left, right, done, at);
      done = at;
    }
    this.ring.mix(left, right, done, length);
  }

  /** Adds the clicks of a count that ends at the frame `start`, each bar of it with its accent. */
  count(
    song: SongProgram,
    start: number,
    frame: number,
    length: number,
    left: Float64Array,
    right: Float64Array,
  ): void {
    const beatFrames = (song.beatTicks / song.ticksPerSec) * this.sampleRate;
    let done = 0;
    for (let before = Math.ceil((start - frame) / beatFrames); before > 0; before--) {
      const at = Math.round(start - before * beatFrames) - frame;
      if (at >= length) break;
      if (at < 0) continue;
      this.beat(before * song.beatTicks, song, left, right, done, at);
      done = at;
    }
    this.ring.mix(left, right, done, length);
  }

  /** Begins the click of a beat that lies so many ticks from a bar's first, after what rings in [from, to) of both sides. */
  private beat(ticks: number, song: SongProgram, left: Float64Array, right: Float64Array, from: number, to: number): void {
    this.ring.mix(left, right, from, to);
    this.ring.strike(ticks % song.barTicks === 0 ? BAR_HZ : BEAT_HZ, GAIN);
  } // prettier-ignore
}
