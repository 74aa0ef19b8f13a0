import { describe, expect, test } from "vitest";
import { readFileSync } from "node:fs";
import { modulesOf } from "./kinds";
import { AMP } from "./kinds/amp";
import { FILTER } from "./kinds/filter";
import { OSCILLATOR } from "./kinds/oscillator";
import { openProject } from "./migrate";
import type { Project } from "./project";

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
    const withPoints = (...xs: number[]) =>
      damage((f) => {
        const shape = (f.parts[0]!.patch["modulators"] as Record<string, unknown>[]).find((m) => "points" in m)!;
        shape["points"] = xs.map((x) => ({ x, y: 0.5, tension: 0 }));
      });
    expect(withPoints(0, 0.5, 0.5, 1).ok).toBe(true);
    const ends = "the first point must be at x 0 and the last at x 1";
    // Its own place, not one of the document that would be made of it.
    const path = "parts[0].patch.modulators[2].points";
    expect(withPoints(0.1, 1)).toEqual({ ok: false, path, reason: ends });
    expect(withPoints(0, 0.9)).toEqual({ ok: false, path, reason: ends });
    expect(withPoints(0, 0.6, 0.5, 1)).toEqual({ ok: false, path, reason: "points must be in order of x" });
    // Without the envelope of the level.
    const headless = damage((f) => (f.parts[0]!.patch["modulators"] = (f.parts[0]!.patch["modulators"] as unknown[]).slice(1))); // prettier-ignore
    expect(headless).toEqual({ ok: false, path: "parts[0].patch.modulators", reason: 'an envelope with the id "amp" is needed' }); // prettier-ignore
    // Names that become one are kept apart, and routes go on from their own.
    const alike = structuredClone(files[0]) as {
      parts: { patch: { modulators: { id: string }[]; routes: { source: string }[] } }[];
    };
    const [first, second] = alike.parts[0]!.patch.modulators.slice(1) as [{ id: string }, { id: string }];
    for (const [m, id] of [
      [first, "my shape"],
      [second, "my-shape"],
    ] as const) {
      for (const r of alike.parts[0]!.patch.routes) if (r.source === m.id) r.source = id;
      m.id = id;
    }
    const both = openProject(alike) as { project: Project };
    expect(both.project.parts[0]!.patch.modules.map((m) => m.id)).toEqual(
      expect.arrayContaining(["my-shape", "my-shape-2"]),
    );
    type V1 = { modulators: { id: string }[]; routes: { source: string }[] };
    const patchIn = (f: { parts: { patch: unknown }[] }): V1 => f.parts[0]!.patch as V1;
    expect(damage((f) => void patchIn(f).modulators.push(patchIn(f).modulators.at(-1)!))).toEqual({ ok: false, path: "parts[0].patch.modulators", reason: "two modulators have the same id" }); // prettier-ignore
    expect(damage((f) => (patchIn(f).routes[2]!.source = "gone"))).toEqual({ ok: false, path: "parts[0].patch.routes[2].source", reason: 'the source "gone" does not exist' }); // prettier-ignore
    expect(damage((f) => (f.parts = []))).toMatchObject({ ok: false, path: "parts" });
  });

  test("every value keeps the range that it had then", () => {
    const whole = 1;
    const fine = 0.001;
    const patch = "parts.0.patch";
    const ranges: readonly (readonly [path: string, least: number, most: number, step: number])[] = [
      ["song.tempoBpm", 20, 400, fine],
      ["song.meter.beats", 1, 32, whole],
      ["song.loopBars", 1, 32, whole],
      ["song.swing.percent", 50, 75, fine],
      ["song.key.tonic", 0, 11, whole],
      ["outputTrim", -24, 12, fine],
      ["seed", 0, 4_294_967_295, whole],
      ["parts.0.notes.0.startTick", 0, 7_864_320, whole],
      ["parts.0.notes.0.lengthTicks", 1, 7_864_320, whole],
      ["parts.0.notes.0.key", 0, 127, whole],
      ["parts.0.notes.0.velocity", 1, 127, whole],
      ["parts.0.arpeggio.octaves", 1, 4, whole],
      ["parts.0.arpeggio.rate.num", 1, 96, whole],
      ["parts.0.arpeggio.rate.den", 1, 192, whole],
      ["parts.0.arpeggio.gate", 1, 200, fine],
      ["parts.0.arpeggio.swing", 50, 75, fine],
      ["parts.0.arpeggio.length", 1, 64, whole],
      [`${patch}.values.osc\\octave`, -4, 4, fine],
      [`${patch}.values.osc\\pitch`, -24, 24, fine],
      [`${patch}.values.osc\\fine`, -100, 100, fine],
      [`${patch}.values.osc\\pulseWidth`, 5, 95, fine],
      [`${patch}.values.osc\\unison`, 1, 16, fine],
      [`${patch}.values.osc\\detune`, 0, 100, fine],
      [`${patch}.values.osc\\width`, 0, 100, fine],
      [`${patch}.values.osc\\phase`, 0, 360, fine],
      [`${patch}.values.filter\\cutoff`, 20, 20_000, fine],
      [`${patch}.values.filter\\resonance`, 0, 100, fine],
      [`${patch}.values.filter\\keyFollow`, 0, 150, fine],
      [`${patch}.values.amp\\level`, -60, 6, fine],
      [`${patch}.values.amp\\pan`, -100, 100, fine],
      [`${patch}.modulators.0.attack.ms`, 0, 60_000, fine],
      [`${patch}.modulators.0.decay.ms`, 0, 60_000, fine],
      [`${patch}.modulators.0.release.ms`, 0, 60_000, fine],
      [`${patch}.modulators.0.sustain`, 0, 100, fine],
      [`${patch}.modulators.0.attackCurve`, -100, 100, fine],
      [`${patch}.modulators.0.decayCurve`, -100, 100, fine],
      [`${patch}.modulators.0.releaseCurve`, -100, 100, fine],
      [`${patch}.modulators.2.rate.num`, 1, 96, whole],
      [`${patch}.modulators.2.rate.den`, 1, 192, whole],
      [`${patch}.modulators.2.phase`, 0, 360, fine],
      [`${patch}.modulators.2.smoothing`, 0, 200, fine],
      [`${patch}.modulators.2.points.1.y`, 0, 1, fine],
      [`${patch}.modulators.2.points.1.tension`, -100, 100, fine],
      // To the cutoff, the resonance and the level.
      [`${patch}.routes.1.amount`, -8, 8, fine],
      [`${patch}.routes.2.amount`, -100, 100, fine],
      [`${patch}.routes.3.amount`, -60, 60, fine],
    ];
    /** Where a file is refused in which this value stands; null where it opens. */
    const refused = (path: string, value: number): string | null => {
      const file = structuredClone(files[0]);
      const keys = path.split(".").map((key) => key.replace("\\", "."));
      const owner = keys.slice(0, -1).reduce<unknown>((at, key) => (at as Record<string, unknown>)[key], file);
      (owner as Record<string, unknown>)[keys.at(-1)!] = value;
      const opened = openProject(file);
      return opened.ok ? null : opened.path;
    };
    // Amounts of routes to what the file has none to.
    for (const [target, reach] of [
      ["osc.pitch", 48],
      ["amp.pan", 200],
    ] as const)
      for (const [amount, opens] of [
        [-reach, true],
        [reach, true],
        [reach + 0.001, false],
        [-reach - 0.001, false],
      ] as const) {
        const file = structuredClone(files[0]) as {
          parts: { patch: { routes: { target: string; amount: number }[] } }[];
        };
        Object.assign(file.parts[0]!.patch.routes[2]!, { target, amount });
        const opened = openProject(file);
        expect(opened.ok ? "opens" : opened.path).toBe(opens ? "opens" : "parts[0].patch.routes[2].amount");
      }
    for (const [path, least, most, step] of ranges) {
      const place = path.replaceAll(/\.(\d+)/g, "[$1]").replace("\\", ".");
      expect([least - step, least, most, most + step].map((value) => refused(path, value))).toEqual([place, null, null, place]); // prettier-ignore
    }
  });
});
