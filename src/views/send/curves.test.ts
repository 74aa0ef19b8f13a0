import { describe, expect, test } from "vitest";
import { compileProject } from "@/core/engine/compile";
import { watchLoop } from "@/core/engine/watch";
import { problemOfEdit } from "@/core/patch/changeCheck";
import { demoProject } from "@/core/patch/demo";
import { newGate, newShape } from "@/core/patch/defaults";
import type { Module } from "@/core/patch/kinds";
import { loopTicks, partEvents } from "@/core/pattern/events";
import { lengthenLoop } from "@/state/edits";
import { typedKey, typedLetter } from "@/views/hands/typedKeys";
import { BECOMES_TEXT, rhythmEdit, type Becomes, type Rhythm } from "@/views/score/import/rhythmEdits";
import { makeProject, note } from "../../../tests/support/projects";
import { curveOf, curveSources, type WantedCurve } from "./curves";
import { adjusted } from "@/core/patch/kinds/kind";

/** One note of a bar whose pitch rises by two semitones in it, with a shape from 0 to 1. */
const rise: Module = adjusted(newShape("rise", "Rise"), { values: { smoothing: 0 }, times: { rate: { unit: "bars", bars: 1 } }, data: { points: [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }] } }); // prettier-ignore
const project = makeProject({ notes: [note(0, 3840, 60)], modules: [rise], routes: [{ source: "rise", target: "osc.pitch", amount: 2 }], values: { "playing.bendRange": 4 } }); // prettier-ignore
const part = project.parts[0]!;
const program = compileProject(project);
const watch = watchLoop(program, 48_000, [{ addresses: ["osc.pitch", "filter.cutoff"], sources: ["rise"] }], 1024);
const read = (wanted: WantedCurve, step = 480) =>
  curveOf(wanted, part, 0, watch, program, step, 0, project.song).points;

describe("curves that go out as MIDI", () => {
  test("a modulator goes from 0 to 1; as a bend from -1 to 1", () => {
    const source = { kind: "modulator", id: "rise" } as const;
    const points = read({ source, form: { kind: "7 bit", controller: 1 } });
    expect(points.map((p) => p.tick)).toEqual([0, 480, 960, 1440, 1920, 2400, 2880, 3360]);
    points.forEach((p) => expect(p.value).toBeCloseTo(p.tick / 3840, 2));
    read({ source, form: { kind: "bend" } }).forEach((p) => expect(p.value).toBeCloseTo((2 * p.tick) / 3840 - 1, 1));
  });
  test("a pitch bends from its note's key, over the part's bend range", () => {
    const source = { kind: "heard", address: "osc.pitch" } as const;
    read({ source, form: { kind: "bend" } }).forEach((p) => expect(p.value).toBeCloseTo((0.5 * p.tick) / 3840, 2));
    expect(read({ source, form: { kind: "7 bit", controller: 3 } })[0]!.value).toBeCloseTo(60 / 127, 2);
  });
  test("a cutoff lies on the filter's own scale: 20 kHz at the top", () => {
    const source = { kind: "heard", address: "filter.cutoff" } as const;
    expect(read({ source, form: { kind: "14 bit", controller: 1 } })[3]!.value).toBeCloseTo(1, 4);
    expect(curveSources(part, project.song).map((s) => s.name)).toContain("Cutoff of Filter, as heard");
  });
});

test("a rate that is moved goes out on its scale of octaves, and a gate's tail in what it comes to", () => {
  const gate = adjusted(newGate("gate", "Gate"), { values: { tail: 100 } });
  const routes = [{ source: "rise", target: "gate.tail", amount: 2 }, { source: "rise", target: "gate.step", amount: 1 }, { source: "gate", target: "amp.level", amount: -3 }] as const; // prettier-ignore
  const gated = makeProject({ notes: [note(0, 3840, 60)], modules: [rise, gate], routes });
  const [own] = gated.parts;
  expect(curveSources(own!, gated.song).map((s) => s.name)).toEqual(expect.arrayContaining(["Tail of Gate, as heard", "Step of Gate, as heard"])); // prettier-ignore
  const sound = compileProject(gated);
  const addresses = ["gate.tail", "gate.step"] as const;
  const seen = watchLoop(sound, 48_000, [{ addresses, sources: [] }], 1024);
  const [tail, step] = addresses.map((address) => {
    const wanted = { source: { kind: "heard", address }, form: { kind: "14 bit", controller: 1 } } as const;
    return curveOf(wanted, own!, 0, seen, sound, 960, 0, gated.song).points.map((p) => p.value);
  });
  [0, 1, 2, 3].forEach((quarter) => {
    // From 1 to 2000 ms; 100 ms, and two octaves more by the end of the bar.
    expect(tail![quarter]).toBeCloseTo((100 * 2 ** (quarter / 2) - 1) / 1999, 3);
    // Cycles of a whole note from 1/32 to 64: sixteenths, and an octave more.
    expect(step![quarter]).toBeCloseTo((Math.log2(16 * 32) + quarter / 4) / 11, 3);
  });
});

describe("what a rhythm becomes", () => {
  const rhythm: Rhythm = {
    name: "Oars",
    hits: [0, 720, 1440].map((tick) => ({ tick, offTick: tick + 200, velocity: 90 })),
    notes: [{ startTick: 0, lengthTicks: 240, key: 60, velocity: 90 }],
    lengthTicks: 3840,
    step: { num: 1, den: 16 },
    levels: Float64Array.from({ length: 256 }, (_, i) => (i % 64) / 64),
    shapeId: "rise",
  };
  test.each(Object.keys(BECOMES_TEXT) as Becomes[])("%s: a valid document, and something that is heard or moves", (becomes) => {
    const { edit } = rhythmEdit(becomes, rhythm, part, project);
    const after = edit(project);
    expect(problemOfEdit(project, after)).toBeNull();
    const [made] = after.parts;
    const added = made!.patch.modules.find((m) => !part.patch.modules.some((n) => n.id === m.id));
    if (becomes === "notes") expect(made!.notes).toHaveLength(1);
    if (becomes === "gate") expect(added).toMatchObject({ kind: "gate", data: { steps: [1, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0] } });
    if (becomes === "steps") expect(made!.arpeggio).toMatchObject({ on: true, lanes: { play: { values: [1, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0] } } });
    if (becomes === "triggers") expect(made!.patch.modules.find((m) => m.id === "rise")).toMatchObject({ choices: { restart: "triggers" }, data: { triggers: [0, 720, 1440] } });
    if (becomes === "shape" && added?.kind === "shape") expect(added.data.points.length).toBeLessThanOrEqual(24);
  }); // prettier-ignore
});

test("a longer loop holds the notes again, and plays them as before", () => {
  const demo = demoProject("d");
  let id = 0;
  const after = lengthenLoop(6, () => `c${id++}`)(demo);
  expect(problemOfEdit(demo, after)).toBeNull();
  const plain = (p: typeof demo) => partEvents({ ...p.parts[0]!, arpeggio: { ...p.parts[0]!.arpeggio, on: false } }, p.song, p.seed).map((e) => [e.onTick, e.key]); // prettier-ignore
  const end = loopTicks(demo.song);
  const once = plain(demo);
  const again = once.map(([tick, key]) => [tick! + end, key]).filter(([tick]) => tick! < loopTicks(after.song));
  expect(plain(after)).toEqual([...once, ...again]);
});

test("typed keys lie as a piano does: rows of letters white, the row above black", () => {
  expect(["KeyZ", "KeyS", "KeyX", "KeyM", "KeyQ", "Digit2", "KeyP"].map((c) => typedKey(c, 0))).toEqual([48, 49, 50, 59, 60, 61, 76]); // prettier-ignore
  expect([typedKey("KeyZ", 1), typedKey("KeyP", 5), typedKey("KeyA", 0), typedKey("Space", 0)]).toEqual([60, null, null, null]); // prettier-ignore
  expect([typedLetter(48, 0), typedLetter(61, 0), typedLetter(60, 1), typedLetter(47, 0)]).toEqual(["Z", "2", "Z", null]); // prettier-ignore
});
