import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { arbitraryProject } from "../../../tests/support/arbitraryProject";
import { BINARY, BYTES, HASH } from "../../../tests/support/recordings";
import { readFileSync } from "node:fs";
import { expectSame } from "../../../tests/support/same";
import { runs } from "../../../tests/support/runs";
import { demoProject } from "./demo";
import { newEnvelope, newOscillator, newProject, newRoute, newShape } from "./defaults";
import { KINDS, kindOf, modulesOf, type Module } from "./kinds";
import { AMP } from "./kinds/amp";
import { ENVELOPE } from "./kinds/envelope";
import { FILTER } from "./kinds/filter";
import { OSCILLATOR } from "./kinds/oscillator";
import { destinationsOf, mixOf, possibleDestinations, routesInCircles, withCable, withEffect, withRouteSpan, withSource, withoutModule, withoutRoutes, withoutSound } from "./edit"; // prettier-ignore
import { newModule } from "./kinds/kind";
import { withBinaries } from "./binaries";
import { RECORDING } from "./kinds/recording";
import { checkPatch } from "./schema";
import { parseProjectFile, projectFileText } from "../format/projectFile";
import { openProject } from "./migrate";
import type { Patch, Project, Route } from "./project";
import { clampToParameter, fromNorm, moved, toNorm, type Parameter } from "./row";
import { LANES } from "./lanes";
import { ARPEGGIO_ROWS, NOTE_ROWS, PART_ROWS, SONG_ROWS } from "./rows";
import { sourcesOf, targetAt, targetsOf } from "./targets";
import { formatAmount, formatValue, parseAmount, parseValue, spokenValue } from "./valueText";

const ALL: readonly Parameter[] = [
  ...KINDS.flatMap((k): Parameter[] => Object.values(k.rows)),
  ...Object.values(SONG_ROWS),
  ...Object.values(ARPEGGIO_ROWS),
  ...Object.values(NOTE_ROWS),
  ...Object.values(PART_ROWS),
  ...Object.values(LANES).map((lane) => lane.row),
];

describe("rows", () => {
  test("keys move a value by round figures that can be seen, and coarse ones are so many fine ones", () => {
    const isRound = (v: number): boolean => v === 15 || [1, 2, 5].includes(Number((v / 10 ** Math.floor(Math.log10(v) + 1e-9)).toFixed(9))); // prettier-ignore
    for (const p of ALL) {
      const shown = (by: number): string => formatValue(p, p.taper === "log" ? p.default * by : p.default + by);
      if (p.taper === "log") expect(p.step > p.fine && p.fine > 1 && p.step <= 1.25, p.label).toBe(true);
      else {
        expect(isRound(p.step) && isRound(p.fine), p.label).toBe(true);
        expect((p.step / p.fine) % 1, p.label).toBeCloseTo(0, 9);
      }
      expect(new Set([p.taper === "log" ? 1 : 0, p.fine, p.step].map(shown)).size, p.label).toBe(p.fine === p.step ? 2 : 3); // prettier-ignore
    }
  });
  test("defaults lie in range, whole ones are whole", () => {
    for (const p of ALL) {
      expect(clampToParameter(p, p.default)).toBe(p.default);
      if (p.whole) expect(Number.isInteger(p.default)).toBe(true);
    }
    for (const k of KINDS)
      for (const c of Object.values<{ options: readonly string[]; default: string }>(k.choices))
        expect(c.options).toContain(c.default);
  });
  test("a place on the scale is taken back", () => {
    for (const p of ALL) for (const n of [0, 0.25, 0.5, 1]) expect(toNorm(p, fromNorm(p, n))).toBeCloseTo(n, 9);
    expect(fromNorm(FILTER.rows.cutoff, 0.5)).toBeCloseTo(632.46, 2);
  });
  test("a NaN becomes the default", () => {
    expect(clampToParameter(FILTER.rows.cutoff, NaN)).toBe(1200);
  });
  test("amounts are in the target's unit", () => {
    expect(moved(FILTER.rows.cutoff, 420, 1)).toBe(840);
    expect(moved(FILTER.rows.cutoff, 420, 9)).toBe(20_000);
    expect(moved(AMP.rows.level, -3, -9)).toBe(-12);
  });
});

describe("targets and sources", () => {
  const demo = demoProject("d");
  const { patch } = demo.parts[0]!;
  test("every movable row and time of every module is a target, and every route's amount", () => {
    const addresses = targetsOf(patch, []).map((t) => t.address);
    for (const wanted of ["osc.pitch", "osc.detune", "filter.cutoff", "amp.pan", "swell.rate", "swell.phase", "swell.smoothing", "pluck.decay", "pluck.sustain", "swell-cutoff.amount"]) expect(addresses).toContain(wanted); // prettier-ignore
    expect(addresses).not.toContain("osc.octave");
    expect(new Set(addresses).size).toBe(addresses.length);
    expect(targetAt(patch, [], "osc.octave")).toBeNull();
    expect(targetAt(patch, [], "gone.cutoff")).toBeNull();
    expect(targetAt(patch, [], "filter.cutoff")).toMatchObject({ rest: 420, move: { unit: "oct", reach: 8 } });
  });
  test("an amount is moved in its own unit, within its own reach; percent of amplitude where it is that", () => {
    expect(targetAt(patch, [], "swell-cutoff.amount")).toMatchObject({ move: { unit: "oct", reach: 8 }, rest: 2.4 });
    const inPercent = {
      ...patch,
      routes: patch.routes.map((r) => (r.target === "amp.level" ? { ...r, amplitude: true } : r)),
    };
    expect(targetAt(inPercent, [], "velocity-level.amount")?.move).toMatchObject({ unit: "%", reach: 100 });
  });
  test("modulators of the song are sources of every part", () => {
    const tide = newShape("tide", "Tide");
    expect(sourcesOf(patch, [tide]).map((s) => s.id)).toEqual([
      "amp-envelope",
      "pluck",
      "swell",
      "oars",
      "tide",
      "velocity",
      "key",
      "copy",
      "freeA",
      "freeB",
      "held",
      "count",
      "wheel",
      "bend",
      "pressure",
    ]);
  });
  test("a module that goes takes its routes along, and those that moved their amounts", () => {
    const more: Patch = {
      ...patch,
      routes: [
        ...patch.routes,
        newRoute("deep", "velocity", "swell-cutoff.amount", 1),
        newRoute("deeper", "pluck", "deep.amount", 1),
        { ...newRoute("scaled", "pluck", "osc.pitch", 1), scaledBy: "swell" },
      ],
    };
    const left = withoutModule(more, "swell");
    expect(left.routes.map((r) => r.id)).toEqual(["pluck-cutoff", "oars-level", "velocity-level", "scaled"]);
    expect(left.routes.at(-1)!.scaledBy).toBeNull();
    expect(withoutModule(patch, "gone")).toBe(patch);
    expect(withoutRoutes(patch, () => false)).toBe(patch);
    expect(withoutModule(patch, "filter").cables).toEqual([]);
  });
});

describe("cables", () => {
  const patch = newProject("p", "P", 1).parts[0]!.patch;
  const osc = newOscillator("osc2", "Oscillator 2");
  const filter = newModule(FILTER, "filter2", "Filter 2", {});
  const cables = (p: typeof patch) => p.cables.map((c) => `${c.from}>${c.to}`).sort();
  const both = withEffect(withSource(patch, osc), filter);
  const valid = (p: typeof patch) => {
    const problems: string[] = [];
    checkPatch(p, [], (message) => problems.push(message));
    return problems;
  };
  test("a source goes where the first goes; an effect comes before the output; all of it is valid", () => {
    expect(cables(both)).toEqual(["filter2>amp", "filter>filter2", "osc2>filter", "osc>filter"]);
    expect(both.modules.map((m) => m.id)).toEqual([
      "osc",
      "osc2",
      "filter",
      "filter2",
      "amp",
      "part",
      "playing",
      "amp-envelope",
    ]);
    expect(valid(both)).toEqual([]);
  });
  test("destinations are chosen; the last one stays; none leads back", () => {
    expect(possibleDestinations(both, "osc2").map((m) => m.id)).toEqual(["filter", "filter2", "amp"]);
    expect(possibleDestinations(both, "filter2").map((m) => m.id)).toEqual(["amp"]);
    const dry = withCable(withCable(both, "osc2", "amp", true), "osc2", "filter", false);
    expect(destinationsOf(dry, "osc2")).toEqual(["amp"]);
    expect(withCable(dry, "osc2", "amp", false)).toBe(dry);
    expect(withCable(dry, "osc2", "amp", true)).toBe(dry);
    expect(valid(dry)).toEqual([]);
  });
  test("what goes leaves no gap: a filter's sources go on to where it went", () => {
    expect(cables(withoutSound(both, "filter"))).toEqual(["filter2>amp", "osc2>filter2", "osc>filter2"]);
    expect(cables(withoutSound(both, "osc"))).toEqual(["filter2>amp", "filter>filter2", "osc2>filter"]);
    expect(cables(withoutSound(withoutSound(both, "filter"), "filter2"))).toEqual(["osc2>amp", "osc>amp"]);
  });
});

describe("values as text", () => {
  test.each([
    [FILTER.rows.cutoff, "1.2k", 1200],
    [FILTER.rows.cutoff, "A3", 220],
    [FILTER.rows.cutoff, "420 Hz", 420],
    [AMP.rows.level, "-6dB", -6],
    [AMP.rows.level, "−6.0 dB", -6],
    [AMP.rows.level, "off", -60],
    [OSCILLATOR.rows.unison, "3.4", 3],
    [SONG_ROWS.tempo, "999", 400],
    [OSCILLATOR.rows.phase, "90°", 90],
    [NOTE_ROWS.velocity, "93/127", 93],
    [ENVELOPE.rows.sustain, "93/127", (100 * 93) / 127],
    [OSCILLATOR.rows.ratio, "3/2", 1.5],
    [OSCILLATOR.rows.ratio, "12 st", 2],
    [OSCILLATOR.rows.ratio, "1/64", 1 / 64],
  ] as const)("$0.label reads %s", (row, text, value) => {
    expect(parseValue(row, text)).toBeCloseTo(value, 9);
  });
  test.each([
    [FILTER.rows.cutoff, "loud"],
    [AMP.rows.level, "A3"],
    [AMP.rows.level, "3 Hz"],
    [OSCILLATOR.rows.detune, ""],
  ] as const)("$0.label refuses %s", (row, text) => {
    expect(parseValue(row, text)).toBeNull();
  });
  test("frequencies are told with the note that they are nearest to", () => {
    expect(spokenValue(FILTER.rows.cutoff, 440)).toBe("440 Hz, about A4");
    expect(spokenValue(FILTER.rows.cutoff, 110)).toBe("110 Hz, about A2");
    // F sharp 5, of the table of equal temperament, and a quarter of a tone less one cent above it.
    expect(spokenValue(FILTER.rows.cutoff, 739.99 * 2 ** (49 / 1200))).toContain(", about F♯5");
    expect(spokenValue(AMP.rows.level, -6)).toBe("−6.0 dB");
  });
  test("what is shown is read back", () => {
    for (const p of ALL) {
      const read = parseValue(p, formatValue(p, p.default));
      expect(read).toBeCloseTo(p.default, 6);
    }
  });
  test("signs and units", () => {
    expect(formatAmount(2.4, "oct", 2, true)).toBe("+2.40 oct");
    expect(formatAmount(-0.001, "dB", 1)).toBe("0.0 dB");
    expect(formatAmount(2217, "Hz", 0)).toBe("2.22 kHz");
    expect(parseAmount("7 st", "oct")).toBeCloseTo(7 / 12);
    expect(parseAmount("1.2 s", "ms")).toBe(1200);
  });
});

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
      runs(15),
    );
  });

  test("a document names what its modules refer to and nothing else, and is refused where it does not", () => {
    const project = newProject("n", "New", 1);
    const rope = newModule(RECORDING, "rope", "Rope", { recording: HASH });
    const part = project.parts[0]!;
    const patch = withSource(part.patch, rope);
    const playing = { ...project, parts: [{ ...part, patch }] };
    expect(openProject(playing)).toMatchObject({ ok: false, path: "binaries" });
    const named = withBinaries(playing, (hash) => (hash === HASH ? BINARY : null));
    expect(named.binaries).toEqual([BINARY]);
    expect(openProject(named)).toMatchObject({ ok: true });
    expect(withBinaries(named, () => null)).toBe(named);
    expect(withBinaries({ ...named, parts: project.parts }, () => null).binaries).toEqual([]);
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
    [(p: Record<string, unknown>) => ({ ...p, name: "" }), "name"],
    [(p: Record<string, unknown>) => ({ ...p, seed: -1 }), "seed"],
    [(p: Record<string, unknown>) => ({ ...p, song: { ...(p["song"] as object), tempoBpm: 1000 } }), "song.tempoBpm"],
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

describe("files of version 1", () => {
  const files = JSON.parse(readFileSync("tests/fixtures/projects-v1.json", "utf8")) as Record<string, unknown>[];
  test("open, with every value where it is now", () => {
    for (const file of files) {
      const opened = openProject(file);
      if (!opened.ok) throw new Error(`${opened.path}: ${opened.reason}`);
      expect(opened.project.version).toBe(2);
      // What was opened is a document of today.
      expect(openProject(JSON.parse(JSON.stringify(opened.project)))).toEqual(opened);
    }
    const { project } = openProject(files[0]) as { project: Project };
    const { patch } = project.parts[0]!;
    expect(modulesOf(patch.modules, FILTER)[0]).toMatchObject({
      values: { cutoff: 420, resonance: 34, keyFollow: 40 },
      choices: { type: "lp24" },
    });
    expect(modulesOf(patch.modules, OSCILLATOR)[0]).toMatchObject({
      values: { octave: 1, unison: 5 },
      choices: { start: "random" },
    });
    const envelope = modulesOf(patch.modules, AMP)[0]!.data.envelope;
    expect(patch.modules.find((m) => m.id === envelope)).toMatchObject({
      name: "Amp",
      values: { sustain: 45 },
      times: { decay: { unit: "ms", ms: 420 } },
    });
    expect(patch.routes.map((r) => [r.source, r.target, r.amount, r.reversed])).toEqual([
      ["swell", "filter.cutoff", 2.4, false],
      ["pluck", "filter.cutoff", 1.8, false],
      ["swell", "filter.resonance", 14, false],
      ["velocity", "amp.level", -18, true],
    ]);
    expect(patch.cables).toEqual([{ from: "osc", to: "filter" }, { from: "filter", to: "amp" }]); // prettier-ignore
  });

  test("ids that were any text become plain and stay apart", () => {
    const text = JSON.stringify(files[1]).replaceAll('"pluck"', '"osc"');
    const odd = JSON.parse(text.replaceAll('"id":"a"', '"id":"a route.of many"')) as unknown;
    const opened = openProject(odd);
    if (!opened.ok) throw new Error(`${opened.path}: ${opened.reason}`);
    const { patch } = opened.project.parts[0]!;
    expect(patch.routes[0]!.source).toBe("osc-2");
    expect(patch.modules.find((m) => m.id === "osc-2")?.name).toBe("Pluck");
  });

  test("a damaged one is refused with its path before anything is made of it", () => {
    const damage = (change: (file: { parts: { patch: Record<string, unknown> }[] }) => void) => {
      const file = structuredClone(files[0]) as unknown as { parts: { patch: Record<string, unknown> }[] };
      change(file);
      return openProject(file);
    };
    expect(damage((f) => delete f.parts[0]!.patch["values"])).toMatchObject({
      ok: false,
      path: "parts[0].patch.values",
    });
    expect(damage((f) => (f.parts[0]!.patch["modulators"] = 7))).toMatchObject({
      ok: false,
      path: "parts[0].patch.modulators",
    });
    expect(damage((f) => (f.parts = []))).toMatchObject({ ok: false, path: "parts" });
  });
});

describe("a route from where to where", () => {
  const patch: Patch = {
    ...newProject("n", "New", 1).parts[0]!.patch,
    routes: [
      newRoute("cut", "amp-envelope", "filter.cutoff", 1),
      newRoute("res", "amp-envelope", "filter.resonance", 1),
      { ...newRoute("loud", "amp-envelope", "amp.level", 1), amplitude: true },
      newRoute("time", "velocity", "amp-envelope.decay", 1),
    ],
  };
  const after = (id: string, from: number, to: number) => {
    const p = withRouteSpan(patch, id, from, to);
    const [owner, key] = p.routes.find((r) => r.id === id)!.target.split(".") as [string, string];
    const values: Readonly<Record<string, number>> = p.modules.find((m) => m.id === owner)!.values;
    return [values[key], p.routes.find((r) => r.id === id)!.amount];
  };
  test("rests at the one end and leads to the other, in the unit of its target", () => {
    expect(after("cut", 250, 2000)).toEqual([250, 3]);
    expect(after("cut", 2000, 250)).toEqual([2000, -3]);
    expect(after("res", 13, 95)).toEqual([13, 82]);
    // Half of an amplitude lies 6.02 dB lower.
    expect(after("loud", -6, -6 - 6.0206)[1]).toBeCloseTo(-50, 3);
    expect(withRouteSpan(patch, "time", 1, 2)).toBe(patch);
    expect(withRouteSpan(patch, "none", 1, 2)).toBe(patch);
  });

  test("routes in a circle are told from those that only lead there", () => {
    const shape = newShape("s", "S");
    const modules = [...patch.modules, shape, newShape("t", "T")];
    const circle = (routes: Route[]) => [...routesInCircles({ ...patch, modules, routes })].sort();
    const a = newRoute("a", "s", "t.rate", 1);
    const b = newRoute("b", "t", "s.rate", 1);
    const led = newRoute("led", "velocity", "s.phase", 1);
    expect(circle([a, led])).toEqual([]);
    expect(circle([a, b, led])).toEqual(["a", "b"]);
    expect(circle([a, { ...b, on: false }])).toEqual([]);
    expect(circle([newRoute("own", "s", "s.rate", 1)])).toEqual(["own"]);
    // By the amount of a route, and by what scales one.
    expect(circle([newRoute("x", "s", "y.amount", 1), newRoute("y", "velocity", "s.rate", 1)])).toEqual(["x", "y"]);
    expect(circle([{ ...newRoute("z", "velocity", "s.rate", 1), scaledBy: "s" }])).toEqual(["z"]);
  });
});
