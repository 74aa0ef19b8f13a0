import { curveAt } from "../../curve/curve";
import { exp, exp2 } from "../../dsp/portableMath";
import { Drawn, draw, drawnBetween } from "../drawn";
import { evenOp, isConstant, STEP_TICKS, type MacroOp, type NewestOp, type Op, type ShapeOp, type SumOp, type TermOp } from "../program"; // prettier-ignore
import { fadedIn, isOver, phaseOfCycles, restartTick } from "../shape";
import { findPlace, valueThere } from "../sequence";
import { SETTLE } from "../smoothing";
import { macroValue, termValue } from "../terms";
import { AddUpFollowerRun, FollowerRun, LookUpFollowerRun } from "./followerRuns";
import { GateRun } from "./gateRun";
import { SharedStagesRun } from "./sharedStages";
import { Stage, type SharedFrame, type SharedRun, type ShapeState } from "./sharedStage";

/** Writes the value of a voice slot of the newest note. */
export type NewestOf = (slot: number, into: Float64Array, at: number) => void;

class SumRun implements SharedRun {
  constructor(
    private readonly op: SumOp,
    private readonly values: Float64Array,
  ) {}

  evaluate(): void {
    const { values } = this;
    const { out, base, slots, gains, min, max } = this.op;
    let sum = base;
    for (let k = 0; k < slots.length; k++) sum += gains[k]! * values[~slots[k]!]!;
    values[~out] = sum < min ? min : sum > max ? max : sum;
  }
}

class TermRun implements SharedRun {
  constructor(
    private readonly op: TermOp,
    private readonly values: Float64Array,
  ) {}

  evaluate(): void {
    const { op, values } = this;
    const amount = isConstant(op.amount) ? op.amount.constant : values[~op.amount]!;
    values[~op.out] = termValue(op, values[~op.source]!, amount, op.scaledBy === null ? 1 : values[~op.scaledBy]!);
  }
}

class MacroRun implements SharedRun {
  constructor(
    private readonly op: MacroOp,
    private readonly values: Float64Array,
  ) {}

  evaluate(): void {
    const { op, values } = this;
    values[~op.out] = macroValue(op, isConstant(op.value) ? op.value.constant : values[~op.value]!);
  }
}

class NewestRun implements SharedRun {
  constructor(
    private readonly op: NewestOp,
    private readonly values: Float64Array,
    private readonly newestOf: NewestOf,
  ) {}

  evaluate(): void {
    this.newestOf(this.op.from, this.values, ~this.op.out);
  }
}

/** Cycles since the restart, where the rate stands. */
class PlaceRun extends Stage {
  override evaluate({ at, song }: SharedFrame): void {
    const { state } = this;
    const { shape } = this.op;
    state.restart = restartTick(shape, at, song);
    const since = at - state.restart;
    state.cycles = (shape.synced ? since : since / song.ticksPerSec) / shape.period + this.turn;
  }
}

/** Cycles since the restart, from the table of a rate that the song alone moves. */
class LookUpRun extends Stage {
  override evaluate({ at, song }: SharedFrame): void {
    const { state } = this;
    const restart = restartTick(this.op.shape, at, song);
    const table = this.op.table!;
    state.restart = restart;
    if (restart === -Infinity) {
      state.cycles = Infinity;
      return;
    }
    state.cycles = cyclesAt(table, at) + this.turn;
    if (restart >= 0) state.cycles -= cyclesAt(table, restart);
    // Its trigger belongs to the pass before.
    else state.cycles += cyclesAt(table, song.loopTicks) - cyclesAt(table, restart + song.loopTicks);
  }
}

/** Cycles since the restart, added up as the rate moves. */
class AddUpRun extends Stage {
  override evaluate({ at, sec, song }: SharedFrame): void {
    const { state, values } = this;
    const { shape, moved } = this.op;
    state.restart = restartTick(shape, at, song);
    if (state.restart === -Infinity) {
      state.cycles = Infinity;
      return;
    }
    const since = at - state.restart;
    const ratio = exp2(values[~moved!.rate!]!);
    const rate = (ratio * (shape.synced ? song.ticksPerSec : 1)) / shape.period;
    if (!state.settled || since < state.since) state.summed = (since / song.ticksPerSec) * rate;
    else state.summed += ((state.rate + rate) / 2) * sec;
    state.since = since;
    state.rate = rate;
    state.cycles = state.summed + this.turn;
  }
}

/** Cycles at a tick of the pass, on straight lines between the values of the table. */
function cyclesAt(table: Float64Array, tick: number): number {
  const at = tick / STEP_TICKS;
  const index = Math.floor(at);
  return table[index]! + (table[index + 1]! - table[index]!) * (at - index);
}

class CurveRun extends Stage {
  override evaluate(): void {
    const { shape } = this.op;
    this.state.target = curveAt(shape.curve, phaseOfCycles(shape, this.state.cycles));
  }
}

/** From cycles to the place in a sequence. */
class PlaceInSequenceRun extends Stage {
  override evaluate(): void {
    const { cycles, places, restart } = this.state;
    const { shape } = this.op;
    findPlace(shape.sequence!, places, 0, Math.max(0, cycles), Math.round(restart), isOver(shape, cycles));
  }
}

class SequenceRun extends Stage {
  override evaluate(): void {
    const { op, state } = this;
    const blend = op.moved?.blend == null ? op.shape.blend : this.values[~op.moved.blend]! / 100;
    state.target = valueThere(op.shape.sequence!, state.places, 0, blend);
  }
}

class DrawsRun extends Stage {
  private readonly drawn = new Drawn(1);

  override evaluate(): void {
    const { state, drawn } = this;
    const draws = this.op.shape.draws!;
    draw(draws, drawn, 0, state.cycles, state.restart);
    state.target = drawnBetween(draws, drawn, 0, state.cycles);
  }
}

/** Comes to its full width after a restart. */
class FadeRun extends Stage {
  override evaluate({ at, song }: SharedFrame): void {
    const { state } = this;
    const { shape, moved } = this.op;
    const since = at - state.restart;
    const stretched = moved === null ? null : moved.fadeIn;
    const within = stretched === null ? shape.fadeIn : shape.fadeIn * exp2(this.values[~stretched]!);
    state.target = fadedIn(shape, state.target, shape.synced ? since : since / song.ticksPerSec, within);
  }
}

/** Smooths it, and writes it down. */
class SettleRun extends Stage {
  override evaluate({ sec }: SharedFrame): void {
    const { state, values } = this;
    const { shape, moved, out } = this.op;
    const smoothingSec = moved?.smoothing == null ? shape.smoothingSec : values[~moved.smoothing]! / 1000;
    if (smoothingSec > 0 && state.settled) {
      const exponent = (-SETTLE * sec) / smoothingSec;
      if (exponent !== state.exponent) {
        state.exponent = exponent;
        state.keep = exp(exponent);
      }
      state.value = state.target + (state.value - state.target) * state.keep;
    } else state.value = state.target;
    state.settled = true;
    values[~out] = state.value;
  }
}

function shapeRuns(compiled: ShapeOp, state: ShapeState, values: Float64Array): SharedRun[] {
  const op = evenOp(compiled);
  const { shape, moved } = op;
  const from = moved?.rate == null ? PlaceRun : op.table ? LookUpRun : AddUpRun;
  const followed = moved === null ? FollowerRun : op.table ? LookUpFollowerRun : AddUpFollowerRun;
  const to = shape.follower ? followed : shape.draws ? DrawsRun : shape.gate ? GateRun : CurveRun;
  const toValue = shape.sequence ? [PlaceInSequenceRun, SequenceRun] : [to];
  const stages = op.stages
    ? [SharedStagesRun, SettleRun]
    : [from, ...toValue, ...(shape.fadeIn > 0 ? [FadeRun] : []), SettleRun];
  return stages.map((Run) => new Run(op, state, values));
}

/** The stages of an operation; `state` is a shape's memory, null for others. */
export function sharedRuns(op: Op, state: ShapeState | null, values: Float64Array, newestOf: NewestOf): SharedRun[] {
  switch (op.type) {
    case "shape":
      return shapeRuns(op, state!, values);
    case "sum":
      return [new SumRun(op, values)];
    case "term":
      return [new TermRun(op, values)];
    case "macro":
      return [new MacroRun(op, values)];
    case "newest":
      return [new NewestRun(op, values, newestOf)];
    default:
      return [];
  }
}
