import { envelopeAt } from "../curve/envelope";
import { COEFFICIENTS, FILTER_LP24, FILTER_STATE, designFilter, filter12, flushState } from "../dsp/filter";
import { MAX_STRETCH, filterKernel, lanes, mixKernel, stackKernel } from "../dsp/kernels";
import { CYCLE, MAX_UNISON, addPulse, addWave } from "../dsp/oscillator";
import { cosCycles, dbToGain, exp2, log2, sinCycles } from "../dsp/portableMath";
import { WAVE_PULSE, waveLevel } from "../dsp/waveTables";
import { isShared, noteShapeAt } from "../motion/shape";
import { parameter, TARGET_IDS } from "../patch/parameters";
import { hash01 } from "../pattern/chance";
import type { PartState } from "./partState";
import { LEVEL_OFF_DB, VALUE } from "./program";

/** Modulation is evaluated this often, on a grid of frames counted from the engine's start, and ramped between. */
export const SUB_BLOCK = 16;
/** Frames that a voice renders in one go. Stretches lie on a grid too, so that the length of a block changes nothing. */
export const STRETCH = MAX_STRETCH;
const SUBS = STRETCH / SUB_BLOCK;
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
/** An edit's offset smaller than this, of any target, is over: a gain of -100 dB, a thousandth of a cent. */
const GLIDE_OVER = 1e-5;
/** A pan that no voice has: gains are to be worked out at once. */
const NEVER = 1000;
const LOG2_440 = log2(440);

// Looked up once, and not for every value of every sub-block.
const OCTAVE = VALUE["osc.octave"];
const PITCH_SET = VALUE["osc.pitch"];
const FINE = VALUE["osc.fine"];
const LEVEL = VALUE["amp.level"];
const KEY_FOLLOW = VALUE["filter.keyFollow"];
const RESONANCE_SET = VALUE["filter.resonance"];
const PAN_SET = VALUE["amp.pan"];

/** One sounding note. Everything it needs is allocated here, once. */
export class Voice {
  /** @param slot - place among the voices of its part */
  constructor(readonly slot: number) {}

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

  /** Values at each boundary of the stretch: row k is the start of its sub-block k. */
  private readonly rows = new Float64Array((SUBS + 1) * TARGETS);
  private readonly glide = new Float64Array(TARGETS);
  private lastDb = 0;
  private lastGain = 1;
  private fresh = false;
  private pendingGlide = false;
  private readonly phases = new Float64Array(MAX_UNISON);
  private readonly filterState = new Float64Array(FILTER_STATE);
  private readonly design = new Float64Array(COEFFICIENTS);
  /** The cutoff and resonance that the design stands for. */
  private readonly designed = new Float64Array(2);
  /** The pan that the gains below stand for, at the end of a stretch; the gains at its start and end. */
  private panned = NEVER;
  private panL0 = 1;
  private panR0 = 1;
  private panL1 = 1;
  private panR1 = 1;

  /** Starts a note at `frame`. `address` names the note for seeded draws: the same note of every pass starts alike. */
  begin(
    part: PartState,
    key: number,
    velocity: number,
    frame: number,
    onTick: number,
    offTick: number,
    serial: number,
    address: number,
  ): void {
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
      const cycles =
        program.values[VALUE["osc.phase"]]! / 360 + (program.randomStart ? hash01(program.seed, address, key, u) : 0);
      this.phases[u] = ((cycles - Math.floor(cycles)) * CYCLE) | 0;
    }
    this.evaluate(part, frame, 0);
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

  /** Evaluates every source and target at `frame`, the end of sub-block `sub`, into `sources` and `values`. */
  private evaluate(part: PartState, frame: number, sub: number): void {
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
        sources[s] = this.fresh ? part.sharedAt(i, frame) : part.sharedEnd(i, sub);
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
    this.finish(part, frame, sub);
  }

  /** From sums of modulation to the values that are used: adds the settings, holds ranges, glides edits in. */
  private finish(part: PartState, frame: number, sub: number): void {
    const v = this.values;
    const set = part.program.values;
    v[PITCH] = this.key + 12 * set[OCTAVE]! + set[PITCH_SET]! + set[FINE]! / 100 + v[PITCH]!;
    const level = set[LEVEL]!;
    const db = level + v[GAIN]!;
    let gain = level <= LEVEL_OFF_DB || db <= LEVEL_OFF_DB ? 0 : this.sources[0]! * this.gainOf(db);
    if (this.stolenEnd !== Infinity)
      gain *= Math.max(0, Math.min(1, (this.stolenEnd - frame) / (STEAL_SEC * part.sampleRate)));
    v[GAIN] = gain;
    const follow = ((set[KEY_FOLLOW]! / 100) * (this.key - 60)) / 12;
    v[CUTOFF] = part.log2Cutoff + follow + v[CUTOFF]!;
    v[RESONANCE] = set[RESONANCE_SET]! + v[RESONANCE]!;
    v[PAN] = set[PAN_SET]! + v[PAN]!;
    if (!this.fresh) this.applyGlide(part, sub);
    v[CUTOFF] = Math.max(LOG2_MIN_CUTOFF, Math.min(LOG2_MAX_CUTOFF, v[CUTOFF]));
    v[RESONANCE] = Math.max(0, Math.min(100, v[RESONANCE]));
    v[PAN] = Math.max(-100, Math.min(100, v[PAN]));
    if (v[GAIN] < 0) v[GAIN] = 0;
  }

  /** A level as a gain; most notes keep theirs, so the last answer is kept. */
  private gainOf(db: number): number {
    if (db !== this.lastDb) {
      this.lastDb = db;
      this.lastGain = dbToGain(db < LEVEL_MAX_DB ? db : LEVEL_MAX_DB);
    }
    return this.lastGain;
  }

  private applyGlide(part: PartState, sub: number): void {
    const v = this.values;
    for (let t = 0; t < TARGETS; t++) {
      if (this.pendingGlide) this.glide[t] = this.rows[sub * TARGETS + t]! - v[t]!;
      const g = this.glide[t]!;
      if (g === 0) continue;
      v[t] = v[t]! + g;
      this.glide[t] = Math.abs(g) < GLIDE_OVER ? 0 : g * part.glideKeep;
    }
    this.pendingGlide = false;
  }

  /**
   * Moves to the end of the stretch that starts at `frame`, and adds its sound to the part's mix when the engine makes
   * sound. A note that starts inside takes its last frames only; `part.recorder` is told each sub-block's values.
   */
  advance(part: PartState, frame: number): void {
    const from = this.fresh ? this.onFrame - frame : 0;
    const first = (from / SUB_BLOCK) | 0;
    const wasFresh = this.fresh;
    const end = Math.min(this.stolenEnd, this.offFrame + part.program.envelopes[0]!.releaseSec * part.sampleRate);
    const { rows, values } = this;
    for (let t = 0; t < TARGETS; t++) rows[first * TARGETS + t] = values[t]!;
    this.fresh = false;
    let subs = first;
    while (subs < SUBS && this.active) {
      const frameEnd = frame + (subs + 1) * SUB_BLOCK;
      this.evaluate(part, frameEnd, subs);
      subs++;
      for (let t = 0; t < TARGETS; t++) rows[subs * TARGETS + t] = values[t]!;
      // An edit's glide may still be fading a note whose release was just made shorter.
      if (frameEnd >= end && values[GAIN]! < GLIDE_OVER) this.active = false;
      part.recorder?.values(part.index, this, frameEnd);
    }
    if (part.audible) this.render(part, from, first, subs, wasFresh);
  }

  private render(part: PartState, from: number, first: number, subs: number, fresh: boolean): void {
    const { rows } = this;
    const { left, right } = lanes;
    let silent = true;
    for (let k = first; k <= subs; k++) if (rows[k * TARGETS + GAIN] !== 0) silent = false;
    // A voice that is silent throughout keeps its filter's cutoff and nothing else.
    if (silent) return this.designAt(part, subs, this.design);
    for (let i = from; i < STRETCH; i++) {
      left[i] = 0;
      right[i] = 0;
    }
    this.oscillate(part, from, first, subs);
    if (fresh) this.designAt(part, first, this.design);
    for (let i = 0; i < FILTER_STATE; i++) lanes.state[i] = this.filterState[i]!;
    for (let i = 0; i < COEFFICIENTS; i++) lanes.after[i] = this.design[i]!;
    for (let k = first; k < subs; k++) {
      const start = k === first ? from : k * SUB_BLOCK;
      const end = (k + 1) * SUB_BLOCK;
      this.filter(part, k, start, end);
      this.mix(k, start, end);
    }
    flushState(lanes.state);
    for (let i = 0; i < FILTER_STATE; i++) this.filterState[i] = lanes.state[i]!;
    for (let i = 0; i < COEFFICIENTS; i++) this.design[i] = lanes.after[i]!;
  }

  /** Designs the filter for a row's cutoff and resonance. */
  private designAt(part: PartState, row: number, out: Float64Array): void {
    const at = row * TARGETS;
    this.designed[0] = this.rows[at + CUTOFF]!;
    this.designed[1] = this.rows[at + RESONANCE]!;
    designFilter(part.program.filter, exp2(this.designed[0]), this.designed[1], part.sampleRate, out);
  }

  /** Filters a sub-block of the lanes, from the design that stands in `lanes.after` to the one of its end. */
  private filter(part: PartState, sub: number, from: number, to: number): void {
    const at = (sub + 1) * TARGETS;
    const { before, after } = lanes;
    for (let i = 0; i < COEFFICIENTS; i++) before[i] = after[i]!;
    // Designing a filter costs as much as a sub-block of filtering: one that stands still is kept.
    if (this.rows[at + CUTOFF] !== this.designed[0] || this.rows[at + RESONANCE] !== this.designed[1])
      this.designAt(part, sub + 1, after);
    if (part.program.filter === FILTER_LP24) filterKernel(from, to);
    else filter12(lanes.state, before, after, lanes.left, lanes.right, from, to);
  }

  private oscillate(part: PartState, from: number, first: number, subs: number): void {
    const { rows } = this;
    let steady = true;
    for (let k = first; k < subs; k++)
      if (rows[k * TARGETS + PITCH] !== rows[(k + 1) * TARGETS + PITCH]) steady = false;
    if (steady)
      return this.run(part, rows[first * TARGETS + PITCH]!, rows[first * TARGETS + PITCH]!, from, subs * SUB_BLOCK);
    for (let k = first; k < subs; k++) {
      this.run(
        part,
        rows[k * TARGETS + PITCH]!,
        rows[(k + 1) * TARGETS + PITCH]!,
        k === first ? from : k * SUB_BLOCK,
        (k + 1) * SUB_BLOCK,
      );
    }
  }

  /** Adds all unison voices over [from, to), from one pitch to another. */
  private run(part: PartState, pitchFirst: number, pitchLast: number, from: number, to: number): void {
    const { program, table, ratios, octaves } = part;
    const { left, right, bases, increments } = lanes;
    const { phases } = this;
    const count = part.unison;
    const log2First = Math.min(-1, (pitchFirst - 69) / 12 + LOG2_440 - part.log2SampleRate);
    const log2Last = Math.min(-1, (pitchLast - 69) / 12 + LOG2_440 - part.log2SampleRate);
    const first = exp2(log2First) * CYCLE;
    const perFrame = pitchFirst === pitchLast ? 0 : (exp2(log2Last) * CYCLE - first) / (to - from);
    const log2Top = Math.max(log2First, log2Last);
    for (let u = 0; u < count; u++) {
      increments[u] = first * ratios[u]!;
      bases[u] = waveLevel(log2Top + octaves[u]!) * table.stride;
    }
    const { gainsL, gainsR, stepsL, stepsR } = part;
    let u = 0;
    if (program.wave !== WAVE_PULSE && perFrame === 0 && !part.gainsMoving) {
      u = count & ~1;
      for (let k = 0; k < u; k++) {
        lanes.phases[k] = phases[k]!;
        lanes.gainsL[k] = gainsL[k]!;
        lanes.gainsR[k] = gainsR[k]!;
      }
      stackKernel(table.samples, u, from, to);
      for (let k = 0; k < u; k++) phases[k] = lanes.phases[k]!;
    }
    for (; u < count; u++) {
      const gl = gainsL[u]! + stepsL[u]! * from;
      const gr = gainsR[u]! + stepsR[u]! * from;
      const slope = perFrame * ratios[u]!;
      if (program.wave === WAVE_PULSE) {
        addPulse(table.samples, bases[u]!, phases, u, increments[u]!, slope, part.pulseWidth + part.pulseStep * from, part.pulseStep,
          gl, gr, stepsL[u]!, stepsR[u]!, left, right, from, to); // prettier-ignore
      } else {
        addWave(
          table.samples,
          bases[u]!,
          phases,
          u,
          increments[u]!,
          slope,
          gl,
          gr,
          stepsL[u]!,
          stepsR[u]!,
          left,
          right,
          from,
          to,
        );
      }
    }
  }

  private mix(sub: number, from: number, to: number): void {
    const { rows } = this;
    const at = sub * TARGETS;
    const per = 1 / (to - from);
    const g0 = rows[at + GAIN]!;
    const g1 = rows[at + TARGETS + GAIN]!;
    if (this.panned === NEVER) this.setPan(rows[at + PAN]!, true);
    const pan = rows[at + TARGETS + PAN]!;
    if (pan !== this.panned) this.setPan(pan, false);
    const gl = g0 * this.panL0;
    const gr = g0 * this.panR0;
    const dl = (g1 * this.panL1 - gl) * per;
    const dr = (g1 * this.panR1 - gr) * per;
    mixKernel(gl, gr, dl, dr, from, to);
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
