import { bend, bendScale, tensionExponent } from "../curve/bend";
import { curveAt } from "../curve/curve";
import { envelopeAt, loopSec, nextTurn } from "../curve/envelope";
import { exp, exp2 } from "../dsp/portableMath";
import { hash01 } from "../pattern/chance";
import { COUNTED, LANES, type VoiceLanes } from "./lanes";
import {
  isConstant,
  type EnvelopeOp,
  type MotionProgram,
  type Op,
  type Ref,
  type ShapeOp,
  type SumOp,
} from "./program";
import { fadedIn, heldCycles, shapeValue } from "./shape";
import { SETTLE, macroValue, termValue } from "./terms";

/** Numbers that an operation remembers of each voice. */
class Memory {
  readonly a = new Float64Array(LANES);
  readonly b = new Float64Array(LANES);
  readonly c = new Float64Array(LANES);
  readonly d = new Float64Array(LANES);
}

const DELAY = 0;
const ATTACK = 1;
const HOLD = 2;
const DECAY = 3;
const SUSTAIN = 4;
const RELEASE = 5;
/** Stages that a sub-block goes through at the most: a loop may be shorter than that. */
const MOST_TURNS = 64;

/** Names a note for seeded draws: the same one of every pass. */
const noteAddress = (tick: number, key: number): number => Math.imul(Math.round(tick), 128) + key;

/** Operations whose values stay as they are while a note sounds: what only notes themselves bring, or was latched. */
function fixedOps(program: MotionProgram): boolean[] {
  const slots = new Set<Ref>();
  return program.voice.map((op) => {
    const still =
      (op.type === "note" && op.id !== "held" && !program.slides) ||
      (op.type === "macro" && (isConstant(op.value) || slots.has(op.value))) ||
      (op.type === "sum" && op.slots.every((s) => slots.has(s))) ||
      (op.type === "term" &&
        isConstant(op.amount) &&
        (op.atStart || slots.has(op.source)) &&
        (op.scaledBy === null || slots.has(op.scaledBy)));
    if (still) slots.add(op.out);
    return still;
  });
}

/** What of each voice's own a sum adds: where its rows begin, and how much of each. */
interface Terms {
  readonly rows: Int32Array;
  readonly gains: Float64Array;
}

function termsOf({ slots, gains }: SumOp): Terms {
  const own = slots.flatMap((slot, i) => (slot < 0 ? [] : [i]));
  return { rows: Int32Array.from(own, (i) => slots[i]! * LANES), gains: Float64Array.from(own, (i) => gains[i]!) };
}

/** Whether a shape is a drawn curve that nothing moves, and that nothing but its start sets apart from note to note. */
const isPlain = ({ moved, shape }: ShapeOp): boolean =>
  moved === null &&
  shape.sequence === null &&
  shape.draws === null &&
  shape.held === null &&
  shape.scatter === 0 &&
  shape.fadeIn === 0;

/** The song as the voices need it at one frame. */
export interface VoiceFrame {
  frame: number;
  /** Ticks since the engine's start. */
  tick: number;
  ticksPerSec: number;
  /** Values that all voices share at the frame. */
  shared: Float64Array;
}

/** The values that every voice has of its own: slots are rows of one value a lane. */
export class VoiceMotion {
  slots: Float64Array;
  private program: MotionProgram;
  private memories = new Map<string, Memory>();
  private byOp: Memory[] = [];
  private terms: readonly (Terms | null)[] = [];
  private plain: readonly boolean[] = [];
  private fixed: readonly boolean[] = [];

  constructor(
    program: MotionProgram,
    private readonly lanes: VoiceLanes,
    private readonly sampleRate: number,
  ) {
    this.program = program;
    this.slots = new Float64Array(program.voiceSlots * LANES);
    this.bind();
  }

  /** Takes over a program; an operation keeps its memory by the id of its module or route. */
  install(program: MotionProgram): void {
    const before = new Map(this.program.voice.map((op) => [`${op.type}:${op.id}`, op.out]));
    const slots = new Float64Array(program.voiceSlots * LANES);
    for (const op of program.voice) {
      const old = before.get(`${op.type}:${op.id}`);
      if (old !== undefined) slots.set(this.slots.subarray(old * LANES, (old + 1) * LANES), op.out * LANES);
    }
    this.program = program;
    this.slots = slots;
    this.bind();
  }

  /** Whether a slot's value stays as it is while a note sounds. */
  isFixed(ref: Ref): boolean {
    return this.program.voice.some((op, i) => op.out === ref && this.fixed[i]);
  }

  private bind(): void {
    const kept = new Map<string, Memory>();
    this.byOp = this.program.voice.map((op) => {
      const key = `${op.type}:${op.id}`;
      const memory = this.memories.get(key) ?? new Memory();
      kept.set(key, memory);
      return memory;
    });
    this.memories = kept;
    this.terms = this.program.voice.map((op) => (op.type === "sum" ? termsOf(op) : null));
    this.plain = this.program.voice.map((op) => op.type === "shape" && isPlain(op));
    this.fixed = fixedOps(this.program);
  }

  /**
   * Evaluates operations for `count` lanes of `list`; fixed ones only when `all` is set: for notes that start, and once
   * after a program was taken over.
   */
  evaluate(list: Int32Array, count: number, now: VoiceFrame, all: boolean): void {
    const ops = this.program.voice;
    for (let i = 0; i < ops.length; i++) {
      if (!all && this.fixed[i] === true) continue;
      const op = ops[i]!;
      const memory = this.byOp[i]!;
      switch (op.type) {
        case "envelope":
          if (op.moved === null) this.envelope(op, list, count, now.frame);
          else this.movedEnvelope(op, memory, list, count, now);
          break;
        case "shape":
          if (this.plain[i] === true) this.plainShape(op, memory, list, count, now);
          else this.shape(op, memory, list, count, now);
          break;
        case "sum":
          this.sum(op, this.terms[i]!, list, count, now.shared);
          break;
        case "term":
          this.term(op, memory, list, count, now.shared);
          break;
        case "macro":
          for (let k = 0; k < count; k++) {
            const v = list[k]!;
            const value = isConstant(op.value) ? op.value.constant : this.read(op.value, v, now.shared);
            this.slots[op.out * LANES + v] = macroValue(op, value);
          }
          break;
        case "note":
          this.note(op, list, count, now.frame);
          break;
        default:
          break;
      }
    }
  }

  private read(ref: Ref, v: number, shared: Float64Array): number {
    return ref < 0 ? shared[~ref]! : this.slots[ref * LANES + v]!;
  }

  private envelope(op: EnvelopeOp, list: Int32Array, count: number, frame: number): void {
    const { onFrame, offFrame } = this.lanes;
    const per = 1 / this.sampleRate;
    const out = op.out * LANES;
    const { slots } = this;
    // Notes of a chord start together: what one of them has, the others have.
    let lastOn = NaN;
    let lastOff = NaN;
    let value = 0;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const on = onFrame[v]!;
      const off = offFrame[v]!;
      if (on !== lastOn || off !== lastOff) {
        value = envelopeAt(op.envelope, (frame - on) * per, off === Infinity ? Infinity : (off - on) * per);
        lastOn = on;
        lastOff = off;
      }
      slots[out + v] = value;
    }
  }

  /** An envelope whose own values move: its place within a stage is integrated. Memory: stage, place, value left at release. */
  private movedEnvelope(op: EnvelopeOp, m: Memory, list: Int32Array, count: number, now: VoiceFrame): void {
    const { lanes, slots } = this;
    const { envelope: e } = op;
    const moved = op.moved!;
    const out = op.out * LANES;
    const bent = (ref: Ref | null, t: number, k: number, scale: number, v: number): number => {
      if (ref === null) return bend(t, k, scale);
      const own = tensionExponent(this.read(ref, v, now.shared));
      return bend(t, own, bendScale(own));
    };
    for (let i = 0; i < count; i++) {
      const v = list[i]!;
      const sustain = moved.sustain === null ? e.sustain : this.read(moved.sustain, v, now.shared) / 100;
      let stage = m.a[v]!;
      let at = m.b[v]!;
      let left = (now.frame - lanes.lastFrame[v]!) / this.sampleRate;
      if (lanes.fresh[v] === 1) {
        stage = DELAY;
        at = 0;
        left = 0;
        m.c[v] = 0;
      }
      if (stage !== RELEASE && lanes.lastFrame[v]! >= lanes.offFrame[v]! && lanes.fresh[v] === 0) {
        stage = RELEASE;
        at = 0;
        m.c[v] = slots[out + v]!;
      }
      if (stage === RELEASE) {
        const sec = e.releaseSec * this.octaves(moved.release, v, now.shared);
        at = sec > 0 ? Math.min(1, at + left / sec) : 1;
      } else {
        // A stage that is over leaves the rest of the time to the next one; a loop that takes no time ends.
        for (let turns = 0; stage !== SUSTAIN && turns < MOST_TURNS; turns++) {
          const sec = this.stageSec(op, stage, v, now.shared);
          const to = sec > 0 ? at + left / sec : 1;
          if (to < 1) {
            at = to;
            break;
          }
          left = sec > 0 ? (to - 1) * sec : left;
          at = 0;
          if (stage === DECAY) {
            // The value from which an attack that comes again sets out.
            m.c[v] = sustain;
            stage = loopSec(e) === 0 ? SUSTAIN : e.loop === "all" ? ATTACK : DECAY;
          } else stage++;
        }
      }
      m.a[v] = stage;
      m.b[v] = at;
      slots[out + v] =
        stage === DELAY
          ? 0
          : stage === ATTACK
            ? m.c[v]! + (1 - m.c[v]!) * bent(moved.attackCurve, at, e.attackK, e.attackScale, v)
            : stage === HOLD
              ? 1
              : stage === DECAY
                ? 1 - (1 - sustain) * bent(moved.decayCurve, at, e.decayK, e.decayScale, v)
                : stage === SUSTAIN
                  ? sustain
                  : at >= 1
                    ? 0
                    : m.c[v]! * (1 - bent(moved.releaseCurve, at, e.releaseK, e.releaseScale, v));
    }
  }

  /** Seconds of a stage as it is moved. */
  private stageSec({ envelope: e, moved }: EnvelopeOp, stage: number, v: number, shared: Float64Array): number {
    const m = moved!;
    if (stage === DELAY) return e.delaySec * this.octaves(m.delay, v, shared);
    if (stage === ATTACK) return e.attackSec * this.octaves(m.attack, v, shared);
    if (stage === HOLD) return e.holdSec * this.octaves(m.hold, v, shared);
    return e.decaySec * this.octaves(m.decay, v, shared);
  }

  private octaves(ref: Ref | null, v: number, shared: Float64Array): number {
    return ref === null ? 1 : exp2(this.read(ref, v, shared));
  }

  /** A drawn curve that nothing moves. Notes of a chord start together: what one of them has, the others have. Memory: smoothed value. */
  private plainShape(op: ShapeOp, m: Memory, list: Int32Array, count: number, now: VoiceFrame): void {
    const { slots } = this;
    const { fresh, lastFrame, onFrame, onTick } = this.lanes;
    const { curve, synced, period, smoothingSec } = op.shape;
    const { a } = m;
    const out = op.out * LANES;
    const once = op.shape.restart === "once";
    const per = 1 / this.sampleRate;
    const settling = smoothingSec > 0 ? (-SETTLE * per) / smoothingSec : 0;
    const starts = synced ? onTick : onFrame;
    const scale = (synced ? 1 : per) / period;
    const here = synced ? now.tick : now.frame;
    let lastStart = NaN;
    let lastElapsed = NaN;
    let value = 0;
    let keep = 0;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const start = starts[v]!;
      if (start !== lastStart) {
        lastStart = start;
        const phase = (here - start) * scale + op.shape.phase;
        value = curveAt(curve, once ? Math.min(1, Math.max(0, phase)) : phase - Math.floor(phase));
      }
      let next = value;
      if (fresh[v] === 0 && settling !== 0) {
        const elapsed = now.frame - lastFrame[v]!;
        if (elapsed !== lastElapsed) {
          lastElapsed = elapsed;
          keep = exp(settling * elapsed);
        }
        next = value + (a[v]! - value) * keep;
      }
      a[v] = next;
      slots[out + v] = next;
    }
  }

  /** A shape of each note's own. Memory: smoothed value, cycles, rate, cycles when it was let go. */
  private shape(op: ShapeOp, m: Memory, list: Int32Array, count: number, now: VoiceFrame): void {
    const { lanes, slots } = this;
    const { shape, moved } = op;
    const out = op.out * LANES;
    const per = 1 / this.sampleRate;
    const once = shape.restart === "once";
    const plain = shape.sequence === null && shape.draws === null;
    let lastX = 0;
    let lastKeep = 1;
    let lastPhase = NaN;
    let value = 0;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const fresh = lanes.fresh[v] === 1;
      const elapsed = fresh ? 0 : (now.frame - lanes.lastFrame[v]!) * per;
      const turn = moved?.phase == null ? 0 : this.read(moved.phase, v, now.shared) / 360 - shape.phase;
      let phase: number;
      // What is added to the cycles since the start, when it was let go, too.
      let off = Infinity;
      if (moved?.rate == null) {
        const since = shape.synced ? now.tick - lanes.onTick[v]! : (now.frame - lanes.onFrame[v]!) * per;
        phase = since / shape.period + shape.phase + turn;
        if (shape.held !== null && lanes.offFrame[v]! < now.frame) {
          const ago = (now.frame - lanes.offFrame[v]!) * per * (shape.synced ? now.ticksPerSec : 1);
          off = phase - ago / shape.period;
        }
      } else {
        if (shape.held !== null) {
          if (fresh) m.d[v] = Infinity;
          else if (m.d[v] === Infinity && lanes.lastFrame[v]! >= lanes.offFrame[v]!) m.d[v] = m.b[v]!;
          off = m.d[v]! + shape.phase + turn;
        }
        const rate = (exp2(this.read(moved.rate, v, now.shared)) * (shape.synced ? now.ticksPerSec : 1)) / shape.period;
        m.b[v] = fresh ? 0 : m.b[v]! + ((m.c[v]! + rate) / 2) * elapsed;
        m.c[v] = rate;
        phase = m.b[v] + shape.phase + turn;
      }
      if (shape.scatter > 0) {
        const drawn = shape.scatter * hash01(shape.seed, noteAddress(lanes.eventTick[v]!, lanes.key[v]!));
        phase += drawn;
        off += drawn;
      }
      if (shape.held !== null) phase = heldCycles(shape.held, phase, off);
      if (!plain) {
        const blend = moved?.blend == null ? op.blend : this.read(moved.blend, v, now.shared) / 100;
        value = shapeValue(shape, phase, blend, noteAddress(lanes.eventTick[v]!, lanes.key[v]!));
      } else if (phase !== lastPhase) {
        lastPhase = phase;
        value = curveAt(shape.curve, once ? Math.min(1, Math.max(0, phase)) : phase - Math.floor(phase));
      }
      let target = value;
      if (shape.fadeIn > 0) {
        const since = shape.synced ? now.tick - lanes.onTick[v]! : (now.frame - lanes.onFrame[v]!) * per;
        target = fadedIn(shape, value, since);
      }
      const smoothingSec =
        moved?.smoothing == null ? shape.smoothingSec : this.read(moved.smoothing, v, now.shared) / 1000;
      let keep = 0;
      if (!fresh && smoothingSec > 0) {
        const x = (-SETTLE * elapsed) / smoothingSec;
        // Nearly always that of a whole sub-block.
        if (x !== lastX) {
          lastX = x;
          lastKeep = exp(x);
        }
        keep = lastKeep;
      }
      m.a[v] = target + (m.a[v]! - target) * keep;
      slots[out + v] = m.a[v]!;
    }
  }

  private sum(op: SumOp, terms: Terms, list: Int32Array, count: number, shared: Float64Array): void {
    const { slots } = this;
    const out = op.out * LANES;
    let base = op.base;
    for (let s = 0; s < op.slots.length; s++) if (op.slots[s]! < 0) base += op.gains[s]! * shared[~op.slots[s]!]!;
    const { min, max } = op;
    const { rows, gains } = terms;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      let x = base;
      for (let s = 0; s < rows.length; s++) x += gains[s]! * slots[rows[s]! + v]!;
      slots[out + v] = x < min ? min : x > max ? max : x;
    }
  }

  private term(
    op: Extract<Op, { type: "term" }>,
    m: Memory,
    list: Int32Array,
    count: number,
    shared: Float64Array,
  ): void {
    const out = op.out * LANES;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      if (op.atStart && this.lanes.fresh[v] === 1) m.a[v] = this.read(op.source, v, shared);
      const source = op.atStart ? m.a[v]! : this.read(op.source, v, shared);
      const amount = isConstant(op.amount) ? op.amount.constant : this.read(op.amount, v, shared);
      this.slots[out + v] = termValue(op, source, amount, op.scaledBy === null ? 1 : this.read(op.scaledBy, v, shared));
    }
  }

  private note(op: Extract<Op, { type: "note" }>, list: Int32Array, count: number, frame: number): void {
    const { lanes, slots } = this;
    const out = op.out * LANES;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      switch (op.id) {
        case "velocity":
          slots[out + v] = lanes.velocity[v]! / 127;
          break;
        case "copy":
          slots[out + v] = lanes.copy[v]!;
          break;
        case "key":
          slots[out + v] = Math.max(-1, Math.min(1, (lanes.pitchAt(v, frame) - 60) / 60));
          break;
        case "held":
          slots[out + v] = frame < lanes.offFrame[v]! ? 1 : 0;
          break;
        case "count":
          slots[out + v] = lanes.onsets[v]! / (COUNTED - 1);
          break;
        case "wheel":
          slots[out + v] = lanes.wheel;
          break;
        case "bend":
          slots[out + v] = lanes.stick;
          break;
        case "pressure":
          slots[out + v] = lanes.pressure;
          break;
        case "freeA":
          slots[out + v] = lanes.freeA[v]! / 100;
          break;
        case "freeB":
          slots[out + v] = lanes.freeB[v]! / 100;
          break;
        default:
          op.id satisfies never;
      }
    }
  }

  /** The next frame after `frame` at which an envelope of the voice turns a corner; Infinity for none. */
  nextCorner(v: number, frame: number): number {
    const on = this.lanes.onFrame[v]!;
    const off = this.lanes.offFrame[v]!;
    let next = off > frame ? off : Infinity;
    for (const op of this.program.voice) {
      if (op.type !== "envelope" || op.moved !== null) continue;
      const rate = this.sampleRate;
      // Half a frame on, so that a corner that was just met is not met again.
      const turn = Math.round(on + nextTurn(op.envelope, (frame - on + 0.5) / rate) * rate);
      const end = off === Infinity ? Infinity : Math.ceil(off + op.envelope.releaseSec * rate);
      if (turn > frame && turn < next && turn < off) next = turn;
      if (end > frame && end < next) next = end;
    }
    return next;
  }
}
