import type { FilterType } from "../dsp/filter";
import { tableName, type TableSpec } from "../dsp/tableSpec";
import type { MotionProgram, Ref } from "../motion/program";

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
  /** The drums beside the parts; null for none. */
  readonly kit: KitProgram | null;
}

/** Where a drum is struck in one pass, in order, and how hard, 0 to 1. */
export interface Strokes {
  readonly ticks: Float64Array;
  readonly strengths: Float64Array;
}

/** A drum's strokes and its sound: the gain of a full stroke, and the time in which it falls by 60 dB. */
export interface DrumProgram extends Strokes {
  readonly gain: number;
  readonly decaySec: number;
}

export interface KitProgram {
  readonly kick: DrumProgram;
  readonly clap: DrumProgram;
  readonly hat: DrumProgram;
  /** Where the kick comes to rest. */
  readonly kickHz: number;
}

/** The parts alone. */
export const withoutKit = (program: Program): Program =>
  program.song.kit ? { ...program, song: { ...program.song, kit: null } } : program;

export interface PartProgram {
  readonly id: string;
  /** What the part's random draws are made from. */
  readonly seed: number;
  readonly sound: SoundProgram;
  /** Rows as `EVENT` names their columns, sorted by onset. */
  readonly events: Float64Array;
  readonly mix: MixProgram;
}

/** Gains of a part's two sides in the mix, beside what moves them; both 0 when it is muted, or others are soloed. */
export interface MixProgram {
  readonly left: number;
  readonly right: number;
}

/** Uses of a part's level and place in the mix, which something moves: all notes share them. */
export interface MixUses {
  readonly level: number;
  readonly pan: number;
}

export interface SoundProgram {
  readonly motion: MotionProgram;
  /** In the order in which they run. */
  readonly modules: readonly AudioModule[];
  readonly buses: number;
  /** Voices that a note starts. */
  readonly copies: number;
  /** Notes that may ring on after they were let go. */
  readonly ringing: number;
  /** Whether the quietest note makes way where more would sound than may, or the oldest. */
  readonly quietest: boolean;
  /** Semitones that the pitch bend of the hands goes either way. */
  readonly bendRange: number;
  /** Null plays chords. */
  readonly oneNote: OneNoteProgram | null;
  /** The slot by whose octaves glides of that rule last longer, as it stands where each begins; null where nothing moves it. */
  readonly glide: Ref | null;
  /** The use that gives a note's gain: it tells when a voice is over. */
  readonly gain: number;
  /** Null where nothing moves the part in the mix. */
  readonly mix: MixUses | null;
  /** Programs that differ here cannot glide into each other. */
  readonly structure: string;
}

/** How a wave is bent, and its phase turned. Uses are null where a value stands at nothing. */
export interface BentProgram {
  /** What brings the wave to full scale before its value is bent. */
  readonly full: number;
  /** Numbers of src/core/dsp/simd/bends.ts. */
  readonly bend1: number;
  readonly bend2: number;
  readonly amount1: number | null;
  readonly amount2: number | null;
  /** Which frame of the plain waves the inner modulator is; -1 for none. */
  readonly innerWave: number;
  /** Whether that has a frequency of its own: `ratio` is then log2 of Hz. */
  readonly innerFixed: boolean;
  readonly inner: number | null;
  readonly ratio: number | null;
  readonly pmFrom: string | null;
  readonly pm: number | null;
  readonly ringFrom: string | null;
  readonly ring: number | null;
  readonly feedback: number | null;
}

/** What of a `stack` has no in-between: a blend is heard at once. */
export const WITHOUT_BLEND = 255;

/** Numbers named after uses are indices of `MotionProgram.uses`. */
export type AudioModule =
  | {
      readonly kind: "oscillator";
      readonly id: string;
      readonly way: "plain" | "frames" | "bent";
      readonly table: TableSpec;
      readonly tableName: string;
      /** The difference of two saws. */
      readonly pulse: boolean;
      readonly gain: number;
      readonly unison: number;
      /**
       * Which intervals its voices take in turn: 0 none, 1 octaves, 2 fifths, 3 minor, 4 major; plus 16 x how they are spread:
       * 0 evenly, 1 to the middle, 2 to the ends; plus 256 x what all but the middle ones lack of their level, in percent.
       */
      readonly stack: number;
      /** Cycles. */
      readonly phase: number;
      readonly start: "fixed" | "random" | "running";
      readonly pitch: number;
      readonly detune: number;
      readonly width: number;
      readonly pulseWidth: number;
      readonly position: number;
      /** Null where the frames lie in a row and not at the corners of a square. */
      readonly upward: number | null;
      readonly bent: BentProgram | null;
      /** What turns a full sine of it into -1 to 1 for those that hear its tap; null where nobody does. */
      readonly tapScale: number | null;
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
      readonly tapScale: number | null;
      readonly bus: number;
    }
  | {
      readonly kind: "recording";
      readonly id: string;
      readonly table: TableSpec;
      readonly tableName: string;
      readonly looped: boolean;
      /** The key at which it sounds as it was recorded. */
      readonly root: number;
      /** How much further than `from` each note may start, 0 to 1 of the recording. */
      readonly scatter: number;
      readonly pitch: number;
      readonly from: number;
      readonly to: number;
      readonly back: number;
      readonly seam: number;
      readonly level: number;
      readonly pan: number;
      readonly tapScale: number | null;
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
  | {
      readonly kind: "amp";
      readonly id: string;
      readonly gain: number;
      readonly pan: number;
      /** Null where both sides are alike. */
      readonly apart: number | null;
      readonly bus: number;
    }
  /** Adds one bus to another: a cable that branches. A share of it where that is no null, or what the share leaves. */
  | {
      readonly kind: "cable";
      readonly id: string;
      readonly bus: number;
      readonly to: number;
      readonly share: number | null;
      readonly rest: boolean;
    }
  /** Adds what came back from behind the amp to the buses of filters. */
  | { readonly kind: "back"; readonly id: string; readonly buses: readonly number[] }
  /** Takes what comes back, for the `back` of that id: the bus of the amp, at its gain and at the feedback's. */
  | {
      readonly kind: "behind";
      readonly id: string;
      readonly back: string;
      readonly bus: number;
      readonly gain: number;
      readonly amount: number;
    };

/** Sources that a part holds at the most. */
export const MOST_SOURCES = 8;

/** Whether a module makes sound of its own: their peaks are told in the order of the program. */
export const isSource = (m: AudioModule): boolean => m.kind === "oscillator" || m.kind === "noise" || m.kind === "recording"; // prettier-ignore

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
  /** 1 where that time is the one of the rule of playing. */
  slideByRule: 9,
  /** 1 where it goes on with the voice that sounds. */
  tied: 10,
  /** Onsets of the part before it in the pass, in rounds of `COUNTED`. */
  onsets: 11,
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

const PLAIN_TABLE: TableSpec = { kind: "own", id: "plain" };

/** The wave tables that a program reads, each once. */
export function tablesOf(program: Program): TableSpec[] {
  const found = new Map<string, TableSpec>();
  for (const part of program.parts)
    for (const m of part.sound.modules) {
      if (m.kind !== "oscillator" && m.kind !== "recording") continue;
      found.set(m.tableName, m.table);
      // What inner modulators read.
      if (m.kind === "oscillator" && m.bent) found.set(tableName(PLAIN_TABLE), PLAIN_TABLE);
    }
  return [...found.values()];
}
