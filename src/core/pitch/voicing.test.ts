import fc from "fast-check";
import { Chord as TonalChord, Interval } from "tonal";
import { describe, expect, test } from "vitest";
import { parseChord } from "./chord";
import { PROGRESSIONS } from "./progressions";
import { drop, invertDown, invertUp, movement, nearestVoicing, spreadOut } from "./voicing";

const C_MINOR = [60, 63, 67];
const keysOf = fc.uniqueArray(fc.integer({ min: 30, max: 90 }), { minLength: 1, maxLength: 5 });
const classes = (keys: readonly number[]): number[] => [...keys.map((k) => ((k % 12) + 12) % 12)].sort((a, b) => a - b);

describe("inversions and lies", () => {
  test("keep the chord what it is", () => {
    fc.assert(
      fc.property(keysOf, fc.constantFrom(invertUp, invertDown, spreadOut, (k: readonly number[]) => drop(k, 2)), (keys, act) => {
        const made = act(keys);
        expect(classes(made)).toEqual(classes(keys));
        expect(made).toEqual([...made].sort((a, b) => a - b));
      }),
    ); // prettier-ignore
  });
  test("as a theory book has them", () => {
    expect(invertUp(C_MINOR)).toEqual([63, 67, 72]);
    expect(invertUp(invertUp(C_MINOR))).toEqual([67, 72, 75]);
    expect(invertDown(C_MINOR)).toEqual([55, 60, 63]);
    expect(invertDown(invertUp(C_MINOR))).toEqual(C_MINOR);
    // Drop 2 of a seventh chord in close position: the second note from the top an octave down.
    expect(drop([60, 64, 67, 71], 2)).toEqual([55, 60, 64, 71]);
    expect(spreadOut([60, 64, 67])).toEqual([60, 67, 76]);
    // A ninth chord is wider than an octave: its root goes up two.
    expect(invertUp([60, 64, 67, 70, 74])).toEqual([64, 67, 70, 74, 84]);
    expect(drop([60], 2)).toEqual([60]);
    expect(spreadOut([60, 64, 67, 71])).toEqual([60, 67, 76, 83]);
    for (const act of [invertUp, invertDown]) expect([act([60]), act([])]).toEqual([[60], []]);
    // An octave goes past itself.
    expect([invertUp([60, 72]), invertDown([60, 72]), invertUp([60, 71])]).toEqual([[72, 84], [48, 60], [71, 72]]); // prettier-ignore
  });
  test("voices move as many semitones in all as each of them does; extra ones from the nearest", () => {
    expect([movement([], [60]), movement([60], []), movement([60], [67]), movement([60, 64], [62, 61])]).toEqual([0, 0, 7, 3]); // prettier-ignore
    expect([movement([60, 70], [61, 64, 69]), movement([61, 64, 69], [60, 70])]).toEqual([6, 6]);
    expect([nearestVoicing([], [60]), nearestVoicing([67, 60], [])]).toEqual([[], [60, 67]]);
    // More than seven notes move as a whole, up to two octaves either way.
    const eight = [36, 40, 43, 47, 50, 54, 57, 61];
    expect([24, 12, 0, -12, -24].map((by) => nearestVoicing(eight, eight.map((k) => k + by))[0]! - 36)).toEqual([24, 12, 0, -12, -24]); // prettier-ignore
    expect(invertDown([5, 9])).toEqual([5, 9]);
  });
});

test("of lies that move as little, the one whose lowest note is nearest to the lowest before, then the lower one", () => {
  const few = fc.uniqueArray(fc.integer({ min: 30, max: 90 }), { minLength: 1, maxLength: 3 });
  fc.assert(
    fc.property(few, few, (keys, before) => {
      const from = [...before].sort((a, b) => a - b);
      const octaves = (k: number): number[] => Array.from({ length: 11 }, (_, o) => (k % 12) + 12 * o).filter((n) => n >= from[0]! - 12 && n <= from.at(-1)! + 12); // prettier-ignore
      const lies = keys.reduce<number[][]>((all, k) => all.flatMap((lie) => octaves(k).map((n) => [...lie, n])), [[]]);
      const ranked = lies
        .filter((lie) => new Set(lie).size === lie.length)
        .map((lie) => [...lie].sort((a, b) => a - b))
        .map((lie) => ({ lie, rank: [movement(from, lie), Math.abs(lie[0]! - from[0]!), lie[0]!] }))
        .sort((a, b) => a.rank[0]! - b.rank[0]! || a.rank[1]! - b.rank[1]! || a.rank[2]! - b.rank[2]!);
      const made = nearestVoicing(keys, before);
      // More of one name than there are octaves near it: they stay.
      if (ranked.length === 0) {
        expect(made).toEqual([...keys].sort((a, b) => a - b));
        return;
      }
      expect([movement(from, made), Math.abs(made[0]! - from[0]!), made[0]!]).toEqual(ranked[0]!.rank);
    }),
    { numRuns: 40 },
  );
});

describe("inversions at the borders", () => {
  test("the outer note goes just past the other end, and stays a key", () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(127), { minLength: 2, maxLength: 6 }), (any) => {
        const keys = [...any].sort((a, b) => a - b);
        const [low, top] = [keys[0]!, keys.at(-1)!];
        let up = low;
        while (up <= top) up += 12;
        let down = top;
        while (down >= low) down -= 12;
        expect(invertUp(any)).toEqual(up > 127 ? keys : [...keys.slice(1), up]);
        expect(invertDown(any)).toEqual(down < 0 ? keys : [down, ...keys.slice(0, -1)]);
        keys.forEach((k, i) => {
          const dropped = [...keys.filter((_, j) => j !== i), k - 12].sort((a, b) => a - b);
          expect(drop(any, keys.length - i)).toEqual(k < 12 ? keys : dropped);
        });
        expect(drop(any, keys.length + 1)).toEqual(keys);
      }),
    );
    expect(invertDown([12, 14])).toEqual([2, 12]);
    expect(invertDown([5, 12])).toEqual([0, 5]);
    expect(invertUp([115, 120])).toEqual([120, 127]);
    expect([invertUp([60]), invertDown([60]), invertUp([]), invertDown([])]).toEqual([[60], [60], [], []]);
  });
  test("a chord of more than seven notes moves as a whole, by two octaves at the most", () => {
    const eight = [40, 43, 47, 50, 54, 57, 61, 64];
    const moved = (by: number): number =>
      nearestVoicing(
        eight.map((k) => k + by),
        eight,
      )[0]! - 40;
    expect([0, 12, 24, -24, 36, -36, 5, 19].map(moved)).toEqual([0, 0, 0, 0, 12, -12, 5, -5]);
    expect(nearestVoicing([60, 72], [60, 72])).toEqual([60, 72]);
    // Two notes of one name stay two.
    expect(new Set(nearestVoicing([60, 72], [60])).size).toBe(2);
  });
});

/** The least that voices can move in all, tried over every octave of every note and every way to pair them. */
function bruteForce(before: readonly number[], to: readonly number[]): number {
  const lies = to.reduce<number[][]>(
    (all, k) =>
      all.flatMap((lie) => Array.from({ length: 11 }, (_, o) => [...lie, (k % 12) + 12 * o]).filter((l) => l.at(-1)! <= 127)),
    [[]],
  ); // prettier-ignore
  const orders = (list: readonly number[]): number[][] =>
    list.length < 2
      ? [[...list]]
      : list.flatMap((x, i) => orders(list.filter((_, k) => k !== i)).map((o) => [x, ...o]));
  const pairings = orders(before);
  let least = Infinity;
  for (const lie of lies)
    for (const order of pairings)
      least = Math.min(
        least,
        order.reduce((sum, k, i) => sum + Math.abs(k - lie[i]!), 0),
      );
  return least;
}

describe("the nearest lie", () => {
  test("C minor to G minor moves three semitones in all, 21 in root position", () => {
    const gMinor = [67, 70, 74];
    expect(movement(C_MINOR, gMinor)).toBe(21);
    expect(nearestVoicing(gMinor, C_MINOR)).toEqual([58, 62, 67]);
    expect(movement(C_MINOR, [58, 62, 67])).toBe(3);
    // A note that has no other end goes to the nearest, from whichever chord.
    expect(movement([60, 64, 67], [60, 67])).toBe(3);
    expect(movement([60, 67], [67, 62, 58])).toBe(2 + 2 + 0);
    expect(movement([], C_MINOR)).toBe(0);
  });
  test("is never worse than the best of all lies and pairings", () => {
    const names = ["m", "M", "7", "maj7", "sus4", "dim"];
    fc.assert(
      fc.property(fc.constantFrom(...names), fc.constantFrom(...names), fc.integer({ min: 40, max: 75 }), fc.integer({ min: 0, max: 11 }), fc.nat(3), (a, b, root, up, inversions) => {
        const steps = (name: string) => TonalChord.get(`C${name}`).intervals.slice(0, 3).map((i) => Interval.semitones(i)); // prettier-ignore
        let before = steps(a).map((s) => root + s);
        for (let i = 0; i < inversions; i++) before = invertUp(before);
        const to = steps(b).map((s) => root + up + s);
        const made = nearestVoicing(to, before);
        expect(classes(made)).toEqual(classes(to));
        expect(movement(before, made)).toBe(bruteForce(before, to));
      }),
      { numRuns: 40 },
    ); // prettier-ignore
  });
  test("where two are equal, the lowest note stays nearer, then the lower one is taken", () => {
    // From a single C the F sharps on both sides are six away.
    expect(nearestVoicing([66], [60])).toEqual([54]);
    expect(nearestVoicing([60, 64, 67], [])).toEqual([60, 64, 67]);
    const large = [40, 43, 47, 50, 54, 57, 61, 64];
    expect(nearestVoicing(large, large.map((k) => k + 12))).toEqual(large.map((k) => k + 12)); // prettier-ignore
  });
});

test("every progression is written in degrees of its key", () => {
  for (const { scale, degrees, name } of PROGRESSIONS) {
    const chords = degrees.map((d) => parseChord(d, { tonic: 9, scale }));
    expect(
      chords.every((c) => c !== null),
      name,
    ).toBe(true);
    // Four bars that come back to the tonic of the key somewhere, in root position.
    expect(
      chords.some((c) => c!.root === 9),
      name,
    ).toBe(true);
  }
  expect(PROGRESSIONS.map((p) => p.name)).toEqual([...new Set(PROGRESSIONS.map((p) => p.name))]);
});
