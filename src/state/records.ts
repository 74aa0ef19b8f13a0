/** What the browser's database holds of a project. */

/**
 * A stored document: whole, or without its parts, which lie beside it under `parts`. A part is written once and never
 * changed, so a save writes the parts that were edited only, and earlier states cost what differs in them.
 */
export interface StoredDocument {
  readonly document: unknown;
  readonly parts?: readonly string[] | undefined;
}

export interface ProjectRecord extends StoredDocument {
  readonly id: string;
  readonly name: string;
  /** Milliseconds since 1970. */
  readonly savedAt: number;
  /** Counts saves; a save is refused when another one came between. */
  readonly revision: number;
}

export type ProjectSummary = Pick<ProjectRecord, "id" | "name" | "savedAt">;

/** An earlier state of a project, kept for the day when the stored one cannot be read. */
export interface EarlierState extends StoredDocument {
  readonly project: string;
  readonly savedAt: number;
}
