import { describe, expect, test } from "vitest";
import { demoProject } from "./demo";
import { newOscillator, newProject, newRoute, newShape } from "./defaults";
import { FILTER } from "./kinds/filter";
import { destinationsOf, possibleDestinations, routesInCircles, withCable, withEffect, withRouteSpan, withSettingsOf, withSource, withValueOnAll, withoutModule, withoutRoutes, withoutSongModule, withoutSound, withSwapped } from "./edit"; // prettier-ignore
import { adjusted, newModule } from "./kinds/kind";
import { checkPatch } from "./schema";
import type { Patch, Route } from "./project";

import { sourcesOf, targetAt, targetsOf } from "./targets";

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
    // However many amounts lie between, down to two that move each other: those are none.
    const chain = Array.from({ length: 5 }, (_, i) => newRoute(`r${i}`, "velocity", i === 0 ? "filter.cutoff" : `r${i - 1}.amount`, 1)); // prettier-ignore
    const chained = { ...patch, routes: chain };
    expect(targetAt(chained, [], "r4.amount")?.move).toMatchObject({ unit: "oct", reach: 8 });
    expect(targetsOf(chained, []).filter((t) => t.address.endsWith(".amount"))).toHaveLength(5);
    const circle = { ...patch, routes: [newRoute("a", "velocity", "b.amount", 1), newRoute("b", "velocity", "a.amount", 1)] }; // prettier-ignore
    expect(targetAt(circle, [], "a.amount")).toBeNull();
  });
  test("values of the song's modules are targets of every part, each its own", () => {
    const [slow, fast] = [newShape("slow", "Slow"), newShape("fast", "Fast")];
    expect(targetAt(patch, [slow, fast], "fast.rate")).toMatchObject({ of: "Fast" });
    expect(targetAt(patch, [slow, fast], "slow.rate")).toMatchObject({ of: "Slow" });
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
    const listens = adjusted(newOscillator("osc2", "Oscillator 2"), { data: { pmFrom: "osc", ringFrom: "osc3" } });
    const three = [listens, newOscillator("osc3", "Oscillator 3")].reduce(withSource, patch);
    const dataOf = (p: Patch) => p.modules.find((m) => m.id === "osc2")!.data;
    expect(dataOf(withoutModule(three, "osc"))).toMatchObject({ pmFrom: null, ringFrom: "osc3" });
    expect(dataOf(withoutModule(three, "osc3"))).toMatchObject({ pmFrom: "osc", ringFrom: null });
    expect(dataOf(withoutModule(three, "filter"))).toBe(listens.data);
  });
  test("a modulator of the song goes from every part: its routes, those to it, and what it scaled", () => {
    const project = { ...demo, modules: [newShape("tide", "Tide"), newShape("ebb", "Ebb")] };
    const routes = [
      newRoute("a", "tide", "filter.cutoff", 1),
      newRoute("b", "velocity", "tide.rate", 1),
      { ...newRoute("c", "velocity", "filter.cutoff", 1), scaledBy: "tide" },
      { ...newRoute("d", "ebb", "filter.cutoff", 1), scaledBy: "swell" },
    ];
    const parts = project.parts.map((p, i) => (i === 0 ? { ...p, patch: { ...p.patch, routes } } : p));
    const left = withoutSongModule({ ...project, parts }, "tide");
    expect(left.modules.map((m) => m.id)).toEqual(["ebb"]);
    expect(left.parts[0]!.patch.routes).toEqual([{ ...routes[2], scaledBy: null }, routes[3]]);
    // A part that had nothing of it is the same.
    for (let i = 1; i < parts.length; i++) expect(left.parts[i]!.patch).toBe(parts[i]!.patch);
    const only = { ...project, parts: parts.map((p, i) => (i === 0 ? { ...p, patch: { ...p.patch, routes: [routes[2]!] } } : p)) }; // prettier-ignore
    expect(withoutSongModule(only, "tide").parts[0]!.patch.routes).toEqual([{ ...routes[2], scaledBy: null }]);
    expect(withoutSongModule(left, "tide")).toBe(left);
  });
  test("two modules change places, and nothing else does", () => {
    const ids = patch.modules.map((m) => m.id);
    const [a, b] = [ids[1]!, ids[3]!];
    const swapped = withSwapped(patch, a, b);
    expect(swapped.modules.map((m) => m.id)).toEqual(ids.with(1, b).with(3, a));
    expect(withSwapped(swapped, a, b).modules).toEqual(patch.modules);
    for (const [x, y] of [[a, a], [a, "gone"], ["gone", b], [ids[0]!, "gone"]] as const) expect(withSwapped(patch, x, y)).toBe(patch); // prettier-ignore
    expect(withSwapped(patch, ids[0]!, ids[1]!).modules[0]!.id).toBe(ids[1]);
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
  test("the first effect stands right before the output, and all goes through it", () => {
    const bare: Patch = { ...patch, modules: patch.modules.filter((m) => m.kind !== "filter"), cables: [{ from: "osc", to: "amp" }] }; // prettier-ignore
    const made = withEffect(bare, newModule(FILTER, "new", "New", {}));
    const ids = made.modules.map((m) => m.id);
    expect(ids.indexOf("amp") - ids.indexOf("new")).toBe(1);
    expect(made.cables).toEqual([{ from: "osc", to: "new" }, { from: "new", to: "amp" }]); // prettier-ignore
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
    // No further than an amount goes: eight octaves, twice the amplitude.
    expect(after("cut", 20, 20_000)[1]).toBe(8);
    expect(after("cut", 20_000, 20)[1]).toBe(-8);
    expect([after("loud", -60, 6)[1], after("loud", -12, 6)[1]]).toEqual([100, 100]);
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
    // A modulator of the song is no module of the patch.
    expect(circle([newRoute("tide", "tide", "tide.rate", 1), newRoute("ebb", "tide", "ebb.rate", 1)])).toEqual([
      "tide",
    ]);
    // By the amount of a route, and by what scales one.
    expect(circle([newRoute("x", "s", "y.amount", 1), newRoute("y", "velocity", "s.rate", 1)])).toEqual(["x", "y"]);
    expect(circle([{ ...newRoute("z", "velocity", "s.rate", 1), scaledBy: "s" }])).toEqual(["z"]);
  });
});

describe("values of modules", () => {
  const { patch } = demoProject("d").parts[0]!;
  const more = withSource(patch, newOscillator("osc2", "Osc 2"));
  test("are set on all of a kind, and on nothing else", () => {
    const set = withValueOnAll(more, "oscillator", "detune", 33);
    expect(set.modules.map((m) => (m.kind === "oscillator" ? m.values.detune : null))).toEqual(more.modules.map((m) => (m.kind === "oscillator" ? 33 : null))); // prettier-ignore
    set.modules.forEach((m, i) => {
      if (m.kind === "oscillator")
        expect(m).toEqual({ ...more.modules[i], values: { ...more.modules[i]!.values, detune: 33 } }); // prettier-ignore
      else expect(m).toBe(more.modules[i]);
    });
  });
  test("are taken from another one of the kind, which keeps its name and its place", () => {
    const own = more.modules.find((m) => m.id === "osc2")!;
    const other = patch.modules.find((m) => m.id === "osc")!;
    const taken = withSettingsOf(more, "osc2", { ...other, on: false }).modules.find((m) => m.id === "osc2")!;
    expect(taken).toEqual({ ...other, id: "osc2", name: "Osc 2", on: own.on });
    expect(taken.values).not.toEqual(own.values);
    expect(
      withSettingsOf(
        more,
        "osc2",
        patch.modules.find((m) => m.kind === "filter")!,
      ).modules,
    ).toEqual(more.modules);
  });
});
