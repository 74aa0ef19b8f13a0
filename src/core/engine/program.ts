import type { FilterType } from "../dsp/filter";
import type { WaveName } from "../dsp/waveTables";
import type { MotionProgram } from "../motion/program";

/**
 * What the engine plays, compiled from a project outside the audio thread: plain data and typed arrays, so that it can
 * be posted to another thread. The engine only reads it. Parts of it whose objects are the same have not changed.
 */
export interface Program {
  readonly song: SongProgram;
  readonly parts: readonly PartProgram[];
}

export interface SongProgram {
  readonly ticksPerSec: number;
  readonly loopTicks: number;
  readonly barTicks: number;
  readonly beatTicks: number;
  /** Pitch of each MIDI key in keys of equal temperament, NaN where it is not played; null for equal temperament itself. */
  readonly tuning: Float64Array | null;
  /** Gain before the limiter. */
  readonly trim: number;
}

export interface PartProgram {
  readonly id: string;
  /** What the part's random draws are made from. */
  readonly seed: number;
  readonly sound: SoundProgram;
  /** Rows as `EVENT` names their columns, sorted by onset. */
  readonly events: Float64Array;
  readonly mix: MixProgram;
}

/** Gains of a part's two sides in the mix; both 0 when it is muted, or others are soloed. */
export interface MixProgram {
  readonly left: number;
  readonly right: number;
}

export interface SoundProgram {
  readonly motion: MotionProgram;
  /** In the order in which they run. */
  readonly modules: readonly AudioModule[];
  readonly buses: number;
  /** Voices that a note starts. */
  readonly copies: number;
  /** Semitones that the pitch bend of the hands goes either way. */
  readonly bendRange: number;
  /** Null plays chords. */
  readonly oneNote: OneNoteProgram | null;
  /** The use that gives a note's gain: it tells when a voice is over. */
  readonly gain: number;
  /** Programs that differ here cannot glide into each other. */
  readonly structure: string;
}

/** Numbers named after uses are indices of `MotionProgram.uses`. */
export type AudioModule =
  | {
      readonly kind: "oscillator";
      readonly id: string;
      readonly wave: WaveName | "pulse";
      readonly unison: number;
      /** Cycles. */
      readonly phase: number;
      readonly randomStart: boolean;
      readonly pitch: number;
      readonly detune: number;
      readonly width: number;
      readonly pulseWidth: number;
      readonly level: number;
      readonly pan: number;
      readonly bus: number;
    }
  | {
      readonly kind: "noise";
      readonly id: string;
      readonly colour: "white" | "pink" | "brown";
      /** Whether each note starts the same noise. */
      readonly alike: boolean;
      readonly level: number;
      readonly pan: number;
      readonly width: number;
      /** log2 of Hz. */
      readonly rate: number;
      readonly bus: number;
    }
  | {
      readonly kind: "filter";
      readonly id: string;
      readonly type: FilterType;
      readonly cutoff: number;
      readonly resonance: number;
      /** Null where it stands at its default and nothing moves it. */
      readonly width: number | null;
      readonly vowel: number | null;
      readonly drive: number | null;
      readonly apart: number | null;
      readonly mix: number | null;
      readonly bus: number;
    }
  | { readonly kind: "amp"; readonly id: string; readonly gain: number; readonly pan: number; readonly bus: number }
  /** Adds one bus to another: a cable that branches. */
  | { readonly kind: "cable"; readonly id: string; readonly bus: number; readonly to: number };

/** Columns of a row of events. */
export const EVENT = {
  onTick: 0,
  offTick: 1,
  key: 2,
  velocity: 3,
  /** The free lanes, in percent. */
  freeA: 4,
  freeB: 5,
  /** The key that a note glides from, and how long: in ticks and in ms. */
  slideFrom: 6,
  slideTicks: 7,
  slideMs: 8,
  /** 1 where it goes on with the voice that sounds. */
  tied: 9,
} as const;
export const EVENT_ROW = Object.keys(EVENT).length;

/** How one note is played at a time by hand; events of a pattern are made so beforehand. */
export interface OneNoteProgram {
  readonly priority: "last" | "high" | "low";
  readonly tied: boolean;
  /** Whether notes that don't overlap glide too. */
  readonly always: boolean;
  readonly glideTicks: number;
  readonly glideMs: number;
  /** The time is that of an octave, not of each glide. */
  readonly perOctave: boolean;
}

/** The wave tables that a program reads; a pulse is made of saws. */
export const tablesOf = (program: Program): WaveName[] => [
  ...new Set(
    program.parts.flatMap((p) =>
      p.sound.modules.flatMap((m): WaveName[] =>
        m.kind === "oscillator" ? [m.wave === "pulse" ? "saw" : m.wave] : [],
      ),
    ),
  ),
];
