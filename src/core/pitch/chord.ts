import { SCALE_STEPS, parsePitchClass, pitchClassName, type Key } from "./note";

interface ChordKind {
  /** As it stands behind a root: "m7". "M" is left out there. */
  readonly symbol: string;
  readonly name: string;
  /** Semitones above the root, root first (common practice; the tests hold them to tonal's dictionary). */
  readonly steps: readonly number[];
  /** Other ways to write it, in lower case. */
  readonly also: readonly string[];
}

/** The chord kinds offered by name. */
export const CHORD_KINDS = [
  { symbol: "m", name: "minor", steps: [0, 3, 7], also: ["min", "-", "minor"] },
  { symbol: "M", name: "major", steps: [0, 4, 7], also: ["", "maj", "major"] },
  { symbol: "m7", name: "minor seventh", steps: [0, 3, 7, 10], also: ["min7", "-7"] },
  { symbol: "maj7", name: "major seventh", steps: [0, 4, 7, 11], also: ["ma7", "δ", "△", "δ7"] },
  { symbol: "7", name: "dominant seventh", steps: [0, 4, 7, 10], also: ["dom7"] },
  { symbol: "sus2", name: "suspended second", steps: [0, 2, 7], also: [] },
  { symbol: "sus4", name: "suspended fourth", steps: [0, 5, 7], also: ["sus"] },
  { symbol: "m9", name: "minor ninth", steps: [0, 3, 7, 10, 14], also: ["min9", "-9"] },
  { symbol: "dim", name: "diminished", steps: [0, 3, 6], also: ["°", "o"] },
  { symbol: "aug", name: "augmented", steps: [0, 4, 8], also: ["+"] },
  { symbol: "5", name: "fifth", steps: [0, 7], also: [] },
] as const satisfies readonly ChordKind[];

export type ChordSymbol = (typeof CHORD_KINDS)[number]["symbol"];

/** Semitones of a chord kind above its root, root first. */
export const chordSteps = (symbol: ChordSymbol): readonly number[] =>
  CHORD_KINDS.find((k) => k.symbol === symbol)!.steps;

/** MIDI keys of a chord on `rootKey`, low to high. Keys above 127 are left out. */
export const chordKeys = (rootKey: number, symbol: ChordSymbol): number[] =>
  chordSteps(symbol)
    .map((s) => rootKey + s)
    .filter((k) => k <= 127);

const classesOf = (steps: readonly number[]): string => [...new Set(steps.map((s) => s % 12))].sort((a, b) => a - b).join(); // prettier-ignore
const NAMED_STEPS = CHORD_KINDS.map(({ symbol, steps }) => ({ symbol, classes: classesOf(steps) }));

/** A chord without its octave. */
export interface Chord {
  /** Pitch class of the root, C = 0. */
  readonly root: number;
  readonly symbol: ChordSymbol;
  /** Pitch class of the lowest note, where it is told. */
  readonly bass?: number;
}

/** "Dm", "B♭", "C7". */
export const chordText = ({ root, symbol, bass }: Chord, flats: boolean): string =>
  pitchClassName(root, flats) +
  (symbol === "M" ? "" : symbol) +
  (bass === undefined ? "" : `/${pitchClassName(bass, flats)}`);

/**
 * MIDI keys of a chord whose root is `rootKey`, low to high. A bass that is told lies lowest: the chord is inverted to it,
 * or gets it as a note of its own under the root. Keys that MIDI does not have are left out.
 */
export function keysOfChord({ symbol, bass }: Chord, rootKey: number): number[] {
  const keys = chordKeys(rootKey, symbol);
  if (bass === undefined) return keys;
  const low = rootKey - ((((rootKey - bass) % 12) + 12) % 12);
  if (low < 0) return keys;
  const above = keys.filter((k) => k % 12 !== bass);
  return [low, ...above];
}

/** The chord that keys make together, as one of `CHORD_KINDS` in any inversion; else null. */
export function chordOf(midiKeys: readonly number[]): Chord | null {
  const classes = [...new Set(midiKeys.map((k) => k % 12))];
  const bass = Math.min(...midiKeys) % 12;
  for (const root of [bass, ...classes.filter((c) => c !== bass)]) {
    const found = NAMED_STEPS.find((n) => n.classes === classesOf(classes.map((c) => (c - root + 12) % 12)));
    if (found) return { root, symbol: found.symbol };
  }
  return null;
}

/** The name of keys that sound together; null when they make none of `CHORD_KINDS`. */
export function chordName(midiKeys: readonly number[], flats = false): string | null {
  const chord = chordOf(midiKeys);
  return chord && chordText(chord, flats);
}

function kindOfText(text: string): ChordSymbol | null {
  // "M7" is major, "m7" minor: the one case that counts.
  if (/^M(7|9)?$/.test(text)) return text === "M" ? "M" : text === "M7" ? "maj7" : null;
  const clean = text.toLowerCase();
  const found = CHORD_KINDS.find((k: ChordKind) => k.symbol.toLowerCase() === clean && k.symbol !== "M");
  return (found ?? CHORD_KINDS.find((k: ChordKind) => k.also.includes(clean)))?.symbol ?? null;
}

const ROMAN = ["i", "ii", "iii", "iv", "v", "vi", "vii"];

/**
 * Reads a chord by name ("Dm7", "F#", "Bbmaj7") or by degree of a key ("iv", "V7", "bVI", "vii°"), with its lowest note
 * behind a stroke ("F/A", "i/Eb"): small letters are minor, large ones major, as is common practice. Null when it is neither.
 */
export function parseChord(text: string, key: Key): Chord | null {
  const slash = /^(.+)\/\s*([A-Ga-g][#♯b♭]?)$/.exec(text.trim());
  const chord = parseBare(slash ? slash[1]! : text, key);
  const bass = slash ? parsePitchClass(slash[2]!) : null;
  return chord && bass !== null && bass !== chord.root ? { ...chord, bass } : chord;
}

function parseBare(text: string, key: Key): Chord | null {
  const clean = text.trim();
  const degree = /^([b♭#♯]?)(iii|ii|iv|i|vii|vi|v|III|II|IV|I|VII|VI|V)(.*)$/.exec(clean);
  if (degree) {
    const [, mark, roman, rest] = degree as unknown as [string, string, string, string];
    const small = roman === roman.toLowerCase();
    const symbol = small && /^(7|9)?$/.test(rest) ? kindOfText(`m${rest}`) : kindOfText(rest);
    if (!symbol) return null;
    const step = SCALE_STEPS[key.scale][ROMAN.indexOf(roman.toLowerCase())]!;
    return { root: (key.tonic + step + (mark === "" ? 0 : /[#♯]/.test(mark) ? 1 : -1) + 12) % 12, symbol };
  }
  const named = /^([A-Ga-g][#♯b♭]?)(.*)$/.exec(clean);
  const root = named ? parsePitchClass(named[1]!) : null;
  const symbol = named ? kindOfText(named[2]!.trim()) : null;
  return root === null || symbol === null ? null : { root, symbol };
}

/** Degrees of a scale that may stand for each other, counted from 0: tonic, subdominant and dominant (common practice). */
const FUNCTIONS = [
  [0, 2, 5],
  [1, 3],
  [4, 6],
];

/** The kind of chord that thirds of the scale make on a degree: of three notes, or of four. Null where it has no name here. */
function onDegree(degree: number, notes: number, key: Key): Chord | null {
  const scale = SCALE_STEPS[key.scale];
  const at = (d: number): number => scale[d % 7]! + 12 * Math.floor(d / 7);
  const steps = Array.from({ length: notes }, (_, i) => at(degree + 2 * i) - at(degree));
  const kind = CHORD_KINDS.find((k) => k.steps.length === notes && k.steps.every((s, i) => s === steps[i]));
  return kind ? { root: (key.tonic + scale[degree]!) % 12, symbol: kind.symbol } : null;
}

/** Chords of the key that have the same function as a chord on one of its degrees, with as many notes; none for others. */
export function sameFunction(chord: Chord, key: Key): Chord[] {
  const degree = SCALE_STEPS[key.scale].indexOf((chord.root - key.tonic + 12) % 12);
  const group = FUNCTIONS.find((g) => g.includes(degree)) ?? [];
  const notes = chordSteps(chord.symbol).length >= 4 ? 4 : 3;
  return group.filter((d) => d !== degree).flatMap((d) => onDegree(d, notes, key) ?? onDegree(d, 3, key) ?? []);
}
