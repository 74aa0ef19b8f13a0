import { expect, test } from "vitest";
import { newEnvelope, newPatch, newRandom, newShape } from "./defaults";
import { withEffect } from "./edit";
import { inUse } from "./inUse";
import type { Module } from "./kinds";
import { FILTER } from "./kinds/filter";
import { adjusted, newModule } from "./kinds/kind";
import type { Patch } from "./project";

const plain = newPatch();
const withSome = (id: string, change: (m: Module) => Module): Patch => ({
  ...plain,
  modules: plain.modules.map((m) => (m.id === id ? change(m) : m)),
});
const withModules = (...more: Module[]): Patch => ({ ...plain, modules: [...plain.modules, ...more] });
const wave = (w: "pulse" | "table" | "corners" | "harmonics"): Patch =>
  withSome("osc", (m) => (m.kind === "oscillator" ? adjusted(m, { choices: { wave: w } }) : m));

test("a value is in use where its module's choices let it be heard", () => {
  const used = (patch: Patch, ...keys: string[]): boolean[] => keys.map((k) => inUse(patch, `osc.${k}`));
  const keys = ["pitch", "level", "pulseWidth", "position", "upward", "weighting", "bend1", "pm", "ratio", "detune"];
  expect(used(plain, ...keys)).toEqual([true, true, ...keys.slice(2).map(() => false)]);
  expect(used(wave("pulse"), "pulseWidth", "position")).toEqual([true, false]);
  expect(used(wave("table"), "position", "upward")).toEqual([true, false]);
  expect(used(wave("corners"), "position", "upward")).toEqual([true, true]);
  expect(used(wave("harmonics"), "weighting", "position")).toEqual([true, false]);
  // From the least that is heard: half a radian, and two of unison.
  const little = (innerPitch: "ratio" | "hz", inner: number, unison: number) => withSome("osc", (m) => (m.kind === "oscillator" ? adjusted(m, { values: { inner, unison }, choices: { innerPitch } }) : m)); // prettier-ignore
  expect(used(little("ratio", 0.5, 2), "ratio", "innerHz", "detune", "width")).toEqual([true, false, true, true]);
  expect(used(little("hz", 0.5, 1), "ratio", "innerHz", "detune", "width")).toEqual([false, true, false, false]);
  expect(used(little("hz", 0, 1), "ratio", "innerHz")).toEqual([false, false]);
  const turned = withSome("osc", (m) => m.kind === "oscillator" ? adjusted(m, { values: { inner: 2, unison: 3 }, choices: { bend1: "fold", innerPitch: "hz" }, data: { pmFrom: "osc" } }) : m); // prettier-ignore
  expect(used(turned, "bend1", "bend2", "pm", "ring", "ratio", "innerHz", "detune", "width")).toEqual([true, false, true, false, false, true, true, true]); // prettier-ignore
});

test("a filter's vowel, width and share go by its type and its cables; what belongs to nothing else is in use", () => {
  expect(["cutoff", "vowel", "width", "onward"].map((k) => inUse(plain, `filter.${k}`))).toEqual([true, false, false, false]); // prettier-ignore
  const vowels = withSome("filter", (m) => (m.kind === "filter" ? adjusted(m, { choices: { type: "vowel" } }) : m));
  expect(inUse(vowels, "filter.vowel")).toBe(true);
  const band = withSome("filter", (m) => (m.kind === "filter" ? adjusted(m, { choices: { type: "bp24" } }) : m));
  expect(inUse(band, "filter.width")).toBe(true);
  const two = withEffect(plain, newModule(FILTER, "second", "Second", {}));
  expect([inUse(two, "filter.onward"), inUse(two, "second.onward")]).toEqual([true, false]);
  expect(inUse(withModules(newShape("s", "S")), "s.rate")).toBe(true);
});

test("what all notes share is not let go; a glide needs one note at a time, and copies more than one", () => {
  const envelope = newEnvelope("e", "E");
  expect(inUse(withModules(envelope), "e.attack")).toBe(true);
  const shared = adjusted(envelope, { choices: { restart: "bar" } });
  expect(["attack", "release", "releaseCurve"].map((k) => inUse(withModules(shared), `e.${k}`))).toEqual([
    true,
    false,
    false,
  ]);
  // The level's own envelope starts with each note, whatever it says.
  const level = plain.modules.find((m) => m.kind === "amp")!.data.envelope;
  const set = withSome(level, (m) => (m.kind === "envelope" ? adjusted(m, { choices: { restart: "bar" } }) : m));
  expect(inUse(set, `${level}.release`)).toBe(true);
  const song = adjusted(newShape("s", "S"), { choices: { restart: "song" } });
  expect([inUse(withModules(song), "s.fadeIn"), inUse(withModules(newShape("s", "S")), "s.fadeIn")]).toEqual([
    false,
    true,
  ]);
  const ofNotes = adjusted(newRandom("r", "R"), { choices: { draws: "note" } });
  expect([inUse(withModules(ofNotes), "r.rate"), inUse(withModules(newRandom("r", "R")), "r.rate")]).toEqual([
    false,
    true,
  ]);
  const keys = ["pitch", "glide", "copiesDetune", "copiesWidth"];
  const used = (patch: Patch): boolean[] => keys.map((k) => inUse(patch, `playing.${k}`));
  expect(used(plain)).toEqual([true, false, false, false]);
  const one = withSome("playing", (m) => (m.kind === "playing" ? adjusted(m, { choices: { voices: "one" }, values: { copies: 2 } }) : m)); // prettier-ignore
  expect(used(one)).toEqual([true, true, true, true]);
});
