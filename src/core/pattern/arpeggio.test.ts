import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { runs } from "../../../tests/support/runs";
import { arbitraryProject } from "../../../tests/support/arbitraryProject";
import { makeProject, note } from "../../../tests/support/projects";
import { newLane, PLAY, REST, TIE, type LaneId, type StepLane } from "../patch/lanes";
import type { Arpeggio, ArpOrder, Patch, Song } from "../patch/project";
import { arpeggioRepeatBars } from "./arpeggioRepeat";
import { loopTicks, notesOf, partEvents } from "./events";
import { drawnInBar, dropTake, keepTake, laneValue, writeTake } from "./lane";

const CHORD = [note(0, 4 * 3840, 48, 100), note(0, 4 * 3840, 52, 80), note(0, 4 * 3840, 55, 60)];

const play = (arpeggio: Partial<Arpeggio>, song: Partial<Song> = {}, notes: ReturnType<typeof note>[] = CHORD, seed = 7) => {
  const project = makeProject({ notes, seed, song, arpeggio: { on: true, rate: { num: 1, den: 16 }, gate: 50, ...arpeggio } });
  return partEvents(project.parts[0]!, project.song, project.seed);
}; // prettier-ignore

const laneOf = (id: LaneId, values: number[], more: Partial<StepLane> = {}): StepLane => ({
  ...newLane(id, values.length),
  values,
  ...more,
});

describe("orders", () => {
  const keys = (order: ArpOrder, more: Partial<Arpeggio> = {}) =>
    play({ order, length: 64, rate: { num: 1, den: 8 }, ...more }).map((e) => e.key);
  test("there and back, with the turning notes once or twice", () => {
    expect(keys("downUp")).toEqual([55, 52, 48, 52, 55, 52, 48, 52]);
    expect(keys("upDown", { repeatEnds: true })).toEqual([48, 52, 55, 55, 52, 48, 48, 52]);
    expect(keys("downUp", { repeatEnds: true, octaves: 2 })).toEqual([67, 64, 60, 55, 52, 48, 48, 52]);
  });
  test("what would lie past the keys there are is folded back by octaves", () => {
    const octave = (by: number) => ({ octave: laneOf("octave", [by]) });
    const key = (k: number, by: number): number => play({ lanes: octave(by) }, {}, [note(0, 3840, k)])[0]!.key;
    expect([key(5, -1), key(5, -2), key(20, -2), key(120, 1), key(100, 3)]).toEqual([5, 5, 8, 120, 124]);
  });
  test("from the outside in and from the inside out, over the octaves", () => {
    expect(keys("outsideIn")).toEqual([48, 55, 52, 48, 55, 52, 48, 55]);
    expect(keys("insideOut", { octaves: 2 })).toEqual([60, 55, 64, 52, 67, 48, 60, 55]);
  });
  test("random without repeats plays every note once a round, and none twice in a row", () => {
    const played = keys("shuffle", { octaves: 2, rate: { num: 1, den: 64 } });
    expect(played).toHaveLength(64);
    for (let round = 0; round + 6 <= 64; round += 6)
      expect([...played.slice(round, round + 6)].sort((a, b) => a - b)).toEqual([48, 52, 55, 60, 64, 67]);
    played.forEach((k, i) => expect(k).not.toBe(played[i - 1]));
    expect(new Set(Array.from({ length: 10 }, (_, r) => played.slice(6 * r, 6 * r + 6).join())).size).toBeGreaterThan(
      5,
    );
    // Two notes take turns, three do not stay in one order.
    const of = (notes: typeof CHORD, seed: number): number[] => play({ order: "shuffle" }, { loopBars: 1 }, notes, seed).map((e) => e.key); // prettier-ignore
    for (let seed = 0; seed < 20; seed++) {
      of(CHORD.slice(0, 2), seed).forEach((k, i, all) => expect(k).not.toBe(all[i - 1]));
      expect(
        new Set(
          of(CHORD, seed)
            .join()
            .match(/\d+,\d+,\d+/g),
        ).size,
      ).toBeGreaterThan(1);
    }
    // Over many songs each note comes at each place of a round as often: 6 x 6 counts of 200 in the mean, 4.5 deviations.
    const counts = new Map<string, number>();
    for (let seed = 0; seed < 120; seed++)
      play({ order: "shuffle", octaves: 2, rate: { num: 1, den: 64 } }, { loopBars: 1 }, CHORD, seed).slice(0, 60).forEach((e, i) => counts.set(`${i % 6} ${e.key}`, (counts.get(`${i % 6} ${e.key}`) ?? 0) + 1)); // prettier-ignore
    expect(counts.size).toBe(36);
    for (const [place, n] of counts) expect(Math.abs(n - 200), place).toBeLessThan(4.5 * Math.sqrt((200 * 5) / 6));
  });
  test("a drawn order names notes from the lowest and counts on through the octaves", () => {
    const lanes = { pick: laneOf("pick", [1, 3, 2, 4, 6]) };
    expect(keys("drawn", { lanes }).slice(0, 5)).toEqual([48, 55, 52, 60, 67]);
  });
});

describe("lanes", () => {
  test("a rest uses up no note, a tie holds the note before it, and total time is kept", () => {
    const lanes = { play: laneOf("play", [PLAY, REST, PLAY, TIE]) };
    const events = play({ order: "up", gate: 100, lanes });
    expect(events.slice(0, 4).map((e) => [e.onTick, e.offTick, e.key])).toEqual([
      [0, 240, 48],
      [480, 960, 52],
      [960, 1200, 55],
      [1440, 1920, 48],
    ]);
    // A quarter of all steps rest: the others sound without a gap.
    expect(events.reduce((sum, e) => sum + e.offTick - e.onTick, 0)).toBe(0.75 * 3840);
  });

  test("lanes of lengths without a common divisor repeat together after their product, and not before", () => {
    const lanes = {
      velocity: laneOf("velocity", [100, 80, 60]),
      octave: laneOf("octave", [0, 1, 0, -1, 0]),
      gate: laneOf("gate", [50, 90]),
    };
    const flat = [note(0, 4 * 3840, 60, 100)];
    const events = play({ lanes }, { loopBars: 4 }, flat);
    const said = events.map((e) => `${e.key} ${e.velocity} ${e.offTick - e.onTick}`);
    const repeats = (n: number): boolean => said.every((s, i) => i < n || s === said[i - n]);
    expect([...Array.from({ length: 30 }, (_, i) => i + 1)].filter(repeats)).toEqual([30]);
  });

  test("directions", () => {
    const values = [10, 20, 30, 40];
    const walk = (direction: StepLane["direction"]) =>
      play({ lanes: { freeA: laneOf("freeA", values, { direction }) } }).map((e) => e.freeA);
    expect(walk("backward").slice(0, 5)).toEqual([40, 30, 20, 10, 40]);
    expect(walk("pendulum").slice(0, 8)).toEqual([10, 20, 30, 40, 30, 20, 10, 20]);
    expect(new Set(walk("random"))).toEqual(new Set(values));
    expect(play({ lanes: { freeA: laneOf("freeA", values, { on: false }) } }).map((e) => e.freeA)).toEqual(
      new Array(16).fill(0),
    );
  });

  test("transposes by semitones, or by steps of the key", () => {
    const lanes = { transpose: laneOf("transpose", [0, 2, -1]) };
    const single = [note(0, 3840, 64)];
    const key = { tonic: 0, scale: "major" } as const;
    expect(play({ lanes }, { key }, single).slice(0, 3).map((e) => e.key)).toEqual([64, 66, 63]); // prettier-ignore
    // In C major two steps above E is G, one below is D (any table of scales).
    expect(play({ lanes, transposeIn: "degrees" }, { key }, single).slice(0, 3).map((e) => e.key)).toEqual([64, 67, 62]); // prettier-ignore
    // F sharp lies outside: it keeps its semitone above F.
    expect(play({ lanes, transposeIn: "degrees" }, { key }, [note(0, 3840, 66)]).slice(0, 3).map((e) => e.key)).toEqual([66, 70, 65]); // prettier-ignore
  });

  test("repeats share their step, each with the gate's part of its share", () => {
    const events = play({ lanes: { repeats: laneOf("repeats", [1, 3]) } });
    expect(events.slice(0, 4).map((e) => [e.onTick, e.offTick])).toEqual([
      [0, 120],
      [240, 280],
      [320, 360],
      [400, 440],
    ]);
    expect(events.slice(1, 4).map((e) => e.key)).toEqual([52, 52, 52]);
  });

  test("chance leaves out as many as it says, and the order goes on", () => {
    const lanes = { chance: laneOf("chance", [30]) };
    const events = play({ order: "up", lanes, rate: { num: 1, den: 64 } }, { loopBars: 32 }, [note(0, 32 * 3840, 48), note(0, 32 * 3840, 52)]); // prettier-ignore
    const n = 32 * 64;
    // Binomial: within four standard deviations of the mean.
    expect(Math.abs(events.length - 0.3 * n)).toBeLessThan(4 * Math.sqrt(n * 0.3 * 0.7));
    for (const e of events) expect(e.key).toBe((e.onTick / 60) % 2 === 0 ? 48 : 52);
    expect(play({ lanes: { chance: laneOf("chance", [0]) } })).toEqual([]);
  });

  test("fresh values stay in their range, fall evenly, and are drawn anew when they should be", () => {
    const drawn = (freshBars: number, take = 0, seed = 7) =>
      play(
        { lanes: { gate: laneOf("gate", [54, 54], { ranges: [41, 0], freshBars, take }) }, gate: 100 },
        { loopBars: 8 },
        [note(0, 8 * 3840, 60)],
        seed,
      ).map((e) => e.offTick - e.onTick);
    const bars = (list: number[]) => Array.from({ length: 8 }, (_, b) => list.slice(16 * b, 16 * b + 16));
    const each = drawn(0);
    // 13 to 95 % of 240 ticks, on every other step; the others stay as they are.
    each.forEach((ticks, i) => {
      if (i % 2) return expect(ticks).toBe(Math.round(0.54 * 240));
      expect(ticks).toBeGreaterThanOrEqual(31);
      expect(ticks).toBeLessThanOrEqual(228);
    });
    expect(new Set(each.filter((_, i) => i % 2 === 0)).size).toBeGreaterThan(40);
    const byBar = bars(drawn(1));
    byBar.forEach((bar) => expect(new Set(bar).size).toBe(2));
    expect(new Set(byBar.map((b) => b[0])).size).toBeGreaterThan(5);
    const byTwo = bars(drawn(2));
    expect(byTwo[0]).toEqual(byTwo[1]);
    expect(byTwo[2]).toEqual(byTwo[3]);
    expect(byTwo[0]).not.toEqual(byTwo[2]);
    expect(drawn(1)).toEqual(drawn(1));
    expect(drawn(1, 1)).not.toEqual(drawn(1));
    expect(drawn(1, 0, 8)).not.toEqual(drawn(1));

    const steps = play({ rate: { num: 1, den: 64 }, lanes: { transpose: laneOf("transpose", [0], { ranges: [2], freshBars: 0 }) } }, { loopBars: 32 }, [note(0, 32 * 3840, 60)]); // prettier-ignore
    const counts = [58, 59, 60, 61, 62].map((key) => steps.filter((e) => e.key === key).length);
    expect(counts.reduce((a, b) => a + b)).toBe(2048);
    const even = 2048 / 5;
    // Chi-square with 4 degrees of freedom passes 18.5 once in a thousand (standard table).
    expect(counts.reduce((s, c) => s + (c - even) ** 2 / even, 0)).toBeLessThan(18.5);
  });

  test("keys that lanes push out of MIDI's range come back by octaves", () => {
    const up = play({ lanes: { transpose: laneOf("transpose", [24, -24]) } }, {}, [note(0, 3840, 120)]);
    expect(up[0]!.key).toBe(120);
    const down = play({ lanes: { octave: laneOf("octave", [-3]) } }, {}, [note(0, 3840, 5)]);
    expect(down[0]!.key).toBe(5);
  });
});

describe("when it starts again", () => {
  const onsets = (arpeggio: Partial<Arpeggio>, notes = CHORD) =>
    play({ order: "up", rate: { num: 3, den: 16 }, ...arpeggio }, { loopBars: 2 }, notes).map((e) => [e.onTick, e.key]);
  test("with the loop it runs over the bar line, with each bar it begins there anew", () => {
    expect(onsets({}).slice(5, 8)).toEqual([[3600, 55], [4320, 48], [5040, 52]]); // prettier-ignore
    expect(onsets({ restart: "bar" }).slice(5, 8)).toEqual([[3600, 55], [3840, 48], [4560, 52]]); // prettier-ignore
  });
  test("with a chord it begins where notes are added", () => {
    const notes = [note(0, 1000, 48), note(1000, 3000, 50), note(1000, 3000, 53)];
    expect(onsets({ restart: "chord" }, notes)).toEqual([[0, 48], [720, 48], [1000, 50], [1720, 53], [2440, 50], [3160, 53], [3880, 50]]); // prettier-ignore
  });
  test("a latch holds a chord until the next one is played", () => {
    const notes = [note(0, 100, 48), note(50, 200, 52), note(1920, 10, 60)];
    const events = play({ order: "up", rate: { num: 1, den: 4 }, latch: true }, {}, notes);
    expect(events.map((e) => e.key)).toEqual([48, 52, 60, 60]);
    // Let go where the next one is pressed, a chord is over.
    const next = play({ order: "up", rate: { num: 1, den: 4 }, latch: true }, {}, [note(0, 960, 48), note(960, 960, 60)]); // prettier-ignore
    expect(next.map((e) => e.key)).toEqual([48, 60, 60, 60]);
    // The first key is still down when the third is pressed: they are one chord, whichever ended first.
    const joined = [note(0, 2400, 48), note(0, 240, 52), note(960, 240, 55)];
    const held = play({ order: "up", rate: { num: 1, den: 4 }, latch: true }, {}, joined);
    expect(held.map((e) => [e.onTick, e.key])).toEqual([[0, 48], [960, 52], [1920, 55], [2880, 48]]); // prettier-ignore
  });
});

describe("how long an arpeggio takes to repeat", () => {
  const bars = (arpeggio: Partial<Arpeggio>, song: Partial<Song> = {}): number => {
    const { parts, song: made } = makeProject({ notes: CHORD, song, arpeggio: { on: true, rate: { num: 1, den: 16 }, length: 16, ...arpeggio } }); // prettier-ignore
    return arpeggioRepeatBars(parts[0]!.arpeggio, made);
  };
  const lane = (steps: number, more: Partial<StepLane> = {}) => laneOf("velocity", Array.from({ length: steps }, (_, i) => 50 + i), more); // prettier-ignore
  test("lanes against bars: the product where they share nothing, the longest loop at the most", () => {
    // Twelve sixteenths against a bar of sixteen come together after 48: three bars. Seven after 112: seven bars.
    expect(bars({ lanes: { velocity: lane(12) } })).toBe(3);
    expect(bars({ lanes: { velocity: lane(7) } })).toBe(7);
    expect(bars({ lanes: { velocity: lane(12), gate: laneOf("gate", new Array<number>(7).fill(50)) } })).toBe(21);
    expect(bars({ lanes: { velocity: lane(12), gate: laneOf("gate", new Array<number>(35).fill(50)) } })).toBe(32);
    expect(bars({ length: 5 }, { loopBars: 2 })).toBe(10);
    // There and back over seven steps are twelve; eighth triplets are twelve a bar; 3/4 has twelve sixteenths.
    expect(bars({ lanes: { velocity: lane(7, { direction: "pendulum" }) } })).toBe(3);
    expect(bars({ rate: { num: 1, den: 12 }, length: 12, lanes: { velocity: lane(8) } })).toBe(2);
    expect(bars({ length: 12, lanes: { velocity: lane(16) } }, { meter: { beats: 3, unit: 4 } })).toBe(4);
  });
  test("what it says is what is played: the second time is the first, and no shorter one is", () => {
    for (const steps of [3, 5, 6, 9, 12, 20]) {
      const lanes = { velocity: lane(steps) };
      const n = bars({ lanes });
      const events = play({ lanes, length: 16, gate: 50 }, { loopBars: 2 * n > 32 ? 32 : 2 * n }, [note(0, 32 * 3840, 48, 100)]);
      const played = (bar: number) => events.filter((e) => Math.floor(e.onTick / 3840) === bar).map((e) => [e.onTick % 3840, e.velocity].join()).join(" ");
      for (let b = 0; b < n; b++) expect(played(b + n)).toBe(played(b));
      for (let short = 1; short < n; short++) expect(Array.from({ length: n }, (_, b) => played(b + short) === played(b)).every(Boolean)).toBe(false);
    }
  }); // prettier-ignore
  test("with chance it never does; started again within the loop it is the loop's; locked to a take, it does", () => {
    const ranges = new Array<number>(12).fill(10);
    expect(bars({ lanes: { velocity: lane(12, { ranges }) } })).toBe(32);
    expect(bars({ lanes: { velocity: lane(12, { ranges, kept: [{ name: "a", values: [90] }], locked: 0 }) } })).toBe(3);
    expect(bars({ order: "shuffle" })).toBe(32);
    expect(bars({ order: "random" })).toBe(32);
    // Four steps of three sixteenths are twelve: three bars.
    expect(bars({ rate: { num: 3, den: 16 }, length: 1, lanes: { velocity: lane(4) } })).toBe(3);
    const whole = { rate: { num: 1, den: 1 }, length: 1 } as const;
    expect([1, 2, 3].map((n) => bars({ ...whole, lanes: { velocity: lane(n, { direction: "pendulum" }) } }))).toEqual([
      1, 2, 4,
    ]);
    expect(bars({ lanes: { velocity: lane(12, { direction: "random" }) } })).toBe(32);
    expect(bars({ lanes: { velocity: lane(12, { ranges: ranges.map((_, i) => (i === 7 ? 1 : 0)) }) } })).toBe(32);
    expect(bars({ lanes: { velocity: lane(12, { ranges: ranges.map(() => 0) }) } })).toBe(3);
    // Chance that is sure is none; a lane that is off has no say.
    const chance = (values: number[], on = true) =>
      bars({ lanes: { chance: { ...newLane("chance", 3), values, on } } });
    expect(
      [
        [100, 0, 100],
        [100, 1, 100],
        [100, 99, 0],
        [100, 50, 100],
      ].map((v) => chance(v)),
    ).toEqual([3, 32, 32, 32]);
    expect(chance([100, 50, 100], false)).toBe(1);
    expect(bars({ restart: "bar", lanes: { velocity: lane(12) } }, { loopBars: 2 })).toBe(2);
    expect(bars({ on: false, lanes: { velocity: lane(12) } })).toBe(1);
  });
});

test("a lane of one step is that step, whichever way it goes; of two and three, there and back plays the ends once", () => {
  const order = (steps: number, direction: StepLane["direction"]): number[] => {
    const lane = { ...newLane("velocity", steps), values: Array.from({ length: steps }, (_, i) => 10 + i), direction };
    return Array.from({ length: 7 }, (_, i) => laneValue(lane, "velocity", 7, { count: i, ofPass: i, bar: 0 }) - 10);
  };
  for (const direction of ["forward", "backward", "pendulum", "random"] as const) expect(order(1, direction)).toEqual([0, 0, 0, 0, 0, 0, 0]);
  expect([order(2, "pendulum"), order(3, "pendulum"), order(3, "backward")]).toEqual([[0, 1, 0, 1, 0, 1, 0], [0, 1, 2, 1, 0, 1, 2], [2, 1, 0, 2, 1, 0, 2]]);
}); // prettier-ignore

describe("takes of what chance drew", () => {
  const drawn = laneOf("gate", [50, 50, 50, 50], { ranges: [40, 40, 0, 40], freshBars: 1 });
  const places = Array.from({ length: 16 }, (_, i) => ({ count: i, ofPass: i, bar: Math.floor(i / 4) }));
  const heardIn = (lane: StepLane, bar: number) => places.filter((p) => p.bar === bar).map((p) => laneValue(lane, "gate", 7, p)); // prettier-ignore
  test("a bar's values are kept as they were heard, and then played in every bar", () => {
    const second = drawnInBar(drawn, "gate", 7, places, 1);
    expect(second).toEqual(heardIn(drawn, 1));
    expect(second).not.toEqual(heardIn(drawn, 0));
    const kept = keepTake(drawn, "Bar 2", second);
    for (const bar of [0, 1, 2, 3]) expect(heardIn(kept, bar)).toEqual(second);
    // Let go, chance draws as before; a second take of another bar is not the first one.
    expect(heardIn({ ...kept, locked: null }, 2)).toEqual(heardIn(drawn, 2));
    expect(drawnInBar(kept, "gate", 7, places, 2)).toEqual(heardIn(drawn, 2));
  });
  test("takes are left out, written into the lane, and no more of them than fit", () => {
    const two = keepTake(keepTake(drawn, "a", [1, 2, 3, 4]), "b", [5, 6, 7, 8]);
    expect(dropTake(two, 0)).toMatchObject({ kept: [{ name: "b" }], locked: 0 });
    expect(dropTake(two, 1)).toMatchObject({ kept: [{ name: "a" }], locked: null });
    expect(writeTake(two, 0)).toMatchObject({ values: [1, 2, 3, 4], ranges: [0, 0, 0, 0], locked: null });
    let many = drawn;
    for (let i = 0; i < 40; i++) many = keepTake(many, `${i}`, [i + 1]);
    expect(many.kept).toHaveLength(32);
    // Another length repeats the take.
    expect(heardIn({ ...keepTake(drawn, "short", [9, 11]) }, 0)).toEqual([9, 11, 9, 11]);
  });
  test("of a step that a bar comes to more than once, what it was first is kept", () => {
    const often = { ...drawn, freshBars: 0 };
    const twice = Array.from({ length: 16 }, (_, i) => ({ count: i, ofPass: i, bar: Math.floor(i / 8) }));
    expect(drawnInBar(often, "gate", 7, twice, 1)).toEqual(twice.slice(8, 12).map((p) => laneValue(often, "gate", 7, p))); // prettier-ignore
  });
  test("a whole value is moved by whole steps that lie in its range", () => {
    const lane = laneOf("transpose", [3], { ranges: [1.5], freshBars: 0 });
    const values = Array.from({ length: 60 }, (_, i) =>
      laneValue(lane, "transpose", 7, { count: i, ofPass: i, bar: 0 }),
    );
    expect([...new Set(values)].sort()).toEqual([2, 3, 4]);
  });
  test("steps that a bar does not come to stay as they are set", () => {
    const long = laneOf("gate", new Array<number>(8).fill(60), { ranges: new Array<number>(8).fill(30) });
    const values = drawnInBar(long, "gate", 7, places, 1);
    expect(values.slice(0, 4)).toEqual([60, 60, 60, 60]);
    expect(values.slice(4).every((v) => v !== 60)).toBe(true);
  });
});

test("whatever its settings, without lanes that transpose an arpeggio plays notes of its chord and their octaves", () => {
  fc.assert(
    fc.property(arbitraryProject, ({ parts, song, seed }) => {
      for (const part of parts) {
        const { transpose, ...lanes } = part.arpeggio.lanes;
        const own = {
          ...part,
          noteChord: null,
          arpeggio: { ...part.arpeggio, on: true, lanes: transpose ? lanes : part.arpeggio.lanes },
        };
        const classes = new Set(part.notes.map((n) => n.key % 12));
        for (const e of partEvents(own, song, seed)) expect(classes.has(e.key % 12)).toBe(true);
      }
    }),
    runs(30),
  );
});

const inChords = (patch: Patch): Patch => ({
  ...patch,
  modules: patch.modules.map((m) => (m.kind === "playing" ? { ...m, choices: { ...m.choices, voices: "chords" } } : m)),
});

test("frozen to notes, it plays what the arpeggio played; with swing within a tick", () => {
  fc.assert(
    fc.property(arbitraryProject, fc.boolean(), ({ parts, song, seed }, straight) => {
      const own = { ...parts[0]!, patch: inChords(parts[0]!.patch), arpeggio: { ...parts[0]!.arpeggio, on: true, swingFrom: straight ? ("song" as const) : parts[0]!.arpeggio.swingFrom } }; // prettier-ignore
      const inSong = straight ? { ...song, swing: { ...song.swing, percent: 50 } } : song;
      const events = partEvents(own, inSong, seed);
      fc.pre(events.length <= 4096);
      let id = 0;
      const notes = notesOf(own, inSong, seed, () => `n${id++}`);
      const again = partEvents(
        { ...own, notes, noteChord: null, arpeggio: { ...own.arpeggio, on: false } },
        inSong,
        seed,
      );
      const end = loopTicks(inSong);
      const bare = (e: { onTick: number; offTick: number; key: number; velocity: number }) => [e.key, e.velocity];
      const ordered = (list: typeof events) => [...list].sort((a, b) => a.onTick - b.onTick || a.key - b.key || a.offTick - b.offTick); // prettier-ignore
      expect(again).toHaveLength(events.length);
      if (straight)
        expect(ordered(again).map((e) => [e.onTick, e.offTick, ...bare(e)])).toEqual(
          ordered(events).map((e) => [e.onTick, Math.min(end, e.offTick), ...bare(e)]),
        );
      else
        notes.forEach((n, i) => {
          const back = again.filter((e) => e.key === n.key && Math.abs(e.onTick - events[i]!.onTick) <= 1);
          expect(back.some((e) => Math.abs(e.offTick - Math.min(end, events[i]!.offTick)) <= 1)).toBe(true);
        });
    }),
    runs(20),
  );
});

test("however short the step and its gate, a note lasts a tick", () => {
  const events = play({ rate: { num: 1, den: 96 }, gate: 1 });
  expect(events.length).toBeGreaterThan(90);
  expect(new Set(events.map((e) => e.offTick - e.onTick))).toEqual(new Set([1]));
});
