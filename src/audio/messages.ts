import type { SoundTable } from "@/core/dsp/tableSpec";
import type { Change } from "@/core/engine/changes";
import type { Region } from "@/core/engine/sequencer";
import { MOST_SOURCES, type Program } from "@/core/engine/program";

/** To the worklet. Everything takes effect at the next stretch. */
export type ToEngine =
  | { readonly type: "changes"; readonly changes: readonly Change[] }
  /** A wave table that changes to come will read: made outside of the audio thread, and sent ahead. */
  | { readonly type: "table"; readonly name: string; readonly table: SoundTable }
  /** Tables that were read by programs long gone. */
  | { readonly type: "dropTables"; readonly names: readonly string[] }
  | { readonly type: "play"; readonly loopTick: number; readonly countBeats: number }
  /** What is repeated, null being the whole loop, and whether beats click. */
  | { readonly type: "transport"; readonly region: Region | null; readonly click: boolean }
  /** Places of a pass, in ticks and in order, that click softly. */
  | { readonly type: "marks"; readonly ticks: Float64Array }
  | { readonly type: "stop" }
  | { readonly type: "noteOn"; readonly partId: string; readonly key: number; readonly velocity: number }
  | { readonly type: "noteOff"; readonly partId: string; readonly key: number }
  /** Pitch bend, -1 to 1, mod wheel and pressure, 0 to 1. */
  | {
      readonly type: "hands";
      readonly partId: string;
      readonly bend: number;
      readonly wheel: number;
      readonly pressure: number;
    }
  /** The part whose newest note is told. */
  | { readonly type: "show"; readonly partId: string }
  /** Copies of everything that is played go to the page, for tests and benchmarks that measure the sound. */
  | { readonly type: "tap"; readonly on: boolean };

/** From the worklet: a tapped block, or its status where threads cannot share memory. */
export type FromEngine =
  | { readonly type: "block"; readonly frame: number; readonly left: Float32Array; readonly right: Float32Array }
  | { readonly type: "status"; readonly values: Float64Array };

export interface ProcessorOptions {
  readonly program: Program;
  /** By their names. */
  readonly tables: readonly (readonly [string, SoundTable])[];
  /** Null where threads cannot share memory: the status is then posted some 30 times a second. */
  readonly status: SharedArrayBuffer | null;
}

/**
 * What the worklet tells the page, in a shared Float64Array that it writes after every block: posting messages would
 * make garbage on the audio thread. The page adds one to `ack` when it has taken the peaks, which then start again.
 */
export const STATUS = {
  contextFrame: 0,
  engineFrame: 1,
  loopTick: 2,
  playing: 3,
  voices: 4,
  /** The newest note of the part that is shown: 0 or 1 for its existence, then frames and ticks since it began, and since its end (-1 while held). */
  hasNote: 5,
  noteFrames: 6,
  noteTicks: 7,
  offFrames: 8,
  peakL: 9,
  peakR: 10,
  ack: 11,
  /** Share of real time spent in the engine, averaged over seconds. */
  load: 12,
  /** Longest block since the last `ack`, in milliseconds of a coarse clock. */
  longest: 13,
  /** How loud each source of the part that is shown was last, as gains that sink, in the order of its program. */
  sources: 14,
} as const;
export const STATUS_LENGTH = STATUS.sources + MOST_SOURCES;
