import { inputsOf, STEP_TICKS, type MotionProgram, type Op, type Ref, type ShapeOp } from "./program";
import { sharedRuns, type NewestOf } from "./run/sharedRuns";
import { ShapeState, SharedFrame, type SharedRun } from "./run/sharedStage";
import { MANY_KINDS } from "./run/voiceRun";
import type { SongFrame } from "./shape";
import { SETTLE } from "./smoothing";

/** -120 dB: what is left of a smoothed jump after this many times its settling time. */
const SETTLED = 14 / SETTLE;
const LONGEST_WARM_UP = 8192;

/**
 * The values that all notes of a part share, moved on once a sub-block. They depend on the song's position alone (except
 * those that take after the newest note), so that playing from anywhere gives what playing on gives.
 */
export class SharedMotion {
  /** Values now. */
  values: Float64Array;
  private program: MotionProgram;
  private states = new Map<string, ShapeState>();
  private runs: readonly SharedRun[] = [];
  private readonly now = new SharedFrame();

  constructor(
    program: MotionProgram,
    private readonly sampleRate: number,
    private readonly newestOf: NewestOf,
  ) {
    this.program = program;
    this.values = new Float64Array(program.sharedSlots);
    this.run(MANY_KINDS);
    this.bind();
  }

  /** Takes over a program; a modulator keeps its memory by its id. */
  install(program: MotionProgram): void {
    this.program = program;
    this.values = new Float64Array(program.sharedSlots);
    this.bind();
  }

  private bind(): void {
    const kept = new Map<string, ShapeState>();
    this.runs = this.program.shared.flatMap((op) => {
      // Only shapes remember something; this runs in the audio thread when a program is taken over.
      if (op.type === "shape") kept.set(op.id, this.states.get(op.id) ?? new ShapeState());
      return sharedRuns(op, kept.get(op.id) ?? null, this.values, this.newestOf);
    });
    this.states = kept;
  }

  /** Writes what was added up of a shape, as `ShapeOp.table` holds it, as a row of a table. */
  writeRow(id: string, table: Float64Array, row: number, columns: number): void {
    const { summed, rate, fall } = this.states.get(id)!;
    table.set([summed, rate, fall].slice(0, columns), row * columns);
  }

  /** Evaluates every operation at a position; `frames` have gone by since the last one. */
  evaluate(loopTick: number, song: SongFrame, frames: number): void {
    const { now } = this;
    now.at = loopTick;
    now.song = song;
    now.sec = frames / this.sampleRate;
    this.run(this.runs);
  }

  private run(stages: readonly SharedRun[]): void {
    for (let i = 0; i < stages.length; i++) stages[i]!.evaluate(this.now);
  }

  /**
   * Sets the memory to what it would be at `loopTick` had the song been playing on for ever: smoothing knows what came
   * before. `step` is a sub-block in frames.
   */
  relocate(loopTick: number, song: SongFrame, step: number): void {
    for (const state of this.states.values()) state.settled = false;
    let longest = 0;
    for (const op of this.program.shared) {
      if (op.type !== "shape") continue;
      longest = Math.max(longest, op.moved?.smoothing == null ? op.shape.smoothingSec : 0.2);
    }
    const steps = Math.min(LONGEST_WARM_UP, Math.ceil((longest * SETTLED * this.sampleRate) / step));
    const ticks = (step / this.sampleRate) * song.ticksPerSec;
    for (let k = steps; k >= 0; k--) {
      const at = loopTick - k * ticks;
      this.evaluate(at - Math.floor(at / song.loopTicks) * song.loopTicks, song, step);
    }
  }
}

/** Shared slots whose value depends on a note. */
function takeAfterNotes(program: MotionProgram): Set<number> {
  const slots = new Set<number>();
  for (let size = -1; size < slots.size;) {
    size = slots.size;
    for (const op of program.shared)
      if (op.type === "newest" || inputsOf(op).some((s) => slots.has(s))) slots.add(op.out);
  }
  return slots;
}

/** The operations that some of them need, and those, in their order. */
function behind(ops: readonly Op[], some: readonly Op[]): Op[] {
  const needed = new Set<Op>(some);
  const by = new Map(ops.map((op) => [op.out, op]));
  for (const op of needed)
    for (const ref of inputsOf(op)) {
      const input = by.get(ref);
      if (input) needed.add(input);
    }
  return ops.filter((op) => needed.has(op));
}

/** Passes after which what a follower was before has gone, for all that can be told. */
const MOST_PASSES = 64;
const SAME = 1e-9;

/**
 * Adds tables to what is added up over the pass and is moved by the song alone: the integral of a shared shape's rate, and
 * where a follower or an envelope is whose times move, once it runs; a row every `STEP_TICKS`. So any position of the song
 * can be looked up. Compiled outside of the audio thread.
 */
export function withTables(program: MotionProgram, song: SongFrame): MotionProgram {
  const byNotes = takeAfterNotes(program);
  const ofSong = (ref: Ref | null): boolean => ref !== null && !byNotes.has(ref);
  const standOrOfSong = (refs: readonly (Ref | null)[]): boolean => refs.every((ref) => ref === null || ofSong(ref));
  const wanted = program.shared.filter((op): op is ShapeOp => {
    if (op.type !== "shape") return false;
    if (op.stages) return standOrOfSong(Object.values(op.stages.moved!) as (Ref | null)[]);
    if (op.moved === null) return false;
    return op.shape.follower ? standOrOfSong([op.moved.attack, op.moved.release]) : ofSong(op.moved.rate);
  });
  if (wanted.length === 0) return program;
  const length = Math.ceil(song.loopTicks / STEP_TICKS) + 2;
  const goesOn = (op: ShapeOp): boolean => op.shape.follower !== null || op.stages !== null;
  const columnsOf = (op: ShapeOp): number => (goesOn(op) ? 3 : 1);
  const tables = new Map(wanted.map((op) => [op.id, new Float64Array(length * columnsOf(op))]));
  const sampleRate = song.ticksPerSec / STEP_TICKS;
  // One pass without restarts: every bar is taken from the same line of cycles.
  const onward = {
    ...program,
    shared: behind(program.shared, wanted).map((op): Op =>
      op.type === "shape" && tables.has(op.id) && !goesOn(op) ? { ...op, shape: { ...op.shape, restart: "song" } } : op,
    ),
  };
  const motion = new SharedMotion(onward, sampleRate, () => {});
  let began: readonly number[] = [];
  for (let pass = 0; pass < MOST_PASSES; pass++) {
    for (let i = 0; i < length; i++) {
      motion.evaluate(i * STEP_TICKS, song, i === 0 ? 0 : 1);
      for (const op of wanted) motion.writeRow(op.id, tables.get(op.id)!, i, columnsOf(op));
    }
    // Cycles begin again with each pass. A follower goes on from where the pass before has left it, and so does an envelope
    // that was triggered in that one: until a pass begins as the one before did.
    const before = began;
    began = wanted.map((op) => tables.get(op.id)![0]!);
    if (wanted.every((op, k) => !goesOn(op) || Math.abs(began[k]! - before[k]!) < SAME)) break;
  }
  return {
    ...program,
    shared: program.shared.map((op) => (op.type === "shape" ? { ...op, table: tables.get(op.id) ?? null } : op)),
  };
}
