import { clampToParameter } from "@/core/patch/row";
import { SONG_ROWS } from "@/core/patch/rows";

/** A pause longer than this starts a new count. */
const PAUSE_MS = 2500;
const KEPT = 8;

/** Adds a tap and averages the last intervals; the tempo is known from the second tap on. */
export function tapTempo(taps: readonly number[], nowMs: number): { taps: readonly number[]; bpm: number | null } {
  const last = taps.at(-1);
  const kept = last !== undefined && nowMs - last > PAUSE_MS ? [] : taps;
  const next = [...kept, nowMs].slice(-KEPT);
  if (next.length < 2) return { taps: next, bpm: null };
  const perTap = (nowMs - next[0]!) / (next.length - 1);
  return { taps: next, bpm: clampToParameter(SONG_ROWS.tempo, Math.round(6_000_000 / perTap) / 100) };
}
