import { hzToKey } from "./note";

/**
 * Tunings by the Scala formats, as their author publishes them ("Scala scale file format" and "Scala keyboard mappings",
 * huygens-fokker.org): a scale in cents or ratios, and which of its degrees each MIDI key plays.
 */

export interface Tuning {
  readonly name: string;
  /** Cents of the degrees above the first, rising or not; the last one is where the scale starts again. 1 to 128. */
  readonly cents: readonly number[];
  /** Keys outside are not played. */
  readonly firstKey: number;
  readonly lastKey: number;
  /** The key that plays the scale's first degree. */
  readonly middleKey: number;
  readonly referenceKey: number;
  readonly referenceHz: number;
  /** Degree that lies an interval of repetition above the first, for a mapping; 0 is that of the scale. */
  readonly octaveDegree: number;
  /** Degrees of the keys from the middle one up, which repeat; null is not played. Empty maps keys one by one. */
  readonly mapping: readonly (number | null)[];
}

/** A keyboard mapping without its scale. */
export type KeyMapping = Omit<Tuning, "name" | "cents">;

const MAX_DEGREES = 128;

/** Keys one by one from middle C, A4 at 440 Hz: what a scale without a mapping is played by. */
export const PLAIN_MAPPING: KeyMapping = { firstKey: 0, lastKey: 127, middleKey: 60, referenceKey: 69, referenceHz: 440, octaveDegree: 0, mapping: [] }; // prettier-ignore

/** What a file of a tuning is wrong in. */
export class TuningError extends Error {}

const fail = (line: number, reason: string): never => {
  throw new TuningError(`Line ${line}: ${reason}.`);
};

/** Lines without comments, with their numbers in the file. */
const linesOf = (text: string): { at: number; text: string }[] =>
  text.split(/\r\n|\n|\r/).flatMap((line, i) => (line.startsWith("!") ? [] : [{ at: i + 1, text: line.trim() }]));

/** Cents of a degree: a number with a point is in cents, else it is a ratio. */
function degreeCents(line: { at: number; text: string }): number {
  const [first = ""] = line.text.split(/\s+/);
  if (first.includes(".")) {
    const cents = Number(first);
    return /^[+-]?\d*\.\d*$/.test(first) && /\d/.test(first) && Math.abs(cents) <= 24_000 ? cents : fail(line.at, `"${first}" is no number of cents`);
  }
  const ratio = /^(\d{1,15})(?:\/(\d{1,15}))?$/.exec(first);
  const [num, den] = ratio ? [Number(ratio[1]), Number(ratio[2] ?? 1)] : [0, 0];
  if (num < 1 || den < 1) fail(line.at, `"${first}" is neither cents (with a point) nor a ratio`);
  return 1200 * Math.log2(num / den);
} // prettier-ignore

/** Reads a scale (.scl). Throws TuningError with the line that is wrong. */
export function parseScale(text: string): Pick<Tuning, "name" | "cents"> {
  const lines = linesOf(text);
  if (lines.length < 2) return fail(Math.max(1, lines.length), "the description and the number of notes are missing");
  const [description, count, ...rest] = lines as [{ at: number; text: string }, { at: number; text: string }, ...{ at: number; text: string }[]]; // prettier-ignore
  const [written = ""] = count.text.split(/\s+/);
  const notes = Number(written);
  if (!/^\d+$/.test(written)) fail(count.at, `"${written}" is no number of notes`);
  if (notes < 1 || notes > MAX_DEGREES) fail(count.at, `a scale holds 1 to ${MAX_DEGREES} notes here, this one has ${notes}`);
  const degrees = rest.filter((l) => l.text !== "");
  if (degrees.length < notes) fail(degrees.at(-1)?.at ?? count.at, `${notes} notes are announced, ${degrees.length} follow`);
  const cents = degrees.slice(0, notes).map(degreeCents);
  if (cents.at(-1)! <= 0) fail(degrees[notes - 1]!.at, "the last note must lie above the first: the scale starts again there");
  return { name: description.text.slice(0, 80) || "Untitled scale", cents };
} // prettier-ignore

/** Reads a keyboard mapping (.kbm). Throws TuningError with the line that is wrong. */
export function parseMapping(text: string): KeyMapping {
  const lines = linesOf(text).filter((l) => l.text !== "");
  if (lines.length < 7) return fail(lines.at(-1)?.at ?? 1, "seven numbers stand at the head of a mapping");
  const number = (i: number, what: string, min: number, max: number, whole = true): number => {
    const line = lines[i]!;
    const [written = ""] = line.text.split(/\s+/);
    const value = Number(written);
    if (written === "" || !Number.isFinite(value) || (whole && !Number.isInteger(value)) || value < min || value > max)
      fail(line.at, `${what} must be ${min} to ${max}, not "${written}"`);
    return value;
  };
  const size = number(0, "the size of the mapping", 0, MAX_DEGREES);
  const made: KeyMapping = {
    firstKey: number(1, "the first key", 0, 127),
    lastKey: number(2, "the last key", 0, 127),
    middleKey: number(3, "the middle key", 0, 127),
    referenceKey: number(4, "the reference key", 0, 127),
    referenceHz: number(5, "the reference frequency", 1, 20_000, false),
    octaveDegree: number(6, "the degree of the octave", 0, MAX_DEGREES),
    mapping: lines.slice(7, 7 + size).map((line): number | null => {
      const [written = ""] = line.text.split(/\s+/);
      if (/^x$/i.test(written)) return null;
      return /^\d{1,3}$/.test(written) ? Number(written) : fail(line.at, `"${written}" is neither a degree nor x`);
    }),
  };
  // Entries that are missing at the end are not played.
  const missing = Array.from({ length: size - made.mapping.length }, () => null);
  return { ...made, mapping: [...made.mapping, ...missing] };
}

/** Cents of any degree above the first, over the repetitions of the scale. */
function centsOf({ cents }: Tuning, degree: number): number {
  const n = cents.length;
  const turns = Math.floor(degree / n);
  const within = degree - turns * n;
  return turns * cents[n - 1]! + (within === 0 ? 0 : cents[within - 1]!);
}

/** Cents of a key above the scale's first degree; null when it is not played. */
function centsOfKey(t: Tuning, key: number): number | null {
  const from = key - t.middleKey;
  if (t.mapping.length === 0) return centsOf(t, from);
  const turns = Math.floor(from / t.mapping.length);
  const degree = t.mapping[from - turns * t.mapping.length] ?? null;
  // A mapping that names no octave repeats with the scale.
  return degree === null ? null : centsOf(t, degree) + turns * centsOf(t, t.octaveDegree || t.cents.length);
}

/**
 * The pitch of each MIDI key as a fractional key of equal temperament (A4 = 440 Hz); NaN for keys that are not played. A
 * reference key that the mapping leaves out is tuned as if it were the middle key.
 */
export function tuningTable(t: Tuning): Float64Array {
  const reference = centsOfKey(t, t.referenceKey) ?? 0;
  const at = hzToKey(t.referenceHz);
  return Float64Array.from({ length: 128 }, (_, key) => {
    const cents = key < t.firstKey || key > t.lastKey ? null : centsOfKey(t, key);
    return cents === null ? NaN : at + (cents - reference) / 100;
  });
}
