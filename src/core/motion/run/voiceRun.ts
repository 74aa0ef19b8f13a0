import { LANES, type VoiceLanes } from "../lanes";
import { isConstant, type Input, type Ref } from "../program";

/** The song as the voices need it at one frame. */
export interface VoiceFrame {
  frame: number;
  /** Ticks since the engine's start. */
  tick: number;
  ticksPerSec: number;
  /** Values that all voices share at the frame. */
  shared: Float64Array;
}

/** Numbers that an operation remembers of each voice; what each row holds is its run's own affair. */
export class Memory {
  readonly a = new Float64Array(LANES);
  readonly b = new Float64Array(LANES);
  readonly c = new Float64Array(LANES);
  readonly d = new Float64Array(LANES);
}

/** What the runs of a part work on. */
export interface VoiceRoom {
  readonly lanes: VoiceLanes;
  /** Rows of a value a lane. */
  readonly slots: Float64Array;
  readonly sampleRate: number;
}

/**
 * One stage of an operation, over all voices. Each is a class, and its call takes whole rows: a number that is handed from one
 * function to another may become an object on the heap, which the audio thread has to clear away again. A stage is small
 * enough for the compiler to take in all that it calls; what calls the stages meets too many kinds of them to take in any.
 */
export interface VoiceRun {
  /** Works out its row, or takes it a stage further, for `count` lanes of `list`. */
  evaluate(list: Int32Array, count: number, now: VoiceFrame): void;
}

/** The value of a slot in a lane, or the shared one. */
export const read = (ref: Ref, v: number, slots: Float64Array, shared: Float64Array): number =>
  ref < 0 ? shared[~ref]! : slots[ref * LANES + v]!;

/** The same of what may be a constant. */
export const readInput = (input: Input, v: number, slots: Float64Array, shared: Float64Array): number =>
  isConstant(input) ? input.constant : read(input, v, slots, shared);

/**
 * Stages that do nothing, each of a class of its own. What calls stages is shown them once: it has then met more kinds than
 * the compiler takes in where they are called, whatever a patch is made of.
 */
export const MANY_KINDS: readonly { evaluate(): void }[] = Array.from(
  { length: 6 },
  () =>
    new (class {
      evaluate(): void {
        // Nothing.
      }
    })(),
);
