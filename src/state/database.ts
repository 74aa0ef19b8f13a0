import { openDB, type DBSchema, type IDBPDatabase } from "idb";
import { openProject, type Opened } from "@/core/patch/migrate";
import type { Project } from "@/core/patch/project";

export interface ProjectRecord {
  readonly id: string;
  readonly name: string;
  /** Milliseconds since 1970. */
  readonly savedAt: number;
  /** Counts saves; a save is refused when another one came between. */
  readonly revision: number;
  readonly document: unknown;
}

export type ProjectSummary = Pick<ProjectRecord, "id" | "name" | "savedAt">;

interface Schema extends DBSchema {
  projects: { key: string; value: ProjectRecord; indexes: { savedAt: number } };
  settings: { key: string; value: unknown };
  /** Recordings and wave tables by their SHA-256, once however many projects use them. */
  binaries: { key: string; value: Uint8Array };
}

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
  private constructor(private readonly db: IDBPDatabase<Schema>) {}

  /** Rejects when the browser has no database to give (private windows, a full disk). */
  static async open(name = "clovik"): Promise<ProjectDatabase> {
    const db = await openDB<Schema>(name, 2, {
      upgrade(db, from) {
        if (from < 1) {
          db.createObjectStore("projects", { keyPath: "id" }).createIndex("savedAt", "savedAt");
          db.createObjectStore("settings");
        }
        if (from < 2) db.createObjectStore("binaries");
      },
      // Another tab wants to upgrade: this connection must not stand in its way.
      blocking: (_current, _blocked, event) => (event.target as IDBDatabase).close(),
    });
    return new ProjectDatabase(db);
  }

  /** Newest first. */
  async list(): Promise<ProjectSummary[]> {
    const all = await this.db.getAllFromIndex("projects", "savedAt");
    return all.map(({ id, name, savedAt }) => ({ id, name, savedAt })).reverse();
  }

  /** A stored project, checked and brought to the current version; null when there is none under the id. */
  async load(id: string): Promise<{ opened: Opened; revision: number } | null> {
    const record = await this.db.get("projects", id);
    return record ? { opened: openProject(record.document), revision: record.revision } : null;
  }

  /** Saves over `revision` (0 for a new project) and returns the next one. Throws SaveConflict when it is not the stored one. */
  async save(project: Project, revision: number): Promise<number> {
    const tx = this.db.transaction("projects", "readwrite", { durability: "strict" });
    const stored = await tx.store.get(project.id);
    if ((stored?.revision ?? 0) !== revision) {
      await tx.done;
      throw new SaveConflict();
    }
    const next = revision + 1;
    await tx.store.put({ id: project.id, name: project.name, savedAt: Date.now(), revision: next, document: project });
    await tx.done;
    return next;
  }

  /** Removes a project and returns what was stored, so that it can be put back. */
  async remove(id: string): Promise<ProjectRecord | null> {
    const record = (await this.db.get("projects", id)) ?? null;
    await this.db.delete("projects", id);
    return record;
  }

  /** Keeps binary things; those that are there already are left alone. */
  async putBinaries(content: ReadonlyMap<string, Uint8Array>): Promise<void> {
    const tx = this.db.transaction("binaries", "readwrite");
    for (const [hash, bytes] of content)
      if ((await tx.store.getKey(hash)) === undefined) await tx.store.put(bytes, hash);
    await tx.done;
  }

  /** The binary things under the hashes; those that are not there are left out. */
  async binaries(hashes: readonly string[]): Promise<Map<string, Uint8Array>> {
    const found = new Map<string, Uint8Array>();
    for (const hash of hashes) {
      const bytes = await this.db.get("binaries", hash);
      if (bytes) found.set(hash, bytes);
    }
    return found;
  }

  /** Removes binary things that no stored project uses any more; tells how many. Call it while nothing can be undone. */
  async dropUnusedBinaries(): Promise<number> {
    const tx = this.db.transaction(["projects", "binaries"], "readwrite");
    const used = new Set((await tx.objectStore("projects").getAll()).flatMap((r) => hashesOf(r.document)));
    const store = tx.objectStore("binaries");
    const unused = (await store.getAllKeys()).filter((hash) => !used.has(hash));
    for (const hash of unused) await store.delete(hash);
    await tx.done;
    return unused.length;
  }

  async putBack(record: ProjectRecord): Promise<void> {
    await this.db.put("projects", record);
  }

  async lastOpened(): Promise<string | null> {
    const id = await this.db.get("settings", "lastOpened");
    return typeof id === "string" ? id : null;
  }

  async setLastOpened(id: string): Promise<void> {
    await this.db.put("settings", id, "lastOpened");
  }
}
