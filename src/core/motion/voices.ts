import { nextTurn } from "../curve/envelope";
import { LANES, type VoiceLanes } from "./lanes";
import { isConstant, type EnvelopeOp, type MotionProgram, type Op, type Ref } from "./program";
import { envelopeRuns } from "./run/envelopeRuns";
import { shapeRuns } from "./run/shapeRuns";
import { MacroRun, NoteRun, SumRun, TermRun } from "./run/valueRuns";
import { MANY_KINDS, Memory, type VoiceFrame, type VoiceRoom, type VoiceRun } from "./run/voiceRun";

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

function runsOf(op: Op, memory: Memory, room: VoiceRoom): VoiceRun[] {
  switch (op.type) {
    case "envelope":
      return envelopeRuns(op, memory, room);
    case "shape":
      return shapeRuns(op, memory, room);
    case "sum":
      return [new SumRun(op, room)];
    case "term":
      return [new TermRun(op, memory, room)];
    case "macro":
      return [new MacroRun(op, room)];
    case "note":
      return [new NoteRun(op, room)];
    case "newest":
      return [];
    default:
      return op satisfies never;
  }
}

/** The values that every voice has of its own: slots are rows of one value a lane. */
export class VoiceMotion {
  slots: Float64Array;
  private program: MotionProgram;
  private memories = new Map<string, Memory>();
  private runs: readonly VoiceRun[] = [];
  /** Of each run: whether its operation is fixed. */
  private runFixed: readonly boolean[] = [];
  private fixed: readonly boolean[] = [];
  /** Envelopes whose corners are where their times say. */
  private cornered: readonly EnvelopeOp[] = [];

  constructor(
    program: MotionProgram,
    private readonly lanes: VoiceLanes,
    private readonly sampleRate: number,
  ) {
    this.program = program;
    this.slots = new Float64Array(program.voiceSlots * LANES);
    const nothing = { frame: 0, tick: 0, ticksPerSec: 1, shared: new Float64Array(0) };
    this.run(MANY_KINDS, new Int32Array(0), 0, nothing, true);
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
    const { program, lanes, slots, sampleRate } = this;
    const kept = new Map<string, Memory>();
    this.fixed = fixedOps(program);
    const runs = program.voice.map((op) => {
      const key = `${op.type}:${op.id}`;
      const memory = this.memories.get(key) ?? new Memory();
      kept.set(key, memory);
      return runsOf(op, memory, { lanes, slots, sampleRate });
    });
    this.memories = kept;
    this.runs = runs.flat();
    this.runFixed = runs.flatMap((stages, i) => stages.map(() => this.fixed[i]!));
    this.cornered = program.voice.filter((op): op is EnvelopeOp => op.type === "envelope" && op.moved === null);
  }

  /**
   * Evaluates operations for `count` lanes of `list`; fixed ones only when `all` is set: for notes that start, and once
   * after a program was taken over.
   */
  evaluate(list: Int32Array, count: number, now: VoiceFrame, all: boolean): void {
    this.run(this.runs, list, count, now, all);
  }

  private run(stages: readonly VoiceRun[], list: Int32Array, count: number, now: VoiceFrame, all: boolean): void {
    const { runFixed } = this;
    for (let i = 0; i < stages.length; i++) if (all || !runFixed[i]) stages[i]!.evaluate(list, count, now);
  }

  /** Writes the next frame after `frame` at which an envelope of the voice turns a corner; Infinity for none. */
  nextCorner(v: number, frame: number, into: Float64Array): void {
    const { cornered, sampleRate: rate } = this;
    const on = this.lanes.onFrame[v]!;
    const off = this.lanes.offFrame[v]!;
    let next = off > frame ? off : Infinity;
    for (let i = 0; i < cornered.length; i++) {
      const { envelope } = cornered[i]!;
      // Half a frame on, so that a corner that was just met is not met again.
      const turn = Math.round(on + nextTurn(envelope, (frame - on + 0.5) / rate) * rate);
      const end = off === Infinity ? Infinity : Math.ceil(off + envelope.releaseSec * rate);
      if (turn > frame && turn < next && turn < off) next = turn;
      if (end > frame && end < next) next = end;
    }
    into[v] = next;
  }
}
