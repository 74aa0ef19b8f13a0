import type { IDBPDatabase } from "idb";
import type { Opened } from "@/core/patch/openCurrent";
import type { Project } from "@/core/patch/project";
import { Connection, type Schema } from "./connection";
import { openStored } from "./openStored";
import type { EarlierState, ProjectRecord, ProjectSummary, StoredDocument } from "./records";
import { StoredParts, ofProject, whole } from "./storedParts";

/** Earlier states that are kept of each project, and the least time between them. */
const STATES = 3;
const STATE_EVERY_MS = 5 * 60_000;

const statesOf = (id: string): IDBKeyRange => IDBKeyRange.bound([id, -Infinity], [id, Infinity]);

/** The binaries that a stored document, of whatever version, refers to. */
const hashesOf = (document: unknown): string[] => {
  const list = (document as { binaries?: unknown } | null)?.binaries;
  return Array.isArray(list) ? list.map((b) => String((b as { hash?: unknown } | null)?.hash)) : [];
};

export class SaveConflict extends Error {
  constructor() {
    super("this project was changed elsewhere since it was opened here");
  }
}

/** The browser's database of projects. A transaction is written whole or not at all, so a crash cannot tear a project. */
export class ProjectDatabase {
  private readonly parts = new StoredParts();

  private constructor(private readonly connection: Connection) {}

  /** Rejects, with words for a person, when the browser has no database to give. */
  static async open(name = "clovik"): Promise<ProjectDatabase> {
    const connection = new Connection(name);
    await connection.run(() => Promise.resolve());
    return new ProjectDatabase(connection);
  }

  private run<T>(work: (db: IDBPDatabase<Schema>) => Promise<T>): Promise<T> {
    return this.connection.run(work);
  }

  close(): void {
    this.connection.close();
  }

  /** Newest first. A record that is not what it should be is listed by what can be read of it. */
  list(): Promise<ProjectSummary[]> {
    return this.run(async (db) => {
      const all: readonly Record<keyof ProjectSummary, unknown>[] = await db.getAll("projects");
      return all
        .flatMap(({ id, name, savedAt }): ProjectSummary[] =>
          typeof id === "string"
            ? [
                {
                  id,
                  name: typeof name === "string" && name.trim() ? name : "Without a name",
                  savedAt: typeof savedAt === "number" && Math.abs(savedAt) < 8.64e15 ? savedAt : 0,
                },
              ]
            : [],
        )
        .sort((a, b) => b.savedAt - a.savedAt);
    });
  }

  /** A stored project, checked and brought to the current version; null when there is none under the id. */
  async load(id: string): Promise<{ opened: Opened; revision: number } | null> {
    const record = await this.record(id);
    if (!record) return null;
    return { opened: await openStored(record.document), revision: record.revision };
  }

  /** What is stored under an id, as it is, its document whole. */
  record(id: string): Promise<ProjectRecord | undefined> {
    return this.run(async (db) => {
      const tx = db.transaction(["projects", "parts"]);
      const record = await tx.objectStore("projects").get(id);
      return record && whole(tx.objectStore("parts"), id, record);
    });
  }

  /** Earlier states of a project, newest first, their documents whole. */
  earlier(id: string): Promise<EarlierState[]> {
    return this.run(async (db) => {
      const tx = db.transaction(["states", "parts"]);
      const states = (await tx.objectStore("states").getAll(statesOf(id))).reverse();
      const parts = tx.objectStore("parts");
      return Promise.all(states.map((s) => whole(parts, id, s)));
    });
  }

  /**
   * Saves over `revision` (0 for a new project) and returns the next one. What did not change is not written again.
   * Throws SaveConflict when it is not the stored one.
   */
  save(project: Project, revision: number): Promise<number> {
    return this.run(async (db) => {
      const { id, name } = project;
      const tx = db.transaction(["projects", "states", "parts"], "readwrite", { durability: "strict" });
      const projects = tx.objectStore("projects");
      const states = tx.objectStore("states");
      const parts = tx.objectStore("parts");
      // All that is read is asked for at once, and all that is written as well: each answer waits for the page's turn.
      const [record, keys, known] = await Promise.all([
        projects.get(id),
        parts.getAllKeys(ofProject(id)),
        states.getAll(statesOf(id)),
      ]);
      if ((record?.revision ?? 0) !== revision) {
        await tx.done;
        throw new SaveConflict();
      }
      const savedAt = Date.now();
      const { stored, missing } = this.parts.plan(project, new Set(keys.map(([, key]) => key)));
      const writes: Promise<unknown>[] = missing.map(({ key, part }) => parts.put(part, [id, key]));
      writes.push(projects.put({ id, name, savedAt, revision: revision + 1, ...stored }));
      if (!(savedAt - (known.at(-1)?.savedAt ?? -Infinity) < STATE_EVERY_MS)) {
        writes.push(states.put({ project: id, savedAt, ...stored }));
        for (const old of known.splice(0, Math.max(0, known.length + 1 - STATES)))
          writes.push(states.delete([id, old.savedAt]));
      }
      const used = new Set([stored, ...known].flatMap((s) => s.parts ?? []));
      for (const key of keys) if (!used.has(key[1])) writes.push(parts.delete(key));
      // What is asked for is written though the page may have no turn to hear that it was.
      tx.commit();
      await Promise.all([...writes, tx.done]);
      return revision + 1;
    });
  }

  /** Removes a project and returns what was stored, so that it can be put back. */
  remove(id: string): Promise<ProjectRecord | null> {
    return this.run(async (db) => {
      const tx = db.transaction(["projects", "parts"], "readwrite");
      const projects = tx.objectStore("projects");
      const record = await projects.get(id);
      const removed = record && (await whole(tx.objectStore("parts"), id, record));
      await projects.delete(id);
      await tx.done;
      return removed ?? null;
    });
  }

  async putBack(record: ProjectRecord): Promise<void> {
    await this.run((db) => db.put("projects", record));
  }

  /** Keeps binary things; those that are there already are left alone. */
  putBinaries(content: ReadonlyMap<string, Uint8Array>): Promise<void> {
    return this.run(async (db) => {
      const tx = db.transaction("binaries", "readwrite");
      for (const [hash, bytes] of content)
        if ((await tx.store.getKey(hash)) === undefined) await tx.store.put(bytes, hash);
      await tx.done;
    });
  }

  /** The binary things under the hashes; those that are not there are left out. */
  binaries(hashes: readonly string[]): Promise<Map<string, Uint8Array>> {
    return this.run(async (db) => {
      const found = new Map<string, Uint8Array>();
      for (const hash of hashes) {
        const bytes = await db.get("binaries", hash);
        if (bytes) found.set(hash, bytes);
      }
      return found;
    });
  }

  /** Removes earlier states, parts and binary things that belong to no stored project; tells how many binaries. Call it while nothing can be undone. */
  tidy(): Promise<number> {
    return this.run(async (db) => {
      const tx = db.transaction(["projects", "binaries", "states", "parts"], "readwrite");
      const records = await tx.objectStore("projects").getAll();
      const ids = new Set(records.map((r) => r.id));
      const states = tx.objectStore("states");
      const kept: StoredDocument[] = [...records];
      for (const state of await states.getAll()) {
        if (ids.has(state.project)) kept.push(state);
        else await states.delete([state.project, state.savedAt]);
      }
      const parts = tx.objectStore("parts");
      const usedParts = new Set(kept.flatMap((k) => k.parts ?? []));
      for (const key of await parts.getAllKeys()) if (!usedParts.has(key[1])) await parts.delete(key);
      const used = new Set(kept.flatMap((k) => hashesOf(k.document)));
      const store = tx.objectStore("binaries");
      const unused = (await store.getAllKeys()).filter((hash) => !used.has(hash));
      for (const hash of unused) await store.delete(hash);
      await tx.done;
      return unused.length;
    });
  }

  lastOpened(): Promise<string | null> {
    return this.run(async (db) => {
      const id = await db.get("settings", "lastOpened");
      return typeof id === "string" ? id : null;
    });
  }

  async setLastOpened(id: string): Promise<void> {
    await this.run((db) => db.put("settings", id, "lastOpened"));
  }
}
