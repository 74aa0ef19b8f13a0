import { curveAt } from "../../curve/curve";
import { exp, exp2 } from "../../dsp/portableMath";
import { Drawn, draw, drawnBetween } from "../drawn";
import { FOLLOWED, followInto, followedRoom, followerAt } from "../follower";
import { evenOp, isConstant, STEP_TICKS, type MacroOp, type NewestOp, type Op, type ShapeOp, type SumOp, type TermOp } from "../program"; // prettier-ignore
import { fadedIn, phaseOfCycles, restartTick, isOver, type SongFrame } from "../shape";
import { GATE_ROOM, gateInto, gateRoom } from "../../pattern/gate";
import { Places, findPlace, valueThere } from "../sequence";
import { SETTLE } from "../smoothing";
import { macroValue, termValue } from "../terms";

/** Where the song stands when the values that all notes share are worked out. */
export class SharedFrame {
  /** Ticks of the pass. */
  at = NaN;
  /** Seconds since they were worked out before. */
  sec = NaN;
  song: SongFrame = { loopTicks: 1, barTicks: 1, ticksPerSec: 1 };
}

/** One stage of an operation whose value all notes share; as `VoiceRun`, it hands on no numbers. */
export interface SharedRun {
  evaluate(now: SharedFrame): void;
}

/** Writes the value of a voice slot of the newest note. */
export type NewestOf = (slot: number, into: Float64Array, at: number) => void;

/** Memory of a shared shape between sub-blocks, and what it is on its way to being in this one. */
export class ShapeState {
  settled = false;
  /** Smoothed value. */
  value = NaN;
  /**
   * Cycles, as they were added up, at so many ticks after the restart and at a rate; or what follows notes, at a tick of the
   * pass, with its rates up and down.
   */
  summed = NaN;
  since = NaN;
  rate = NaN;
  fall = NaN;
  /** What smoothing keeps of a jump, and for which exponent that was worked out. */
  exponent = NaN;
  keep = NaN;
  /** The tick at which it last started again, cycles since then with its start phase, and the value before it is smoothed. */
  restart = NaN;
  cycles = NaN;
  target = NaN;
  /** Where a sequence is. */
  readonly places = new Places(1);
}

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

/** What the stages of a shape have in common: they go from cycles to its value. */
abstract class Stage implements SharedRun {
  constructor(
    protected readonly op: ShapeOp,
    protected readonly state: ShapeState,
    protected readonly values: Float64Array,
  ) {}

  abstract evaluate(now: SharedFrame): void;

  /** Where in its cycle it starts. */
  protected get turn(): number {
    const { moved, shape } = this.op;
    return moved === null || moved.phase === null ? shape.phase : this.values[~moved.phase]! / 360;
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
  const index = Math.min(table.length - 2, Math.floor(at));
  return table[index]! + (table[index + 1]! - table[index]!) * (at - index);
}

class CurveRun extends Stage {
  override evaluate(): void {
    const { shape } = this.op;
    this.state.target = curveAt(shape.curve, phaseOfCycles(shape, this.state.cycles));
  }
}

class FollowerRun extends Stage {
  override evaluate(): void {
    this.state.target = followerAt(this.op.shape.follower!, this.state.cycles);
  }
}

/** A follower whose times move: from one place of the pass to another. */
abstract class MovedFollowerRun extends Stage {
  protected readonly room = followedRoom();

  protected follow(from: number, to: number): void {
    const { room } = this;
    room[FOLLOWED.from] = from;
    room[FOLLOWED.to] = to;
    followInto(this.op.shape.follower!, room);
  }
}

/** From the table of one whose times the song alone moves: each value goes on with the rates that stand beside it. */
class LookUpFollowerRun extends MovedFollowerRun {
  override evaluate({ at }: SharedFrame): void {
    const { room } = this;
    const table = this.op.table!;
    const step = Math.floor(at / STEP_TICKS);
    room[FOLLOWED.value] = table[3 * step]!;
    room[FOLLOWED.up] = table[3 * step + 1]!;
    room[FOLLOWED.down] = table[3 * step + 2]!;
    this.follow(step * STEP_TICKS, at);
    this.state.target = room[FOLLOWED.value]!;
  }
}

/** From where it was, at the rates that it had there, round the loop's end as well. */
class AddUpFollowerRun extends MovedFollowerRun {
  override evaluate({ at, song }: SharedFrame): void {
    const { state, room, values } = this;
    const { shape, moved } = this.op;
    const f = shape.follower!;
    // A table goes on past the pass; what is followed does not.
    const here = Math.min(at, song.loopTicks);
    if (!state.settled) state.summed = followerAt(f, here / song.loopTicks);
    else {
      room[FOLLOWED.value] = state.summed;
      room[FOLLOWED.up] = state.rate;
      room[FOLLOWED.down] = state.fall;
      if (here < state.since) {
        this.follow(state.since, song.loopTicks);
        state.since = 0;
      }
      this.follow(state.since, here);
      state.summed = room[FOLLOWED.value]!;
    }
    const up = moved!.attack === null ? f.up : f.up * exp2(-values[~moved!.attack]!);
    const down = moved!.release === null ? f.down : f.down * exp2(-values[~moved!.release]!);
    state.rate = up < f.fastest ? up : f.fastest;
    state.fall = down < f.fastest ? down : f.fastest;
    state.since = here;
    state.target = state.summed;
  }
}

/** The value of a gate, with the times that it has now. */
class GateRun extends Stage {
  private readonly room = gateRoom(this.op.shape.gate!);

  override evaluate(): void {
    const { room, values } = this;
    const { shape, moved } = this.op;
    const gate = shape.gate!;
    const cycles = this.state.cycles;
    room[GATE_ROOM.place] = (cycles - Math.floor(cycles)) * gate.length;
    if (moved !== null) {
      // Its lengths are counted in steps, which are shorter at a higher rate.
      const ratio = moved.rate === null ? 1 : exp2(values[~moved.rate]!);
      room[GATE_ROOM.attack] = gate.attack * ratio * (moved.attack === null ? 1 : exp2(values[~moved.attack]!));
      room[GATE_ROOM.tail] = gate.tail * ratio * (moved.release === null ? 1 : exp2(values[~moved.release]!));
      if (moved.hold !== null) room[GATE_ROOM.hold] = values[~moved.hold]! / 100;
      if (moved.swing !== null) room[GATE_ROOM.swing] = values[~moved.swing]! / 100;
    }
    gateInto(gate, room);
    this.state.target = room[GATE_ROOM.value]!;
  }
}

/** From cycles to the place in a sequence. */
class PlaceInSequenceRun extends Stage {
  override evaluate(): void {
    const { cycles, places, restart } = this.state;
    const { shape } = this.op;
    findPlace(shape.sequence!, places, 0, Math.max(0, cycles), epochOf(restart), isOver(shape, cycles));
  }
}

class SequenceRun extends Stage {
  override evaluate(): void {
    const { op, state } = this;
    const blend = op.moved?.blend == null ? op.blend : this.values[~op.moved.blend]! / 100;
    state.target = valueThere(op.shape.sequence!, state.places, 0, blend);
  }
}

class DrawsRun extends Stage {
  private readonly drawn = new Drawn(1);

  override evaluate(): void {
    const { state, drawn } = this;
    const draws = this.op.shape.draws!;
    if (state.cycles === Infinity) state.cycles = 0;
    draw(draws, drawn, 0, state.cycles, epochOf(state.restart));
    state.target = drawnBetween(draws, drawn, 0, state.cycles);
  }
}

/** Names a restart for seeded draws. */
const epochOf = (restart: number): number => (restart === -Infinity ? 0 : Math.round(restart));

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
  const stages = [from, ...toValue, ...(shape.fadeIn > 0 ? [FadeRun] : []), SettleRun];
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
