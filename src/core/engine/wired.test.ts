import { expect, test } from "vitest";
import { makeProject, note } from "../../../tests/support/projects";
import { farthest } from "../../../tests/support/same";
import { spectrumDb } from "../../../tests/support/spectrum";
import { filterMagnitudeDb } from "../dsp/filter";
import { newOscillator } from "../patch/defaults";
import { FILTER } from "../patch/kinds/filter";
import { adjusted, newModule } from "../patch/kinds/kind";
import type { Module } from "../patch/kinds";
import type { Filter } from "../patch/kinds/filter";
import type { Address } from "../patch/address";
import { AUTOMATION } from "../patch/kinds/automation";
import type { Patch } from "../patch/project";
import { compileProject } from "./compile";
import { renderNow } from "./render";

/** What a filter is set to in a patch reaches the sound: one that is neither the first of its kind nor of the voice. */
const RATE = 48_000;
const N = 16_384;
const KEY = 33;

/** A note of 55 Hz past two oscillators' worth of other values, through a second filter or past it. */
function sides(added: readonly Module[], wave = "saw", level = 0): readonly [Float32Array, Float32Array] {
  const made = makeProject({ song: { tempoBpm: 330 }, notes: [note(0, 3840, KEY)], values: { "amp.level": -30 } });
  const part = made.parts[0]!;
  const source = adjusted(newOscillator("osc2", "Second"), { values: { level }, choices: { wave: wave as "saw" } });
  const modules: Module[] = [...part.patch.modules, source, ...added];
  const ways = added.length > 0 ? [["osc2", "filter2"], ["filter2", "amp"]] : [["osc2", "amp"]]; // prettier-ignore
  const patch: Patch = { ...part.patch, modules, cables: ways.map(([from, to]) => ({ from: from!, to: to! })) };
  const { left, right } = renderNow(compileProject({ ...made, parts: [{ ...part, patch }] }), { sampleRate: RATE, bars: 1, tail: "cut" }); // prettier-ignore
  return [left, right];
}

const filter = (type: Filter["choices"]["type"], values: Partial<Filter["values"]>): Module =>
  adjusted(newModule(FILTER, "filter2", "Second", {}), { values, choices: { type } });
/** Level at the harmonics of the note. */
const harmonicsDb = (x: Float32Array): ((h: number) => number) => {
  const db = spectrumDb(x.slice(12_000, 12_000 + N));
  return (h) => {
    const k = Math.round((55 * h * N) / RATE);
    return Math.max(db(k - 1), db(k), db(k + 1));
  };
};
const dry = sides([]);
const soft = sides([], "saw", -40);

test.each(["lp24", "lp12", "bp12", "hp12", "hp24", "bp24", "notch12", "notch24", "ladder", "combUp", "combDown", "vowel", "allpass"] as const)("%s: its cutoff, resonance, width and vowel, its key follow, and its sides apart", (type) => {
  // The ladder's doubled rate makes it a few samples late, which a blend with what came in would show.
  const set = { cutoff: 700, resonance: 45, width: 2.6, vowel: 35, mix: type === "ladder" ? 100 : 70 };
  // Soft, so that nothing bends.
  const wet = sides([filter(type, { ...set, keyFollow: 50, apart: 8 })], "saw", -40);
  // Half an octave's way for an octave, counted from middle C.
  const followed = set.cutoff * 2 ** ((0.5 * (KEY - 60)) / 12);
  wet.forEach((side, s) => {
    const cutoffHz = followed * 2 ** ((s === 0 ? -4 : 4) / 12);
    const [is, was] = [harmonicsDb(side), harmonicsDb(soft[s]!)];
    for (const h of [1, 2, 4, 7, 12, 20, 33, 60]) {
      const expected = filterMagnitudeDb({ type, cutoffHz, resonance: set.resonance, width: set.width, vowel: set.vowel, mix: set.mix }, RATE, 55 * h); // prettier-ignore
      if (expected < -60) continue;
      expect(Math.abs(is(h) - was(h) - expected), `${55 * h} Hz`).toBeLessThan(0.15);
    }
  });
}); // prettier-ignore

test("mix: so much of what came in is replaced by what was filtered", () => {
  const wet = sides([filter("lp24", { cutoff: 300 })]);
  const half = sides([filter("lp24", { cutoff: 300, mix: 35 })]);
  const none = sides([filter("lp24", { cutoff: 300, mix: 0 })]);
  for (const s of [0, 1]) {
    expect(farthest(half[s]!, wet[s]!.map((v, i) => 0.35 * v + 0.65 * dry[s]![i]!))).toBeLessThan(1e-6); // prettier-ignore
    expect(farthest(none[s]!, dry[s]!)).toBeLessThan(1e-7);
  }
});

test("what stands at nothing and is automated is there: half the mix, all of the drive", () => {
  const line = (target: Address, y: number): Module => newModule(AUTOMATION, "line", "Line", { target, points: [0, 1].map((x) => ({ x, y, tension: 0 })) }); // prettier-ignore
  const open = { cutoff: 20_000, resonance: 0 };
  const [driven, automated] = [[filter("lp12", { ...open, drive: 18 })], [filter("lp12", open), line("filter2.drive", 18 / FILTER.rows.drive.max)]].map((list) => sides(list)); // prettier-ignore
  expect(farthest(automated![0], driven![0])).toBeLessThan(1e-5);
  expect(farthest(automated![0], dry[0])).toBeGreaterThan(1e-3);
});

test("drive: what is soft comes out louder by the slope of tanh at nothing, what is loud gets odd harmonics", () => {
  const open = (drive: number): Module => filter("lp12", { cutoff: 20_000, resonance: 0, drive });
  const c = 10 ** (18 / 20) - 1;
  const quiet = [0, 18].map((drive) => harmonicsDb(sides([open(drive)], "sine", -50)[0]));
  expect(quiet[1]!(1) - quiet[0]!(1)).toBeCloseTo(20 * Math.log10(c / Math.tanh(c)), 1);
  const loud = [0, 18].map((drive) => harmonicsDb(sides([open(drive)], "sine", 0)[1]));
  expect(loud[0]!(3) - loud[0]!(1)).toBeLessThan(-70);
  expect(loud[1]!(3) - loud[1]!(1)).toBeGreaterThan(-25);
  expect(loud[1]!(2) - loud[1]!(1)).toBeLessThan(-70);
});
