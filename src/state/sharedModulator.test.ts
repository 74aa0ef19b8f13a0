import { describe, expect, test } from "vitest";
import { compileProject } from "@/core/engine/compile";
import { renderNow } from "@/core/engine/render";
import { withAutomation } from "@/core/patch/automation";
import { newRandom, newRoute } from "@/core/patch/defaults";
import { demoProject } from "@/core/patch/demo";
import { whyNotShared, withOwned, withShared } from "@/core/patch/edit";
import { openProject } from "@/core/patch/migrate";
import type { Part, Project } from "@/core/patch/project";
import { removeModule, setField } from "./edits";

describe("a modulator that all parts share", () => {
  const demo = demoProject("shared");
  const [first] = demo.parts;
  const twin: Part = { ...first!, id: "twin", name: "Twin" };
  const base: Project = { ...demo, parts: [first!, twin] };
  const shared = withShared(base, first!.id, "swell", "tide");

  test("moves what it moved, under an id of its own; a copy of the part keeps its own one", () => {
    expect(openProject(JSON.parse(JSON.stringify(shared)))).toMatchObject({ ok: true });
    expect(shared.modules.map((m) => m.id)).toEqual(["tide"]);
    const [part, copy] = shared.parts;
    expect(part!.patch.modules.some((m) => m.id === "swell")).toBe(false);
    expect(part!.patch.routes.filter((r) => r.source === "tide")).toHaveLength(first!.patch.routes.filter((r) => r.source === "swell").length); // prettier-ignore
    expect(copy).toBe(twin);
    // It sounds as before.
    const sound = (p: Project): Float32Array =>
      renderNow(compileProject(p, first!.id), { sampleRate: 48_000, bars: 1, tail: "cut" }).left;
    const [a, b] = [sound(base), sound(shared)];
    expect(Math.max(...a.map((v, i) => Math.abs(v - b[i]!)))).toBeLessThan(1e-6);
  });

  test("is edited from any part, and what is drawn by chance is the same in all of them", () => {
    const edited = setField("twin", "tide", "values", "phase", 90)(shared);
    expect(edited.modules[0]!.values).toMatchObject({ phase: 90 });
    expect(edited.parts).toBe(shared.parts);
    const dice = { ...newRandom("dice", "Dice"), times: { rate: { unit: "note", num: 1, den: 16 } } } as const;
    const random: Project = { ...base, modules: [dice] };
    const op = (part: string) => {
      const { sound } = compileProject(random, part).parts[0]!;
      return sound.motion.shared.find((o) => o.id === "dice");
    };
    expect(op("twin")).toEqual(op(first!.id));
  });

  test("goes back to one part; removed, no part is moved by it", () => {
    const other = { ...shared, parts: [shared.parts[0]!, { ...twin, patch: { ...twin.patch, routes: [...twin.patch.routes, newRoute("more", "tide", "osc.pitch", 1)] } }] }; // prettier-ignore
    const back = withOwned(other, first!.id, "tide");
    expect(back.modules).toEqual([]);
    expect(back.parts[0]!.patch.modules.at(-1)!.id).toBe("tide");
    expect(back.parts[1]!.patch.routes.some((r) => r.source === "tide")).toBe(false);
    const gone = removeModule("twin", "tide")(other);
    expect(gone.modules).toEqual([]);
    expect(gone.parts.flatMap((p) => p.patch.routes).some((r) => r.source === "tide")).toBe(false);
    for (const p of [back, gone]) expect(openProject(JSON.parse(JSON.stringify(p)))).toMatchObject({ ok: true });
  });

  test("what shapes the level, is automated or is shared already is not shared", () => {
    expect(whyNotShared(base, first!.id, "amp-envelope")).toMatch(/level/);
    const automated = withAutomation(first!.patch, "swell.phase", "line", demo.song);
    expect(whyNotShared({ ...base, parts: [{ ...first!, patch: automated }] }, first!.id, "swell")).toMatch(/automated/); // prettier-ignore
    expect(withShared(base, first!.id, "amp-envelope", "x")).toBe(base);
    expect(whyNotShared(base, first!.id, "swell")).toBeNull();
    expect(whyNotShared(shared, first!.id, "tide")).toMatch(/already/);
  });
});
