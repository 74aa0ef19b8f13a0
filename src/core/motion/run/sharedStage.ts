import type { ShapeOp } from "../program";
import { Places } from "../sequence";
import type { SongFrame } from "../shape";

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

/** What the stages of a shape have in common: they go from cycles to its value. */
export abstract class Stage implements SharedRun {
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
