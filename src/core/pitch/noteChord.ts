import { chordSteps, type ChordSymbol } from "./chord";
import { moveInScale, type Key } from "./note";
import { invertDown, invertUp } from "./voicing";

/** A chord that a single note stands for: by its kind, or stacked in thirds of a key. */
export type NoteChord =
  | { readonly from: "kind"; readonly symbol: ChordSymbol; readonly inversion: number }
  | { readonly from: "key"; readonly notes: number; readonly inversion: number };

/** Notes that are stacked in the key at the most, and inversions either way. */
export const MAX_STACK = 7;
export const MAX_INVERSION = 4;

/**
 * The keys that a single note stands for, low to high: the chord on it as its root, inverted as told. Keys that MIDI does
 * not have are left out; the note itself is always there.
 */
export function keysOfNote(midiKey: number, chord: NoteChord | null, key: Key): number[] {
  if (!chord) return [midiKey];
  const inRoot =
    chord.from === "kind"
      ? chordSteps(chord.symbol).map((s) => midiKey + s)
      : Array.from({ length: chord.notes }, (_, i) => moveInScale(midiKey, 2 * i, key));
  let keys = inRoot.filter((k) => k <= 127);
  const invert = chord.inversion > 0 ? invertUp : invertDown;
  for (let i = 0; i < Math.abs(chord.inversion); i++) keys = invert(keys);
  return keys;
}
