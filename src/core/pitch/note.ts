/** A4 is MIDI key 69 (MIDI 1.0); 440 Hz is ISO 16. */
const A4_KEY = 69;

/** Equal temperament: 440 * 2^((key - 69) / 12). `key` may be fractional. */
export const keyToHz = (key: number, a4Hz = 440): number => a4Hz * 2 ** ((key - A4_KEY) / 12);
export const hzToKey = (hz: number, a4Hz = 440): number => A4_KEY + 12 * Math.log2(hz / a4Hz);

const SHARP_NAMES = ["C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"];
const FLAT_NAMES = ["C", "D♭", "D", "E♭", "E", "F", "G♭", "G", "A♭", "A", "B♭", "B"];
/** Whether a key signature is written with flats, by the pitch class of its relative major (circle of fifths). */
const FLAT_MAJORS = new Set([5, 10, 3, 8, 1]);

/** Major, minor (natural) and the other modes of the major scale, and the two altered minors in common use. */
export const SCALES = ["major", "minor", "dorian", "phrygian", "lydian", "mixolydian", "locrian", "harmonicMinor", "melodicMinor"] as const; // prettier-ignore
export type ScaleKind = (typeof SCALES)[number];

export const SCALE_TEXT: Readonly<Record<ScaleKind, string>> = {
  major: "major",
  minor: "minor",
  dorian: "Dorian",
  phrygian: "Phrygian",
  lydian: "Lydian",
  mixolydian: "Mixolydian",
  locrian: "Locrian",
  harmonicMinor: "harmonic minor",
  melodicMinor: "melodic minor",
};

/** Semitones from a mode's tonic up to that of the major scale with the same signature; the altered minors are signed as the natural one. */
const TO_MAJOR: Readonly<Record<ScaleKind, number>> = { major: 0, minor: 3, dorian: 10, phrygian: 8, lydian: 7, mixolydian: 5, locrian: 1, harmonicMinor: 3, melodicMinor: 3 }; // prettier-ignore

export interface Key {
  /** Pitch class, C = 0. */
  readonly tonic: number;
  readonly scale: ScaleKind;
}

export const usesFlats = (key: Key): boolean => FLAT_MAJORS.has((key.tonic + TO_MAJOR[key.scale]) % 12);

export const pitchClassName = (pitchClass: number, flats = false): string =>
  (flats ? FLAT_NAMES : SHARP_NAMES)[((pitchClass % 12) + 12) % 12]!;

export const keyName = (key: Key): string => `${pitchClassName(key.tonic, usesFlats(key))} ${SCALE_TEXT[key.scale]}`;

/** Octaves by which middle C may be named. */
export const MIDDLE_C_OCTAVES = [3, 4, 5] as const;
/**
 * The octave of middle C's name: 4 in scientific pitch notation. A matter of the eyes alone, of one page and the same for
 * all of it: no document and no sound depends on it.
 */
let middleC = 4;

/** Names middle C (MIDI key 60) C3, C4 or C5 from here on, in texts that are written and read. */
export function nameMiddleC(octave: (typeof MIDDLE_C_OCTAVES)[number]): void {
  middleC = octave;
}

/** "C4" is MIDI key 60 (scientific pitch notation), unless middle C is named otherwise. Rounds to the nearest key. */
export function noteName(midiKey: number, flats = false): string {
  const whole = Math.round(midiKey);
  return `${pitchClassName(whole, flats)}${Math.floor(whole / 12) - 5 + middleC}`;
}

/** Semitones above C of a letter with its mark: -1 (C♭) to 12 (B♯). */
const letterSteps = (letter: string, mark: string): number =>
  [9, 11, 0, 2, 4, 5, 7][letter.toLowerCase().charCodeAt(0) - 97]! + (mark === "" ? 0 : /[#♯]/.test(mark) ? 1 : -1);

/** Reads "A", "Bb", "F♯". Null when it is no name of a note without octave. */
export function parsePitchClass(text: string): number | null {
  const match = /^([a-g])([#♯b♭]?)$/i.exec(text.trim());
  return match ? (letterSteps(match[1]!, match[2]!) + 12) % 12 : null;
}

/** Reads "A3", "Bb2", "c#4", "F♯5", with cents: "A3+10ct". Null when it is no note of MIDI's 0 to 127. */
export function parseNote(text: string): number | null {
  const match = /^([a-g])([#♯b♭]?)(-?\d)(?:\s*([+\-−]\s*\d+(?:[.,]\d+)?)\s*(?:ct|c|cents?))?$/i.exec(text.trim());
  if (!match) return null;
  const cents = match[4] ? Number(match[4].replace(/\s/g, "").replace("−", "-").replace(",", ".")) : 0;
  const key = (Number(match[3]) + 5 - middleC) * 12 + letterSteps(match[1]!, match[2]!) + cents / 100;
  return key >= 0 && key <= 127 ? key : null;
}

/** Steps of the scales from the tonic (common practice; the tests hold them to tonal's dictionary). */
export const SCALE_STEPS: Readonly<Record<ScaleKind, readonly number[]>> = {
  major: [0, 2, 4, 5, 7, 9, 11],
  minor: [0, 2, 3, 5, 7, 8, 10],
  dorian: [0, 2, 3, 5, 7, 9, 10],
  phrygian: [0, 1, 3, 5, 7, 8, 10],
  lydian: [0, 2, 4, 6, 7, 9, 11],
  mixolydian: [0, 2, 4, 5, 7, 9, 10],
  locrian: [0, 1, 3, 5, 6, 8, 10],
  harmonicMinor: [0, 2, 3, 5, 7, 8, 11],
  melodicMinor: [0, 2, 3, 5, 7, 9, 11],
};
/** Whether a scale's third is minor: its tonic chord is. */
export const isMinor = (scale: ScaleKind): boolean => SCALE_STEPS[scale].includes(3);

export const inScale = (midiKey: number, key: Key): boolean =>
  SCALE_STEPS[key.scale].includes((((midiKey - key.tonic) % 12) + 12) % 12);

/**
 * A key moved by so many steps of a scale, up or down. One that lies outside the scale keeps its distance from the note of
 * the scale below it.
 */
export function moveInScale(midiKey: number, steps: number, { tonic, scale }: Key): number {
  const degrees = SCALE_STEPS[scale];
  const octave = Math.floor((midiKey - tonic) / 12);
  const within = midiKey - tonic - 12 * octave;
  const degree = degrees.findLastIndex((d) => d <= within);
  const to = degree + steps;
  const octaves = octave + Math.floor(to / degrees.length);
  const inOctave = ((to % degrees.length) + degrees.length) % degrees.length;
  return tonic + 12 * octaves + degrees[inOctave]! + within - degrees[degree]!;
}

/** A key with its cents: "A4", "G♯4 +20 ct". */
export function describeKey(key: number, flats = false): string {
  const cents = Math.round((key - Math.round(key)) * 100);
  return `${noteName(key, flats)}${cents === 0 ? "" : ` ${cents > 0 ? "+" : "−"}${Math.abs(cents)} ct`}`;
}

/** A frequency as its nearest note: "G♯4, 20 cents sharp"; no cents when within half a cent. */
export function describeHz(hz: number, flats = false, a4Hz = 440): string {
  const key = hzToKey(hz, a4Hz);
  const cents = Math.round((key - Math.round(key)) * 100);
  const name = noteName(key, flats);
  return cents === 0 ? name : `${name}, ${Math.abs(cents)} cents ${cents > 0 ? "sharp" : "flat"}`;
}
