import type { RenderSummary, Tail } from "@/core/engine/render";
import type { BitDepth } from "@/core/format/wav";

/** Everything that one answer of the server may take. */
export const LIMITS = {
  /** The largest project without recordings has 6.1 MB as a file; a minute of stereo at 48 kHz and 24 bits has 23 MB in one. */
  bodyBytes: 32_000_000,
  /** Bodies that are being sent at once, and how long one may take. */
  bodies: 8,
  bodySeconds: 15,
  bars: 64,
  atOnce: 2,
  /** From the first byte of the project to the last of the sound's file. */
  seconds: 30,
  audioSeconds: 600,
  /** Of a render's own heap. */
  heapMegabytes: 512,
} as const;

export interface Query {
  /** Null for the loop's own length. */
  readonly bars: number | null;
  readonly sampleRate: number;
  readonly bitDepth: BitDepth;
  readonly tail: Tail;
  readonly part: string | undefined;
  /** Whether the drums that stand in for the song are heard. */
  readonly backing: boolean;
}

export interface RenderJob {
  /** The project file. */
  readonly body: Uint8Array;
  readonly query: Query;
  /** Where the sound is written. */
  readonly path: string;
}

/** A refusal has an HTTP status and a reason. */
export type RenderAnswer =
  | { readonly ok: true; readonly summary: RenderSummary }
  | { readonly ok: false; readonly status: number; readonly reason: string };
