import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { arbitraryProject } from "../../../tests/support/arbitraryProject";
import { BINARY, BYTES, HASH } from "../../../tests/support/recordings";
import { expectSame } from "../../../tests/support/same";
import { runs } from "../../../tests/support/runs";
import { demoProject } from "./demo";
import { newEnvelope, newProject, newRoute, newShape, newSteps } from "./defaults";
import { kindOf, modulesOf, type Module } from "./kinds";
import { FILTER } from "./kinds/filter";
import { mixOf, withSource } from "./edit"; // prettier-ignore
import { newModule } from "./kinds/kind";
import { PLAIN_MAPPING } from "../pitch/tuning";
import { MAX_TICK } from "../time/noteValue";
import { withBinaries } from "./binaries";
import { isNote } from "./schema";
import { RECORDING } from "./kinds/recording";
import { parseProjectFile, projectFileText } from "../format/projectFile";
import { openProject } from "./migrate";
import type { Project, Route } from "./project";

describe("project files", () => {
  test("the demo and a new project are valid, and any valid project is read back as it was", () => {
    expect(openProject(demoProject("d"))).toMatchObject({ ok: true });
    expect(openProject(newProject("n", "New", 1))).toMatchObject({ ok: true });
    fc.assert(
      fc.property(arbitraryProject, (project) => {
        const content = new Map(project.binaries.map(({ hash }) => [hash, BYTES]));
        const opened = parseProjectFile(projectFileText(project, content));
        expectSame(opened, { ok: true, project, content });
      }),
      runs(16),
    );
  });

  test("a document names what its modules refer to and nothing else, and is refused where it does not", () => {
    const project = newProject("n", "New", 1);
    const rope = newModule(RECORDING, "rope", "Rope", { recording: HASH });
    const part = project.parts[0]!;
    const patch = withSource(part.patch, rope);
    const playing = { ...project, parts: [{ ...part, patch }] };
    expect(openProject(playing)).toEqual({ ok: false, path: "binaries", reason: `a source plays the recording ${HASH.slice(0, 8)}, which is not there` }); // prettier-ignore
    const named = withBinaries(playing, (hash) => (hash === HASH ? BINARY : null));
    expect(named.binaries).toEqual([BINARY]);
    expect(openProject(named)).toMatchObject({ ok: true });
    expect(withBinaries(named, () => null)).toBe(named);
    expect(withBinaries({ ...named, parts: project.parts }, () => null).binaries).toEqual([]);
    // What is not known stays unnamed: the document is then as it was.
    const both = { ...named, parts: [{ ...part, patch: withSource(patch, newModule(RECORDING, "chain", "Chain", { recording: "a".repeat(64) })) }], binaries: [BINARY] }; // prettier-ignore
    const known = withBinaries(both, () => null);
    expect(known).toBe(both);
    const full = { ...named, binaries: [{ ...BINARY, bytes: 40_000_000 }] };
    expect(openProject(full).ok).toBe(true);
    const heavy = { ...named, binaries: [{ ...BINARY, bytes: 40_000_001 }] };
    expect(openProject(heavy)).toMatchObject({ ok: false, path: "binaries" });
  });

  test("any cut of a file is refused with a reason", () => {
    const text = projectFileText(demoProject("d"));
    for (let at = 0; at < text.trimEnd().length; at += 97) {
      const opened = parseProjectFile(text.slice(0, at));
      expect(opened.ok).toBe(false);
      if (!opened.ok) expect(opened.reason.length).toBeGreaterThan(10);
    }
  });

  test.each([
    [(p: Record<string, unknown>) => ({ ...p, format: "other" }), "format"],
    [(p: Record<string, unknown>) => ({ ...p, version: 99 }), "version"],
    [(p: Record<string, unknown>) => ({ ...p, version: "1" }), "version"],
    [(p: Record<string, unknown>) => ({ ...p, version: 1.5 }), "version"],
    [(p: Record<string, unknown>) => ({ ...p, version: 0 }), "version"],
    [(p: Record<string, unknown>) => ({ ...p, version: null }), "version"],
    [(p: Record<string, unknown>) => ({ ...p, name: "" }), "name"],
    [(p: Record<string, unknown>) => ({ ...p, seed: -1 }), "seed"],
    [(p: Record<string, unknown>) => ({ ...p, song: { ...(p["song"] as object), tempoBpm: 1000 } }), "song.tempoBpm"],
    [
      (p: Record<string, unknown>) => ({
        ...p,
        song: { ...(p["song"] as object), tuning: { ...PLAIN_MAPPING, name: "T", cents: [1200], referenceHz: 20_001 } },
      }),
      "song.tuning.referenceHz",
    ],
    [
      (p: Record<string, unknown>) => ({
        ...p,
        song: { ...(p["song"] as object), tuning: { ...PLAIN_MAPPING, name: "T", cents: [24_001] } },
      }),
      "song.tuning.cents[0]",
    ],
    [(p: Record<string, unknown>) => ({ ...p, parts: [] }), "parts"],
  ])("damage is told with its path (%#)", (damage, path) => {
    const opened = openProject(damage(demoProject("d") as unknown as Record<string, unknown>));
    expect(opened).toMatchObject({ ok: false, path });
  });

  const demo = demoProject("d");
  const part = demo.parts[0]!;
  const withPatch = (patch: object) =>
    openProject({ ...demo, parts: [{ ...part, patch: { ...part.patch, ...patch } }] });
  const [first, ...others] = part.patch.routes as [Route, ...Route[]];
  const { modules, cables } = part.patch;

  test.each([
    ["a source that is not there", { routes: [{ ...first, source: "gone" }] }, "routes[0].source"],
    ["a scaling source that is not there", { routes: [{ ...first, scaledBy: "gone" }] }, "routes[0].scaledBy"],
    ["an amount out of reach", { routes: [{ ...first, amount: 99 }] }, "routes[0].amount"],
    ["percent of amplitude on a cutoff", { routes: [{ ...first, amplitude: true }] }, "routes[0].amplitude"],
    ["a target that does not exist", { routes: [{ ...first, target: "filter.colour" }] }, "routes[0].target"],
    ["a target that is not movable", { routes: [{ ...first, target: "osc.octave" }] }, "routes[0].target"],
    ...[
      [0.1, 0.5, 1],
      [0, 0.5, 0.9],
      [0, 0.7, 0.6, 1],
    ].map((xs): [string, object, string] => [
      `a curve whose points lie at ${xs.join(", ")}`,
      { routes: [{ ...first, curve: xs.map((x) => ({ x, y: 0, tension: 0 })) }] },
      "routes[0].curve",
    ]),
    ["two of one id", { routes: [first, ...others, first] }, "modules"],
    [
      "the name of a note's source",
      { modules: [...modules, newShape("velocity", "V")] },
      `modules[${modules.length}].id`,
    ],
    ["no amp", { modules: modules.filter((m) => m.kind !== "amp"), cables: [], routes: [] }, "modules"],
    [
      "an amp without its envelope",
      { modules: modules.filter((m) => m.id !== "amp-envelope") },
      "modules[2].data.envelope",
    ],
    [
      "more modulators than a part holds, few of each kind",
      {
        modules: [
          ...modules,
          ...Array.from({ length: 16 }, (_, i) => newShape(`s${i}`, "S")),
          ...Array.from({ length: 16 }, (_, i) => newSteps(`t${i}`, "T")),
        ],
      },
      "modules",
    ],
    ["a cable from a modulator", { cables: [...cables, { from: "swell", to: "filter" }] }, "cables[2].from"],
    ["a cable into a source", { cables: [...cables, { from: "filter", to: "osc" }] }, "cables[2].to"],
    ["a cable twice", { cables: [...cables, cables[0]] }, "cables[2]"],
    [
      "a circle",
      {
        modules: [...modules, { ...modulesOf(modules, FILTER)[0]!, id: "filter2" }],
        cables: [...cables, { from: "filter", to: "filter2" }, { from: "filter2", to: "filter" }],
      },
      "modules[1]",
    ],
    [
      "more envelopes than a part holds",
      { modules: [...modules, ...Array.from({ length: 33 }, (_, i) => newEnvelope(`e${i}`, "E"))] },
      "modules",
    ],
    [
      "a value out of range",
      { modules: modules.map((m) => (m.kind === "filter" ? { ...m, values: { ...m.values, cutoff: 5 } } : m)) },
      "modules[1].values.cutoff",
    ],
    ["an id with a dot", { modules: [...modules, newShape("a.b", "A")] }, `modules[${modules.length}].id`],
  ])("refused, with its path: %s", (_what, patch, path) => {
    expect(withPatch(patch)).toMatchObject({ ok: false, path: `parts[0].patch.${path}` });
  });

  test("a part follows one that is there and plays its own pattern", () => {
    const part = demo.parts[0]!;
    const after = (of: string, id = "after") => ({ ...part, id, follows: { part: of, semitones: 0, later: null, linked: false } }); // prettier-ignore
    const opened = (...more: object[]) => openProject({ ...demo, parts: [part, ...more] });
    expect(opened(after(part.id)).ok).toBe(true);
    expect([opened(after("nobody")), opened(after(part.id), after("after", "third"))].map((o) => o.ok || o.path)).toEqual(["parts[1].follows.part", "parts[2].follows.part"]); // prettier-ignore
  });
  test("what is not a document is refused; a song holds modulators only", () => {
    for (const odd of [null, [], 3, "x"]) expect(openProject(odd)).toMatchObject({ ok: false });
    expect(openProject({ ...demo, modules: [{ ...modules[0]!, id: "x" }] })).toMatchObject({
      ok: false,
      path: "modules[0].kind",
    });
  });

  test("values, choices, times and whole fields that a file lacks take the defaults of their rows", () => {
    const bare = {
      ...demo,
      modules: undefined,
      binaries: undefined,
      parts: [
        {
          ...part,
          patch: {
            modules: [
              { id: "o", kind: "oscillator", name: "O", values: { detune: 3 } },
              { id: "a", kind: "amp", name: "A", data: { envelope: "e" } },
              { id: "e", kind: "envelope", name: "E", times: { decay: { unit: "ms", ms: 7 } } },
              {
                id: "s",
                kind: "shape",
                name: "S",
                data: {
                  points: [
                    { x: 0, y: 1 },
                    { x: 1, y: 0 },
                  ],
                },
              },
            ],
            cables: [{ from: "o", to: "a" }],
            routes: [{ id: "r", source: "s", target: "o.pitch", amount: 5 }],
          },
        },
      ],
    };
    const opened = openProject(JSON.parse(JSON.stringify(bare)));
    if (!opened.ok) throw new Error(`${opened.path}: ${opened.reason}`);
    const { patch } = opened.project.parts[0]!;
    for (const m of patch.modules) {
      const kind = kindOf(m);
      expect(Object.keys(m.values).sort()).toEqual(Object.keys(kind.rows).sort());
      expect(Object.keys(m.times).sort()).toEqual(Object.keys(kind.times).sort());
    }
    expect(patch.modules[0]).toMatchObject({
      on: true,
      values: { detune: 3, unison: 1, width: 60 },
      choices: { wave: "saw" },
    });
    expect(patch.modules.find((m) => m.id === "e")).toMatchObject({ times: { decay: { ms: 7 }, attack: { ms: 2 } } });
    expect(patch.routes[0]).toEqual(newRoute("r", "s", "o.pitch", 5));
  });

  test("where an older file says how loud a part is and where, a module says so once it is open", () => {
    const [rigging, ...others] = demoProject("d").parts;
    const { patch } = rigging!;
    const without = { ...patch, modules: patch.modules.filter((m) => m.kind !== "mix") };
    const open = (mix: object, modules: readonly Module[] = without.modules) => {
      const part = { ...rigging!, mix: { mute: true, solo: false, ...mix }, patch: { ...without, modules } };
      return openProject(JSON.parse(JSON.stringify({ ...demoProject("d"), parts: [part, ...others] })));
    };
    const partOf = (opened: ReturnType<typeof open>) => (opened as { project: Project }).project.parts[0]!;
    const read = partOf(open({ level: -7.5, pan: 20 }));
    expect(read.mix).toEqual({ mute: true, solo: false });
    expect(mixOf(read.patch)).toMatchObject({ id: "part", values: { level: -7.5, pan: 20 } });
    expect(read.patch.modules.map((m) => m.id)).toEqual(patch.modules.map((m) => m.id));
    expect(mixOf(partOf(open({})).patch)!.values).toEqual({ level: 0, pan: 0 });
    // A name that is taken stays with who has it; what has the module already is not asked twice.
    expect(mixOf(partOf(open({ level: 3 }, [...without.modules, newShape("part", "Part")])).patch)).toMatchObject({ id: "part2", values: { level: 3 } }); // prettier-ignore
    expect(mixOf(partOf(open({ level: 3 }, patch.modules)).patch)).toEqual(mixOf(patch));
    expect(open({ level: 99 })).toMatchObject({ ok: false, path: "parts[0].mix.level" });
  });
});

test("a note is one at the borders of what it may be, and none past them", () => {
  const one = { id: "n", startTick: 0, lengthTicks: 1, key: 60, velocity: 100 };
  const good = [{}, { id: "x".repeat(64) }, { startTick: MAX_TICK, lengthTicks: MAX_TICK }, { key: 0 }, { key: 127 }, { velocity: 1 }, { velocity: 127 }, { chance: 0 }, { chance: 100 }]; // prettier-ignore
  const bad = [{ id: "" }, { id: "x".repeat(65) }, { startTick: -1 }, { startTick: MAX_TICK + 1 }, { lengthTicks: 0 }, { lengthTicks: MAX_TICK + 1 }, { key: -1 }, { key: 128 }, { velocity: 0 }, { velocity: 128 }, { chance: -1 }, { chance: 101 }, { chance: 50.5 }, { key: 60.5 }]; // prettier-ignore
  const project = demoProject("d");
  const opens = (note: object): boolean => openProject({ ...project, parts: [{ ...project.parts[0]!, notes: [note] }] }).ok; // prettier-ignore
  for (const more of good) expect([isNote({ ...one, ...more }), opens({ ...one, ...more })]).toEqual([true, true]);
  for (const more of bad) expect([isNote({ ...one, ...more }), opens({ ...one, ...more })]).toEqual([false, false]);
});
