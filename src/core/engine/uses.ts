import type { VoiceLanes } from "../motion/lanes";
import { isConstant, type Input, type MotionProgram, type Ref, type Use } from "../motion/program";
import { toGain, useRuns, type UseRoom, type UseRun } from "./useRuns";

/** A stolen voice is faded within this time; a fade of this length lies 60 dB and more under what it ends. */
const FADE_SEC = 0.006;
const isStill = (use: Use): boolean =>
  (use.form === "plain" && isConstant(use.value)) ||
  (use.form === "level" && isConstant(use.level) && use.factors.length === 0);

/** Works out the values that the modules read, from the slots of the motion: a column of the bank's rows a use. */
export class Uses {
  /** Those that differ from row to row, those that are a note's own for as long as it sounds, and those that nothing moves. */
  readonly moving: readonly number[];
  readonly fixed: readonly number[];
  readonly still: readonly number[];
  private readonly runs: readonly (readonly UseRun[])[];
  readonly fadeFrames: number;

  constructor(
    readonly program: MotionProgram,
    lanes: VoiceLanes,
    sampleRate: number,
    isFixedSlot: (ref: Ref) => boolean,
  ) {
    const indices = program.uses.map((_, i) => i);
    const stands = (input: Input): boolean => isConstant(input) || isFixedSlot(input);
    const isFixed = (use: Use): boolean =>
      !isStill(use) &&
      ((use.form === "plain" && stands(use.value)) ||
        (use.form === "level" && stands(use.level) && use.factors.every(isFixedSlot)) ||
        (use.form === "pitch" &&
          (!program.slides || !use.follows) &&
          [use.semitones, use.cents, use.apart].every(stands)) ||
        (use.form === "log2hz" && !program.slides && [use.follow, use.apart, use.octaves].every(stands)));
    this.fixed = indices.filter((i) => isFixed(program.uses[i]!));
    this.moving = indices.filter((i) => !isStill(program.uses[i]!) && !isFixed(program.uses[i]!));
    this.still = indices.filter((i) => isStill(program.uses[i]!));
    this.fadeFrames = Math.round(FADE_SEC * sampleRate);
    const room: UseRoom = { lanes, slides: program.slides, fadeFrames: this.fadeFrames };
    this.runs = program.uses.map((use) => useRuns(use, room));
  }

  stillValue(index: number): number {
    const use = this.program.uses[index]!;
    if (use.form === "plain") return isConstant(use.value) ? use.value.constant : 0;
    if (use.form !== "level" || !isConstant(use.level)) return 0;
    const gain = Float64Array.of(use.level.constant);
    toGain(use, gain, 0);
    return gain[0]!;
  }

  /** Writes a use's values for `count` lanes of `list` to `out` from `at`. */
  write(
    index: number,
    list: Int32Array,
    count: number,
    frame: number,
    slots: Float64Array,
    shared: Float64Array,
    out: Float64Array,
    at: number,
  ): void {
    const stages = this.runs[index]!;
    for (let i = 0; i < stages.length; i++) stages[i]!.write(list, count, frame, slots, shared, out, at);
  }
}
