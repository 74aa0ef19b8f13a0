import { describe, expect, test } from "vitest";
import { makeProject, note } from "../../../tests/support/projects";
import { step, steps } from "../../../tests/support/steps";
import { newMacro, newRandom, newRoute } from "../patch/defaults";
import type { Module } from "../patch/kinds";
import { withMix } from "../patch/edit";
import type { Project } from "../patch/project";
import { changesBetween, withChanges } from "./changes";
import { Compiler } from "./compile";

const part = (id: string, key: number): Project["parts"][number] => ({
  ...makeProject({ notes: [note(0, 960, key)] }).parts[0]!,
  id,
});
const base: Project = { ...makeProject({}), parts: [part("a", 50), part("b", 60)] };

/** The changes that an edit brings, after the program was sent once. */
function edit(change: (p: Project) => Project) {
  const compiler = new Compiler();
  const before = compiler.compile(base);
  const after = compiler.compile(change(base));
  const changes = changesBetween(before, after);
  expect(withChanges(before, changes)).toEqual(after);
  return { before, after, changes, types: changes.map((c) => c.type) };
}

const editPart = (p: Project, change: (q: Project["parts"][number]) => Project["parts"][number]): Project => ({ ...p, parts: p.parts.map((q) => (q.id === "b" ? change(q) : q)) }); // prettier-ignore

describe("only what changed is sent", () => {
  test("at first, everything", () => {
    const program = new Compiler().compile(base);
    const changes = changesBetween(null, program);
    expect(changes.map((c) => c.type)).toEqual(["song", "part", "part", "order"]);
    expect(withChanges(null, changes)).toEqual(program);
  });
  test("nothing changed: the same program, no message", () => {
    const compiler = new Compiler();
    const before = compiler.compile(base);
    expect(compiler.compile(base)).toBe(before);
    expect(compiler.compile({ ...base, name: "Other" })).toBe(before);
    expect(changesBetween(before, before)).toEqual([]);
  });
  test("a level or a solo: the mix of the parts that it concerns", () => {
    const mixOf = (p: Project["parts"][number], mix: object) => ({ ...p, mix: { ...p.mix, ...mix } });
    const placed = (p: Project["parts"][number], values: Parameters<typeof withMix>[1]) => ({ ...p, patch: withMix(p.patch, values) }); // prettier-ignore
    const level = edit((p) => editPart(p, (q) => placed(q, { level: -6.0206 })));
    expect(level.types).toEqual(["mix"]);
    expect(level.after.parts[1]!.mix.left).toBeCloseTo(0.5, 5);
    const solo = edit((p) => editPart(p, (q) => mixOf(q, { solo: true })));
    expect(solo.changes).toEqual([{ type: "mix", id: "a", mix: { left: 0, right: 0 } }]);
    const pan = edit((p) => editPart(p, (q) => placed(q, { pan: 100 })));
    expect(pan.changes).toEqual([{ type: "mix", id: "b", mix: { left: 0, right: 1 } }]);
  });
  test("a value: the sound of its part, no note", () => {
    const { types, after, before } = edit((p) => editPart(p, (q) => ({ ...q, patch: { ...q.patch, modules: q.patch.modules.map((m) => (m.kind === "filter" ? { ...m, values: { ...m.values, cutoff: 99 } } : m)) } }))); // prettier-ignore
    expect(types).toEqual(["sound"]);
    expect(after.parts[0]).toBe(before.parts[0]);
    expect(after.parts[1]!.events).toBe(before.parts[1]!.events);
  });
  test("a route, a cable, a module, or a level beside one of them: the sound of its part, whatever else stays", () => {
    type Patch = Project["parts"][number]["patch"];
    const edits: ((p: Patch) => Patch)[] = [
      (p) => ({ ...p, routes: p.routes.map((r) => ({ ...r, amount: r.amount / 2 })) }),
      (p) => ({ ...p, cables: [{ from: "osc", to: "amp" }] }),
      (p) => ({ ...p, modules: [...p.modules, newMacro("m", "M")], routes: [...p.routes, newRoute("r", "m", "filter.cutoff", 1)] }),
      (p) => withMix({ ...p, routes: [] }, { level: -6 }),
      (p) => withMix({ ...p, modules: p.modules.map((m) => (m.kind === "amp" ? { ...m, values: { ...m.values, pan: 50 } } : m)) }, { level: -6 }),
    ];
    for (const change of edits) {
      const { types, after } = edit((p) => editPart(p, (q) => ({ ...q, patch: change(q.patch) })));
      expect(types).toContain("sound");
      // What is sent is what a compiler makes of it that knew nothing before.
      const anew = new Compiler().compile({ ...base, parts: base.parts.map((q) => (q.id === "b" ? { ...q, patch: change(q.patch) } : q)) });
      expect(after.parts[1]!.sound).toEqual(anew.parts[1]!.sound);
    }
  }); // prettier-ignore
  test("a note: the events of its part", () => {
    const { types, after, before } = edit((p) => editPart(p, (q) => ({ ...q, notes: [] })));
    expect(types).toEqual(["events"]);
    expect(after.parts[1]!.sound).toBe(before.parts[1]!.sound);
  });
  test("the trim: the song alone", () => {
    expect(edit((p) => ({ ...p, outputTrim: -3 })).types).toEqual(["song"]);
  });
  test("the tempo: the song and the sounds, no note", () => {
    expect(edit((p) => ({ ...p, song: { ...p.song, tempoBpm: 90 } })).types).toEqual(["song", "sound", "sound"]);
  });
  test("the seed", () => {
    expect(edit((p) => ({ ...p, seed: 8 })).types).toEqual(["events", "seed", "events", "seed"]);
  });
  test("another seed is another sound only where chance moves something", () => {
    const row = (chance: number) => steps([step(0.2), step(0.7, { chance }), step(0.4)]);
    const movedBy = (...modules: readonly Module[]): boolean => {
      const made = makeProject({ modules, routes: modules.map((m) => ({ source: m.id, target: "filter.cutoff", amount: 1 })) }); // prettier-ignore
      const compiler = new Compiler();
      const before = compiler.compile(made);
      return compiler.compile({ ...made, seed: made.seed + 1 }).parts[0]!.sound !== before.parts[0]!.sound;
    };
    expect([movedBy(), movedBy(row(100)), movedBy(row(99)), movedBy(row(0)), movedBy(newRandom("r", "R"))]).toEqual([false, false, true, true, true]); // prettier-ignore
  });
  test("a part comes, goes, changes its place", () => {
    expect(edit((p) => ({ ...p, parts: [...p.parts, part("c", 70)] })).types).toEqual(["part", "order"]);
    expect(edit((p) => ({ ...p, parts: p.parts.slice(1) })).types).toEqual(["order"]);
    const { types, after } = edit((p) => ({ ...p, parts: [...p.parts].reverse() }));
    expect(types).toEqual(["order"]);
    expect(after.parts.map((q) => q.id)).toEqual(["b", "a"]);
  });
  test("a change of what is not there is an error with its name", () => {
    const program = new Compiler().compile(base);
    expect(() => withChanges(program, [{ type: "seed", id: "gone", seed: 1 }])).toThrow(/no part "gone"/);
    expect(() => withChanges(program, [{ type: "order", ids: ["a", "gone"] }])).toThrow(/no part "gone"/);
    expect(() => withChanges(null, [])).toThrow(/needs a song/);
  });
});
