import { CYCLE, MAX_UNISON, unisonGain, unisonPlace } from "../dsp/oscillator";
import { exp, exp2, log2 } from "../dsp/portableMath";
import { waveTable, type WaveTable } from "../dsp/waveTables";
import { isShared, sharedShapeAt, type CompiledShape, type SongPlace } from "../motion/shape";
import { MAX_MODULATORS } from "../patch/project";
import type { Clock } from "./clock";
import type { Recorder } from "./recorder";
import { VALUE, type PartProgram } from "./program";
import { STRETCH, SUB_BLOCK } from "./voice";

/** Time in which an edit has glided in to 95 %: three time constants. */
const GLIDE_SEC = 0.01;
const SUBS = STRETCH / SUB_BLOCK;
/** Gains this close (about 0.0001 dB) are equal: no ramp is run between them. */
const GAIN_EPSILON = 1e-5;

/** What all voices of a part read: its program, what follows from it, and the values of shapes that all notes share. */
export class PartState {
  program: PartProgram;
  table: WaveTable;
  log2Cutoff = 0;
  unison = 1;
  readonly log2SampleRate: number;
  /** What is left of an edit's offset after a sub-block. */
  readonly glideKeep: number;
  private readonly stretchKeep: number;
  /** Frequency ratio and octaves from the middle of each unison voice. */
  readonly ratios = new Float64Array(MAX_UNISON);
  readonly octaves = new Float64Array(MAX_UNISON);
  /** Unison gains at the start of the stretch, and their change per frame. */
  readonly gainsL = new Float64Array(MAX_UNISON);
  readonly gainsR = new Float64Array(MAX_UNISON);
  readonly stepsL = new Float64Array(MAX_UNISON);
  readonly stepsR = new Float64Array(MAX_UNISON);
  gainsMoving = false;
  /** Pulse width as a phase at the start of the stretch, and its change per frame. */
  pulseWidth = 0;
  pulseStep = 0;
  /** Values of shared shapes, smoothed, at the start of the stretch and at the end of each of its sub-blocks. */
  private readonly shared = new Float64Array((SUBS + 1) * MAX_MODULATORS);
  /** How far a smoothed shape moves to its value in a sub-block; 1 does not smooth. */
  readonly smoothing = new Float64Array(MAX_MODULATORS);
  private readonly targetsL = new Float64Array(MAX_UNISON);
  private readonly targetsR = new Float64Array(MAX_UNISON);
  private sharedFrame = 0;
  private sharedSettled = false;
  private readonly place: { -readonly [K in keyof SongPlace]: SongPlace[K] } = {
    loopTick: 0,
    barTicks: 1,
    ticksPerSec: 1,
  };

  constructor(
    program: PartProgram,
    readonly sampleRate: number,
    readonly clock: Clock,
    readonly audible: boolean,
    readonly index: number,
    readonly recorder: Recorder | null,
  ) {
    this.program = program;
    this.table = waveTable(program.wave);
    this.log2SampleRate = log2(sampleRate);
    this.glideKeep = exp((-3 * SUB_BLOCK) / (GLIDE_SEC * sampleRate));
    this.stretchKeep = exp((-3 * STRETCH) / (GLIDE_SEC * sampleRate));
    this.set(program, true);
  }

  /** Takes over a program. `atOnce` when nothing sounds: nothing then glides. */
  set(program: PartProgram, atOnce: boolean): void {
    this.program = program;
    this.table = waveTable(program.wave);
    this.log2Cutoff = log2(program.values[VALUE["filter.cutoff"]]!);
    this.unison = program.values[VALUE["osc.unison"]]!;
    const octaves = program.values[VALUE["osc.detune"]]! / 1200;
    const width = program.values[VALUE["osc.width"]]! / 100;
    for (let u = 0; u < MAX_UNISON; u++) {
      const inUse = u < this.unison;
      this.octaves[u] = inUse ? unisonPlace(u, this.unison) * octaves : 0;
      this.ratios[u] = exp2(this.octaves[u]!);
      this.targetsL[u] = inUse ? unisonGain(u, this.unison, width, -1) : 0;
      this.targetsR[u] = inUse ? unisonGain(u, this.unison, width, 1) : 0;
    }
    for (let i = 0; i < program.shapes.length; i++) {
      const seconds = program.shapes[i]!.smoothingSec;
      this.smoothing[i] = seconds > 0 ? 1 - exp((-3 * SUB_BLOCK) / (seconds * this.sampleRate)) : 1;
    }
    if (atOnce) {
      this.gainsL.set(this.targetsL);
      this.gainsR.set(this.targetsR);
      this.pulseWidth = this.widthTarget();
    }
  }

  private widthTarget(): number {
    return (this.program.values[VALUE["osc.pulseWidth"]]! / 100) * CYCLE;
  }

  /** Moves what all voices share over the stretch that starts at `frame`. */
  advance(frame: number, loopTicks: number, barTicks: number, ticksPerSec: number): void {
    const { shared } = this;
    this.place.barTicks = barTicks;
    this.place.ticksPerSec = ticksPerSec;
    this.sharedFrame = frame;
    for (let i = 0; i < this.program.shapes.length; i++) {
      const shape = this.program.shapes[i]!;
      if (!isShared(shape)) continue;
      let value = this.sharedSettled ? shared[SUBS * MAX_MODULATORS + i]! : this.sharedValue(shape, frame, loopTicks);
      shared[i] = value;
      for (let k = 1; k <= SUBS; k++) {
        value += (this.sharedValue(shape, frame + k * SUB_BLOCK, loopTicks) - value) * this.smoothing[i]!;
        shared[k * MAX_MODULATORS + i] = value;
      }
    }
    this.sharedSettled = true;
    this.advanceGains();
  }

  /** Forgets smoothing: the song stands somewhere else. */
  relocate(): void {
    this.sharedSettled = false;
  }

  private sharedValue(shape: CompiledShape, frame: number, loopTicks: number): number {
    this.place.loopTick = this.clock.loopTickAt(frame, loopTicks);
    return sharedShapeAt(shape, this.place);
  }

  /** A shared shape's value at the end of a sub-block of the stretch. */
  sharedEnd(index: number, sub: number): number {
    return this.shared[(sub + 1) * MAX_MODULATORS + index]!;
  }

  /** A shared shape's value at a frame inside the stretch, between two boundaries. */
  sharedAt(index: number, frame: number): number {
    const within = (frame - this.sharedFrame) / SUB_BLOCK;
    const sub = Math.min(SUBS - 1, Math.floor(within));
    const before = this.shared[sub * MAX_MODULATORS + index]!;
    return before + (this.sharedEnd(index, sub) - before) * (within - sub);
  }

  private advanceGains(): void {
    const move = 1 - this.stretchKeep;
    let moving = false;
    for (let u = 0; u < this.unison; u++) {
      const l = this.gainsL[u]! + this.stepsL[u]! * STRETCH;
      const r = this.gainsR[u]! + this.stepsR[u]! * STRETCH;
      const dl = this.targetsL[u]! - l;
      const dr = this.targetsR[u]! - r;
      const near = Math.abs(dl) < GAIN_EPSILON && Math.abs(dr) < GAIN_EPSILON;
      this.gainsL[u] = near ? this.targetsL[u]! : l;
      this.gainsR[u] = near ? this.targetsR[u]! : r;
      this.stepsL[u] = near ? 0 : (dl * move) / STRETCH;
      this.stepsR[u] = near ? 0 : (dr * move) / STRETCH;
      if (!near) moving = true;
    }
    this.gainsMoving = moving;
    this.pulseWidth += this.pulseStep * STRETCH;
    const dw = this.widthTarget() - this.pulseWidth;
    const arrived = Math.abs(dw) < CYCLE * GAIN_EPSILON;
    if (arrived) this.pulseWidth = this.widthTarget();
    this.pulseStep = arrived ? 0 : (dw * move) / STRETCH;
  }
}
