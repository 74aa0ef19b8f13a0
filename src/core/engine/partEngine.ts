import { lanes } from "../dsp/kernels";
import type { Clock } from "./clock";
import { PartState } from "./partState";
import { EVENT_ROW, VALUE, type PartProgram } from "./program";
import type { Recorder } from "./recorder";
import { STRETCH, Voice } from "./voice";

const VOICES = 16;
/** Voices kept for those that are being faded after a theft. */
const SPARE = 8;
/** Stretches in which a part is faded out and in around a change that has no in-between (wave, filter type, unison). */
const DIP = 4;
/** Addresses the chance of notes that are played by hand, which have no place in the pattern. */
const BY_HAND = -1;

const needsDip = (a: PartProgram, b: PartProgram): boolean =>
  a.wave !== b.wave || a.filter !== b.filter || a.values[VALUE["osc.unison"]] !== b.values[VALUE["osc.unison"]];

/** One part: its voices, and where it is in its events. */
export class PartEngine {
  readonly state: PartState;
  readonly voices: readonly Voice[];
  private serial = 0;
  private next = 0;
  private pending: PartProgram | null = null;
  private gate = 1;
  private gateStep = 0;

  constructor(
    program: PartProgram,
    private readonly index: number,
    private readonly clock: Clock,
    sampleRate: number,
    audible: boolean,
    private readonly recorder: Recorder | null,
  ) {
    this.state = new PartState(program, sampleRate, clock, audible, index, recorder);
    this.voices = Array.from({ length: VOICES + SPARE }, (_, slot) => new Voice(slot));
  }

  get sounding(): boolean {
    for (const voice of this.voices) if (voice.active) return true;
    return false;
  }

  /** The voice that was started last and still sounds. */
  get newest(): Voice | null {
    let newest: Voice | null = null;
    for (const voice of this.voices) if (voice.active && (!newest || voice.serial > newest.serial)) newest = voice;
    return newest;
  }

  /** Takes over a program at `frame`: at once when silent, gliding or through a short dip when sounding. */
  load(program: PartProgram, frame: number): void {
    if (this.sounding && needsDip(this.state.program, program)) {
      this.pending = program;
      this.gateStep = -1 / (DIP * STRETCH);
    } else {
      this.install(program, frame);
    }
  }

  private install(program: PartProgram, frame: number): void {
    this.pending = null;
    this.state.set(program, !this.sounding);
    this.seek(frame);
    for (const voice of this.voices) {
      if (!voice.active) continue;
      voice.edited();
      if (voice.offTick !== Infinity && voice.offFrame === Infinity) this.follow(voice, frame);
    }
  }

  /** A sounding note follows its edited event; one whose event is gone is let go, so that it cannot hang. */
  private follow(voice: Voice, frame: number): void {
    const { events } = this.state.program;
    for (let r = this.firstRow(voice.eventTick); r < events.length && events[r] === voice.eventTick; r += EVENT_ROW) {
      if (events[r + 2] !== voice.key) continue;
      voice.offTick = voice.onTick - voice.eventTick + events[r + 1]!;
      return;
    }
    voice.release(frame);
  }

  /** Offset of the first row whose onset is at or after `tick`. */
  private firstRow(tick: number): number {
    const { events } = this.state.program;
    let low = 0;
    let high = events.length / EVENT_ROW;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (events[middle * EVENT_ROW]! < tick) low = middle + 1;
      else high = middle;
    }
    return low * EVENT_ROW;
  }

  /** Finds the first event of the pass at or after `frame`. */
  seek(frame: number): void {
    const { events } = this.state.program;
    this.next = this.firstRow(this.clock.tickAt(frame) - this.clock.passStart - 1);
    while (this.next < events.length && this.clock.frameOf(this.clock.passStart + events[this.next]!) < frame)
      this.next += EVENT_ROW;
  }

  /** Starts again at the first event: a new pass begins. */
  rewind(): void {
    this.next = 0;
  }

  /** Starts every event of the pass that falls before `frameEnd` and before the tick `limit`. */
  startEvents(frameEnd: number, limit: number): void {
    const { events } = this.state.program;
    const { passStart } = this.clock;
    while (this.next < events.length) {
      const tick = passStart + events[this.next]!;
      if (tick >= limit) return;
      const frame = this.clock.frameOf(tick);
      if (frame >= frameEnd) return;
      const r = this.next;
      // An edit may leave an event a frame behind the block; it starts with the block then.
      this.begin(
        events[r + 2]!,
        events[r + 3]!,
        Math.max(frame, frameEnd - STRETCH),
        tick,
        passStart + events[r + 1]!,
        events[r]!,
      );
      this.next += EVENT_ROW;
    }
  }

  private begin(key: number, velocity: number, frame: number, onTick: number, offTick: number, address: number): void {
    const voice = this.freeVoice(frame);
    voice.begin(this.state, key, velocity, frame, onTick, offTick, ++this.serial, address);
    this.recorder?.begin(this.index, voice);
  }

  /** A note played by hand; held until `noteOff`. */
  noteOn(key: number, velocity: number, frame: number): void {
    this.begin(key, velocity, frame, this.clock.tickAt(frame), Infinity, BY_HAND);
  }

  noteOff(key: number, frame: number): void {
    for (const voice of this.voices)
      if (voice.active && voice.key === key && voice.offTick === Infinity) voice.release(frame);
  }

  releaseAll(frame: number): void {
    for (const voice of this.voices) if (voice.active) voice.release(frame);
  }

  /** What sounds now glides to where the song stands next. */
  relocated(): void {
    this.state.relocate();
    for (const voice of this.voices) if (voice.active) voice.edited();
  }

  private freeVoice(frame: number): Voice {
    let free: Voice | null = null;
    let victim: Voice | null = null;
    let oldest = this.voices[0]!;
    let count = 0;
    for (const voice of this.voices) {
      if (!voice.active) {
        free ??= voice;
        continue;
      }
      if (voice.serial < oldest.serial || !oldest.active) oldest = voice;
      if (voice.stolenEnd !== Infinity) continue;
      count++;
      // Notes that were let go are taken first, then the oldest.
      const later =
        victim !== null &&
        (voice.offFrame === Infinity) === (victim.offFrame === Infinity) &&
        voice.serial > victim.serial;
      const held = victim !== null && voice.offFrame === Infinity && victim.offFrame !== Infinity;
      if (!later && !held) victim = voice;
    }
    if (count >= VOICES && victim) victim.steal(frame, this.state.sampleRate);
    return free ?? oldest;
  }

  /** Adds the stretch that starts at `frame` to the mix. Shared values must have been moved on before. */
  advance(frame: number, mixL: Float64Array, mixR: Float64Array): void {
    const { state, clock } = this;
    if (state.audible) {
      lanes.mixL.fill(0);
      lanes.mixR.fill(0);
    }
    for (const voice of this.voices) {
      if (!voice.active) continue;
      if (voice.offFrame === Infinity && voice.offTick !== Infinity) {
        const off = clock.frameOf(voice.offTick);
        if (off < frame + STRETCH) {
          voice.release(off);
          this.recorder?.release(this.index, voice);
        }
      }
      voice.advance(state, frame);
    }
    if (state.audible) this.addGated(mixL, mixR);
    if (this.gate <= 0 && this.pending) {
      this.gateStep = 1 / (DIP * STRETCH);
      this.install(this.pending, frame + STRETCH);
    }
  }

  private addGated(mixL: Float64Array, mixR: Float64Array): void {
    let gate = this.gate;
    const step = this.gateStep;
    for (let i = 0; i < STRETCH; i++) {
      gate += step;
      // A straight ramp has corners that tick; this one is smooth at both ends.
      const gain = gate >= 1 ? 1 : gate <= 0 ? 0 : gate * gate * (3 - 2 * gate);
      mixL[i] = mixL[i]! + lanes.mixL[i]! * gain;
      mixR[i] = mixR[i]! + lanes.mixR[i]! * gain;
    }
    this.gate = Math.max(0, Math.min(1, gate));
    if (this.gate === 1 && step > 0) this.gateStep = 0;
    if (this.gate === 0 && step < 0) this.gateStep = 0;
  }
}
