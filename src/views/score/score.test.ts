import { describe, expect, test } from "vitest";
import { compileProject } from "@/core/engine/compile";
import { watchLoop } from "@/core/engine/watch";
import { EVENT, EVENT_ROW } from "@/core/engine/program";
import { newRoute } from "@/core/patch/defaults";
import { modulesOf } from "@/core/patch/kinds";
import { SHAPE } from "@/core/patch/kinds/shape";
import { targetAt } from "@/core/patch/targets";
import { demoProject } from "@/core/patch/demo";
import type { Route } from "@/core/patch/project";
import { niceStep, routeReading, timeReading } from "./editors/shapeAxes";
import {
  heardScale,
  heardValue,
  modulatorTracks,
  onScale,
  ownTracks,
  rangeOf,
  sameTracks,
  valueAt,
  addedTracks,
  tracksOfSides,
  sideTracks,
  valueTracks,
} from "./heardTracks";
import { heardAddresses, heardStripAddresses } from "./heardStrips";
import { chordLabels, keptStrips, stripsOf } from "./stripList";
import { gridLines, tickToX } from "./timeline";
import { rangeText } from "../moves/accounts";

const demo = demoProject("d");
const part = demo.parts[0]!;

describe("the timeline", () => {
  const t = { fromTick: 0, ticks: 4 * 3840, width: 640 };
  test("rules bars, beats and steps where there is room", () => {
    const lines = gridLines(t, demo.song.meter, t.ticks);
    expect(lines.filter((l) => l.level === "bar").map((l) => tickToX(t, l.tick))).toEqual([0, 160, 320, 480, 640]);
    expect(lines).toHaveLength(65);
    expect(gridLines({ ...t, width: 60 }, demo.song.meter, t.ticks).every((l) => l.level === "bar")).toBe(true);
  });
});

describe("tracks of what is heard", () => {
  const adding = part.patch.routes.filter((r) => r.target === "filter.cutoff");
  const program = compileProject(demo, part.id);
  const heard = watchLoop(
    program,
    48_000,
    [{ addresses: ["filter.cutoff", "osc.pitch"], adds: adding.map((r) => r.id), sources: ["pluck", "swell"] }],
    2048,
  );
  test("one track a note; at any time the newest counts", () => {
    const tracks = valueTracks(heard, program, 0, "osc.pitch");
    expect(tracks).toHaveLength(64);
    expect(valueAt(tracks, 100)).toBeCloseTo(62, 5);
    expect(valueAt(tracks, 300)).toBeCloseTo(65, 5);
    expect(valueAt(tracks, -50)).toBeNull();
    for (const track of tracks.slice(0, -1)) expect(track.strongUntil).toBeLessThan(track.count);
  });
  test("sides that are apart are a track each, an octave of them half each way; alike they are none", () => {
    const mist = demo.parts[2]!;
    const own = compileProject(demo, mist.id);
    const watched = { addresses: ["filter.cutoff", "filter.apart"] as const, sources: [] };
    const watch = watchLoop(own, 48_000, [watched], 2048);
    const value = heardValue(mist.patch, "filter.cutoff")!;
    const [left, right] = sideTracks(watch, own, 0, value);
    const middle = valueTracks(watch, own, 0, "filter.cutoff");
    const apart = valueTracks(watch, own, 0, "filter.apart");
    expect([left.length, right.length]).toEqual([middle.length, middle.length]);
    for (const tick of [1000, 5000, 9000, 14_000]) {
      const [l, r, m, a] = [left, right, middle, apart].map((list) => valueAt(list, tick)!) as [number, number, number, number];
      expect(12 * Math.log2(r / l)).toBeCloseTo(a, 3);
      expect(Math.sqrt(l * r)).toBeCloseTo(m, 1);
    }
    // A rise and fall of four bars: a bar further on, the right side is ahead on the way up and behind on the way down.
    expect(valueAt(right, 3840)!).toBeGreaterThan(valueAt(left, 3840)!);
    expect(valueAt(right, 10_000)!).toBeLessThan(valueAt(left, 10_000)!);
    expect(rangeOf(tracksOfSides(watch, own, 0, mist.patch, "filter.cutoff").flat())!.low).toBeLessThan(rangeOf(middle)!.low);
    expect(sideTracks(heard, program, 0, heardValue(part.patch, "filter.cutoff")!)).toEqual([[], []]);
  }); // prettier-ignore
  test("what routes add to a cutoff, in octaves, lies between it and where it rests with its key", () => {
    const valuesOf = (address: "filter.cutoff" | "osc.pitch") => heardValue(part.patch, address)!.module.values as Readonly<Record<string, number>>; // prettier-ignore
    const { cutoff: rest, keyFollow } = valuesOf("filter.cutoff");
    const pitch = valueTracks(heard, program, 0, "osc.pitch");
    const cutoff = valueTracks(heard, program, 0, "filter.cutoff");
    const lists = adding.map((r) => addedTracks(heard, program, 0, r.id));
    expect(lists.map(([left, right]) => [left!.length, right!.length])).toEqual(adding.map(() => [64, 0]));
    expect(adding.length).toBeGreaterThan(1);
    for (const tick of [100, 1000, 5000, 14_000]) {
      const sum = lists.reduce((all, [left]) => all + valueAt(left!, tick)!, 0);
      const { octave, pitch: semitones } = valuesOf("osc.pitch");
      const key = valueAt(pitch, tick)! - 12 * octave! - semitones!;
      const followed = ((keyFollow! / 100) * (key - 60)) / 12;
      expect(Math.log2(valueAt(cutoff, tick)! / rest!)).toBeCloseTo(followed + sum, 3);
    }
    expect(addedTracks(heard, program, 0, "nobody")).toEqual([[], []]);
  });
  test("any value that is moved can be a strip: times and rates in what they come to", () => {
    const routes = [...part.patch.routes, newRoute("faster", "velocity", "swell.rate", 2), newRoute("longer", "velocity", "pluck.decay", -1)]; // prettier-ignore
    const moved = { ...part, patch: { ...part.patch, routes } };
    const asked = ["swell.rate", "pluck.decay", "filter.resonance", "osc.pan", "filter.cutoff", "gone.rate"] as const;
    // What nothing moves is none, and what is one already is none besides.
    const added = heardStripAddresses(moved.patch, asked, demo.song).slice(heardAddresses(moved.patch).length);
    expect(added).toEqual(["swell.rate", "pluck.decay", "filter.resonance"]);
    const strips = stripsOf(moved, demo, asked).filter((s) => s.removable && s.id.kind === "heard");
    expect(strips.map((s) => s.title)).toEqual(["Rate of Swell, as heard", "Decay of Pluck, as heard", "Resonance, as heard"]); // prettier-ignore
    const louder = compileProject({ ...demo, parts: [moved, ...demo.parts.slice(1)] }, part.id);
    const watch = watchLoop(louder, 48_000, [{ addresses: added, sources: [] }], 2048);
    const [rate, decay] = added.map((a) => {
      const value = heardValue(moved.patch, a, demo.song)!;
      return { value, tracks: ownTracks(value, valueTracks(watch, louder, 0, a)) };
    });
    const last = louder.parts[0]!.events.slice(-EVENT_ROW);
    const [tick, velocity] = [last[EVENT.onTick]! + 100, last[EVENT.velocity]! / 127];
    // Two cycles of a whole note, for the shape lasts a half; 210 ms of decay.
    expect(valueAt(rate!.tracks, tick)).toBeCloseTo(2 * 2 ** (2 * velocity), 4);
    expect(valueAt(decay!.tracks, tick)).toBeCloseTo(210 * 2 ** -velocity, 2);
    expect(decay!.value.text!(105)).toBe("105 ms");
    const scale = heardScale(rate!.value, rangeOf(rate!.tracks));
    expect(scale.log && scale.min < 2 * 2 ** (2 * velocity) && scale.max > 2 * 2 ** (2 * velocity)).toBe(true);
  });
  test("a gate's tail that a shape lengthens is told in ms, on the grid and in the book of moves", () => {
    const value = heardValue(part.patch, "oars.tail", demo.song)!;
    const watch = watchLoop(
      compileProject(demo, part.id),
      48_000,
      [{ addresses: ["oars.tail"], sources: ["swell"] }],
      2048,
    );
    const range = rangeOf(valueTracks(watch, compileProject(demo, part.id), 0, "oars.tail"))!;
    const own = rangeOf(ownTracks(value, valueTracks(watch, compileProject(demo, part.id), 0, "oars.tail")))!;
    // 60 ms, and up to an octave and a half more.
    expect(own.low).toBeCloseTo(60, 0);
    expect(own.high).toBeCloseTo(60 * 2 ** (1.5 * (range.high / 1.5)), 3);
    expect(own.high).toBeGreaterThan(140);
    const target = targetAt(part.patch, [], "oars.tail")!;
    expect(rangeText(part.patch, target, { low: 0, high: 1 }, demo.song).text).toBe("60.0 ms to 120.0 ms");
  });
  test("a shape that restarts with the bar is one track over the loop", () => {
    const [track, ...others] = modulatorTracks(heard, program, 0, "swell");
    expect(others).toEqual([]);
    expect(track!.count * track!.tickStep).toBeCloseTo(4 * 3840, -2);
    expect(modulatorTracks(heard, program, 0, "pluck")).toHaveLength(64);
  });
  test("an edit of one modulator leaves the tracks of another as they were", () => {
    const edited = {
      ...demo,
      parts: [{ ...part, patch: { ...part.patch, modules: part.patch.modules.map((m) => (m.kind === "shape" ? { ...m, values: { ...m.values, phase: 90 } } : m)) } }, ...demo.parts.slice(1)],
    }; // prettier-ignore
    const watched = [{ addresses: ["filter.cutoff", "osc.pitch"], sources: ["pluck", "swell"] }] as const;
    const changed = compileProject(edited, part.id);
    const after = watchLoop(changed, 48_000, watched, 2048);
    const same = (of: (w: typeof after, p: typeof changed) => ReturnType<typeof valueTracks>): boolean =>
      sameTracks(of(heard, program), of(after, changed));
    expect(same((w, p) => modulatorTracks(w, p, 0, "pluck"))).toBe(true);
    expect(same((w, p) => valueTracks(w, p, 0, "osc.pitch"))).toBe(true);
    expect(same((w, p) => modulatorTracks(w, p, 0, "swell"))).toBe(false);
    expect(same((w, p) => valueTracks(w, p, 0, "filter.cutoff"))).toBe(false);
  });
  test("the scale holds all of it, with at least two round marks", () => {
    for (const [low, high] of [
      [299, 301],
      [100, 9000],
      [20, 22_000],
    ] as const)
      // prettier-ignore
      expect(heardScale(heardValue(part.patch, "filter.cutoff")!, { low, high }).ticks.length).toBeGreaterThan(1);
    for (const [low, high] of [
      [60, 60],
      [59.9, 60.1],
      [36, 84],
    ] as const)
      // prettier-ignore
      expect(heardScale(heardValue(part.patch, "osc.pitch")!, { low, high }).ticks.length).toBeGreaterThan(1);
    const range = rangeOf(valueTracks(heard, program, 0, "filter.cutoff"))!;
    const scale = heardScale(heardValue(part.patch, "filter.cutoff")!, range);
    expect(onScale(scale, range.low)).toBeGreaterThan(0);
    expect(onScale(scale, range.high)).toBeLessThan(1);
    expect(rangeOf([])).toBeNull();
  });
});

test("strips and chord names say what is there", () => {
  expect(stripsOf(part, demo).map((s) => s.title)).toEqual([
    "Backing",
    "Notes",
    "Arpeggio",
    "Amp",
    "Pluck",
    "Swell",
    "Oars",
    "Cutoff, as heard",
    "Pitch, as heard",
    "Level, as heard",
  ]);
  expect(chordLabels(part.notes, demo.song).map((c) => c.text)).toEqual(["Dm", "B♭", "F", "C"]);
});

describe("strips that are kept", () => {
  const now = (p: typeof part) => stripsOf(p, demo);
  const before = now(part);
  const changed = (p: typeof part) => keptStrips(before, now(p)).flatMap((s, i) => (s === before[i] ? [] : [s.title]));

  test("are the same objects as long as they say the same", () => {
    expect(changed(part)).toEqual([]);
    expect(changed({ ...part, notes: part.notes.map((n) => ({ ...n, key: n.key + 1 })) })).toEqual([]);
    expect(changed({ ...part, notes: part.notes.slice(1) })).toEqual(["Notes"]);
    expect(changed({ ...part, arpeggio: { ...part.arpeggio, octaves: 3 } })).toEqual(["Arpeggio"]);
    const renamed = part.patch.modules.map((m) => (m.id === "swell" ? { ...m, name: "Tide" } : m));
    // Its own, and that of what it moves.
    expect(changed({ ...part, patch: { ...part.patch, modules: renamed } })).toEqual(["Tide", "Cutoff, as heard"]);
  });

  test("keep their order, come and go, and tell what a click may remove", () => {
    const without = { ...part.patch, modules: part.patch.modules.filter((m) => m.id !== "pluck"), routes: part.patch.routes.filter((r) => r.source !== "pluck") }; // prettier-ignore
    const kept = keptStrips(before, now({ ...part, patch: without }));
    expect(kept.map((s) => s.title)).toEqual(before.map((s) => s.title).filter((t) => t !== "Pluck"));
    expect(kept.find((s) => s.title === "Swell")).toBe(before.find((s) => s.title === "Swell"));
    expect(before.filter((s) => s.removable).map((s) => s.title)).toEqual(["Pluck", "Swell", "Oars"]);
  });
});

describe("axes of a shape", () => {
  const route: Route = newRoute("r", "swell", "osc.pitch", 12);
  const reading = (r: Route) => routeReading(r, targetAt(part.patch, [], r.target)!, demo.song.key);
  test("on pitch: a line a semitone, notes at the far side, values snap to semitones", () => {
    const found = reading(route);
    expect(found.marks).toHaveLength(13);
    expect(found.snap).toBeCloseTo(1 / 12, 12);
    expect(found.marks[0]!.far).toBe("D3");
    expect(found.text(1)).toBe("+12 st, D4");
    expect(reading({ ...route, reversed: true }).text(1)).toBe("0 st, D3");
  });
  test("around rest: from as far below to as far above", () => {
    const found = reading({ ...route, around: true });
    expect([0, 0.25, 0.5, 1].map(found.text)).toEqual(["−12 st, D2", "−6 st, A♭2", "0 st, D3", "+12 st, D4"]);
    expect(found.read("-6 st")).toBe(0.25);
    expect(found.marks.map((m) => m.at)).toEqual(Array.from({ length: 25 }, (_, i) => i / 24));
    expect(reading({ ...route, around: true, reversed: true }).read("-6 st")).toBe(0.75);
  });
  test("into the key: the nearest of its notes that the route reaches", () => {
    // D minor: D E F G A B♭ C.
    const semitones = (r: Route) => Array.from({ length: 13 }, (_, a) => Math.round(12 * reading(r).inKey!(a / 12)));
    expect(semitones(route)).toEqual([0, 0, 2, 3, 3, 5, 5, 7, 8, 8, 10, 10, 12]);
    expect(semitones({ ...route, amount: -12, reversed: true }).map((v) => 12 - v)).toEqual([12, 12, 10, 9, 9, 7, 7, 5, 4, 4, 2, 2, 0]);
    expect(reading({ ...route, target: "filter.cutoff", amount: 2 }).inKey).toBeNull();
  }); // prettier-ignore
  test("on cutoff: octaves, and the frequency they lead to", () => {
    const found = reading({ ...route, target: "filter.cutoff", amount: 2 });
    expect(found.text(0.5)).toBe("+1.00 oct, 840 Hz");
    expect(niceStep(2.4)).toBe(0.2);
  });
  test("time on the grid, or in milliseconds", () => {
    const swell = modulesOf(part.patch.modules, SHAPE)[0]!;
    const grid = timeReading(swell.times.rate, demo.song, 16);
    expect(grid.snap).toBe(1 / 8);
    expect(grid.text(0.5)).toBe("1.2.1");
    const free = timeReading({ unit: "ms", ms: 500 }, demo.song, 16);
    expect(free.text(0.5)).toBe("250 ms");
  });
});
