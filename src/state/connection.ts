import { openDB, type DBSchema, type IDBPDatabase } from "idb";
import type { EarlierState, ProjectRecord } from "./records";

export interface Schema extends DBSchema {
  projects: { key: string; value: ProjectRecord; indexes: { savedAt: number } };
  settings: { key: string; value: unknown };
  /** Recordings and wave tables by their SHA-256, once however many projects use them. */
  binaries: { key: string; value: Uint8Array };
  states: { key: [string, number]; value: EarlierState };
  /** By project and a key of their own; what is stored here belongs to the documents that name it. */
  parts: { key: [string, string]; value: unknown };
}

const asError = (x: unknown): Error => (x instanceof Error ? x : new Error(String(x)));

const VERSION = 4;
/** A database that has not opened within this time is given up for now. */
const PATIENCE_MS = 5000;

/**
 * A connection to the browser's database that is opened when it is needed and again when it was lost: closed by the
 * browser, or given up because another tab wanted to upgrade.
 */
export class Connection {
  private opening: Promise<IDBPDatabase<Schema>> | null = null;

  constructor(private readonly name: string) {}

  /** Runs work on the database. Work whose connection was lost under its hands is run once more. */
  async run<T>(work: (db: IDBPDatabase<Schema>) => Promise<T>): Promise<T> {
    try {
      return await work(await this.use());
    } catch (error) {
      // The browser's word for a connection that is closing or closed.
      if (!(error instanceof DOMException) || error.name !== "InvalidStateError") throw error;
      this.opening = null;
      return work(await this.use());
    }
  }

  close(): void {
    void this.opening?.then((db) => db.close()).catch(() => undefined);
    this.opening = null;
  }

  private use(): Promise<IDBPDatabase<Schema>> {
    this.opening ??= this.connect().catch((error: unknown) => {
      this.opening = null;
      throw error;
    });
    return this.opening;
  }

  private connect(): Promise<IDBPDatabase<Schema>> {
    return new Promise((resolve, reject) => {
      let blocked = false;
      const timer = setTimeout(
        () =>
          reject(
            new Error(
              blocked
                ? "another tab still uses an older version of its database: close that tab"
                : "the browser's database does not answer",
            ),
          ),
        PATIENCE_MS,
      );
      openDB<Schema>(this.name, VERSION, {
        upgrade(db, from) {
          if (from < 1) {
            db.createObjectStore("projects", { keyPath: "id" }).createIndex("savedAt", "savedAt");
            db.createObjectStore("settings");
          }
          if (from < 2) db.createObjectStore("binaries");
          if (from < 3) db.createObjectStore("states", { keyPath: ["project", "savedAt"] });
          if (from < 4) db.createObjectStore("parts");
        },
        blocked: () => {
          blocked = true;
        },
        // Another tab wants to upgrade: this connection must not stand in its way.
        blocking: (_current, _blocked, event) => {
          (event.target as IDBDatabase).close();
          this.opening = null;
        },
        terminated: () => {
          this.opening = null;
        },
      })
        .then(resolve, (error: unknown) =>
          reject(
            error instanceof DOMException && error.name === "VersionError"
              ? new Error("a newer Clovik has been here: reload the page")
              : asError(error),
          ),
        )
        .finally(() => clearTimeout(timer));
    });
  }
}
