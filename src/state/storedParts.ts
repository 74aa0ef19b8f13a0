import type { IDBPObjectStore, StoreNames } from "idb";
import type { Part, Project } from "@/core/patch/project";
import type { Schema } from "./connection";
import { newId } from "./ids";
import type { StoredDocument } from "./records";

type PartStore<M extends IDBTransactionMode> = IDBPObjectStore<Schema, ArrayLike<StoreNames<Schema>>, "parts", M>;

export const ofProject = (id: string): IDBKeyRange => IDBKeyRange.bound([id], [id, []]);

/** Knows under which key a part of the open document was written: parts are never changed in place. */
export class StoredParts {
  private readonly keys = new WeakMap<Part, string>();

  /** How a project is stored where parts lie under the keys `there`, and the parts that are still to be written. */
  plan(
    project: Project,
    there: ReadonlySet<string>,
  ): { stored: { document: unknown; parts: string[] }; missing: { key: string; part: Part }[] } {
    const missing: { key: string; part: Part }[] = [];
    const parts = project.parts.map((part) => {
      const known = this.keys.get(part);
      if (known !== undefined && there.has(known)) return known;
      const key = newId();
      this.keys.set(part, key);
      missing.push({ key, part });
      return key;
    });
    return { stored: { document: { ...project, parts: [] }, parts }, missing };
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
