import type { IDBPObjectStore, StoreNames } from "idb";
import type { Part, Project } from "@/core/patch/project";
import type { Schema } from "./connection";
import { newId } from "./ids";

/**
 * A stored document: whole, or without its parts, which lie beside it under `parts`. A part is written once and never
 * changed, so a save writes the parts that were edited only, and earlier states cost what differs in them.
 */
export interface StoredDocument {
  readonly document: unknown;
  readonly parts?: readonly string[] | undefined;
}

type PartStore<M extends IDBTransactionMode> = IDBPObjectStore<Schema, ArrayLike<StoreNames<Schema>>, "parts", M>;

export const ofProject = (id: string): IDBKeyRange => IDBKeyRange.bound([id], [id, []]);

/** Knows under which key a part of the open document was written: parts are never changed in place. */
export class StoredParts {
  private readonly keys = new WeakMap<Part, string>();

  /** Writes the parts of a project that are not there yet, and returns how it is stored. */
  async put(store: PartStore<"readwrite">, project: Project): Promise<{ document: unknown; parts: string[] }> {
    const there = new Set((await store.getAllKeys(ofProject(project.id))).map(([, key]) => key));
    const parts: string[] = [];
    for (const part of project.parts) {
      let key = this.keys.get(part);
      if (key === undefined || !there.has(key)) {
        key = newId();
        await store.put(part, [project.id, key]);
        this.keys.set(part, key);
      }
      parts.push(key);
    }
    return { document: { ...project, parts: [] }, parts };
  }
}

/** The same with its document whole; a part that is missing leaves a gap, which no check lets pass. */
export async function whole<T extends StoredDocument, M extends IDBTransactionMode>(
  store: PartStore<M>,
  id: string,
  stored: T,
): Promise<T> {
  const { document, parts } = stored;
  if (!Array.isArray(parts) || typeof document !== "object") return stored;
  const found = await Promise.all(parts.map((key: string) => store.get([id, key])));
  return { ...stored, document: { ...document, parts: found.map((part) => part ?? null) }, parts: undefined };
}
