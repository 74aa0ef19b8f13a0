/**
 * How the notes of a chord lie. Keys are MIDI keys from low to high; nothing here changes what the chord is: its pitch
 * classes stay. A voicing that would leave 0 to 127 is not made: the keys come back as they were.
 */

const valid = (keys: readonly number[]): boolean => keys.every((k) => k >= 0 && k <= 127);
const sorted = (keys: readonly number[]): number[] => [...keys].sort((a, b) => a - b);
const orSame = (next: readonly number[], before: readonly number[]): number[] => sorted(valid(next) ? next : before);

/** Octaves by which one of two keys goes just past the other. */
const octavesPast = (low: number, high: number): number => Math.floor((high - low) / 12) + 1;

/** The next inversion: the lowest note goes up past the highest, by as many octaves as that takes. */
export function invertUp(keys: readonly number[]): number[] {
  const all = sorted(keys);
  if (all.length < 2) return all;
  const [low, ...rest] = all as [number, ...number[]];
  return orSame([...rest, low + 12 * octavesPast(low, rest.at(-1)!)], keys);
}

/** The inversion before: the highest note goes down past the lowest. */
export function invertDown(keys: readonly number[]): number[] {
  const all = sorted(keys);
  if (all.length < 2) return all;
  const top = all.pop()!;
  return orSame([top - 12 * octavesPast(all[0]!, top), ...all], keys);
}

/** The `n`-th note from the top an octave down ("drop 2" takes the second; common practice). */
export function drop(keys: readonly number[], n: number): number[] {
  const all = sorted(keys);
  const at = all.length - n;
  return at < 0 ? all : orSame(all.with(at, all[at]! - 12), keys);
}

/** Every other note from the second on an octave up: wide lies. */
export const spreadOut = (keys: readonly number[]): number[] =>
  orSame(sorted(keys).map((k, i) => (i % 2 === 1 ? k + 12 : k)), keys); // prettier-ignore

/**
 * Semitones that voices move in all from one chord to another, note by note from the lowest up. Where one has more
 * notes, the extra ones of the larger chord move from, or to, the nearest note of the other.
 */
export function movement(from: readonly number[], to: readonly number[]): number {
  const [a, b] = [sorted(from), sorted(to)];
  if (a.length === 0 || b.length === 0) return 0;
  const [few, many] = a.length <= b.length ? [a, b] : [b, a];
  const nearest = (k: number): number => Math.min(...few.map((f) => Math.abs(f - k)));
  if (few.length === many.length) return a.reduce((sum, k, i) => sum + Math.abs(k - b[i]!), 0);
  return many.reduce((sum, k) => sum + nearest(k), 0);
}

/** Notes up to which every lie is tried; larger chords keep theirs and move as a whole. */
const MOST_TRIED = 7;

/**
 * The lie of a chord that moves least from the one before, each of its notes in any octave near that one. Where two move
 * as little, the one whose lowest note is nearer to the lowest before, then the lower one.
 */
export function nearestVoicing(keys: readonly number[], before: readonly number[]): number[] {
  if (before.length === 0) return sorted(keys);
  const from = sorted(before);
  const [low, high] = [from[0]!, from.at(-1)!];
  let best: number[] = sorted(keys);
  let least: readonly number[] = [Infinity];
  const weigh = (lie: readonly number[]): void => {
    if (new Set(lie).size < lie.length || !valid(lie)) return;
    const to = sorted(lie);
    const rank = [movement(from, to), Math.abs(to[0]! - low), to[0]!];
    const unlike = rank.findIndex((v, i) => v !== least[i]);
    if (unlike === -1 || rank[unlike]! > least[unlike]!) return;
    least = rank;
    best = to;
  };
  const octaves = (key: number): number[] => {
    const all: number[] = [];
    for (let k = low - 12 + ((((key - low) % 12) + 12) % 12); k <= high + 12; k += 12) all.push(k);
    return all;
  };
  if (keys.length > MOST_TRIED) for (let by = -24; by <= 24; by += 12) weigh(keys.map((k) => k + by));
  else {
    const tried: number[] = [];
    const next = (i: number): void => {
      if (i === keys.length) return weigh(tried);
      for (const k of octaves(keys[i]!)) {
        tried[i] = k;
        next(i + 1);
      }
    };
    next(0);
  }
  return best;
}
