import { SafetyLimiter } from "../dsp/limiter";
import { Clock } from "./clock";
import { PartEngine } from "./partEngine";
import type { Program } from "./program";
import type { Recorder } from "./recorder";
import { STRETCH } from "./voice";

export interface EngineOptions {
  /** False evaluates notes and motion only, without sound: for as-heard curves. */
  readonly audible?: boolean;
  readonly recorder?: Recorder;
  /** False hands the mix out before the limiter; the caller limits it. */
  readonly limited?: boolean;
}

/** Gain a trim moves by in a stretch, of what is left: about 10 ms. */
const TRIM_MOVE = 0.3;

/**
 * The sound engine. Frames are counted from its start; blocks may have any length that is a multiple of 64, and their
 * length does not change a sample. `process` allocates nothing and throws nothing.
 */
export class Engine {
  readonly clock = new Clock();
  frame = 0;
  parts: PartEngine[] = [];
  private program: Program | null = null;
  private readonly mixL = new Float64Array(STRETCH);
  private readonly mixR = new Float64Array(STRETCH);
  private readonly limiter: SafetyLimiter;
  private readonly audible: boolean;
  private readonly limited: boolean;
  private readonly recorder: Recorder | null;
  private trim = 1;
  /** Ticks since the engine's start from which no more events start. */
  private limitTick = Infinity;

  constructor(
    readonly sampleRate: number,
    options: EngineOptions = {},
  ) {
    this.audible = options.audible ?? true;
    this.limited = options.limited ?? true;
    this.recorder = options.recorder ?? null;
    this.limiter = new SafetyLimiter(sampleRate);
  }

  /** Takes over a program; what sounds goes on and glides to it. Parts keep their voices by their id. */
  load(program: Program): void {
    const { clock, frame } = this;
    const first = this.program === null;
    const retimed =
      !first && (this.program!.ticksPerSec !== program.ticksPerSec || this.program!.loopTicks !== program.loopTicks);
    this.program = program;
    clock.setRate(program.ticksPerSec / this.sampleRate, frame);
    const since = clock.tickAt(frame) - clock.passStart;
    if (since >= program.loopTicks) clock.passStart += Math.floor(since / program.loopTicks) * program.loopTicks;
    this.parts = program.parts.map((p, i) => {
      const playing = this.parts.find((e) => e.state.program.id === p.id);
      if (!playing) {
        const made = new PartEngine(p, i, clock, this.sampleRate, this.audible, this.recorder);
        made.seek(frame);
        return made;
      }
      playing.load(p, frame);
      if (retimed) playing.relocated();
      return playing;
    });
    if (first) this.trim = program.trim;
  }

  /** Plays from a position within the loop, at the next frame. */
  play(loopTick: number): void {
    if (!this.program) return;
    this.clock.locate(Math.max(0, loopTick % this.program.loopTicks), this.frame, !this.sounding);
    this.clock.playing = true;
    for (const part of this.parts) {
      part.seek(this.frame);
      part.relocated();
    }
  }

  /** Stops: every key is let go, releases ring out. */
  stop(): void {
    this.clock.playing = false;
    for (const part of this.parts) part.releaseAll(this.frame);
  }

  /** No event starts at or after this many ticks from the start of the current pass; what sounds goes on to its end. */
  finishAfter(ticks: number): void {
    this.limitTick = this.clock.passStart + ticks;
  }

  noteOn(partId: string, key: number, velocity: number): void {
    this.partOf(partId)?.noteOn(key, velocity, this.frame);
  }

  noteOff(partId: string, key: number): void {
    this.partOf(partId)?.noteOff(key, this.frame);
  }

  private partOf(id: string): PartEngine | undefined {
    for (const part of this.parts) if (part.state.program.id === id) return part;
    return undefined;
  }

  get sounding(): boolean {
    for (const part of this.parts) if (part.sounding) return true;
    return false;
  }

  get voiceCount(): number {
    let count = 0;
    for (const part of this.parts) for (const voice of part.voices) if (voice.active) count++;
    return count;
  }

  get loopTick(): number {
    return this.program ? this.clock.loopTickAt(this.frame, this.program.loopTicks) : 0;
  }

  /** Peaks before the limiter since the last call, to `out[0]` and `out[1]`. */
  takePeaks(out: Float32Array): void {
    this.limiter.takePeaks(out, 0);
  }

  /** Fills `frames` (a multiple of 64) of both sides, from the start of the arrays; leaves them alone when inaudible. */
  process(left: Float32Array, right: Float32Array, frames: number): void {
    for (let at = 0; at < frames; at += STRETCH) {
      if (this.audible) {
        this.mixL.fill(0);
        this.mixR.fill(0);
      }
      if (this.program) this.stretch(this.program);
      if (!this.audible) {
        // Nothing was mixed: the recorder has what is wanted.
      } else if (this.limited) this.limiter.process(this.mixL, this.mixR, STRETCH, left, right, at);
      else {
        left.set(this.mixL, at);
        right.set(this.mixR, at);
      }
      this.frame += STRETCH;
    }
  }

  private stretch(program: Program): void {
    const { frame, clock, parts } = this;
    for (const part of parts) part.state.advance(frame, program.loopTicks, program.barTicks, program.ticksPerSec);
    if (clock.playing) this.startEvents(program, frame + STRETCH);
    for (const part of parts) part.advance(frame, this.mixL, this.mixR);
    if (this.audible) this.applyTrim(program.trim);
  }

  private startEvents(program: Program, frameEnd: number): void {
    const { clock } = this;
    for (;;) {
      for (const part of this.parts) part.startEvents(frameEnd, this.limitTick);
      const passEnd = clock.passStart + program.loopTicks;
      if (clock.frameOf(passEnd) >= frameEnd) return;
      clock.passStart = passEnd;
      for (const part of this.parts) part.rewind();
    }
  }

  private applyTrim(target: number): void {
    let gain = this.trim;
    const next = Math.abs(target - gain) < 1e-5 ? target : gain + (target - gain) * TRIM_MOVE;
    const step = (next - gain) / STRETCH;
    for (let i = 0; i < STRETCH; i++) {
      gain += step;
      this.mixL[i] = this.mixL[i]! * gain;
      this.mixR[i] = this.mixR[i]! * gain;
    }
    this.trim = next;
  }
}

const WARM_UP_BLOCKS = 200;
const BLOCK = 128;

/**
 * Runs a program on an engine of its own until the compiler has seen every path of it: the first block of cold code
 * takes longer than a block lasts.
 */
export function warmUp(program: Program, sampleRate: number): void {
  const engine = new Engine(sampleRate);
  const left = new Float32Array(BLOCK);
  const right = new Float32Array(BLOCK);
  engine.load(program);
  engine.play(0);
  for (let b = 0; b < WARM_UP_BLOCKS; b++) engine.process(left, right, BLOCK);
}
