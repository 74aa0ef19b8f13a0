import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { evenly } from "../../../tests/support/evenly";
import { makeProject } from "../../../tests/support/projects";
import { MAX_NOTES, type Note } from "../patch/project";
import { isNote } from "../patch/schema";
import { partEvents } from "./events";
import * as tools from "./noteTools";

const note = (id: string, startTick: number, lengthTicks: number, key: number, velocity = 100): Note => ({ id, startTick, lengthTicks, key, velocity }); // prettier-ignore
const LINE = [note("a", 10, 200, 60), note("b", 250, 100, 62), note("c", 490, 230, 64)];
const ALL = new Set(["a", "b", "c"]);
const C_MAJOR = { tonic: 0, scale: "major" } as const;
const times = (list: readonly Note[]) => list.map((n) => [n.startTick, n.lengthTicks]);
let count = 0;
const newId = (): string => `new${count++}`;

describe("tools on notes", () => {
  test("quantise goes as far to the grid as its strength says", () => {
    expect(times(tools.quantise(LINE, ALL, 240, 1))).toEqual([[0, 200], [240, 100], [480, 230]]); // prettier-ignore
    expect(times(tools.quantise(LINE, ALL, 240, 0.5))).toEqual([[5, 200], [245, 100], [485, 230]]); // prettier-ignore
    expect(tools.quantise(LINE, new Set(["b"]), 240, 1)[0]).toBe(LINE[0]);
    const on = [note("a", 240, 100, 60)];
    expect(tools.quantise(on, ALL, 240, 1)).toBe(on);
  });
  test("legato, lengths, backwards, double and half time", () => {
    expect(times(tools.legato(LINE, ALL, 960))).toEqual([[10, 240], [250, 240], [490, 470]]); // prettier-ignore
    // What begins past the end lasts a tick.
    expect(times(tools.legato(LINE, ALL, 300))).toEqual([[10, 240], [250, 240], [490, 1]]); // prettier-ignore
    expect(times(tools.legato([...LINE].reverse(), ALL, 960))).toEqual([[490, 470], [250, 240], [10, 240]]); // prettier-ignore
    expect(times(tools.setLength(LINE, new Set(["a"]), 0))[0]).toEqual([10, 1]);
    expect(times(tools.reverse(LINE, ALL))).toEqual([[520, 200], [380, 100], [10, 230]]); // prettier-ignore
    expect(tools.reverse(tools.reverse(LINE, ALL), ALL)).toEqual(LINE);
    expect(times(tools.stretchTime(LINE, ALL, 2))).toEqual([[10, 400], [490, 200], [970, 460]]); // prettier-ignore
    expect(tools.stretchTime(tools.stretchTime(LINE, ALL, 2), ALL, 0.5)).toEqual(LINE);
  });
  test("in the key: by steps of the scale, and into it", () => {
    expect(tools.transposeInKey(LINE, ALL, 2, C_MAJOR).map((n) => n.key)).toEqual([64, 65, 67]);
    expect(tools.toKey([note("a", 0, 1, 61), note("b", 0, 1, 66)], ALL, C_MAJOR).map((n) => n.key)).toEqual([60, 65]);
    // Harmonic minor leaves three semitones between its sixth and seventh degrees: A goes down, B flat up.
    const harmonic = { tonic: 0, scale: "harmonicMinor" } as const;
    expect(tools.toKey([note("a", 0, 1, 69), note("b", 0, 1, 70)], ALL, harmonic).map((n) => n.key)).toEqual([68, 71]);
    expect(tools.transposeInKey([note("a", 0, 1, 127)], ALL, 3, C_MAJOR)[0]!.key).toBe(127);
  });
  test("humanise stays within what it was given, and draws the same for the same seed", () => {
    const many = Array.from({ length: 200 }, (_, i) => note(`n${i}`, 240 * i + 100, 120, 60, 64));
    const ids = new Set(many.map((n) => n.id));
    const made = tools.humanise(many, ids, 5, 20, 10);
    made.forEach((n, i) => {
      expect(Math.abs(n.startTick - many[i]!.startTick)).toBeLessThanOrEqual(20);
      expect(Math.abs(n.velocity - 64)).toBeLessThanOrEqual(10);
    });
    expect(new Set(made.map((n) => n.startTick % 240)).size).toBeGreaterThan(25);
    expect(tools.humanise(many, ids, 5, 20, 10)).toEqual(made);
    // What moves a note in time says nothing of its velocity: their correlation is under four deviations of chance.
    const related = made.reduce((sum, n, i) => sum + ((n.startTick - many[i]!.startTick) / 20) * ((n.velocity - 64) / 10), 0); // prettier-ignore
    expect(Math.abs((3 * related) / many.length)).toBeLessThan(4 / Math.sqrt(many.length));
    expect(tools.humanise(many, ids, 6, 20, 10)).not.toEqual(made);
    // As it was released: a project's seed leads to the same notes.
    expect(made.slice(0, 4).map((n, i) => [n.startTick - many[i]!.startTick, n.velocity - 64])).toEqual([
      [-11, -8],
      [-17, 6],
      [-6, -7],
      [-16, -8],
    ]);
  });
  test("split at a place or in the middle; joined again they are one", () => {
    const two = tools.split(LINE, new Set(["a"]), 50, newId);
    expect(times(two.slice(0, 2))).toEqual([[10, 40], [50, 160]]); // prettier-ignore
    expect(times(tools.split(LINE, new Set(["a"]), 900, newId).slice(0, 2))).toEqual([[10, 100], [110, 100]]); // prettier-ignore
    expect(times(tools.split(LINE, new Set(["a"]), 209.9, newId).slice(0, 2))).toEqual([[10, 199], [209, 1]]); // prettier-ignore
    expect(tools.join(two, new Set(two.slice(0, 2).map((n) => n.id)))).toEqual(LINE);
    expect(tools.join(LINE, ALL)).toBe(LINE);
    const one = [note("a", 0, 1, 60)];
    // As many as a part holds, and no more.
    const many = Array.from({ length: MAX_NOTES - 1 }, (_, i) => note(`m${i}`, i, 100, 60));
    expect(tools.split(many, new Set(["m0", "m1"]), null, newId)).toHaveLength(MAX_NOTES);
    expect(tools.split(one, ALL, null, newId)).toBe(one);
  });
  test("strummed: each note of a chord a step after the next lower, or higher, one; all end where they ended", () => {
    const chord = [note("x", 480, 960, 60), note("y", 480, 960, 67), note("z", 480, 100, 64), note("w", 0, 960, 48)];
    const starts = (list: readonly Note[]) => list.map((n) => [n.startTick, n.startTick + n.lengthTicks]);
    expect(starts(tools.strum(chord, new Set(["x", "y", "z", "w"]), 60, false))).toEqual([[480, 1440], [600, 1440], [540, 580], [0, 960]]); // prettier-ignore
    expect(starts(tools.strum(chord, new Set(["x", "y"]), 60, true))).toEqual([[540, 1440], [480, 1440], [480, 580], [0, 960]]); // prettier-ignore
    // A note is not strummed away.
    expect(starts(tools.strum(chord, new Set(["x", "z"]), 960, false))[2]).toEqual([579, 580]);
  });
  test("stacked in the key: thirds above each note, none twice", () => {
    const two = [note("a", 0, 960, 60), note("b", 960, 960, 62), note("c", 0, 10, 64)];
    const made = tools.stackInKey(two, new Set(["a", "b"]), 3, C_MAJOR, newId);
    expect(made.slice(3).map((n) => [n.startTick, n.lengthTicks, n.key])).toEqual([[0, 960, 67], [960, 960, 65], [960, 960, 69]]); // prettier-ignore
    expect(tools.stackInKey(two, new Set(), 3, C_MAJOR, newId)).toBe(two);
  });
  test("repeated to fill the loop, in whole beats", () => {
    const made = tools.repeatToFill(LINE, ALL, 960, 3840, newId);
    expect(made.map((n) => n.startTick)).toEqual([10, 250, 490, 970, 1210, 1450, 1930, 2170, 2410, 2890, 3130, 3370]);
    expect(new Set(made.map((n) => n.id)).size).toBe(12);
    expect(tools.repeatToFill(LINE, new Set(), 960, 3840, newId)).toBe(LINE);
    expect(tools.repeatToFill(LINE, ALL, 1, 32 * 61_440, newId)).toHaveLength(4096);
  });
  test("chance: said only where it is less than always; a note is played as often as it says", () => {
    expect(tools.setChance(LINE, ALL, 100)).toBe(LINE);
    const half = tools.setChance(LINE, new Set(["a"]), 50);
    expect(half.map(tools.chanceOf)).toEqual([50, 100, 100]);
    expect(tools.setChance(half, ALL, 100)).toEqual(LINE);
    const notes = Array.from({ length: 2000 }, (_, i) => ({ startTick: i * 60, lengthTicks: 30, key: 60 + (i % 7), velocity: 100, chance: 25 })); // prettier-ignore
    const project = makeProject({ notes, song: { loopBars: 32 } });
    const played = partEvents(project.parts[0]!, project.song, 3).length;
    // Binomial: within four standard deviations of the mean.
    expect(Math.abs(played - 500)).toBeLessThan(4 * Math.sqrt(2000 * 0.25 * 0.75));
    expect(partEvents(project.parts[0]!, project.song, 3)).toHaveLength(played);
  });
});

test("whatever they are asked, notes stay such as a document holds, and names stay different", () => {
  const any = fc.array(fc.tuple(fc.nat(2_000_000), fc.integer({ min: 1, max: 900_000 }), fc.nat(127), fc.integer({ min: 1, max: 127 })), { minLength: 1, maxLength: 12 }); // prettier-ignore
  const number = evenly(-3, 3);
  fc.assert(
    fc.property(any, number, fc.nat(11), fc.nat(), (list, x, pick, seed) => {
      const notes = list.map(([s, l, k, v], i) => note(`n${i}`, s, l, k, v));
      const ids = new Set(notes.filter((_, i) => i % 3 !== 1).map((n) => n.id));
      const acts: (() => readonly Note[])[] = [
        () => tools.quantise(notes, ids, 240, x),
        () => tools.legato(notes, ids, 1000 * x),
        () => tools.humanise(notes, ids, seed, 5000 * x, 200 * x),
        () => tools.transposeInKey(notes, ids, Math.round(x * 40), C_MAJOR),
        () => tools.toKey(notes, ids, C_MAJOR),
        () => tools.reverse(notes, ids),
        () => tools.stretchTime(notes, ids, Math.abs(x)),
        () => tools.split(notes, ids, 100_000 * x, newId),
        () => tools.join(notes, ids),
        () => tools.repeatToFill(notes, ids, 960, 8_000_000, newId),
        () => tools.setLength(notes, ids, 4_000_000 * x),
        () => tools.setChance(notes, ids, 90 * x),
      ];
      const made = acts[pick]!();
      expect(made.every(isNote)).toBe(true);
      expect(new Set(made.map((n) => n.id)).size).toBe(made.length);
    }),
    { numRuns: 200 },
  );
});

describe("tools at the borders of what a document holds", () => {
  const keys = (list: readonly Note[]): number[] => list.map((n) => n.key);
  test("a key may be moved to the lowest and the highest one, and no further", () => {
    expect(keys(tools.transposeInKey([note("a", 0, 9, 2)], ALL, -1, C_MAJOR))).toEqual([0]);
    expect(keys(tools.transposeInKey([note("a", 0, 9, 2)], ALL, -2, C_MAJOR))).toEqual([2]);
    expect(keys(tools.transposeInKey([note("a", 0, 9, 125)], ALL, 1, C_MAJOR))).toEqual([127]);
    expect(keys(tools.transposeInKey([note("a", 0, 9, 125)], ALL, 2, C_MAJOR))).toEqual([125]);
  });
  test("chance goes from never to always, which is not written", () => {
    const one = [note("a", 0, 9, 60)];
    expect(tools.setChance(one, ALL, -5)[0]!.chance).toBe(0);
    expect(tools.setChance(one, ALL, 0.6)[0]!.chance).toBe(1);
    expect(tools.setChance(one, ALL, 100)).toBe(one);
    expect(tools.setChance(tools.setChance(one, ALL, 30), ALL, 250)).toEqual(one);
    expect([undefined, 0, 7].map((chance) => tools.chanceOf({ ...one[0]!, ...(chance === undefined ? {} : { chance }) }))).toEqual([100, 0, 7]); // prettier-ignore
  });
  test("velocity and length go from 1 on", () => {
    const soft = tools.humanise(
      Array.from({ length: 60 }, (_, i) => note("a", 99 * i, 9, 60, 2)),
      ALL,
      1,
      0,
      30,
    );
    expect(Math.min(...soft.map((n) => n.velocity))).toBe(1);
    const loud = tools.humanise(
      Array.from({ length: 60 }, (_, i) => note("a", 99 * i, 9, 60, 126)),
      ALL,
      1,
      0,
      30,
    );
    expect(Math.max(...loud.map((n) => n.velocity))).toBe(127);
    expect(tools.setLength([note("a", 0, 9, 60)], ALL, 1.4)[0]!.lengthTicks).toBe(1);
  });
  test("a note is split where two are left: after its first tick, before its last", () => {
    const parts = (length: number, at: number | null): number[] => tools.split([note("a", 100, length, 60)], ALL, at, newId).map((n) => n.lengthTicks); // prettier-ignore
    expect([parts(1, null), parts(2, null), parts(3, null), parts(9, 101), parts(9, 100.4), parts(9, 108.7), parts(9, 109)]).toEqual([[1], [1, 1], [1, 2], [1, 8], [1, 8], [8, 1], [4, 5]]); // prettier-ignore
    expect([parts(8, 100), parts(8, 50), parts(8, 108), parts(8, 500), parts(8, 103)]).toEqual([[4, 4], [4, 4], [4, 4], [4, 4], [3, 5]]); // prettier-ignore
    const full = Array.from({ length: MAX_NOTES - 1 }, (_, i) => note(`f${i}`, i, 4, 60));
    expect(tools.split(full, new Set(["f0", "f1"]), null, newId)).toHaveLength(MAX_NOTES);
  });
  test("the time that notes take is whole units, one at least, and none without notes", () => {
    const span = (...list: Note[]): number => tools.spanOf(list, 960);
    expect([span(), span(note("a", 500, 200, 60)), span(note("a", 500, 960, 60)), span(note("a", 500, 961, 60)), span(note("a", 500, 100, 60), note("b", 3000, 20, 60))]).toEqual([0, 960, 960, 1920, 2880]); // prettier-ignore
    expect(tools.repeatToFill(LINE, new Set(), 960, 9000, newId)).toBe(LINE);
    expect(tools.repeatToFill(LINE, ALL, 960, 960, newId)).toBe(LINE);
    expect(tools.repeatToFill(LINE, ALL, 960, 2000, newId).map((n) => n.startTick)).toEqual([10, 250, 490, 970, 1210, 1450, 1930]); // prettier-ignore
  });
  test("thirds are stacked up to the highest key, beside what is there", () => {
    const stacked = (key: number, count: number): number[] => keys(tools.stackInKey([note("a", 0, 9, key)], ALL, count, C_MAJOR, newId)); // prettier-ignore
    expect(stacked(60, 4)).toEqual([60, 64, 67, 71]);
    expect(stacked(120, 4)).toEqual([120, 124, 127]);
    const there = [note("a", 0, 9, 60), note("b", 0, 9, 64)];
    expect(keys(tools.stackInKey(there, new Set(["a"]), 3, C_MAJOR, newId))).toEqual([60, 64, 67]);
    expect(tools.stackInKey(there, new Set(["a"]), 2, C_MAJOR, newId)).toBe(there);
  });
  test("the nearest key of the scale is never further than two semitones, the lower one of two", () => {
    for (let k = 0; k < 128; k++) {
      const near = tools.nearestInScale(k, C_MAJOR);
      const white = [0, 2, 4, 5, 7, 9, 11];
      expect(white).toContain(near % 12);
      expect(near).toBe(white.includes(k % 12) ? k : k - 1);
    }
  });
});
