import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { arbitraryProject } from "../../../tests/support/arbitraryProject";
import { demoProject } from "./demo";
import { newProject } from "./defaults";
import { openProject, parseProjectFile, projectFileText } from "./migrate";
import { OTHER_PARAMETERS, VOICE_PARAMETERS, clampToParameter, fromNorm, moved, parameter, toNorm } from "./parameters";
import { formatAmount, formatValue, parseAmount, parseValue } from "./valueText";

const ALL = [...VOICE_PARAMETERS, ...OTHER_PARAMETERS].map((p) => parameter(p.id));

describe("the parameter table", () => {
  test("ids are unique, defaults lie in range", () => {
    expect(new Set(ALL.map((p) => p.id)).size).toBe(ALL.length);
    for (const p of ALL) expect(clampToParameter(p, p.default)).toBe(p.default);
  });
  test("a place on the scale is taken back", () => {
    for (const p of ALL) for (const n of [0, 0.25, 0.5, 1]) expect(toNorm(p, fromNorm(p, n))).toBeCloseTo(n, 9);
    expect(fromNorm(parameter("filter.cutoff"), 0.5)).toBeCloseTo(632.46, 2);
  });
  test("a NaN becomes the default", () => {
    expect(clampToParameter(parameter("filter.cutoff"), NaN)).toBe(1200);
  });
  test("amounts are in the target's unit", () => {
    expect(moved(parameter("filter.cutoff"), 420, 1)).toBe(840);
    expect(moved(parameter("filter.cutoff"), 420, 9)).toBe(20_000);
    expect(moved(parameter("amp.level"), -3, -9)).toBe(-12);
  });
});

describe("values as text", () => {
  test.each([
    ["filter.cutoff", "1.2k", 1200],
    ["filter.cutoff", "A3", 220],
    ["filter.cutoff", "420 Hz", 420],
    ["amp.level", "-6dB", -6],
    ["amp.level", "−6.0 dB", -6],
    ["amp.level", "off", -60],
    ["osc.unison", "3.4", 3],
    ["song.tempo", "999", 400],
    ["osc.phase", "90°", 90],
  ] as const)("%s reads %s", (id, text, value) => {
    expect(parseValue(parameter(id), text)).toBeCloseTo(value, 9);
  });
  test.each([
    ["filter.cutoff", "loud"],
    ["amp.level", "A3"],
    ["amp.level", "3 Hz"],
    ["osc.detune", ""],
  ] as const)("%s refuses %s", (id, text) => {
    expect(parseValue(parameter(id), text)).toBeNull();
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
        const opened = parseProjectFile(projectFileText(project));
        expect(opened).toEqual({ ok: true, project });
      }),
      { numRuns: 60 },
    );
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

  test("routes must name sources that exist and stay in reach; the amp envelope must be there", () => {
    const demo = demoProject("d");
    const part = demo.parts[0]!;
    const withPatch = (patch: object) =>
      openProject({ ...demo, parts: [{ ...part, patch: { ...part.patch, ...patch } }] });
    expect(withPatch({ routes: [{ ...part.patch.routes[0]!, source: "gone" }] })).toMatchObject({
      ok: false,
      path: "parts[0].patch.routes[0].source",
    });
    expect(withPatch({ routes: [{ ...part.patch.routes[0]!, amount: 99 }] })).toMatchObject({
      ok: false,
      path: "parts[0].patch.routes[0].amount",
    });
    expect(withPatch({ modulators: part.patch.modulators.slice(1), routes: [] })).toMatchObject({
      ok: false,
      path: "parts[0].patch.modulators",
    });
    for (const odd of [null, [], 3, "x"]) expect(openProject(odd)).toMatchObject({ ok: false });
  });
});
