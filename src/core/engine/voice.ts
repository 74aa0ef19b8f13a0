import { envelopeAt } from "../curve/envelope";
import { FILTER_LP24, FILTER_STATE, COEFFICIENTS, designFilter, filter12, flushState, lowpass24 } from "../dsp/filter";
import { CYCLE, addPulse, addWave, addWaveQuad } from "../dsp/oscillator";
import { cosCycles, dbToGain, exp2, log2, sinCycles } from "../dsp/portableMath";
import { WAVE_PULSE, waveLevel } from "../dsp/waveTables";
import { isShared, noteShapeAt } from "../motion/shape";
import { parameter, TARGET_IDS } from "../patch/parameters";
import { hash01 } from "../pattern/chance";
import type { PartState } from "./partState";
import { LEVEL_OFF_DB, VALUE } from "./program";

/** Modulation is evaluated this often, on a grid of frames counted from the engine's start, and ramped between. */
export const SUB_BLOCK = 16;
export const MAX_UNISON = 16;
const MAX_SOURCES = 16;

/** What a voice's targets are kept as: MIDI key, gain, log2 of Hz, percent, percent. */
export const PITCH = 0;
export const GAIN = 1;
export const CUTOFF = 2;
export const RESONANCE = 3;
export const PAN = 4;
const TARGETS = TARGET_IDS.length;

const LOG2_MIN_CUTOFF = log2(parameter("filter.cutoff").min);
const LOG2_MAX_CUTOFF = log2(parameter("filter.cutoff").max);
const LEVEL_MAX_DB = 24;
/** A stolen voice is faded within this time. */
const STEAL_SEC = 0.004;
/** An edit's offset smaller than this, of any target, is over. */
const GLIDE_OVER = 1e-7;
/** A pan that no voice has: gains are to be worked out at once. */
const NEVER = 1000;
const LOG2_440 = log2(440);

/** One sounding note. Everything it needs is allocated here, once. */
export class Voice {
  active = false;
  key = 0;
  velocity = 0;
  /** Counts notes of the part: the greatest is the newest. */
  serial = 0;
  onFrame = 0;
  onTick = 0;
  /** Its onset within the pass, as its event says. */
  eventTick = 0;
  /** Ticks since the engine's start at which the key is let go; Infinity when it is held by hand. */
  offTick = Infinity;
  offFrame = Infinity;
  /** Frame at which a stolen voice is silent; Infinity otherwise. */
  stolenEnd = Infinity;
  /** Values at the end of the last stretch, in the order of the constants above. */
  readonly values = new Float64Array(TARGETS);
  /** Values of the part's envelopes and shapes, velocity and key at that time. */
  readonly sources = new Float64Array(MAX_SOURCES);

  private readonly start = new Float64Array(TARGETS);
  private readonly glide = new Float64Array(TARGETS);
  private fresh = false;
  private pendingGlide = false;
  private readonly phases = new Float64Array(MAX_UNISON);
  private readonly filterState = new Float64Array(FILTER_STATE);
  private readonly designs = [new Float64Array(COEFFICIENTS), new Float64Array(COEFFICIENTS)] as const;
  private design = 0;
  /** The pan that the gains below stand for, at the end of a stretch; the gains at its start and end. */
  private panned = NEVER;
  private panL0 = 1;
  private panR0 = 1;
  private panL1 = 1;
  private panR1 = 1;
  private readonly left = new Float64Array(SUB_BLOCK);
  private readonly right = new Float64Array(SUB_BLOCK);

  /** Starts a note at `frame`. `address` names the note for seeded draws: the same note of every pass starts alike. */
  begin(part: PartState, key: number, velocity: number, frame: number, onTick: number, offTick: number, serial: number, address: number): void {
    this.active = true;
    this.key = key;
    this.velocity = velocity;
    this.serial = serial;
    this.onFrame = frame;
    this.onTick = onTick;
    this.offTick = offTick;
    this.eventTick = address;
    this.offFrame = Infinity;
    this.stolenEnd = Infinity;
    this.fresh = true;
    this.pendingGlide = false;
    this.glide.fill(0);
    this.filterState.fill(0);
    this.panned = NEVER;
    const { program } = part;
    for (let u = 0; u < MAX_UNISON; u++) {
      const cycles = program.values[VALUE["osc.phase"]]! / 360 + (program.randomStart ? hash01(program.seed, address, key, u) : 0);
      this.phases[u] = ((cycles - Math.floor(cycles)) * CYCLE) | 0;
    }
    this.evaluate(part, frame);
  }

  /** Lets the key go at a frame. */
  release(frame: number): void {
    if (this.offFrame === Infinity) this.offFrame = Math.max(frame, this.onFrame);
  }

  steal(frame: number, sampleRate: number): void {
    if (this.stolenEnd === Infinity) this.stolenEnd = frame + Math.round(STEAL_SEC * sampleRate);
  }

  /** What changes at the next evaluation came from an edit: it glides in from the value that sounds now. */
  edited(): void {
    this.pendingGlide = true;
  }

  /** Evaluates every source and target at `frame`, into `sources` and `values`. */
  private evaluate(part: PartState, frame: number): void {
    const { program } = part;
    const { sources, values } = this;
    const sec = (frame - this.onFrame) / part.sampleRate;
    const offSec = this.offFrame === Infinity ? Infinity : (this.offFrame - this.onFrame) / part.sampleRate;
    const ticks = part.clock.tickAt(frame) - this.onTick;
    let s = 0;
    for (let i = 0; i < program.envelopes.length; i++) sources[s++] = envelopeAt(program.envelopes[i]!, sec, offSec);
    for (let i = 0; i < program.shapes.length; i++, s++) {
      const shape = program.shapes[i]!;
      if (isShared(shape)) {
        sources[s] = this.fresh ? part.sharedAt(i, frame) : part.shared[i]!;
      } else {
        const value = noteShapeAt(shape, ticks, sec);
        sources[s] = this.fresh ? value : sources[s]! + (value - sources[s]!) * part.smoothing[i]!;
      }
    }
    sources[s++] = this.velocity / 127;
    sources[s] = Math.max(-1, Math.min(1, (this.key - 60) / 60));

    for (let t = 0; t < TARGETS; t++) values[t] = program.bases[t]!;
    for (let i = 0; i < program.routes.length; i++) {
      const route = program.routes[i]!;
      values[route.target] = values[route.target]! + route.gain * sources[route.source]!;
    }
    this.finish(part, frame);
  }

  /** From sums of modulation to the values that are used: adds the settings, holds ranges, glides edits in. */
  private finish(part: PartState, frame: number): void {
    const v = this.values;
    const set = part.program.values;
    v[PITCH] = this.key + 12 * set[VALUE["osc.octave"]]! + set[VALUE["osc.pitch"]]! + set[VALUE["osc.fine"]]! / 100 + v[PITCH]!;
    const level = set[VALUE["amp.level"]]!;
    const db = level + v[GAIN]!;
    let gain = level <= LEVEL_OFF_DB || db <= LEVEL_OFF_DB ? 0 : this.sources[0]! * dbToGain(db < LEVEL_MAX_DB ? db : LEVEL_MAX_DB);
    if (this.stolenEnd !== Infinity) gain *= Math.max(0, (this.stolenEnd - frame) / (STEAL_SEC * part.sampleRate));
    v[GAIN] = gain;
    const follow = ((set[VALUE["filter.keyFollow"]]! / 100) * (this.key - 60)) / 12;
    v[CUTOFF] = part.log2Cutoff + follow + v[CUTOFF]!;
    v[RESONANCE] = set[VALUE["filter.resonance"]]! + v[RESONANCE]!;
    v[PAN] = set[VALUE["amp.pan"]]! + v[PAN]!;
    if (!this.fresh) this.applyGlide(part);
    v[CUTOFF] = Math.max(LOG2_MIN_CUTOFF, Math.min(LOG2_MAX_CUTOFF, v[CUTOFF]!));
    v[RESONANCE] = Math.max(0, Math.min(100, v[RESONANCE]!));
    v[PAN] = Math.max(-100, Math.min(100, v[PAN]!));
    if (v[GAIN]! < 0) v[GAIN] = 0;
  }

  private applyGlide(part: PartState): void {
    const v = this.values;
    for (let t = 0; t < TARGETS; t++) {
      if (this.pendingGlide) this.glide[t] = this.start[t]! - v[t]!;
      const g = this.glide[t]!;
      if (g === 0) continue;
      v[t] = v[t]! + g;
      this.glide[t] = Math.abs(g) < GLIDE_OVER ? 0 : g * part.glideKeep;
    }
    this.pendingGlide = false;
  }

  /**
   * Moves to the end of the sub-block that starts at `frame`, and adds its sound to the part's mix when the engine
   * makes sound. A note that starts or ends inside takes its first or last frames only.
   */
  advance(part: PartState, frame: number): void {
    const from = this.fresh ? this.onFrame - frame : 0;
    this.start.set(this.values);
    const wasFresh = this.fresh;
    this.fresh = false;
    this.evaluate(part, frame + SUB_BLOCK);
    if (part.audible) this.render(part, from, wasFresh);
    const end = this.offFrame + part.program.envelopes[0]!.releaseSec * part.sampleRate;
    // An edit's glide may still be fading a note whose release was just made shorter.
    if (frame + SUB_BLOCK >= Math.min(end, this.stolenEnd) && this.values[GAIN]! < GLIDE_OVER) this.active = false;
  }

  private render(part: PartState, from: number, first: boolean): void {
    const { start, values, left, right } = this;
    if (first) designFilter(part.program.filter, exp2(start[CUTOFF]!), start[RESONANCE]!, part.sampleRate, this.designs[this.design]!);
    const before = this.designs[this.design]!;
    this.design = 1 - this.design;
    const after = this.designs[this.design]!;
    designFilter(part.program.filter, exp2(values[CUTOFF]!), values[RESONANCE]!, part.sampleRate, after);
    // A voice that is silent at both ends keeps its filter's cutoff and nothing else.
    if (start[GAIN] === 0 && values[GAIN] === 0) return;
    left.fill(0);
    right.fill(0);
    this.oscillate(part, from);
    if (part.program.filter === FILTER_LP24) lowpass24(this.filterState, before, after, left, right, from, SUB_BLOCK);
    else filter12(this.filterState, before, after, left, right, from, SUB_BLOCK);
    flushState(this.filterState);
    this.mix(part, from);
  }

  private oscillate(part: PartState, from: number): void {
    const { program, table, ratios, octaves, gainsL, gainsR, stepsL, stepsR, bases, increments, slopes } = part;
    const { left, right, phases } = this;
    const count = part.unison;
    const log2First = (this.start[PITCH]! - 69) / 12 + LOG2_440 - part.log2SampleRate;
    const log2Last = (this.values[PITCH]! - 69) / 12 + LOG2_440 - part.log2SampleRate;
    const first = exp2(Math.min(-1, log2First)) * CYCLE;
    const perFrame = (exp2(Math.min(-1, log2Last)) * CYCLE - first) / (SUB_BLOCK - from);
    const log2Top = Math.max(log2First, log2Last);
    for (let u = 0; u < count; u++) {
      increments[u] = first * ratios[u]!;
      slopes[u] = perFrame * ratios[u]!;
      bases[u] = waveLevel(log2Top + octaves[u]!) * table.stride;
    }
    let u = 0;
    if (program.wave === WAVE_PULSE) {
      for (; u < count; u++) {
        addPulse(table.samples, bases[u]!, phases, u, increments[u]!, slopes[u]!, part.pulseWidth, part.pulseStep,
          gainsL[u]!, gainsR[u]!, stepsL[u]!, stepsR[u]!, left, right, from, SUB_BLOCK); // prettier-ignore
      }
      return;
    }
    if (!part.gainsMoving) {
      for (; u + 3 < count; u += 4) addWaveQuad(table.samples, bases, phases, increments, slopes, u, gainsL, gainsR, left, right, from, SUB_BLOCK);
    }
    for (; u < count; u++) {
      addWave(table.samples, bases[u]!, phases, u, increments[u]!, slopes[u]!,
        gainsL[u]!, gainsR[u]!, stepsL[u]!, stepsR[u]!, left, right, from, SUB_BLOCK); // prettier-ignore
    }
  }

  private mix(part: PartState, from: number): void {
    const { left, right } = this;
    const { mixL, mixR } = part;
    const per = 1 / (SUB_BLOCK - from);
    const g0 = this.start[GAIN]!;
    const g1 = this.values[GAIN]!;
    const pan1 = this.values[PAN]!;
    if (pan1 !== this.panned) this.setPan(pan1, from > 0 || this.panned === NEVER);
    let gl = g0 * this.panL0;
    let gr = g0 * this.panR0;
    const dl = (g1 * this.panL1 - gl) * per;
    const dr = (g1 * this.panR1 - gr) * per;
    for (let i = from; i < SUB_BLOCK; i++) {
      gl += dl;
      gr += dr;
      mixL[i] = mixL[i]! + left[i]! * gl;
      mixR[i] = mixR[i]! + right[i]! * gr;
    }
    this.panL0 = this.panL1;
    this.panR0 = this.panR1;
  }

  /** Equal power, 0 dB in the middle: -100 to 100 % is a quarter of the circle. Costly, so only when it changes. */
  private setPan(pan: number, atOnce: boolean): void {
    this.panned = pan;
    this.panL1 = cosCycles((pan + 100) / 800) * Math.SQRT2;
    this.panR1 = sinCycles((pan + 100) / 800) * Math.SQRT2;
    if (!atOnce) return;
    this.panL0 = this.panL1;
    this.panR0 = this.panR1;
  }
}
