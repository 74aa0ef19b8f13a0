import { bend, bendScale, tensionExponent } from "../../curve/bend";
import { heldAt, loopSec, toLeft } from "../../curve/envelope";
import { exp2 } from "../../dsp/portableMath";
import { LANES } from "../lanes";
import type { EnvelopeOp, Ref } from "../program";
import { read, type Memory, type VoiceFrame, type VoiceRoom, type VoiceRun } from "./voiceRun";

/** An envelope while its key is held, or as it was when that was let go. */
class HeldRun implements VoiceRun {
  constructor(
    private readonly op: EnvelopeOp,
    private readonly room: VoiceRoom,
  ) {}

  evaluate(list: Int32Array, count: number, { frame }: VoiceFrame): void {
    const { lanes, slots, sampleRate } = this.room;
    const { onFrame, offFrame } = lanes;
    const { envelope } = this.op;
    const per = 1 / sampleRate;
    const out = this.op.out * LANES;
    let lastOn = NaN;
    let lastUntil = NaN;
    let value = 0;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const on = onFrame[v]!;
      const until = offFrame[v]! < frame ? offFrame[v]! : frame;
      // Notes of a chord start together: what one of them has, the others have.
      if (on !== lastOn || until !== lastUntil) {
        value = heldAt(envelope, (until - on) * per);
        lastOn = on;
        lastUntil = until;
      }
      slots[out + v] = value;
    }
  }
}

/** What is left of it after its key was let go. */
class ReleaseRun implements VoiceRun {
  private readonly left = new Float64Array(1);

  constructor(
    private readonly op: EnvelopeOp,
    private readonly room: VoiceRoom,
  ) {}

  evaluate(list: Int32Array, count: number, { frame }: VoiceFrame): void {
    const { lanes, slots, sampleRate } = this.room;
    const { onFrame, offFrame } = lanes;
    const { envelope } = this.op;
    const per = 1 / sampleRate;
    const out = this.op.out * LANES;
    const { left } = this;
    let lastOn = NaN;
    let lastOff = NaN;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const on = onFrame[v]!;
      const off = offFrame[v]!;
      if (off > frame) continue;
      if (off !== lastOff || on !== lastOn) {
        left[0] = (frame - on) * per - (off - on) * per;
        toLeft(envelope, left, 0);
        lastOff = off;
        lastOn = on;
      }
      slots[out + v] = slots[out + v]! * left[0]!;
    }
  }
}

/** What stages without a time or a curve of their own have in place of one. */
const NONE = 0;
const DELAY = 0;
const ATTACK = 1;
const HOLD = 2;
const DECAY = 3;
export const SUSTAIN = 4;
const RELEASE = 5;
/** Where an envelope that all notes share sets out, by what of it loops. */
export const FIRST_STAGE = { none: DELAY, all: ATTACK, decay: DECAY } as const;
/** Stages that a sub-block goes through at the most: a loop may be shorter than that. */
const MOST_TURNS = 64;

/** What moves of each stage of an envelope, by the stage's number. */
interface Stages {
  /** Seconds, and what moves them. */
  readonly secs: Float64Array;
  readonly times: readonly (Ref | null)[];
  /** Moved ones are whole multiples of so many seconds; 0 for any. */
  readonly snapSec: number;
  /** Curvature, as `bend` takes it, and what moves it. */
  readonly exponents: Float64Array;
  readonly scales: Float64Array;
  readonly curves: readonly (Ref | null)[];
  /** The stage that comes after the decay. */
  readonly afterDecay: number;
}

function stagesOf({ envelope: e, moved, snapSec }: EnvelopeOp): Stages {
  const m = moved!;
  return {
    secs: Float64Array.of(e.delaySec, e.attackSec, e.holdSec, e.decaySec, NONE, e.releaseSec),
    times: [m.delay, m.attack, m.hold, m.decay, null, m.release],
    snapSec,
    exponents: Float64Array.of(NONE, e.attackK, NONE, e.decayK, NONE, e.releaseK),
    scales: Float64Array.of(NONE, e.attackScale, NONE, e.decayScale, NONE, e.releaseScale),
    curves: [null, m.attackCurve, null, m.decayCurve, null, m.releaseCurve],
    afterDecay: loopSec(e) === 0 ? SUSTAIN : e.loop === "all" ? ATTACK : DECAY,
  };
}

/**
 * Where an envelope is whose own values move: its place within a stage is added up. Memory: stage, place, value left at
 * release.
 */
class StageRun implements VoiceRun {
  constructor(
    private readonly op: EnvelopeOp,
    private readonly stages: Stages,
    private readonly memory: Memory,
    private readonly room: VoiceRoom,
  ) {}

  evaluate(list: Int32Array, count: number, now: VoiceFrame): void {
    const { secs, times, afterDecay, snapSec } = this.stages;
    const { lanes, slots, sampleRate } = this.room;
    const { a, b, c } = this.memory;
    const { shared } = now;
    const out = this.op.out * LANES;
    const sustainRef = this.op.moved!.sustain;
    for (let i = 0; i < count; i++) {
      const v = list[i]!;
      let stage = a[v]!;
      let at = b[v]!;
      let left = (now.frame - lanes.lastFrame[v]!) / sampleRate;
      if (lanes.fresh[v] === 1) {
        stage = DELAY;
        at = 0;
        left = 0;
        c[v] = 0;
      } else if (stage !== RELEASE && lanes.lastFrame[v]! >= lanes.offFrame[v]!) {
        stage = RELEASE;
        at = 0;
        c[v] = slots[out + v]!;
      }
      // A stage that is over leaves the rest of the time to the next one; a loop that takes no time ends.
      for (let turns = 0; stage !== SUSTAIN && turns < MOST_TURNS; turns++) {
        const moved = times[stage] ?? null;
        let sec = moved === null ? secs[stage]! : secs[stage]! * exp2(read(moved, v, slots, shared));
        if (moved !== null && snapSec > 0 && sec > 0) sec = Math.max(1, Math.round(sec / snapSec)) * snapSec;
        const to = sec > 0 ? at + left / sec : 1;
        if (stage === RELEASE) {
          at = Math.min(1, to);
          break;
        }
        if (to < 1) {
          at = to;
          break;
        }
        if (sec > 0) left = (to - 1) * sec;
        at = 0;
        if (stage === DECAY) {
          // The value from which an attack that comes again sets out.
          c[v] = sustainRef === null ? this.op.envelope.sustain : read(sustainRef, v, slots, shared) / 100;
          stage = afterDecay;
        } else stage++;
      }
      a[v] = stage;
      b[v] = at;
    }
  }
}

/** Its value there. */
class StageValueRun implements VoiceRun {
  constructor(
    private readonly op: EnvelopeOp,
    private readonly stages: Stages,
    private readonly memory: Memory,
    private readonly room: VoiceRoom,
  ) {}

  evaluate(list: Int32Array, count: number, { shared }: VoiceFrame): void {
    const { exponents, scales, curves } = this.stages;
    const { slots } = this.room;
    const { a, b, c } = this.memory;
    const out = this.op.out * LANES;
    const sustainRef = this.op.moved!.sustain;
    for (let i = 0; i < count; i++) {
      const v = list[i]!;
      const stage = a[v]!;
      const moved = curves[stage] ?? null;
      const k = moved === null ? exponents[stage]! : tensionExponent(read(moved, v, slots, shared));
      const bent = bend(b[v]!, k, moved === null ? scales[stage]! : bendScale(k));
      const sustain = sustainRef === null ? this.op.envelope.sustain : read(sustainRef, v, slots, shared) / 100;
      let value = sustain;
      if (stage === DELAY) value = 0;
      else if (stage === ATTACK) value = c[v]! + (1 - c[v]!) * bent;
      else if (stage === HOLD) value = 1;
      else if (stage === DECAY) value = 1 - (1 - sustain) * bent;
      else if (stage === RELEASE) value = b[v]! >= 1 ? 0 : c[v]! * (1 - bent);
      slots[out + v] = value;
    }
  }
}

/** The stages of an envelope of each note's own. */
export function envelopeRuns(op: EnvelopeOp, memory: Memory, room: VoiceRoom): VoiceRun[] {
  if (op.moved === null) return [new HeldRun(op, room), new ReleaseRun(op, room)];
  const stages = stagesOf(op);
  return [new StageRun(op, stages, memory, room), new StageValueRun(op, stages, memory, room)];
}
