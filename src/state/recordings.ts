import { createStore, type StoreApi } from "zustand/vanilla";
import type { Recordings } from "@/core/dsp/tableSpec";
import type { Recording } from "@/core/format/wavRead";
import { hashesIn } from "@/core/patch/binaries";
import type { Binary, Project } from "@/core/patch/project";
import { projectFiles } from "./projectFiles";

export interface RecordingsState {
  readonly known: Recordings;
  /** Hashes that the open project names and this browser does not have, or cannot read. */
  readonly missing: ReadonlySet<string>;
}

/** A recording that was brought in: its sound, and the bytes under which it is kept. */
export interface Taken {
  readonly binary: Binary;
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly recording: Recording;
}

/** Where bytes are kept; null while there is no database. */
type Keeper = () => {
  binaries(hashes: readonly string[]): Promise<Map<string, Uint8Array>>;
  putBinaries(content: ReadonlyMap<string, Uint8Array>): Promise<void>;
} | null;

/** The recordings that are at hand: read from where they are kept as projects name them, or brought in by hand. */
export class RecordingShelf {
  readonly store: StoreApi<RecordingsState> = createStore<RecordingsState>(() => ({
    known: new Map(),
    missing: new Set(),
  }));
  private readonly binaries = new Map<string, Binary>();
  /** Bytes that were brought in: what a browser without a database still saves as a file. */
  private readonly bytes = new Map<string, Uint8Array>();

  constructor(private readonly keeper: Keeper) {}

  /** What a document that names a hash writes of it; null for one that was never seen. */
  readonly binaryOf = (hash: string): Binary | null => this.binaries.get(hash) ?? null;

  /** Reads what a project names and is not at hand yet. */
  async load(project: Project): Promise<void> {
    for (const b of project.binaries) this.binaries.set(b.hash, b);
    const { known, missing } = this.store.getState();
    const wanted = [...hashesIn(project)].filter((h) => !known.has(h) && !missing.has(h));
    if (wanted.length === 0) return;
    const found = await this.content(wanted);
    const { recordingsOf } = await projectFiles();
    const read = recordingsOf(found);
    this.store.setState((s) => ({
      known: new Map([...s.known, ...read]),
      missing: new Set([...s.missing, ...wanted.filter((h) => !read.has(h))]),
    }));
  }

  /** Keeps what was brought in, before a document names it. Rejects where it cannot be kept. */
  async keep({ binary, bytes, recording }: Taken): Promise<void> {
    await this.keeper()?.putBinaries(new Map([[binary.hash, bytes]]));
    this.binaries.set(binary.hash, binary);
    this.bytes.set(binary.hash, bytes);
    this.store.setState(({ known, missing }) => ({
      known: new Map([...known, [binary.hash, recording]]),
      missing: new Set([...missing].filter((h) => h !== binary.hash)),
    }));
  }

  /** Puts bytes that were brought in where they are kept, should they be gone from there. */
  async keepAgain(hashes: readonly string[]): Promise<void> {
    const here = hashes.flatMap((h) => (this.bytes.has(h) ? [[h, this.bytes.get(h)!] as const] : []));
    if (here.length > 0) await this.keeper()?.putBinaries(new Map(here));
  }

  /** The bytes under the hashes; those that are nowhere are left out. */
  async content(hashes: readonly string[]): Promise<Map<string, Uint8Array>> {
    const stored = hashes.length > 0 ? await this.keeper()?.binaries(hashes) : undefined;
    const all = new Map(stored ?? []);
    for (const h of hashes) {
      const here = this.bytes.get(h);
      if (here && !all.has(h)) all.set(h, here);
    }
    return all;
  }

  /** Files that were opened bring theirs along. */
  async keepContent(content: ReadonlyMap<string, Uint8Array>): Promise<void> {
    await this.keeper()?.putBinaries(content);
    for (const [hash, bytes] of content) this.bytes.set(hash, bytes);
    this.store.setState((s) => ({ ...s, missing: new Set([...s.missing].filter((h) => !content.has(h))) }));
  }
}
