import type { CurvePoint } from "../curve/curve";
import type { Key } from "../pitch/note";
import type { Tuning } from "../pitch/tuning";
import type { NoteChord } from "../pitch/noteChord";
import type { Meter } from "../time/meter";
import type { NoteValue } from "../time/noteValue";
import type { Address } from "./address";
import type { Module } from "./kinds";
import type { Kit } from "./kinds/kit";
import type { LaneId, StepLane } from "./lanes";

/** The project document. Immutable; schema.ts holds the ranges and checks it at every boundary. */

export const FORMAT = "clovik-project";
export const VERSION = 2;
export const MAX_NOTES = 4096;
export const MAX_PARTS = 8;
/** Envelopes and shapes of a part together. */
export const MAX_MODULATORS = 32;
export const MAX_ROUTES = 96;

export interface Note {
  readonly id: string;
  readonly startTick: number;
  readonly lengthTicks: number;
  /** MIDI key, 0 to 127. */
  readonly key: number;
  /** MIDI velocity, 1 to 127. */
  readonly velocity: number;
  /** How likely it is played, 0 to 100 %; always where nothing is said. */
  readonly chance?: number;
}

export const ARP_ORDERS = ["up", "down", "upDown", "downUp", "outsideIn", "insideOut", "asPlayed", "chord", "random", "shuffle", "drawn"] as const; // prettier-ignore
export type ArpOrder = (typeof ARP_ORDERS)[number];

export const ARP_RESTARTS = ["loop", "bar", "chord"] as const;

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
  /** Whether orders that go there and back play the turning notes twice. */
  readonly repeatEnds: boolean;
  /** When steps, order and lanes start again: with the loop, with each bar, or when a note is added to those held. */
  readonly restart: (typeof ARP_RESTARTS)[number];
  /** Holds notes until others are played. */
  readonly latch: boolean;
  /** What its transpose lane counts in. */
  readonly transposeIn: "semitones" | "degrees";
  readonly lanes: Readonly<Partial<Record<LaneId, StepLane>>>;
}

/** One source that moves one address. */
export interface Route {
  readonly id: string;
  /** A modulator of the patch or of the song, or one of `NOTE_SOURCES`. */
  readonly source: string;
  readonly target: Address;
  /** In the target's modulation unit: st, dB, oct, %, ms. */
  readonly amount: number;
  /** The amount is percent of amplitude, not dB: levels only. */
  readonly amplitude: boolean;
  /** From rest the amount is reached where the source is highest; around rest half of the source lies below. */
  readonly around: boolean;
  readonly reversed: boolean;
  /** Bends the source before it is scaled; null leaves it as it is. */
  readonly curve: readonly CurvePoint[] | null;
  /** A source that scales the amount, 0 to 1; null for none. */
  readonly scaledBy: string | null;
  /** Takes the source's value at the start of the note and keeps it. */
  readonly atStart: boolean;
  /** Degrees that the source is read ahead of where it stands in its cycle. */
  readonly tap: number;
  readonly on: boolean;
}

/** Sound goes from one module to another. */
export interface Cable {
  readonly from: string;
  readonly to: string;
}

export interface Patch {
  readonly modules: readonly Module[];
  readonly cables: readonly Cable[];
  readonly routes: readonly Route[];
}

/** Whether a part is heard among the others; how loud and where is said by its module of the kind "mix". */
export interface PartMix {
  readonly mute: boolean;
  /** Parts that are soloed are heard alone. */
  readonly solo: boolean;
}

/** A part that plays what another one plays: its notes, chords and arpeggio. */
export interface Follow {
  readonly part: string;
  readonly semitones: number;
  /** How much later it starts; null for together. Round the loop's end it goes on at its start. */
  readonly later: NoteValue | null;
  /** Takes the envelope of the level and the rule of playing from that part, too. */
  readonly linked: boolean;
}

export interface Part {
  readonly id: string;
  readonly name: string;
  readonly mix: PartMix;
  /** The part whose pattern it plays instead of its own, which is kept; null plays its own. */
  readonly follows: Follow | null;
  readonly notes: readonly Note[];
  /** What each single note stands for, before the arpeggio; null plays notes as they are. */
  readonly noteChord: NoteChord | null;
  readonly arpeggio: Arpeggio;
  readonly patch: Patch;
}

export interface Song {
  readonly tempoBpm: number;
  readonly meter: Meter;
  readonly loopBars: number;
  readonly swing: { readonly percent: number; readonly grid: 8 | 16 };
  readonly key: Key;
  /** Null is twelve equal steps an octave, A4 at 440 Hz. */
  readonly tuning: Tuning | null;
}

/** A recording or wave table that modules refer to by the SHA-256 of its bytes; the bytes are kept beside the document. */
export interface Binary {
  /** 64 hexadecimal digits. */
  readonly hash: string;
  readonly name: string;
  readonly bytes: number;
}

export interface Project {
  readonly format: typeof FORMAT;
  readonly version: typeof VERSION;
  readonly id: string;
  readonly name: string;
  readonly song: Song;
  /** Modulators of the song, shared by its parts. */
  readonly modules: readonly Module[];
  /** Drums that stand in for the song; null for none. */
  readonly backing: Kit | null;
  readonly parts: readonly Part[];
  readonly binaries: readonly Binary[];
  /** dB, before the safety limiter. */
  readonly outputTrim: number;
  /** What every random choice is drawn from: 0 to 2^32 - 1. */
  readonly seed: number;
}
