import type { KeyMapping, Tuning } from "../pitch/tuning";

/**
 * Files of tunings in the Scala formats, as their author publishes them ("Scala scale file format" and "Scala keyboard
 * mappings", huygens-fokker.org).
 */

const MAX_DEGREES = 128;

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
  const [num, den] = [Number(ratio?.[1]), Number(ratio?.[2] ?? 1)];
  if (!(num >= 1 && den >= 1)) fail(line.at, `"${first}" is neither cents (with a point) nor a ratio`);
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
    if (!(value >= min && value <= max) || (whole && !Number.isInteger(value)))
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
