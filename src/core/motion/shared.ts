import { exp, exp2 } from "../dsp/portableMath";
import { inputsOf, isConstant, STEP_TICKS, type MotionProgram, type Op, type ShapeOp } from "./program";
import { fadedIn, restartTick, shapeValue, type SongFrame } from "./shape";
import { SETTLE, macroValue, termValue } from "./terms";

/** -120 dB: what is left of a smoothed jump after this many times its settling time. */
const SETTLED = 14 / SETTLE;
const LONGEST_WARM_UP = 8192;

/** Memory of a shared shape between sub-blocks. */
interface ShapeState {
  value: number;
  settled: boolean;
  cycles: number;
  since: number;
  rate: number;
  /** What smoothing keeps of a jump, and for which exponent that was worked out. */
  exponent: number;
  keep: number;
}

const freshState = (): ShapeState => ({ value: 0, settled: false, cycles: 0, since: 0, rate: 0, exponent: 0, keep: 1 });

/**
 * The values that all notes of a part share, moved on once a sub-block. They depend on the song's position alone (except
 * those that take after the newest note), so that playing from anywhere gives what playing on gives.
 */
export class SharedMotion {
  /** Values now. */
  values: Float64Array;
  private program: MotionProgram;
  private states = new Map<string, ShapeState>();
  private byOp: (ShapeState | null)[] = [];

  constructor(
    program: MotionProgram,
    private readonly sampleRate: number,
    /** Value of a voice slot of the newest note. */
    private readonly newestOf: (slot: number) => number,
  ) {
    this.program = program;
    this.values = new Float64Array(program.sharedSlots);
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
    this.byOp = this.program.shared.map((op) => {
      if (op.type !== "shape") return null;
      const state = this.states.get(op.id) ?? freshState();
      kept.set(op.id, state);
      return state;
    });
    this.states = kept;
  }

  /** Cycles of a shape since the pass began, as they were integrated; for tables. */
  cyclesOf(id: string): number {
    return this.states.get(id)?.cycles ?? 0;
  }

  /** Evaluates every operation at a position; `frames` have gone by since the last one. */
  evaluate(loopTick: number, song: SongFrame, frames: number): void {
    const { values } = this;
    const ops = this.program.shared;
    const sec = frames / this.sampleRate;
    for (let i = 0; i < ops.length; i++) {
      const op = ops[i]!;
      values[~op.out] = this.valueOf(op, this.byOp[i]!, loopTick, song, sec);
    }
  }

  private valueOf(op: Op, state: ShapeState | null, loopTick: number, song: SongFrame, sec: number): number {
    const { values } = this;
    switch (op.type) {
      case "shape":
        return this.shape(op, state!, loopTick, song, sec);
      case "sum": {
        let sum = op.base;
        for (let k = 0; k < op.slots.length; k++) sum += op.gains[k]! * values[~op.slots[k]!]!;
        return sum < op.min ? op.min : sum > op.max ? op.max : sum;
      }
      case "term": {
        const amount = isConstant(op.amount) ? op.amount.constant : values[~op.amount]!;
        return termValue(op, values[~op.source]!, amount, op.scaledBy === null ? 1 : values[~op.scaledBy]!);
      }
      case "newest":
        return this.newestOf(op.from);
      case "macro":
        return macroValue(op, isConstant(op.value) ? op.value.constant : values[~op.value]!);
      default:
        return 0;
    }
  }

  private shape(op: ShapeOp, state: ShapeState, loopTick: number, song: SongFrame, sec: number): number {
    const { shape, moved } = op;
    const turn = moved?.phase == null ? shape.phase : this.values[~moved.phase]! / 360;
    let cycles: number;
    const restart = restartTick(shape, loopTick, song);
    if (moved?.rate == null) {
      const since = loopTick - restart;
      cycles = (shape.synced ? since : since / song.ticksPerSec) / shape.period;
    } else cycles = this.cycles(op, state, loopTick, song, sec, exp2(this.values[~moved.rate]!));
    const blend = moved?.blend == null ? op.blend : this.values[~moved.blend]! / 100;
    const plain = shapeValue(shape, turn + cycles, blend, restart === -Infinity ? 0 : Math.round(restart));
    const since = loopTick - restart;
    const target = shape.fadeIn === 0 ? plain : fadedIn(shape, plain, shape.synced ? since : since / song.ticksPerSec);
    const smoothingSec = moved?.smoothing == null ? shape.smoothingSec : this.values[~moved.smoothing]! / 1000;
    if (smoothingSec > 0 && state.settled) {
      const exponent = (-SETTLE * sec) / smoothingSec;
      if (exponent !== state.exponent) {
        state.exponent = exponent;
        state.keep = exp(exponent);
      }
      state.value = target + (state.value - target) * state.keep;
    } else state.value = target;
    state.settled = true;
    return state.value;
  }

  /** Cycles since the restart of a shape whose rate moves: from its table, or integrated as it goes. */
  private cycles(
    op: ShapeOp,
    state: ShapeState,
    loopTick: number,
    song: SongFrame,
    sec: number,
    ratio: number,
  ): number {
    const restart = restartTick(op.shape, loopTick, song);
    if (restart === -Infinity) return Infinity;
    if (op.cycles !== null) {
      const now = cyclesAt(op.cycles, loopTick);
      if (restart >= 0) return now - cyclesAt(op.cycles, restart);
      // Its trigger belongs to the pass before.
      return now + cyclesAt(op.cycles, song.loopTicks) - cyclesAt(op.cycles, restart + song.loopTicks);
    }
    const { shape } = op;
    const since = loopTick - restart;
    const rate = (ratio * (shape.synced ? song.ticksPerSec : 1)) / shape.period;
    if (!state.settled || since < state.since) state.cycles = (since / song.ticksPerSec) * rate;
    else state.cycles += ((state.rate + rate) / 2) * sec;
    state.since = since;
    state.rate = rate;
    return state.cycles;
  }

  /**
   * Sets the memory to what it would be at `loopTick` had the song been playing on for ever: smoothing knows what came
   * before. `step` is a sub-block in frames.
   */
  relocate(loopTick: number, song: SongFrame, step: number): void {
    for (const state of this.states.values()) Object.assign(state, freshState());
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

/** Cycles at a tick of the pass, on straight lines between the values of the table. */
function cyclesAt(table: Float64Array, tick: number): number {
  const at = tick / STEP_TICKS;
  const index = Math.min(table.length - 2, Math.floor(at));
  return table[index]! + (table[index + 1]! - table[index]!) * (at - index);
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

/**
 * Adds tables of cycles to shared shapes whose rate is moved by the song alone: the integral of the rate over one pass, a
 * value every `STEP_TICKS`. So any position of the song can be looked up. Compiled outside of the audio thread.
 */
export function withCycles(program: MotionProgram, song: SongFrame): MotionProgram {
  const byNotes = takeAfterNotes(program);
  const wanted = program.shared.filter(
    (op): op is ShapeOp => op.type === "shape" && op.moved?.rate != null && !byNotes.has(op.moved.rate),
  );
  if (wanted.length === 0) return program;
  const length = Math.ceil(song.loopTicks / STEP_TICKS) + 2;
  const tables = new Map(wanted.map((op) => [op.id, new Float64Array(length)]));
  const sampleRate = song.ticksPerSec / STEP_TICKS;
  // One pass without restarts: every bar is taken from the same line of cycles.
  const onward = {
    ...program,
    shared: program.shared.map((op): Op =>
      op.type === "shape" && tables.has(op.id) ? { ...op, shape: { ...op.shape, restart: "song" } } : op,
    ),
  };
  const motion = new SharedMotion(onward, sampleRate, () => 0);
  for (let i = 0; i < length; i++) {
    motion.evaluate(i * STEP_TICKS, song, i === 0 ? 0 : 1);
    for (const [id, table] of tables) table[i] = motion.cyclesOf(id);
  }
  return {
    ...program,
    shared: program.shared.map((op) => (op.type === "shape" ? { ...op, cycles: tables.get(op.id) ?? null } : op)),
  };
}
