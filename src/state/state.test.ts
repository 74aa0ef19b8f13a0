import "fake-indexeddb/auto";
import { deleteDB, openDB } from "idb";
import fc from "fast-check";
import { runs } from "../../tests/support/runs";
import { afterEach, describe, expect, test, vi } from "vitest";
import { newRoute, newShape } from "@/core/patch/defaults";
import { ENVELOPE } from "@/core/patch/kinds/envelope";
import { sha256 } from "@/core/format/sha256";
import { writeWav } from "@/core/format/wav";
import { withBinaries } from "@/core/patch/binaries";
import { demoProject } from "@/core/patch/demo";
import { withSource } from "@/core/patch/edit";
import { newModule } from "@/core/patch/kinds/kind";
import { RECORDING } from "@/core/patch/kinds/recording";
import type { Note, Part, Project } from "@/core/patch/project";
import { ProjectDatabase, SaveConflict } from "./database";
import type { ProjectRecord } from "./records";
import { newId } from "./ids";
import { RecordingShelf } from "./recordings";
import { pasteModulator, addRoute, editPatch, editArpeggio, editModule, editNotes, editRoute, editSong, removeModule, removeRoute, renameModule, setField, setTrim } from "./edits"; // prettier-ignore
import { createProjectStore, type Edit } from "./projectStore";

const PART = "rigging";
/** Edits in a row: twenty with every test run, a thousand in `npm run soak -- --times 50`. */
const LONGEST = 20 * Number(process.env["CLOVIK_RUNS"] ?? 1);
const EDITS: readonly Edit[] = [
  editSong({ tempoBpm: 140 }),
  editArpeggio(PART, { octaves: 3 }),
  editNotes(PART, (notes) => notes.slice(1)),
  editNotes(PART, (notes) => [...notes, { id: "new", startTick: 0, lengthTicks: 10, key: 60, velocity: 1 }]),
  setField(PART, "filter", "values", "cutoff", 777),
  setField(PART, "osc", "choices", "wave", "pulse"),
  renameModule(PART, "pluck", "Plop"),
  pasteModulator(PART, newShape("extra", "Extra"), [], () => "r"),
  removeModule(PART, "swell"),
  editModule(PART, ENVELOPE, "pluck", (m) => ({ ...m, values: { ...m.values, sustain: 12 } })),
  addRoute(PART, newRoute("x", "pluck", "osc.pitch", 3)),
  editRoute(PART, "swell-cutoff", { on: false }),
  removeRoute(PART, "pluck-cutoff"),
  setTrim(-3),
];

/** Freezes an object and all that it holds. */
function freeze<T>(value: T): T {
  if (typeof value === "object" && value !== null && !Object.isFrozen(value)) Object.values(Object.freeze(value)).forEach(freeze);
  return value;
} // prettier-ignore

const cutoffOf = (p: Project): number | undefined =>
  p.parts[0]!.patch.modules.flatMap((m) => (m.kind === "filter" ? [m.values.cutoff] : []))[0];

describe("the project store", () => {
  test("undo of any edits restores the document exactly, redo brings them back", () => {
    fc.assert(
      fc.property(fc.array(fc.nat(EDITS.length - 1), { minLength: 1, maxLength: LONGEST }), (order) => {
        const store = createProjectStore(demoProject("d"));
        // What was there before is not written to: that would throw.
        const now = (): Project => freeze(store.getState().project);
        const seen: Project[] = [now()];
        for (const i of order) if (store.edit(`edit ${i}`, EDITS[i]!)) seen.push(now());
        for (let i = seen.length - 2; i >= 0; i--) {
          store.undo();
          expect(store.getState().project).toBe(seen[i]);
        }
        expect(store.undo()).toBeNull();
        for (let i = 1; i < seen.length; i++) {
          store.redo();
          expect(store.getState().project).toBe(seen[i]);
        }
        expect(store.redo()).toBeNull();
      }),
      runs(50),
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

  test("an edit that would break the document's rules is refused and told", () => {
    const refused: string[] = [];
    const store = createProjectStore(demoProject("d"), (label, p) => refused.push(`${label}: ${p.path}`));
    const before = store.getState().project;
    const rate = setField(PART, "swell", "times", "rate", { unit: "note", num: 97, den: 100 });
    expect(store.edit("Set rate", rate)).toBe(false);
    expect(store.getState().project).toBe(before);
    expect(refused).toEqual(["Set rate: parts.0.patch.modules.7.times.rate.num"]);
  });

  test("a gesture that ends where it began leaves no step; steps can be gone to", () => {
    const store = createProjectStore(demoProject("d"));
    store.edit("Set trim", setTrim(-1), "drag");
    store.edit("Set trim", setTrim(0), "drag");
    expect(store.getState().history.done).toEqual([]);
    expect(store.edit("Set tempo", editSong({ tempoBpm: store.getState().project.song.tempoBpm }))).toBe(false);
    for (let i = 1; i <= 5; i++) store.edit(`Trim ${i}`, setTrim(-i));
    store.stepTo(2);
    expect(store.getState().project.outputTrim).toBe(-2);
    store.stepTo(5);
    expect(store.getState().project.outputTrim).toBe(-5);
  });

  test("history is bounded by memory: thousands of small steps stay, large ones go when they are too much", () => {
    const store = createProjectStore(demoProject("d"));
    for (let i = 1; i <= 2000; i++) store.edit("Set trim", setTrim(-(i % 2)));
    expect(store.getState().history.done.length).toBeGreaterThan(1990);
    // About a megabyte each, for a history of 64: 4096 notes, of which all that is kept is new.
    const many = (at: number): Note[] =>
      Array.from({ length: 4096 }, (_, i) => ({
        id: `${at} ${i}`.padEnd(60),
        startTick: at,
        lengthTicks: 10,
        key: 60,
        velocity: 1,
      }));
    for (let i = 0; i < 72; i++)
      store.edit(
        "Move all",
        editNotes(PART, () => many(i)),
      );
    const { done } = store.getState().history;
    expect(done.length).toBeLessThan(72);
    expect(done.length).toBeGreaterThan(50);
    expect(done.at(-1)!.after).toBe(store.getState().project);
  });

  test("removing a modulator takes its routes along", () => {
    const store = createProjectStore(demoProject("d"));
    store.edit("Remove", removeModule(PART, "swell"));
    const { patch } = store.getState().project.parts[0]!;
    expect(patch.modules.map((m) => m.id)).toEqual([
      "osc",
      "filter",
      "amp",
      "part",
      "playing",
      "amp-envelope",
      "pluck",
      "oars",
    ]);
    expect(patch.routes.map((r) => r.source)).toEqual(["pluck", "oars", "velocity"]);
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

describe("what is kept for bad days", () => {
  afterEach(() => vi.useRealTimers());

  test("odd records are listed by what can be read of them, and do not hide the others", async () => {
    const db = await ProjectDatabase.open("odd-test");
    await db.save(demoProject("good"), 0);
    const odd = (record: object): Promise<void> => db.putBack(record as ProjectRecord);
    await odd({ id: "a", name: { first: "x" }, savedAt: "yesterday", revision: 1, document: null });
    await odd({ id: "b", savedAt: NaN });
    expect(await db.list()).toEqual([
      expect.objectContaining({ id: "good", name: "Night Crossing" }),
      { id: "a", name: "Without a name", savedAt: 0 },
      { id: "b", name: "Without a name", savedAt: 0 },
    ]);
    expect((await db.load("a"))!.opened).toMatchObject({ ok: false });
    expect((await db.load("b"))!.opened).toMatchObject({ ok: false });
  });

  test("the last three good states are kept, five minutes apart, and go with their project", async () => {
    vi.useFakeTimers({ toFake: ["Date"], now: 0 });
    const db = await ProjectDatabase.open("states-test");
    for (let minute = 0; minute <= 22; minute++) {
      vi.setSystemTime(minute * 60_000);
      await db.save({ ...demoProject("one"), name: `Minute ${minute}` }, minute);
    }
    const names = async (id: string): Promise<unknown[]> =>
      (await db.earlier(id)).map((s) => (s.document as Project).name);
    expect(await names("one")).toEqual(["Minute 20", "Minute 15", "Minute 10"]);
    await db.tidy();
    expect(await names("one")).toHaveLength(3);
    await db.remove("one");
    await db.tidy();
    expect(await names("one")).toEqual([]);
  });

  test("a save writes the parts that changed and no others; earlier states keep theirs", async () => {
    vi.useFakeTimers({ toFake: ["Date"], now: 0 });
    const db = await ProjectDatabase.open("parts-test");
    const raw = await openDB("parts-test");
    const keys = async (): Promise<string[]> => (await raw.getAllKeys("parts")).map((k) => (k as string[]).join("/"));
    const [part] = demoProject("one").parts as [Part];
    const named = (name: string): Part => ({ ...part, id: name, name });
    const first = { ...demoProject("one"), parts: [named("a"), named("b"), named("c")] };
    await db.save(first, 0);
    const before = await keys();
    expect(before).toHaveLength(3);
    // Song and name alone write no part.
    await db.save({ ...first, name: "Other" }, 1);
    expect(await keys()).toEqual(before);
    const second = { ...first, parts: [first.parts[2]!, named("d"), first.parts[0]!] };
    await db.save(second, 2);
    // The first state still needs all three.
    expect((await keys()).filter((k) => !before.includes(k))).toHaveLength(1);
    expect((await db.load("one"))!.opened).toEqual({ ok: true, project: second });
    expect((await db.earlier("one")).map((s) => s.document)).toEqual([first]);
    for (let i = 3; i < 9; i++) {
      vi.setSystemTime(i * 300_000);
      await db.save({ ...second, name: `${i}` }, i);
    }
    // Nothing names "b" any more.
    expect(await keys()).toHaveLength(3);
    // Undone to a part that was cleared away: it is written again.
    await db.save(first, 9);
    expect((await db.load("one"))!.opened).toEqual({ ok: true, project: first });
    // A copy in another project has parts of its own, and removing the first leaves them.
    await db.save({ ...first, id: "two" }, 0);
    const record = (await db.remove("one"))!;
    await db.tidy();
    expect((await db.load("two"))!.opened).toMatchObject({ ok: true });
    expect(await keys()).toHaveLength(3);
    await db.putBack(record);
    expect((await db.load("one"))!.opened).toEqual({ ok: true, project: first });
    // What was put back is whole, as older versions stored it; it is saved over in parts. One that is missing is told.
    await db.save({ ...first, name: "Newer" }, 10);
    await raw.delete("parts", (await keys()).find((k) => k.startsWith("one"))!.split("/"));
    const { opened } = (await db.load("one"))!;
    expect(opened.ok ? "" : opened.path).toMatch(/^parts\[\d\]$/);
    raw.close();
  });

  test("a connection that was lost is opened again; one that is blocked says so and can be tried again", async () => {
    const db = await ProjectDatabase.open("lost-test");
    await db.save(demoProject("one"), 0);
    // Another tab's wish to delete or upgrade closes the connection.
    await deleteDB("lost-test");
    expect(await db.list()).toEqual([]);
    await db.save(demoProject("two"), 0);
    expect(await db.list()).toHaveLength(1);
    const newer = await openDB("newer-test", 99);
    await expect(ProjectDatabase.open("newer-test")).rejects.toThrow("a newer Clovik has been here: reload the page");
    newer.close();
    const older = await openDB("blocked-test", 1);
    vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"] });
    const waiting = expect(ProjectDatabase.open("blocked-test")).rejects.toThrow("close that tab");
    await new Promise((resolve) => setImmediate(() => setImmediate(resolve)));
    await vi.advanceTimersByTimeAsync(6000);
    await waiting;
    vi.useRealTimers();
    older.close();
  });
});

test("ids are made where randomUUID is missing", () => {
  vi.stubGlobal("crypto", { getRandomValues: crypto.getRandomValues.bind(crypto) });
  const ids = Array.from({ length: 100 }, newId);
  vi.unstubAllGlobals();
  expect(new Set(ids).size).toBe(100);
  // RFC 9562, section 5.4: version 4 and variant 10.
  for (const id of ids) expect(id).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
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
  expect(await db.tidy()).toBe(1);
  expect(await db.binaries([hash, "unused"])).toEqual(new Map([[hash, bytes]]));
  await db.remove("a");
  expect(await db.tidy()).toBe(0);
  await db.remove("b");
  expect(await db.tidy()).toBe(1);
  expect((await db.binaries([hash])).size).toBe(0);
});

test("recordings are read as projects name them, kept before they are named, and told missing where they are not", async () => {
  const db = await ProjectDatabase.open("recordings-test");
  const wav = writeWav([Float32Array.of(0, 0.5)], { sampleRate: 48_000, bitDepth: 24 });
  const hash = sha256(wav);
  const recording = { sampleRate: 48_000, channels: [Float32Array.of(0, 0.5)] };
  const binary = { hash, name: "Rope", bytes: wav.length };
  const shelf = new RecordingShelf(() => db);
  await shelf.keep({ binary, bytes: wav, recording });
  expect(shelf.binaryOf(hash)).toEqual(binary);
  const project = demoProject("r");
  const rope = newModule(RECORDING, "rope", "Rope", { recording: hash });
  const part = project.parts[0]!;
  const using: Project = { ...project, binaries: [binary, { hash: "f".repeat(64), name: "Gone", bytes: 9 }], parts: [{ ...part, patch: { ...part.patch, modules: [...part.patch.modules, rope, { ...rope, id: "gone", data: { recording: "f".repeat(64) } }] } }] }; // prettier-ignore
  // Another visit: nothing is at hand but the database.
  const later = new RecordingShelf(() => db);
  await later.load(using);
  expect([...later.store.getState().known.get(hash)!.channels[0]!]).toEqual([0, 0.5]);
  expect([...later.store.getState().missing]).toEqual(["f".repeat(64)]);
  // A browser that clears its database loses nothing that this page brought in.
  const alone = new RecordingShelf(() => null);
  await alone.keep({ binary, bytes: wav, recording });
  expect(await alone.content([hash, "none"])).toEqual(new Map([[hash, wav]]));
  await db.tidy();
  expect((await db.binaries([hash])).size).toBe(0);
  await shelf.keepAgain([hash]);
  expect((await db.binaries([hash])).size).toBe(1);
});

test("an edit that names a recording names it among the binaries; one that nobody knows is refused", () => {
  const known = { hash: "e".repeat(64), name: "Rope", bytes: 9 };
  const refused: string[] = [];
  const store = createProjectStore(
    demoProject("d"),
    (_, problem) => refused.push(problem.reason),
    (p) => withBinaries(p, (hash) => (hash === known.hash ? known : null)),
  );
  const add = (id: string, hash: string): boolean =>
    store.edit("Add", editPatch(store.getState().project.parts[0]!.id, (p) => withSource(p, newModule(RECORDING, id, id, { recording: hash })))); // prettier-ignore
  expect(add("rope", known.hash)).toBe(true);
  expect(store.getState().project.binaries).toEqual([known]);
  store.undo();
  expect(store.getState().project.binaries).toEqual([]);
  expect(add("other", "d".repeat(64))).toBe(false);
  expect(refused[0]).toContain("which is not there");
});
