import "fake-indexeddb/auto";
import { deleteDB } from "idb";
import fc from "fast-check";
import { afterEach, describe, expect, test } from "vitest";
import { newRoute, newShape } from "@/core/patch/defaults";
import { ENVELOPE } from "@/core/patch/kinds/envelope";
import { sha256 } from "@/core/format/sha256";
import { demoProject } from "@/core/patch/demo";
import type { Project } from "@/core/patch/project";
import { ProjectDatabase, SaveConflict } from "./database";
import { addModule, addRoute, editArpeggio, editModule, editNotes, editRoute, editSong, removeModule, removeRoute, renameModule, setField, setTrim } from "./edits"; // prettier-ignore
import { createProjectStore, type Edit } from "./projectStore";

const PART = "rigging";
const EDITS: readonly Edit[] = [
  editSong({ tempoBpm: 140 }),
  editArpeggio(PART, { octaves: 3 }),
  editNotes(PART, (notes) => notes.slice(1)),
  editNotes(PART, (notes) => [...notes, { id: "new", startTick: 0, lengthTicks: 10, key: 60, velocity: 1 }]),
  setField(PART, "filter", "values", "cutoff", 777),
  setField(PART, "osc", "choices", "wave", "pulse"),
  renameModule(PART, "pluck", "Plop"),
  addModule(PART, newShape("extra", "Extra")),
  removeModule(PART, "swell"),
  editModule(PART, ENVELOPE, "pluck", (m) => ({ ...m, values: { ...m.values, sustain: 12 } })),
  addRoute(PART, newRoute("x", "pluck", "osc.pitch", 3)),
  editRoute(PART, "swell-cutoff", { on: false }),
  removeRoute(PART, "pluck-cutoff"),
  setTrim(-3),
];

const cutoffOf = (p: Project): number | undefined =>
  p.parts[0]!.patch.modules.flatMap((m) => (m.kind === "filter" ? [m.values.cutoff] : []))[0];

describe("the project store", () => {
  test("undo of any edits restores the document exactly, redo brings them back", () => {
    fc.assert(
      fc.property(fc.array(fc.nat(EDITS.length - 1), { minLength: 1, maxLength: 20 }), (order) => {
        const store = createProjectStore(demoProject("d"));
        const seen: Project[] = [store.getState().project];
        for (const i of order) if (store.edit(`edit ${i}`, EDITS[i]!)) seen.push(store.getState().project);
        const copies = seen.map((p) => JSON.stringify(p));
        for (let i = seen.length - 2; i >= 0; i--) {
          store.undo();
          expect(store.getState().project).toBe(seen[i]);
          expect(JSON.stringify(store.getState().project)).toBe(copies[i]);
        }
        expect(store.undo()).toBeNull();
        for (let i = 1; i < seen.length; i++) {
          store.redo();
          expect(store.getState().project).toBe(seen[i]);
        }
        expect(store.redo()).toBeNull();
      }),
    );
  });

  test("one gesture is one step; an edit after undo forgets what was undone", () => {
    const store = createProjectStore(demoProject("d"));
    for (const v of [500, 600, 700]) store.edit("Set cutoff", setField(PART, "filter", "values", "cutoff", v), "drag");
    store.edit("Set cutoff", setField(PART, "filter", "values", "cutoff", 800), "another drag");
    expect(store.getState().history.done).toHaveLength(2);
    store.undo();
    expect(cutoffOf(store.getState().project)).toBe(700);
    expect(store.undo()).toBe("Set cutoff");
    expect(cutoffOf(store.getState().project)).toBe(420);
    store.edit("Set trim", setTrim(1));
    expect(store.redo()).toBeNull();
  });

  test("nothing changed is no step; a read-only project takes none", () => {
    const store = createProjectStore(demoProject("d"));
    expect(store.edit("Set trim", setTrim(0))).toBe(false);
    expect(store.edit("Gone", setField("no such part", "filter", "values", "cutoff", 1))).toBe(false);
    store.open(demoProject("e"), "other-tab");
    expect(store.edit("Set trim", setTrim(3))).toBe(false);
    expect(store.getState().history.done).toHaveLength(0);
  });

  test("removing a modulator takes its routes along", () => {
    const store = createProjectStore(demoProject("d"));
    store.edit("Remove", removeModule(PART, "swell"));
    const { patch } = store.getState().project.parts[0]!;
    expect(patch.modules.map((m) => m.id)).toEqual(["osc", "filter", "amp", "playing", "amp-envelope", "pluck"]);
    expect(patch.routes.map((r) => r.source)).toEqual(["pluck", "velocity"]);
  });
});

describe("the database", () => {
  afterEach(() => deleteDB("test"));

  test("keeps projects, newest first, and what was opened last", async () => {
    const db = await ProjectDatabase.open("test");
    const project = demoProject("one");
    expect(await db.save(project, 0)).toBe(1);
    expect(await db.save({ ...project, name: "Renamed" }, 1)).toBe(2);
    await db.save(demoProject("two"), 0);
    expect((await db.list()).map((p) => p.name).sort()).toEqual(["Night Crossing", "Renamed"]);
    expect(await db.load("one")).toEqual({
      opened: { ok: true, project: { ...project, name: "Renamed" } },
      revision: 2,
    });
    expect(await db.load("none")).toBeNull();
    await db.setLastOpened("two");
    expect(await db.lastOpened()).toBe("two");
  });

  test("refuses a save over a newer one", async () => {
    const db = await ProjectDatabase.open("test");
    const project = demoProject("one");
    await db.save(project, 0);
    await expect(db.save({ ...project, name: "Stale" }, 0)).rejects.toBeInstanceOf(SaveConflict);
    expect((await db.load("one"))!.opened).toMatchObject({ ok: true, project: { name: "Night Crossing" } });
  });

  test("hands a removed project back, and tells of a damaged one", async () => {
    const db = await ProjectDatabase.open("test");
    await db.save(demoProject("one"), 0);
    const record = (await db.remove("one"))!;
    expect(await db.list()).toEqual([]);
    await db.putBack(record);
    expect(await db.load("one")).toMatchObject({ revision: 1, opened: { ok: true } });
    await db.putBack({ ...record, document: { ...(record.document as object), parts: "gone" } });
    expect((await db.load("one"))!.opened).toMatchObject({ ok: false, path: "parts" });
  });
});

test("binary things are kept once, found by their hash, and go with the last project that uses them", async () => {
  const db = await ProjectDatabase.open("binaries-test");
  const bytes = Uint8Array.of(1, 2, 3);
  const hash = sha256(bytes);
  const using = (id: string): Project => ({ ...demoProject(id), binaries: [{ hash, name: "Rope", bytes: 3 }] });
  await db.putBinaries(new Map([[hash, bytes], ["unused", bytes]])); // prettier-ignore
  await db.putBinaries(new Map([[hash, Uint8Array.of(9)]]));
  await db.save(using("a"), 0);
  await db.save(using("b"), 0);
  expect(await db.dropUnusedBinaries()).toBe(1);
  expect(await db.binaries([hash, "unused"])).toEqual(new Map([[hash, bytes]]));
  await db.remove("a");
  expect(await db.dropUnusedBinaries()).toBe(0);
  await db.remove("b");
  expect(await db.dropUnusedBinaries()).toBe(1);
  expect((await db.binaries([hash])).size).toBe(0);
});
