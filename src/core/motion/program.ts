import type { CompiledCurve } from "../curve/curve";
import type { CompiledEnvelope } from "../curve/envelope";
import type { Address } from "../patch/address";
import type { NoteSource } from "../patch/targets";
import { evenShape, type CompiledShape } from "./shape";

/**
 * Everything that moves in a part, compiled: plain data, so that it can be posted to another thread. Operations come in
 * the order of their inputs and write slots. A slot is shared (one value for the part, moved on once a sub-block) or
 * belongs to the voices (a value each). An operation that reads a slot which is written after it gets the value of the
 * sub-block before: so circles of routes work.
 */

/** A voice slot, or ~slot for a shared one. */
export type Ref = number;
/** What never moves is a number. */
export interface Constant {
  readonly constant: number;
}
export type Input = Ref | Constant;

export const isConstant = (input: Input): input is Constant => typeof input === "object";

/** A modulator's own values that are moved; null where nothing moves them. Times and rates in octaves, others as they are set. */
interface MovedEnvelope {
  readonly delay: Ref | null;
  readonly hold: Ref | null;
  readonly attack: Ref | null;
  readonly decay: Ref | null;
  readonly release: Ref | null;
  readonly sustain: Ref | null;
  readonly attackCurve: Ref | null;
  readonly decayCurve: Ref | null;
  readonly releaseCurve: Ref | null;
}

export interface MovedShape {
  readonly rate: Ref | null;
  readonly phase: Ref | null;
  readonly smoothing: Ref | null;
  readonly fadeIn: Ref | null;
  /** Of a sequence's rows. */
  readonly blend: Ref | null;
  /** Of a gate, and the first two of a follower. */
  readonly attack: Ref | null;
  readonly release: Ref | null;
  readonly hold: Ref | null;
  readonly swing: Ref | null;
}

export interface EnvelopeOp {
  readonly type: "envelope";
  readonly id: string;
  readonly out: Ref;
  readonly envelope: CompiledEnvelope;
  readonly moved: MovedEnvelope | null;
  /** Seconds of which moved times are whole multiples; 0 for any time. */
  readonly snapSec: number;
}

/** A shape of its own a note, or one that all notes share: the slot it writes tells. */
export interface ShapeOp {
  readonly type: "shape";
  readonly id: string;
  readonly out: Ref;
  readonly shape: CompiledShape;
  readonly moved: MovedShape | null;
  /** An envelope that all notes share and whose own values move; null for anything else. */
  readonly stages: EnvelopeOp | null;
  /**
   * What has to be added up over the pass, a value every `STEP_TICKS`, where the song alone moves it: cycles since the pass
   * began of a shared shape whose rate is moved; the value, and the rates up and down, of a follower whose times are; the
   * stage, the place in it and the value that it set out from of an envelope whose times are.
   */
  readonly table: Float64Array | null;
}

/** The same operation, its fields and those of its shape in one order. */
export const evenOp = ({ id, out, shape, moved, stages, table }: ShapeOp): ShapeOp => ({ type: "shape", id, out, shape: evenShape(shape), moved, stages, table }); // prettier-ignore

export interface NoteOp {
  readonly type: "note";
  readonly id: NoteSource;
  /** What each MIDI velocity counts as, 0 to 1; null for what is no velocity. */
  readonly response: Float64Array | null;
  readonly out: Ref;
}

/** A route that does more than multiply: bends, is scaled, latches, or has an amount that moves. */
export interface TermOp {
  readonly type: "term";
  readonly id: string;
  readonly out: Ref;
  readonly source: Ref;
  readonly bipolar: boolean;
  readonly reversed: boolean;
  readonly around: boolean;
  readonly amount: Input;
  readonly curve: CompiledCurve | null;
  readonly scaledBy: Ref | null;
  /** Whether the scaling source goes from -1 to 1. */
  readonly scaleBipolar: boolean;
  readonly atStart: boolean;
}

/** base + the sum of gain x slot, held between min and max. */
export interface SumOp {
  readonly type: "sum";
  readonly id: string;
  readonly out: Ref;
  readonly base: number;
  readonly slots: readonly Ref[];
  readonly gains: readonly number[];
  readonly min: number;
  readonly max: number;
}

/** A shared value that takes after the newest note's. */
export interface NewestOp {
  readonly type: "newest";
  readonly id: string;
  readonly out: Ref;
  readonly from: Ref;
}

/** A macro: its value in percent, bent and brought between its limits of 0 to 1. */
export interface MacroOp {
  readonly type: "macro";
  readonly id: string;
  readonly out: Ref;
  readonly value: Input;
  readonly low: number;
  readonly high: number;
  readonly k: number;
  readonly scale: number;
}

export type Op = EnvelopeOp | ShapeOp | NoteOp | TermOp | SumOp | NewestOp | MacroOp;

const movedIn = (moved: MovedShape | MovedEnvelope | null): Ref[] =>
  moved === null ? [] : (Object.values(moved) as (Ref | null)[]).filter((r) => r !== null);

/** The slots that an operation reads. */
export function inputsOf(op: Op): Ref[] {
  const read = (...inputs: (Input | null)[]): Ref[] => inputs.filter((i) => i !== null && !isConstant(i)) as Ref[];
  switch (op.type) {
    case "sum":
      return [...op.slots];
    case "term":
      return read(op.source, op.amount, op.scaledBy);
    case "newest":
      return [op.from];
    case "macro":
      return read(op.value);
    case "shape":
      return [...movedIn(op.moved), ...movedIn(op.stages?.moved ?? null)];
    case "envelope":
      return movedIn(op.moved);
    case "note":
      return [];
    default:
      return op satisfies never;
  }
}

/** What a module's runtime reads: a column of the bank's rows. */
export type Use = { readonly address: Address } & (
  | { readonly form: "plain"; readonly value: Input }
  /** MIDI key: the note's where it follows that, octaves and semitones, cents. */
  | {
      readonly form: "pitch";
      readonly follows: boolean;
      readonly base: number;
      readonly semitones: Input;
      readonly cents: Input;
      /** Semitones that the part's pitch adds to the key. */
      readonly apart: Input;
    }
  /** log2 of Hz: at rest, key follow in percent and what the part's pitch adds to the key, octaves. */
  | {
      readonly form: "log2hz";
      readonly rest: number;
      readonly follow: Input;
      readonly apart: Input;
      readonly octaves: Input;
      readonly min: number;
      readonly max: number;
    }
  /** Gain of a source: its level in dB, factors of amplitude. */
  | {
      readonly form: "level";
      readonly level: Input;
      readonly off: boolean;
      readonly floor: number;
      readonly factors: readonly Ref[];
    }
  /** Gain: an envelope, the level in dB, factors of amplitude. */
  | {
      readonly form: "gain";
      readonly envelope: Ref;
      readonly level: Input;
      readonly off: boolean;
      /** dB from which on down the level is silence. */
      readonly floor: number;
      readonly factors: readonly Ref[];
      readonly scale: number;
    }
);

/** What a route adds to a value, in the unit of its amount: base + gain x slot. */
export interface Added {
  readonly base: number;
  readonly gain: number;
  readonly slot: Ref;
}

/** Names what a route adds; where its source stands elsewhere for the right side, each side has its own. */
export const addedName = (route: string, right: boolean): string => (right ? `${route}-right` : route);

export interface MotionProgram {
  /** Whether notes glide from one key to another: what follows the key then moves while a note sounds. */
  readonly slides: boolean;
  readonly voiceSlots: number;
  readonly sharedSlots: number;
  readonly shared: readonly Op[];
  readonly voice: readonly Op[];
  readonly uses: readonly Use[];
  /** Where each source's value is, by its id: for curves that are drawn. */
  readonly sources: Readonly<Record<string, Ref>>;
  /** Where each moved value is, by its address, if no module's runtime reads it. */
  readonly targets: Readonly<Record<string, Ref>>;
  /** What each route adds, by its name: for curves that are drawn. */
  readonly adds: Readonly<Record<string, Added>>;
}

/** Ticks between two values of `ShapeOp.table`. */
export const STEP_TICKS = 8;
