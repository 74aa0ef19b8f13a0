import type { CurvePoint } from "../curve/curve";
import type { Key } from "../pitch/note";
import type { Meter } from "../time/meter";
import type { NoteValue } from "../time/noteValue";
import type { Span } from "../time/span";
import type { ChoiceId, ChoiceOf, TargetId, VoiceParameterId } from "./parameters";

/** The project document. Immutable; schema.ts holds the ranges and checks it at every boundary. */

export const FORMAT = "clovik-project";
export const VERSION = 1;
export const MAX_NOTES = 4096;
export const MAX_PARTS = 8;
export const MAX_MODULATORS = 12;
export const MAX_ROUTES = 32;

export interface Note {
  readonly id: string;
  readonly startTick: number;
  readonly lengthTicks: number;
  /** MIDI key, 0 to 127. */
  readonly key: number;
  /** MIDI velocity, 1 to 127. */
  readonly velocity: number;
}

export const ARP_ORDERS = ["up", "down", "upDown", "asPlayed", "chord", "random"] as const;
export type ArpOrder = (typeof ARP_ORDERS)[number];

export interface Arpeggio {
  readonly on: boolean;
  readonly order: ArpOrder;
  readonly octaves: number;
  readonly rate: NoteValue;
  /** Percent of a step, 1 to 200. */
  readonly gate: number;
  /** With the song's swing, or with its own on pairs of its own steps. */
  readonly swingFrom: "song" | "own";
  readonly swing: number;
  /** Steps after which the order starts again. */
  readonly length: number;
}

export interface Envelope {
  readonly kind: "envelope";
  readonly id: string;
  readonly name: string;
  readonly attack: Span;
  readonly decay: Span;
  /** Percent. */
  readonly sustain: number;
  readonly release: Span;
  readonly attackCurve: number;
  readonly decayCurve: number;
  readonly releaseCurve: number;
}

export const RESTARTS = ["song", "bar", "note", "once"] as const;
export type Restart = (typeof RESTARTS)[number];

export interface Shape {
  readonly kind: "shape";
  readonly id: string;
  readonly name: string;
  readonly points: readonly CurvePoint[];
  /** The length of one cycle. */
  readonly rate: Span;
  readonly restart: Restart;
  /** Degrees, 0 to 360: where in the cycle it starts. */
  readonly phase: number;
  readonly smoothing: number;
}

export type Modulator = Envelope | Shape;

/** The envelope with this id shapes every note's level and cannot be removed. */
export const AMP_ENVELOPE = "amp";

/** "velocity", "key", or the id of a modulator. */
type SourceId = string;

export interface Route {
  readonly id: string;
  readonly source: SourceId;
  readonly target: TargetId;
  /** In the target's modulation unit: st, dB, oct, %. */
  readonly amount: number;
  readonly on: boolean;
  readonly reversed: boolean;
}

export interface Patch {
  readonly values: Readonly<Record<VoiceParameterId, number>>;
  readonly choices: { readonly [K in ChoiceId]: ChoiceOf<K> };
  readonly modulators: readonly Modulator[];
  readonly routes: readonly Route[];
}

export interface Part {
  readonly id: string;
  readonly name: string;
  readonly notes: readonly Note[];
  readonly arpeggio: Arpeggio;
  readonly patch: Patch;
}

export interface Song {
  readonly tempoBpm: number;
  readonly meter: Meter;
  readonly loopBars: number;
  readonly swing: { readonly percent: number; readonly grid: 8 | 16 };
  readonly key: Key;
}

export interface Project {
  readonly format: typeof FORMAT;
  readonly version: typeof VERSION;
  readonly id: string;
  readonly name: string;
  readonly song: Song;
  readonly parts: readonly Part[];
  /** dB, before the safety limiter. */
  readonly outputTrim: number;
  /** What every random choice is drawn from: 0 to 2^32 - 1. */
  readonly seed: number;
}
