import { expect, test } from "vitest";
import { engineWith, run } from "../../../tests/support/live";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { BINARY, HASH, RECORDINGS } from "../../../tests/support/recordings";
import { farthest } from "../../../tests/support/same";
import { peak } from "../../../tests/support/spectrum";
import { newOscillator } from "../patch/defaults";
import { withSource } from "../patch/edit";
import { FILTER } from "../patch/kinds/filter";
import { adjusted, newModule } from "../patch/kinds/kind";
import { NOISE } from "../patch/kinds/noise";
import { RECORDING } from "../patch/kinds/recording";
import { SUB } from "../patch/kinds/sub";
import type { Module } from "../patch/kinds";
import type { Patch, Project } from "../patch/project";
import { compileProject } from "./compile";
import { renderNow } from "./render";

/**
 * Voices know nothing of each other: a chord is the sum of its notes, each played alone, whatever a voice is made of. Five
 * notes sound at once, in two groups of four; later ones take lanes of which others have been let go.
 */
const RATE = 48_000;
const NOTES = [
  ...[48, 43, 60, 55, 67].map((key, i) => note(10 + 7 * i, [600, 320, 620, 640, 300][i]!, key, 60 + 11 * i)),
  note(520, 200, 52, 90),
  note(533, 300, 64, 50),
];

const osc = (values: object, choices: object = {}, data: object = {}): Module =>
  adjusted(newOscillator("osc", "Oscillator"), { values: { width: 60, detune: 30, ...values }, choices: { start: "random", ...choices }, data }); // prettier-ignore
const filter = (type: string, values: object = {}): Module =>
  adjusted(newModule(FILTER, "filter", "Filter", {}), { values: { cutoff: 900, resonance: 45, keyFollow: 60, ...values }, choices: { type } as object }); // prettier-ignore
const saw = osc({ unison: 2 }, { wave: "saw" });
const bent = { inner: 1.3, bend1: 35, bend2: 55, feedback: 0.8 };
const bends = { bend1: "fold", bend2: "sync", inner: "triangle" };
const second = adjusted(newOscillator("osc2", "Second"), { values: { octave: 1 }, choices: { wave: "sine", start: "random" } }); // prettier-ignore

/** What stands instead of the plain oscillator and filter, and what comes beside. */
const CASES: Readonly<Record<string, readonly Module[]>> = {
  ...Object.fromEntries(
    ["lp24", "lp12", "bp12", "hp12", "hp24", "bp24", "notch12", "notch24", "ladder", "combUp", "combDown", "vowel", "allpass"].map((t) => [`a saw through ${t}`, [saw, filter(t)]]),
  ),
  "a driven low-pass, blended": [saw, filter("lp24", { drive: 18, mix: 70 })],
  "a driven ladder whose sides lie apart": [saw, filter("ladder", { drive: 12, apart: 7, mix: 60 })],
  "a wide band-pass whose sides lie apart": [saw, filter("bp12", { width: 3, apart: -5, drive: 6 })],
  "a comb whose sides lie apart, blended": [saw, filter("combUp", { apart: 9, mix: 50 })],
  "a stack of pulses": [osc({ unison: 3, pulseWidth: 22 }, { wave: "pulse", stack: "fifths" }), filter("lp12")],
  "a table": [osc({ unison: 2, position: 37, upward: 60 }, { wave: "table" }, { table: "vowels" }), filter("lp12")],
  "four corners": [osc({ unison: 2, position: 20, upward: 60 }, { wave: "corners" }), filter("lp12")],
  "a bent sine": [osc({ unison: 2, ...bent }, { wave: "sine", ...bends }), filter("lp12")],
  "a bent table with its modulator in Hz": [osc({ ...bent, position: 50, innerHz: 90 }, { wave: "table", ...bends, innerPitch: "hz" }, { table: "hitch" }), filter("lp12")],
  "turned and rung by another one": [osc({ pm: 2, ring: 60 }, { wave: "sine" }, { pmFrom: "osc2", ringFrom: "osc2" }), second, filter("lp12")],
  "noise, a sub and a recording": [
    osc({ level: -20 }),
    adjusted(newModule(NOISE, "noise", "Noise", {}), { values: { width: 70 }, choices: { colour: "pink" } }),
    adjusted(newModule(SUB, "sub", "Sub", {}), { choices: { wave: "saw" } }),
    adjusted(newModule(RECORDING, "rope", "Rope", { recording: HASH }), { values: { scatter: 40 }, choices: { plays: "looped" } }),
    filter("lp12"),
  ],
}; // prettier-ignore

function project(modules: readonly Module[], more: Made): Project {
  const made = makeProject({
    song: { tempoBpm: 300, meter: { beats: 1, unit: 4 } },
    amp: { attack: { unit: "ms", ms: 0 }, release: { unit: "ms", ms: 3 } },
    ...more,
    values: { "amp.level": -40, "amp.pan": 20, ...more.values },
    routes: [
      { source: "velocity", target: "filter.cutoff", amount: 1 },
      { source: "key", target: "amp.pan", amount: 50 },
      { source: "velocity", target: "osc.position", amount: 40 },
      { source: "key", target: "filter.resonance", amount: 20 },
    ],
  });
  const part = made.parts[0]!;
  const placed = modules.reduce<Patch>(
    (p, m) => (p.modules.some((x) => x.id === m.id) ? { ...p, modules: p.modules.map((x) => (x.id === m.id ? m : x)) } : withSource(p, m)),
    part.patch,
  ); // prettier-ignore
  return { ...made, binaries: [BINARY], parts: [{ ...part, patch: placed }] };
}

function sidesOf(modules: readonly Module[], more: Made): Float32Array[] {
  const program = compileProject(project(modules, more));
  const { left, right } = renderNow(program, { sampleRate: RATE, bars: 1, tail: "cut", recordings: RECORDINGS });
  return [left, right];
}

function expectSum(modules: readonly Module[], more: Made = {}): void {
  const chord = sidesOf(modules, { ...more, notes: NOTES });
  const alone = NOTES.map((n) => sidesOf(modules, { ...more, notes: [n] }));
  chord.forEach((side, s) => {
    const sum = side.map((_, i) => alone.reduce((total, sides) => total + (sides[s]![i] ?? 0), 0));
    expect(peak(side)).toBeGreaterThan(1e-4);
    expect(farthest(side, sum) / peak(side)).toBeLessThan(1e-5);
  });
}

test.each(Object.keys(CASES))("a chord is the sum of its notes: %s", (name) => {
  expectSum(CASES[name]!);
});

test("a chord is the sum of its notes: what comes back from behind the amp, and sides apart", () => {
  expectSum([saw, filter("lp24")], { values: { "amp.feedback": -6, "amp.apart": 8 } });
});

test("a chord is the sum of its notes: through an edit of values while it sounds, too", () => {
  const edited = { values: { "osc.level": -9, "filter.cutoff": 2500, "amp.pan": -40 } };
  const sounding = (notes: NonNullable<Made["notes"]>): Float32Array => {
    const engine = engineWith(project([saw, filter("lp24")], { notes }));
    engine.play(0);
    const before = run(engine, 3328);
    engine.load(compileProject(project([osc({ unison: 2, level: -9 }, { wave: "saw" }), filter("lp24", { cutoff: 2500 })], { notes, ...edited })));
    return Float32Array.from([...before, ...run(engine, 4800)]);
  };
  const chord = sounding(NOTES);
  const alone = NOTES.map((n) => sounding([n]));
  // Values glide along straight pieces, which the beginning of another note parts.
  expect(farthest(chord, chord.map((_, i) => alone.reduce((sum, x) => sum + x[i]!, 0))) / peak(chord)).toBeLessThan(1e-4);
  expect(peak(chord.subarray(3328))).toBeGreaterThan(1e-4);
}); // prettier-ignore

let besideAlone: Float32Array | null = null;
/** Sources and filters of one voice, a chain each: what stands first reads other values than when it stands alone. */
test.each(Object.keys(CASES))("a voice is the sum of its chains: %s beside another one", (name) => {
  const other = adjusted(newOscillator("other", "Other"), { values: { octave: 1, detune: 20 }, choices: { wave: "saw" } });
  const beside = adjusted(newModule(FILTER, "beside", "Beside", {}), { values: { cutoff: 2000, resonance: 60, drive: 9 }, choices: { type: "bp12" } });
  const base = project([], {}).parts[0]!.patch.modules.filter((m) => m.id !== "osc" && m.id !== "filter");
  const sources = CASES[name]!.filter((m) => m.kind !== "filter");
  const own = CASES[name]!.find((m) => m.kind === "filter")!;
  const first = [["other", "beside"], ["beside", "amp"]]; // prettier-ignore
  const second = [...sources.map((m) => [m.id, "filter"]), ["filter", "amp"]];
  const rendered = (modules: readonly Module[], cables: readonly (readonly string[])[]): Float32Array => {
    const made = project([], { notes: NOTES.slice(0, 2) });
    const part = made.parts[0]!;
    const routes = part.patch.routes.filter((r) => r.target.startsWith("amp."));
    const patch: Patch = { modules: [...modules, ...base], cables: cables.map(([from, to]) => ({ from: from!, to: to! })), routes };
    return renderNow(compileProject({ ...made, parts: [{ ...part, patch }] }), { sampleRate: RATE, bars: 1, tail: "cut", recordings: RECORDINGS }).left;
  };
  const both = rendered([other, beside, ...sources, own], [...first, ...second]);
  besideAlone ??= rendered([other, beside], first);
  const [one, two] = [besideAlone, rendered([...sources, own], second)];
  expect(peak(two)).toBeGreaterThan(1e-4);
  expect(farthest(both, both.map((_, i) => one[i]! + two[i]!)) / peak(both)).toBeLessThan(1e-5);
}); // prettier-ignore
