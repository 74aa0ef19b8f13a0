import type { Note } from "@/core/patch/project";
import { pitchRange } from "../paint";

const FEWEST_ROWS = 22;

/** The keys of rows, from the lowest up. */
export type Rows = readonly number[];

const between = (low: number, count: number): Rows => {
  const first = Math.min(128 - count, Math.max(0, low));
  return Array.from({ length: count }, (_, i) => first + i);
};

/** Rows that show notes with room, at least an octave and more. */
export function rowsOf(notes: readonly Note[]): Rows {
  const range = pitchRange(
    notes.map((n) => n.key),
    4,
  );
  const count = Math.min(128, Math.max(FEWEST_ROWS, range.high - range.low + 1));
  return between(Math.round((range.low + range.high) / 2 - count / 2), count);
}

/** Only the rows that hold notes; null where there are none. */
export function usedRows(notes: readonly Note[]): Rows | null {
  const keys = [...new Set(notes.map((n) => n.key))].sort((a, b) => a - b);
  return keys.length > 0 ? keys : null;
}

export const scrolled = (rows: Rows, by: number): Rows => between(rows[0]! + by, rows.length);

export const shows = (rows: Rows, notes: readonly Note[]): boolean =>
  notes.every((n) => n.key >= rows[0]! && n.key <= rows.at(-1)!);
