import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { arbitraryProject } from "../../tests/support/arbitraryProject";
import { makeProject, note } from "../../tests/support/projects";
import { runs } from "../../tests/support/runs";
import { demoProject } from "@/core/patch/demo";
import { newRoute, newShape } from "@/core/patch/defaults";
import { newLane } from "@/core/patch/lanes";
import { openProject } from "@/core/patch/migrate";
import { MAX_NOTES, MAX_ROUTES, type Project } from "@/core/patch/project";
import { partEvents } from "@/core/pattern/events";
import {
  editLane,
  editNotes,
  freezeArpeggio,
  lengthenLoop,
  pasteModulator,
  removeModule,
  removeRoute,
  renameModule,
  setField,
} from "./edits";

let count = 0;
const newId = (): string => `made-${count++}`;
/** Whether it can be read back, by the check of whole documents. */
const opens = (p: Project): boolean => openProject(JSON.parse(JSON.stringify(p))).ok;

describe("edits of any project", () => {
  test("leave a document that can be read back, and what they do not touch as the same objects", () => {
    fc.assert(
      fc.property(arbitraryProject, fc.nat(), (project, n) => {
        const part = project.parts[n % project.parts.length]!;
        const module = part.patch.modules[n % part.patch.modules.length]!;
        for (const edit of [
          renameModule(part.id, module.id, "Bollard"),
          editNotes(part.id, (notes) => notes.slice(1)),
          freezeArpeggio(part.id, newId),
          ...part.patch.routes.slice(0, 3).map((r) => removeRoute(part.id, r.id)),
        ]) {
          const after = edit(project);
          expect(opens(after)).toBe(true);
          expect(after.song).toBe(project.song);
          expect(after.modules).toBe(project.modules);
          project.parts.forEach((p, i) => {
            if (p !== part) expect(after.parts[i]).toBe(p);
          });
        }
        const renamed = renameModule(part.id, module.id, "Bollard")(project);
        const modules = renamed.parts.find((p) => p.id === part.id)!.patch.modules;
        expect(modules.filter((m, i) => m !== part.patch.modules[i]).map((m) => m.id)).toEqual([module.id]);
        expect(renameModule(part.id, module.id, "Bollard")(renamed)).toBe(renamed);
        expect(renameModule("nobody", module.id, "Bollard")(project)).toBe(project);
      }),
      runs(10),
    );
  });

  test("a modulator goes with every route from it and to it, and with what automates it, and nothing else goes", () => {
    fc.assert(
      fc.property(arbitraryProject, fc.nat(), (project, n) => {
        const part = project.parts[n % project.parts.length]!;
        const { modules, routes } = part.patch;
        const level = modules.flatMap((m) => (m.kind === "amp" ? [m.data.envelope] : []));
        const routed = modules.filter((m) => !level.includes(m.id) && routes.some((r) => r.source === m.id));
        const id = routed[n % Math.max(1, routed.length)]?.id;
        if (id === undefined) return;
        const after = removeModule(part.id, id)(project).parts.find((p) => p.id === part.id)!.patch;
        expect(JSON.stringify([after.routes, after.cables])).not.toContain(`"${id}"`);
        const goneRoutes = routes.filter((r) => !after.routes.some((left) => left.id === r.id));
        const gone = new Set([id, ...goneRoutes.map((r) => r.id)]);
        const owner = (address: string): string => address.split(".")[0]!;
        // A route goes because what feeds, takes or scales it has gone: a module, or another route of those.
        for (const r of goneRoutes)
          expect([r.source, owner(r.target), r.scaledBy].some((x) => gone.has(x ?? ""))).toBe(true);
        for (const m of modules) {
          if (m.id === id || after.modules.includes(m)) continue;
          expect(m.kind === "automation" && gone.has(owner(m.data.target))).toBe(true);
        }
        expect(after.modules.some((m) => m.id === id)).toBe(false);
      }),
      runs(12),
    );
  });
});

describe("a loop that is made longer", () => {
  const line = [note(0, 960, 60), note(2880, 1920, 64)];
  const two = (bars: number) => lengthenLoop(bars, newId)(makeProject({ notes: line })).parts[0]!.notes;

  test("repeats the notes to fill it, each copy a loop later, under ids of their own", () => {
    expect(two(3).map((n) => [n.startTick, n.lengthTicks, n.key])).toEqual([
      [0, 960, 60],
      [2880, 1920, 64],
      [3840, 960, 60],
      [6720, 1920, 64],
      [7680, 960, 60],
      [10_560, 1920, 64],
    ]);
    expect(new Set(two(8).map((n) => n.id)).size).toBe(16);
    expect(two(1).map((n) => n.startTick)).toEqual([0, 2880]);
  });

  test("takes no note from behind its end along, and no more than a part holds", () => {
    const behind = makeProject({ notes: [...line, note(3840, 240, 72)] });
    expect(lengthenLoop(2, newId)(behind).parts[0]!.notes.map((n) => n.key)).toEqual([60, 64, 60, 64]);
    const many = makeProject({ notes: Array.from({ length: 1500 }, (_, i) => note(i, 10, 60)) });
    const filled = lengthenLoop(4, newId)(many);
    expect(filled.parts[0]!.notes).toHaveLength(MAX_NOTES);
    expect(opens(filled)).toBe(true);
  });
});

describe("an arpeggio that is frozen", () => {
  test("is notes that play as it did, whatever else the part does", () => {
    const project = makeProject({
      notes: [note(0, 3840, 48), note(0, 3840, 55)],
      arpeggio: { on: true, order: "upDown", octaves: 2, rate: { num: 1, den: 16 }, gate: 50 },
      noteChord: { from: "kind", symbol: "m", inversion: 0 },
    });
    const heard = (p: Project) => partEvents(p.parts[0]!, p.song, p.seed).map((e) => [e.onTick, e.offTick, e.key, e.velocity]); // prettier-ignore
    const frozen = freezeArpeggio(project.parts[0]!.id, newId)(project);
    expect(frozen.parts[0]!.arpeggio.on).toBe(false);
    expect(frozen.parts[0]!.noteChord).toBeNull();
    expect(heard(frozen)).toEqual(heard(project));
    expect(heard(project)).toHaveLength(16);
  });
});

describe("a lane", () => {
  const kept = { ...newLane("velocity", 2), values: [90, 40], kept: [{ name: "Ebb", values: [80, 20] }], locked: 0 };
  const project = makeProject({ arpeggio: { lanes: { velocity: kept } } });
  const laneOf = (p: Project) => p.parts[0]!.arpeggio.lanes.velocity!;
  const id = project.parts[0]!.id;

  test("that is drawn in lets go of the take that it is locked to; other changes leave it locked", () => {
    expect(laneOf(editLane(id, "velocity", (l) => ({ ...l!, values: [1, 2] }))(project)).locked).toBeNull();
    expect(laneOf(editLane(id, "velocity", (l) => ({ ...l!, on: !l!.on }))(project)).locked).toBe(0);
    expect(editLane(id, "velocity", (l) => l!)(project)).toBe(project);
    // A take is chosen together with its values.
    const chosen = { ...kept, values: [80, 20], kept: [...kept.kept, { name: "Flood", values: [7, 8] }] };
    expect(laneOf(editLane(id, "velocity", () => ({ ...chosen, locked: 1 }))(project)).locked).toBe(1);
  });
});

describe("a modulator that is pasted", () => {
  const demo = demoProject("d");
  const part = demo.parts[0]!;
  const shape = newShape("extra", "Extra");

  test("brings the routes whose targets the part has, as routes of its own that nothing scales", () => {
    const routes = [
      { ...newRoute("a", "swell", "filter.cutoff", 1.5), scaledBy: "velocity" },
      newRoute("b", "swell", "nothing.cutoff", 1),
      newRoute("c", "swell", "osc.pitch", 7),
    ];
    const after = pasteModulator(part.id, shape, routes, newId)(demo).parts[0]!.patch;
    expect(after.modules.at(-1)).toBe(shape);
    const added = after.routes.slice(part.patch.routes.length);
    expect(added.map((r) => [r.source, r.target, r.amount, r.scaledBy])).toEqual([
      ["extra", "filter.cutoff", 1.5, null],
      ["extra", "osc.pitch", 7, null],
    ]);
    expect(new Set(after.routes.map((r) => r.id)).size).toBe(after.routes.length);
  });

  test("brings no more routes than a part holds", () => {
    const many = Array.from({ length: MAX_ROUTES + 5 }, (_, i) => newRoute(`m${i}`, "swell", "filter.cutoff", 0.1));
    const after = pasteModulator(part.id, shape, many, newId)(demo);
    expect(after.parts[0]!.patch.routes).toHaveLength(MAX_ROUTES);
    expect(opens(after)).toBe(true);
  });
});

test("a module of the song is edited where a part has none of that id, and in the part where it has", () => {
  const shared = newShape("tide", "Tide");
  const project = makeProject({ songModules: [shared] });
  const id = project.parts[0]!.id;
  const named = setField(id, "tide", "values", "phase", 90)(project);
  expect(named.modules[0]!.values).toMatchObject({ phase: 90 });
  expect(named.parts).toBe(project.parts);
  expect(setField(id, "tide", "values", "phase", 90)(named)).toBe(named);
  const own = makeProject({ songModules: [shared], modules: [{ ...shared, name: "Own" }] });
  const edited = setField(own.parts[0]!.id, "tide", "values", "phase", 45)(own);
  expect(edited.modules).toBe(own.modules);
  expect(edited.parts[0]!.patch.modules.at(-1)!.values).toMatchObject({ phase: 45 });
});
