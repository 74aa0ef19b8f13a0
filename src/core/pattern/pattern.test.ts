import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { runs } from "../../../tests/support/runs";
import { arbitraryProject } from "../../../tests/support/arbitraryProject";
import { makeProject, note } from "../../../tests/support/projects";
import { newKit } from "../patch/defaults";
import { newLane } from "../patch/lanes";
import { MAX_NOTES, type ArpOrder } from "../patch/project";
import { hash01 } from "./chance";
import { chordGroups } from "./chords";
import { loopTicks, partEvents, patternOf, patternRepeatBars } from "./events";
import { notesFor, startsFor } from "./starts";
import { addNotes, moveNotes, removeNotes, setVelocity, stretchNotes } from "./noteEdit";

const eventsOf = (project: ReturnType<typeof makeProject>) => partEvents(project.parts[0]!, project.song, project.seed);

describe("seeded chance", () => {
  test("is even, and neighbouring addresses know nothing of each other", () => {
    const draws = Array.from({ length: 40_000 }, (_, i) => hash01(i >> 8, 3, i & 255));
    const bins = new Array<number>(20).fill(0);
    draws.forEach((d) => bins[Math.floor(d * 20)]!++);
    const chi = bins.reduce((s, n) => s + (n - 2000) ** 2 / 2000, 0);
    // Chi-square with 19 degrees of freedom passes 43.8 once in a thousand (standard table).
    expect(chi).toBeLessThan(43.8);
    for (const step of [1, 256]) {
      let product = 0;
      for (let i = step; i < draws.length; i++) product += (draws[i]! - 0.5) * (draws[i - step]! - 0.5);
      // Correlation within 4 standard errors of none.
      expect(Math.abs((product / draws.length) * 12)).toBeLessThan(4 / Math.sqrt(draws.length));
    }
  });
});

describe("arpeggio", () => {
  const chord = [note(0, 3840, 48), note(0, 3840, 51, 80), note(0, 3840, 55)];
  const keys = (order: ArpOrder, octaves = 1, seed = 7) =>
    eventsOf(
      makeProject({ notes: chord, seed, arpeggio: { on: true, order, octaves, rate: { num: 1, den: 8 }, gate: 50 } }),
    ).map((e) => e.key);

  test("orders", () => {
    expect(keys("up")).toEqual([48, 51, 55, 48, 51, 55, 48, 51]);
    expect(keys("down")).toEqual([55, 51, 48, 55, 51, 48, 55, 51]);
    expect(keys("upDown")).toEqual([48, 51, 55, 51, 48, 51, 55, 51]);
    expect(keys("up", 2)).toEqual([48, 51, 55, 60, 63, 67, 48, 51]);
    expect(keys("chord").slice(0, 6)).toEqual([48, 51, 55, 48, 51, 55]);
  });

  test("as played follows the order of onsets", () => {
    const late = [note(10, 3830, 48), note(0, 3840, 60)];
    const played = eventsOf(
      makeProject({ notes: late, arpeggio: { on: true, order: "asPlayed", rate: { num: 1, den: 4 } } }),
    ).map((e) => e.key);
    expect(played).toEqual([60, 48, 60, 48]);
  });

  test("random draws the same for the same seed, and otherwise for another", () => {
    expect(keys("random")).toEqual(keys("random"));
    expect(new Set(keys("random")).size).toBeGreaterThan(1);
    expect([1, 2, 3].map((s) => keys("random", 2, s).join())).not.toEqual([
      keys("random", 2).join(),
      keys("random", 2).join(),
      keys("random", 2).join(),
    ]);
  });

  test("gate is percent of a step, its own length starts the order again, velocity comes from the note", () => {
    const p = makeProject({
      notes: chord,
      arpeggio: { on: true, order: "up", rate: { num: 1, den: 16 }, gate: 200, length: 4 },
    });
    const events = eventsOf(p);
    expect(events.map((e) => e.key).slice(0, 8)).toEqual([48, 51, 55, 48, 48, 51, 55, 48]);
    expect(events[0]!.offTick - events[0]!.onTick).toBe(480);
    expect(events[1]!.velocity).toBe(80);
  });

  test("its own swing moves the off-steps of its own rate", () => {
    const events = eventsOf(
      makeProject({
        notes: chord,
        arpeggio: { on: true, rate: { num: 1, den: 8 }, swingFrom: "own", swing: 75, gate: 100 },
      }),
    );
    expect(events.slice(0, 4).map((e) => e.onTick)).toEqual([0, 720, 960, 1680]);
    expect(events.slice(0, 2).map((e) => e.offTick)).toEqual([720, 960]);
  });
});

describe("events", () => {
  test("lie in the loop, in order, and end after they begin", () => {
    fc.assert(
      fc.property(arbitraryProject, (project) => {
        const events = eventsOf(project);
        const end = loopTicks(project.song);
        events.forEach((e, i) => {
          expect(e.onTick).toBeGreaterThanOrEqual(events[i - 1]?.onTick ?? 0);
          expect(e.onTick).toBeLessThan(end);
          expect(e.offTick).toBeGreaterThan(e.onTick);
          expect(e.key).toBeLessThanOrEqual(127);
        });
      }),
      runs(30),
    );
  });

  test("a note held past the loop's end ends there; one that starts after it is silent", () => {
    const events = eventsOf(makeProject({ notes: [note(3000, 9000, 60), note(3840, 100, 61)] }));
    expect(events).toEqual([{ onTick: 3000, offTick: 3840, key: 60, velocity: 127, freeA: 0, freeB: 0 }]);
  });

  test("the shortest repeat is found", () => {
    const p = makeProject({ song: { loopBars: 4 }, notes: [0, 1, 2, 3].map((b) => note(b * 3840, 960, 60 + (b % 2))) });
    expect(patternRepeatBars(eventsOf(p), p.song)).toBe(2);
    // The same bar four times, and once anything of one of its notes is another.
    const slide = { from: 48, ticks: 240, ms: 0 };
    const four = [0, 1, 2, 3].flatMap((bar) => [0, 480].map((t) => ({ onTick: bar * 3840 + t, offTick: bar * 3840 + t + 240, key: 60, velocity: 100, freeA: 10, freeB: 20, tied: false, slide }))); // prettier-ignore
    expect(patternRepeatBars(four, p.song)).toBe(1);
    for (const other of [
      { onTick: 3840 + 481 },
      { offTick: 3840 + 500 },
      { key: 61 },
      { velocity: 99 },
      { freeA: 11 },
      { freeB: 21 },
      { tied: true },
      { slide: { ...slide, from: 49 } },
      { slide: { ...slide, ticks: 120 } },
      { slide: { ...slide, ms: 3 } },
    ]) {
      expect(patternRepeatBars(four.map((e, i) => (i === 3 ? { ...e, ...other } : e)), p.song)).toBe(4); // prettier-ignore
      expect(patternRepeatBars(four.map((e, i) => (i === 3 || i === 7 ? { ...e, ...other, onTick: e.onTick + ("onTick" in other ? 1 : 0), offTick: e.offTick + ("offTick" in other ? 9 : 0) } : e)), p.song)).toBe(2); // prettier-ignore
    }
    expect(patternRepeatBars(four.slice(1), p.song)).toBe(4);
  });
});

test("edits of notes stop at the borders and change nothing when nothing changes", () => {
  const notes = [note(0, 240, 60), note(240, 240, 64)].map((n, i) => ({ ...n, id: String(i) }));
  const all = new Set(["0", "1"]);
  expect(moveNotes(notes, all, -500, 0, 3840)).toBe(notes);
  expect(moveNotes(notes, all, 9999, 0, 241)).toBe(notes);
  expect(moveNotes(notes, all, 9999, 0, 250).map((n) => n.startTick)).toEqual([9, 249]);
  expect(moveNotes(notes, all, 100, -99, 3840).map((n) => [n.startTick, n.key])).toEqual([[100, 0], [340, 4]]); // prettier-ignore
  expect(stretchNotes(notes, all, 1, 60).map((n) => n.lengthTicks)).toEqual([241, 241]);
  expect(stretchNotes(notes, all, 0.4, 60)).toBe(notes);
  expect(stretchNotes(notes, all, -1000, 60).map((n) => n.lengthTicks)).toEqual([60, 60]);
  expect(setVelocity(notes, all, 127)).toBe(notes);
  expect(setVelocity(notes, all, 300)[0]!.velocity).toBe(127);
});

test("what starts with notes starts where they are written: chords, after rests, drums, and later ones round the end", () => {
  const written = [note(1440, 480, 64), note(0, 960, 60), note(0, 480, 67), note(960, 240, 62), note(2880, 480, 60), note(9000, 10, 60)];
  const made = makeProject({ notes: written });
  const part = made.parts[0]!;
  const starts = startsFor(part, made);
  expect([starts("chord", null), starts("rest", null)]).toEqual([[0, 960, 1440, 2880], [0, 1440, 2880]]);
  // Held to the end of the pass: what starts with it follows no rest.
  const held = makeProject({ notes: [note(1920, 1920, 60), note(0, 480, 62)] });
  expect(startsFor(held.parts[0]!, held)("rest", null)).toEqual([1920]);
  const follower = { ...part, id: "after", follows: { part: part.id, semitones: 0, later: { num: 1, den: 2 }, linked: false } };
  const two = { ...made, parts: [part, follower] };
  expect(startsFor(follower, two)("chord", null)).toEqual([960, 1920, 2880, 3360]);
  expect(startsFor(part, two)("chord", "after")).toEqual([960, 1920, 2880, 3360]);
  const steps = Array.from({ length: 8 }, (_, i) => ({ kick: i === 1 ? 90 : 0, clap: 0, hat: 100 }));
  const drummed = { ...made, backing: newKit("drums", steps) };
  expect(startsFor(part, drummed)("chord", "drums.kick")).toEqual([240, 2160]);
  expect(startsFor(part, drummed)("chord", null)).toEqual([0, 960, 1440, 2880]);
  expect(notesFor(part, drummed).levelEnvelope(null)).toBe(notesFor(part, made).levelEnvelope(null));
}); // prettier-ignore

test("lengths of what is not chosen stay as they are, also where chosen ones change", () => {
  const two = [note(0, 100, 60), note(200, 300, 62)].map((n, i) => ({ ...n, id: `n${i}` }));
  const made = stretchNotes(two, new Set(["n0"]), 50, 10);
  expect(made.map((n) => n.lengthTicks)).toEqual([150, 300]);
  expect(made[1]).toBe(two[1]);
  const least = stretchNotes(two, new Set(["n0", "n1"]), -500, 100);
  expect(least.map((n) => n.lengthTicks)).toEqual([100, 100]);
  expect(least[0]).toBe(two[0]);
});

test("a velocity and the last note are set and taken of those that are chosen, and of no other", () => {
  const notes = [note(0, 240, 60, 90), note(240, 240, 64, 90)].map((n, i) => ({ ...n, id: String(i) }));
  expect(setVelocity(notes, new Set(["1"]), 30.4).map((n) => n.velocity)).toEqual([90, 30]);
  expect(setVelocity(notes, new Set(["1"]), -4).map((n) => n.velocity)).toEqual([90, 1]);
  expect(removeNotes(notes, new Set(["0"]))).toEqual([notes[1]]);
  expect(removeNotes(notes, new Set(["2"]))).toBe(notes);
  expect(addNotes(notes, [])).toBe(notes);
  const many = Array.from({ length: MAX_NOTES - 1 }, (_, i) => ({ ...note(i, 1, 60), id: `m${i}` }));
  expect(addNotes(many, notes).map((n) => n.id)).toEqual([...many.map((n) => n.id), "0"]);
});

test("a note is held by the edges of what there is: the first tick, the last one, keys 0 and 127", () => {
  const notes = [note(100, 240, 60), note(300, 240, 70)].map((n, i) => ({ ...n, id: String(i) }));
  const moved = (ids: string[], ticks: number, keys: number): number[][] =>
    moveNotes(notes, new Set(ids), ticks, keys, 3840).map((n) => [n.startTick, n.key]);
  expect(moved(["0", "1"], 0, 99)).toEqual([[100, 117], [300, 127]]); // prettier-ignore
  expect(moved(["0"], 0, 99)).toEqual([[100, 127], [300, 70]]); // prettier-ignore
  expect(moved(["1"], 9999, -99)).toEqual([[100, 60], [3839, 0]]); // prettier-ignore
  expect(moved(["0", "1"], 9999, 0)).toEqual([[3639, 60], [3839, 70]]); // prettier-ignore
});

test("chords are notes that start together, each to its longest note's end or the next chord", () => {
  const notes = [
    note(1920, 100, 50), note(0, 500, 60), note(0, 900, 64), note(960, 300, 61), note(1920, 9000, 55), note(480, 2000, 60), note(480, 200, 67),
  ].map((n, i) => ({ ...n, id: String(i) })); // prettier-ignore
  expect(chordGroups(notes).map((g) => [g.startTick, g.endTick, g.notes.map((n) => n.key)])).toEqual([
    [0, 480, [60, 64]],
    [480, 1920, [60, 67]],
    [1920, 10_920, [50, 55]],
  ]);
  expect(chordGroups(notes.slice(0, 2))).toEqual([]);
});

test("slides of a leader's steps are moved along with it, and go where their start would be no key", () => {
  const slide = { ...newLane("slide", 1), values: [2] };
  const made = makeProject({ notes: [note(0, 1920, 4), note(0, 1920, 100)], arpeggio: { on: true, rate: { num: 1, den: 8 }, lanes: { slide } } }); // prettier-ignore
  const leader = made.parts[0]!;
  const slides = (semitones: number) => {
    const later = {
      ...leader,
      id: "p2",
      notes: [],
      follows: { part: leader.id, semitones, later: null, linked: false },
    };
    return partEvents(patternOf(later, [leader, later]), made.song, made.seed).flatMap((e) => (e.slide ? [[e.key, e.slide.from]] : [])); // prettier-ignore
  };
  expect(slides(0).slice(0, 2)).toEqual([[4, 100], [100, 4]]); // prettier-ignore
  expect(slides(7).slice(0, 2)).toEqual([[11, 107], [107, 11]]); // prettier-ignore
  expect(slides(-6)).toEqual([]);
});

test("who follows later plays round the loop's end, in order: of one start the lower key first", () => {
  const made = makeProject({ notes: [note(0, 480, 64), note(0, 480, 60), note(2880, 480, 66), note(3360, 480, 40)] });
  const leader = made.parts[0]!;
  const part = { ...leader, id: "p2", notes: [], follows: { part: leader.id, semitones: -5, later: { num: 1, den: 4 }, linked: false } }; // prettier-ignore
  const events = partEvents(patternOf(part, [leader, part]), made.song, made.seed);
  expect(events.map((e) => [e.onTick, e.offTick, e.key])).toEqual([
    [0, 480, 61], [480, 960, 35], [960, 1440, 55], [960, 1440, 59],
  ]); // prettier-ignore
  // Keys go from 0 to 127; what would lie past them is left out.
  const ends = makeProject({ notes: [note(0, 480, 5), note(960, 480, 4), note(1920, 480, 122), note(2880, 480, 123)] });
  const reach = (semitones: number) => {
    const later = {
      ...ends.parts[0]!,
      id: "p2",
      notes: [],
      follows: { part: ends.parts[0]!.id, semitones, later: null, linked: false },
    };
    return partEvents(patternOf(later, [ends.parts[0]!, later]), ends.song, ends.seed).map((e) => e.key);
  };
  expect([reach(5), reach(-5)]).toEqual([[10, 9, 127], [0, 117, 118]]); // prettier-ignore
  // What glides to no one does not when it is moved up; a glide moves along, and goes where its start would be no key.
  const up = { ...part, follows: { ...part.follows, semitones: 5 } };
  expect(partEvents(patternOf(up, [leader, up]), made.song, made.seed).some((e) => "slide" in e)).toBe(false);
  const gliding = makeProject({ notes: [note(0, 480, 60), note(960, 480, 2)], playing: { choices: { voices: "one" }, glide: { unit: "ms", ms: 50 } } }); // prettier-ignore
  const [first] = gliding.parts;
  const from = (semitones: number) => {
    const later = {
      ...first!,
      id: "p2",
      notes: [],
      follows: { part: first!.id, semitones, later: null, linked: false },
    };
    return partEvents(patternOf(later, [first!, later]), gliding.song, gliding.seed).map((e) => [e.key, e.slide?.from]);
  };
  expect(from(3)).toEqual([[63, 5], [5, 63]]); // prettier-ignore
  expect(from(-2)).toEqual([[58, 0], [0, 58]]); // prettier-ignore
  expect(from(-3)).toEqual([[57, undefined]]);
});

test("whatever of a part or a song becomes another, its notes are those of a part that was never played before", () => {
  const made = makeProject({ notes: [note(0, 1900, 50), note(240, 1000, 57), note(1920, 960, 62, 40), note(5800, 9000, 65)], seed: 5, song: { loopBars: 2 }, arpeggio: { on: true, order: "random", rate: { num: 1, den: 16 }, gate: 150, lanes: { chance: { ...newLane("chance", 3), values: [100, 60, 80] } } }, playing: { choices: { voices: "one" }, glide: { unit: "ms", ms: 30 } } }); // prettier-ignore
  const part = { ...made.parts[0]!, shift: { semitones: 0, ticks: 0 } };
  const { song } = made;
  const chord = { from: "kind" as const, symbol: "maj7" as const, inversion: 0 };
  const ruled = makeProject({ playing: { choices: { voices: "one", priority: "low" }, glide: { unit: "ms", ms: 90 } } })
    .parts[0]!.patch;
  const off = { ...part.arpeggio, on: false };
  const variants: [typeof part, typeof song, number][] = [
    [part, song, 5],
    [part, song, 6],
    [{ ...part, arpeggio: { ...part.arpeggio, gate: 40 } }, song, 5],
    [{ ...part, noteChord: chord }, song, 5],
    [
      { ...part, noteChord: { from: "key", notes: 3, inversion: 0 } },
      { ...song, key: { tonic: 6, scale: "lydian" } },
      5,
    ],
    [{ ...part, noteChord: { from: "key", notes: 3, inversion: 0 } }, song, 5],
    [{ ...part, arpeggio: off }, song, 5],
    [{ ...part, arpeggio: off, patch: ruled }, song, 5],
    [part, { ...song, loopBars: 1 }, 5],
    [part, { ...song, meter: { beats: 7, unit: 4 } }, 5],
    [{ ...part, arpeggio: { ...off, on: true, swingFrom: "song" } }, { ...song, swing: { percent: 70, grid: 16 } }, 5],
    [{ ...part, shift: { semitones: 7, ticks: 0 } }, song, 5],
    [{ ...part, shift: { semitones: 0, ticks: 480 } }, song, 5],
  ];
  const fresh = variants.map(([p, s, seed]) => [...partEvents({ ...p, notes: structuredClone(p.notes) }, s, seed)]);
  // Each after each of the others.
  for (const order of [variants.map((_, i) => i), variants.map((_, i) => variants.length - 1 - i)])
    for (const i of order) expect([...partEvents(...variants[i]!)], String(i)).toEqual(fresh[i]);
  expect(fresh.map((e) => fresh.findIndex((f) => JSON.stringify(f) === JSON.stringify(e)))).toEqual(variants.map((_, i) => i)); // prettier-ignore
  expect(partEvents(...variants[0]!)).toBe(partEvents(...variants[0]!));
});
