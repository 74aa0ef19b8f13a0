import { describe, expect, test } from "vitest";
import { playing, run } from "../../../tests/support/live";
import { expectSame, farthest } from "../../../tests/support/same";
import { loudness } from "../measure/loudness";
import { AMP_ENVELOPE, makeProject, note } from "../../../tests/support/projects";
import { peak, spectrumDb } from "../../../tests/support/spectrum";
import { mixOf, withMix, withModule } from "../patch/edit";
import type { Module } from "../patch/kinds";
import { whyNoSub, withCleanSub } from "../patch/cleanSub";
import type { Part, Project } from "../patch/project";
import { partEvents, patternOf } from "../pattern/events";
import { editPatch } from "../../state/edits";
import { addPart, duplicatePart, editMix, followPart, movePart, ownPattern, removePart } from "../../state/partEdits";
import { problemOfEdit } from "../patch/changeCheck";
import { Compiler, compileProject } from "./compile";
import { renderNow } from "./render";

const RATE = 48_000;
const LINE = [note(0, 480, 57), note(960, 480, 60), note(3600, 240, 64)];
const base = makeProject({ notes: LINE, values: { "amp.level": -20 } });
const first = base.parts[0]!.id;
const layered: Project = duplicatePart(first, "b", true)(base);
const eventsOf = (p: Project, i: number) => partEvents(patternOf(p.parts[i]!, p.parts), p.song, p.seed);
const render = (p: Project): Float32Array => renderNow(compileProject(p), { sampleRate: RATE, bars: 1, tail: "wrap" }).left; // prettier-ignore
const rms = (x: Float32Array): number => Math.sqrt(x.reduce((s, v) => s + v * v, 0) / x.length);
const db = (a: Float32Array, b: Float32Array): number => 20 * Math.log10(rms(a) / rms(b));

describe("a part that follows another", () => {
  test("plays its notes and chance, transposed and later, round the end of the loop", () => {
    const follows = { part: first, semitones: 12, later: { num: 1, den: 16 }, linked: false };
    const p = followPart("b", follows)(layered);
    expect(eventsOf(p, 0).map((e) => [e.onTick, e.offTick, e.key])).toEqual([[0, 480, 57], [960, 1440, 60], [3600, 3840, 64]]); // prettier-ignore
    // 3600 + 240 is the end of the bar: it begins with it.
    expect(eventsOf(p, 1).map((e) => [e.onTick, e.offTick, e.key])).toEqual([[0, 240, 76], [240, 720, 69], [1200, 1680, 72]]); // prettier-ignore
    const chancy = { ...p, parts: p.parts.map((q, i) => (i === 0 ? { ...q, notes: q.notes.map((n) => ({ ...n, chance: 50 })) } : q)) }; // prettier-ignore
    expect(eventsOf(chancy, 1).length).toBe(eventsOf(chancy, 0).length);
    // Past MIDI's keys there is nothing.
    expect(eventsOf(followPart("b", { ...follows, semitones: 48, later: null })({ ...layered, parts: layered.parts.map((q) => (q.id === first ? { ...q, notes: q.notes.map((n) => ({ ...n, key: n.key + 40 })) } : q)) }), 1)).toEqual([]); // prettier-ignore
  });
  test("equal layers add 6.02 dB; moved an octave they add as unlike ones do", () => {
    const alike = { ...layered, parts: layered.parts.map((q) => ({ ...q, id: q.id })) };
    // A fixed start makes both layers alike to the sample.
    const fixed = (p: Project): Project => ({ ...p, parts: p.parts.map((q) => ({ ...q, patch: { ...q.patch, modules: q.patch.modules.map((m) => (m.kind === "oscillator" ? { ...m, choices: { ...m.choices, start: "fixed" as const } } : m)) } })) }); // prettier-ignore
    expect(db(render(fixed(alike)), render(fixed(base)))).toBeCloseTo(6.0206, 2);
    expect(db(render(fixed(followPart("b", { part: first, semitones: 7, later: null, linked: false })(alike))), render(fixed(base)))).toBeCloseTo(3.01, 0); // prettier-ignore
  });
  test("must find one that plays its own pattern", () => {
    const refused = (change: (parts: readonly Part[]) => Part[]) => problemOfEdit(layered, { ...layered, parts: change(layered.parts) })?.reason; // prettier-ignore
    const with_ = (i: number, part: string) => (parts: readonly Part[]) => parts.map((q, k) => (k === i ? { ...q, follows: { part, semitones: 0, later: null, linked: false } } : q)); // prettier-ignore
    expect(refused(with_(1, "b"))).toBe('there is no other part "b" to follow');
    expect(refused(with_(1, "gone"))).toBe('there is no other part "gone" to follow');
    expect(refused(with_(0, "b"))).toBe('"b" follows another part itself');
    expect(refused(with_(1, first))).toBeUndefined();
  });
  test("keeps what it played when the other goes, or when it is made its own", () => {
    const follows = { part: first, semitones: 5, later: null, linked: false };
    const p = followPart("b", follows)(layered);
    for (const edit of [removePart(first), ownPattern("b")]) {
      const after = edit(p);
      const own = after.parts.find((q) => q.id === "b")!;
      expect(own.follows).toBeNull();
      expect(partEvents(own, after.song, after.seed).map((e) => e.key)).toEqual([62, 65, 69]);
      expect(problemOfEdit(p, after)).toBeNull();
    }
  });
});

describe("parts in the mix", () => {
  test("level, balance, mute and solo are heard as they are set", () => {
    const mixed = (mix: Parameters<typeof editMix>[1], solo = false) => render(editMix(first, { ...mix })(solo ? layered : base)); // prettier-ignore
    const placed = (values: Parameters<typeof withMix>[1]) => render(editPatch(first, (p) => withMix(p, values))(base));
    expect(db(placed({ level: -12 }), render(base))).toBeCloseTo(-12, 3);
    expect(peak(placed({ level: -60 }))).toBe(0);
    expect(peak(mixed({ mute: true }))).toBe(0);
    expect(peak(placed({ pan: 100 }))).toBe(0);
    expect(db(placed({ pan: 50 }), render(base))).toBeCloseTo(20 * Math.log10(0.5), 3);
    expectSame(placed({ pan: -50 }), render(base));
    // The right side is to the left what the left is to the right.
    const right = (values: Parameters<typeof withMix>[1]) => renderNow(compileProject(editPatch(first, (p) => withMix(p, values))(base)), { sampleRate: RATE, bars: 1, tail: "cut" }).right; // prettier-ignore
    const middle = right({});
    expect([0, -12].flatMap((level) => [-50, 50].map((pan) => db(right({ level, pan }), middle)))).toEqual([-6.0206, 0, -18.0206, -12].map((v) => expect.closeTo(v, 3) as number)); // prettier-ignore
    expectSame(mixed({ solo: true }, true), render(base));
  });
  test("the trim of the output is that of both sides, as long as it plays", () => {
    const sine = makeProject({ notes: [note(0, 3840, 57)], values: { "amp.level": -12, "amp.pan": 30 }, choices: { "osc.wave": "sine" } }); // prettier-ignore
    const sides = (outputTrim: number) => renderNow(compileProject({ ...sine, outputTrim }), { sampleRate: 48_000, bars: 1, tail: "cut" }); // prettier-ignore
    const [plain, less] = [sides(0), sides(-20)];
    for (const side of ["left", "right"] as const) expect(farthest(less[side].slice(9600), plain[side].slice(9600).map((v) => 0.1 * v))).toBeLessThan(1e-6); // prettier-ignore
  });
  test("a mute while it sounds fades, without a click", () => {
    const sine = makeProject({ notes: [note(0, 3840, 57)], values: { "amp.level": -12 }, choices: { "osc.wave": "sine" } }); // prettier-ignore
    const engine = playing(sine);
    const step = (x: Float32Array): number => x.reduce((most, v, i) => (i === 0 ? 0 : Math.max(most, Math.abs(v - x[i - 1]!))), 0); // prettier-ignore
    const sounding = step(run(engine, 9600));
    engine.load(compileProject(editMix(first, { mute: true })(sine)));
    const fading = new Float32Array(9600);
    const right = new Float32Array(9600);
    engine.process(fading, right, 9600);
    expect(farthest(fading, right)).toBe(0);
    expect(step(fading)).toBeLessThan(1.05 * sounding);
    expect(peak(fading.slice(-1000))).toBeLessThan(1e-5);
  });
});

test("parts are added, copied, moved and removed; eight at the most, one at the least", () => {
  const names = (p: Project) => p.parts.map((q) => q.name);
  const two = addPart("x")(base);
  expect(names(two)).toEqual(["Part 1", "Part 2"]);
  expect(names(duplicatePart(first, "y", false)(two))).toEqual(["Part 1", "Part 3", "Part 2"]);
  expect(names(movePart("x", -1)(two))).toEqual(["Part 2", "Part 1"]);
  expect(movePart("x", 1)(two)).toBe(two);
  expect(removePart(first)(base)).toBe(base);
  let many = base;
  for (let i = 0; i < 12; i++) many = addPart(`p${i}`)(many);
  expect(many.parts).toHaveLength(8);
  expect([many, removePart("p3")(many)].map((p) => whyNoSub(p, first))).toEqual(["A project holds 8 parts", null]);
  expect(new Set(names(many)).size).toBe(8);
  // A layer of a layer follows the same part; copies of parts play as the first does.
  const deep = duplicatePart("b", "c", true)(layered);
  expect(deep.parts.map((q) => q.follows?.part)).toEqual([undefined, first, first]);
  expect(problemOfEdit(layered, deep)).toBeNull();
});

describe("a clean sub", () => {
  const saws = makeProject({
    song: { tempoBpm: 120 },
    notes: [note(0, 3600, 40)],
    values: { "amp.level": -20, "filter.cutoff": 2000, "osc.unison": 3 },
    amp: { attack: { unit: "ms", ms: 40 }, decay: { unit: "ms", ms: 150 }, sustain: 60 },
  });
  const loud = { source: "velocity", target: "amp.level", amount: 6 } as const;
  const ids = { part: "sub", filter: "split" };
  test("its loudness follows the velocity as that of the part does, and nothing else of it is moved", () => {
    const moved = makeProject({ notes: [note(0, 3600, 40)], routes: [loud, { source: "velocity", target: "filter.cutoff", amount: 2 }, { source: "key", target: "amp.level", amount: 6 }] }); // prettier-ignore
    const sub = withCleanSub(moved, moved.parts[0]!.id, ids);
    expect(problemOfEdit(moved, sub)).toBeNull();
    expect(sub.parts[1]!.patch.routes).toMatchObject([loud]);
    // Both stand 3 dB lower in the mix than the part stood, which stood where it was made.
    const levels = sub.parts.map((p) => mixOf(p.patch)!.values.level);
    expect(levels).toEqual([-3, -3]);
  });
  const made = withCleanSub(saws, saws.parts[0]!.id, ids);

  test("is a valid layer that follows, split at 150 Hz: its part keeps the highs, it the lows", () => {
    expect(problemOfEdit(saws, made)).toBeNull();
    expect(made.parts.map((p) => p.name)).toEqual(["Part 1", "Part 1 sub"]);
    expect(eventsOf(made, 1)).toEqual(eventsOf(made, 0));
    const at = (x: Float32Array) => spectrumDb(x.slice(12_000, 12_000 + 16_384));
    const of = (p: Project, part?: string) => at(renderNow(compileProject(p, part), { sampleRate: RATE, bars: 1, tail: "cut" }).left); // prettier-ignore
    const bin = (hz: number): number => Math.round((hz * 16_384) / RATE);
    const [before, above, sub] = [of(saws), of(made, saws.parts[0]!.id), of(made, "sub")];
    const low = 82.41;
    expect(above(bin(low)) - before(bin(low))).toBeLessThan(-18);
    expect(above(bin(10 * low)) - before(bin(10 * low))).toBeCloseTo(-3, 0);
    expect(sub(bin(low))).toBeGreaterThan(above(bin(low)) + 15);
    expect(sub(bin(10 * low))).toBeLessThan(sub(bin(low)) - 60);
  });

  test("linked, it is the same patch as long as both are: nothing is compiled anew", () => {
    const linked = (p: Project) => patternOf(p.parts[1]!, p.parts).patch;
    const renamed = { ...made, parts: made.parts.map((p) => ({ ...p, name: "Other" })) };
    expect(linked(renamed)).toBe(linked(made));
    const louder = editPatch(saws.parts[0]!.id, (p) => withMix(p, { level: -9 }))(made);
    expect(linked(louder)).not.toBe(linked(made));
    expect(linked(louder)).toEqual(linked(made));
  });

  test("together they are no louder than it was", () => {
    const lufs = (p: Project): number => {
      const { left, right } = renderNow(compileProject(p), { sampleRate: RATE, bars: 1, tail: "wrap" });
      return loudness(left, right);
    };
    expect(lufs(made)).toBeLessThan(lufs(saws) + 0.1);
    expect(lufs(made)).toBeGreaterThan(lufs(saws) - 5);
  });

  test("takes the envelope and the rule of playing along while it is linked", () => {
    const slow = (p: Project): Project => ({
      ...p,
      parts: p.parts.map((q, i) => (i === 0 ? { ...q, patch: withModule(q.patch, AMP_ENVELOPE, (m) => ({ ...m, times: { ...m.times, attack: { unit: "ms", ms: 900 } } }) as Module) } : q)),
    }); // prettier-ignore
    const early = (p: Project): number => rms(renderNow(compileProject(p, "sub"), { sampleRate: RATE, bars: 1, tail: "cut" }).left.slice(4000, 9000)); // prettier-ignore
    const alone = (p: Project): Project => ({ ...p, parts: p.parts.map((q) => (q.follows ? { ...q, follows: { ...q.follows, linked: false } } : q)) }); // prettier-ignore
    expect(early(slow(made)) / early(made)).toBeLessThan(0.3);
    expect(early(alone(slow(made))) / early(made)).toBeCloseTo(1, 2);
    // One note at a time, as its leader plays; a layer without a rule of its own takes the leader's over.
    const ruled = (p: Project): Project => ({ ...p, parts: p.parts.map((q, i) => (i === 0 ? { ...q, patch: { ...q.patch, modules: q.patch.modules.map((m) => (m.kind === "playing" ? ({ ...m, choices: { ...m.choices, voices: "one" } }) : m)) } } : q)) }); // prettier-ignore
    const voicesOf = (p: Project): (string | undefined)[] => patternOf(p.parts[1]!, p.parts).patch.modules.flatMap((m) => (m.kind === "playing" ? [m.choices.voices] : [])); // prettier-ignore
    expect([voicesOf(made), voicesOf(ruled(made)), voicesOf(alone(ruled(made)))]).toEqual([
      ["chords"],
      ["one"],
      ["chords"],
    ]);
    const bare = (p: Project): Project => ({ ...p, parts: p.parts.map((q) => (q.follows ? { ...q, patch: { ...q.patch, modules: q.patch.modules.filter((m) => m.kind !== "playing") } } : q)) }); // prettier-ignore
    expect(voicesOf(bare(ruled(made)))).toEqual(["one"]);
    // Only the leader's envelope differs: the compiler works the layer out anew.
    const compiler = new Compiler();
    const [a, b] = [compiler.compile(made), compiler.compile(slow(made))];
    expect(b.parts[1]!.sound).not.toBe(a.parts[1]!.sound);
    expect(compiler.compile(slow(made)).parts[0]!.events).toBe(b.parts[0]!.events);
  });

  test("is refused with its reason where there is no room", () => {
    const twice = withCleanSub(made, saws.parts[0]!.id, { part: "sub2", filter: "split2" });
    expect(twice).toBe(made);
    expect(whyNoSub(made, saws.parts[0]!.id)).toMatch(/two filters/);
    expect(whyNoSub(made, "sub")).toMatch(/follows another part/);
  });
});
