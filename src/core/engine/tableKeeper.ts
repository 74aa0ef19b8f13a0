import { tableName, type TableSpec } from "../dsp/tableSpec";

/** A program that is faded to takes over within some ten milliseconds; edits come every sixteen at the fastest. */
const KEPT_PROGRAMS = 8;

/** Knows which wave tables an engine holds, and which of them no program of late has read. */
export class TableKeeper {
  private readonly recent: ReadonlySet<string>[] = [];
  private readonly held = new Set<string>();

  /** For a program that reads these tables: those that the engine lacks, and the names of those that it may drop. */
  next(tables: readonly TableSpec[]): { lacking: TableSpec[]; unused: string[] } {
    this.recent.push(new Set(tables.map(tableName)));
    if (this.recent.length > KEPT_PROGRAMS) this.recent.shift();
    const unused = [...this.held].filter((name) => !this.recent.some((names) => names.has(name)));
    for (const name of unused) this.held.delete(name);
    const lacking = tables.filter((t) => !this.held.has(tableName(t)));
    for (const t of lacking) this.held.add(tableName(t));
    return { lacking, unused };
  }

  clear(): void {
    this.recent.length = 0;
    this.held.clear();
  }
}
