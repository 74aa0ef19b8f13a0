/** A length as a fraction of a whole note: a dotted eighth is { num: 3, den: 16 }. Positive integers. */
export interface NoteValue {
  readonly num: number;
  readonly den: number;
}

/** The largest figures of a fraction that a document holds. */
export const MAX_NOTE_VALUE: NoteValue = { num: 96, den: 192 };

/** 960 ticks a quarter: plain, dotted and triplet values down to 1/64 are whole ticks. */
export const TICKS_PER_QUARTER = 960;
export const TICKS_PER_WHOLE = 4 * TICKS_PER_QUARTER;
/** Nothing starts later or lasts longer: 32 bars of 64 whole notes. */
export const MAX_TICK = 32 * 64 * TICKS_PER_WHOLE;

/** Length in ticks; exact for every value of `NOTE_VALUES`, rounded to a tick for other fractions. */
export const noteValueTicks = (v: NoteValue): number => Math.round((v.num * TICKS_PER_WHOLE) / v.den);

const PLAIN_DENOMINATORS = [1, 2, 4, 8, 16, 32, 64] as const;

const reduce = (num: number, den: number): NoteValue => {
  let a = num;
  let b = den;
  while (b !== 0) [a, b] = [b, a % b];
  return { num: num / a, den: den / a };
};

/** 1/1 to 1/64, each plain, dotted (3/2) and triplet (2/3), longest first. The ratios are the trade's definition. */
export const NOTE_VALUES: readonly NoteValue[] = PLAIN_DENOMINATORS.flatMap((den) => [
  reduce(3, 2 * den),
  reduce(1, den),
  reduce(2, 3 * den),
]).sort((a, b) => b.num / b.den - a.num / a.den);

const sameNoteValue = (a: NoteValue, b: NoteValue): boolean => a.num * b.den === b.num * a.den;

/** "1/8", "1/8D" (dotted), "1/8T" (triplet); any other fraction as "num/den". */
export function noteValueName(v: NoteValue): string {
  for (const den of PLAIN_DENOMINATORS) {
    if (sameNoteValue(v, { num: 1, den })) return `1/${den}`;
    if (sameNoteValue(v, { num: 3, den: 2 * den })) return `1/${den}D`;
    if (sameNoteValue(v, { num: 2, den: 3 * den })) return `1/${den}T`;
  }
  const { num, den } = reduce(v.num, v.den);
  return `${num}/${den}`;
}

/** Reads "1/8", "1/8D", "1/8.", "1/8 dotted", "1/8T", "1/8 triplet" or a fraction such as "3/16". Null when it is none, outside 1/96 to 32/1, or finer than a document holds. */
export function parseNoteValue(text: string): NoteValue | null {
  const match = /^(\d{1,3})\s*\/\s*(\d{1,3})\s*(d|dot|dotted|\.|t|trip|triplets?)?$/i.exec(text.trim());
  if (!match) return null;
  let num = Number(match[1]);
  let den = Number(match[2]);
  const mark = match[3]?.charAt(0).toLowerCase();
  if (mark === "d" || mark === ".") [num, den] = [num * 3, den * 2];
  if (mark === "t") [num, den] = [num * 2, den * 3];
  const value = reduce(num, den);
  const wholes = value.num / value.den;
  const held = value.num <= MAX_NOTE_VALUE.num && value.den <= MAX_NOTE_VALUE.den;
  return held && wholes >= 1 / 96 && wholes <= 32 ? value : null;
}
