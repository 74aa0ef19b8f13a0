import { hzToKey } from "./note";

/** A tuning: a scale in cents, and which of its degrees each MIDI key plays. Files of them: format/tuningFiles.ts. */

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

/** Keys one by one from middle C, A4 at 440 Hz: what a scale without a mapping is played by. */
export const PLAIN_MAPPING: KeyMapping = { firstKey: 0, lastKey: 127, middleKey: 60, referenceKey: 69, referenceHz: 440, octaveDegree: 0, mapping: [] }; // prettier-ignore

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
