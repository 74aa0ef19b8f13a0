import { Chord } from "tonal";
import { pitchClassName } from "./note";

/** The chord kinds offered by name; the intervals come from tonal's dictionary. */
export const CHORD_KINDS = [
  { symbol: "m", name: "minor" },
  { symbol: "M", name: "major" },
  { symbol: "m7", name: "minor seventh" },
  { symbol: "maj7", name: "major seventh" },
  { symbol: "7", name: "dominant seventh" },
  { symbol: "sus2", name: "suspended second" },
  { symbol: "sus4", name: "suspended fourth" },
  { symbol: "m9", name: "minor ninth" },
  { symbol: "dim", name: "diminished" },
  { symbol: "aug", name: "augmented" },
  { symbol: "5", name: "fifth" },
] as const;

export type ChordSymbol = (typeof CHORD_KINDS)[number]["symbol"];

const SEMITONES: Record<string, number> = {
  "1P": 0, "2M": 2, "3m": 3, "3M": 4, "4P": 5, "5d": 6, "5P": 7, "5A": 8, "6M": 9, "7d": 9, "7m": 10, "7M": 11, "9M": 14,
}; // prettier-ignore

/** Semitones of a chord kind above its root, root first. Throws RangeError for an interval outside the table above. */
export function chordSteps(symbol: ChordSymbol): number[] {
  const chord = Chord.getChord(symbol, "C");
  // tonal answers unknown names with an empty object, which would be a silent chord of no notes.
  if (chord.empty) throw new RangeError(`chord kind ${symbol} is unknown`);
  return chord.intervals.map((interval) => {
    const steps = SEMITONES[interval];
    if (steps === undefined) throw new RangeError(`interval ${interval} of ${symbol} is not in the table`);
    return steps;
  });
}

/** MIDI keys of a chord on `rootKey`, low to high. Keys above 127 are left out. */
export const chordKeys = (rootKey: number, symbol: ChordSymbol): number[] =>
  chordSteps(symbol)
    .map((s) => rootKey + s)
    .filter((k) => k <= 127);

const NAMED_STEPS = CHORD_KINDS.map(({ symbol }) => ({
  symbol,
  steps: chordSteps(symbol)
    .map((s) => s % 12)
    .sort((a, b) => a - b)
    .join(),
}));

/** "Dm", "B♭", "C7": the name of keys that sound together, as one of `CHORD_KINDS` in any inversion; else null. */
export function chordName(midiKeys: readonly number[], flats = false): string | null {
  const classes = [...new Set(midiKeys.map((k) => k % 12))];
  const bass = Math.min(...midiKeys) % 12;
  for (const root of [bass, ...classes.filter((c) => c !== bass)]) {
    const steps = classes
      .map((c) => (c - root + 12) % 12)
      .sort((a, b) => a - b)
      .join();
    const found = NAMED_STEPS.find((n) => n.steps === steps);
    if (found) return pitchClassName(root, flats) + (found.symbol === "M" ? "" : found.symbol);
  }
  return null;
}
