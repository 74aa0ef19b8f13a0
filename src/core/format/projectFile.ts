import { openProject } from "../patch/migrate";
import type { Opened } from "../patch/openCurrent";
import type { Project } from "../patch/project";
import { fromBase64, toBase64 } from "./base64";
import { sha256 } from "./sha256";
import type { Recordings } from "../dsp/tableSpec";
import { readWav, type Recording } from "./wavRead";

/** Binary things by their SHA-256. */
export type Content = ReadonlyMap<string, Uint8Array>;

export type OpenedFile =
  { readonly ok: true; readonly project: Project; readonly content: Content } | Extract<Opened, { ok: false }>;

/** The sounds of what a file carries; what is none is left out, and what plays it is silent. */
export function recordingsOf(content: Content): Recordings {
  const read = new Map<string, Recording>();
  for (const [hash, bytes] of content) {
    try {
      read.set(hash, readWav(bytes));
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
    }
  }
  return read;
}

const refuse = (path: string, reason: string): OpenedFile => ({ ok: false, path, reason });

/**
 * Reads a project file's text. A cut or damaged file is refused with where the reading stopped; so is one that lacks a
 * recording or wave table that it names, or carries other bytes than it says.
 */
export function parseProjectFile(text: string): OpenedFile {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    return refuse("file", `not readable as JSON, it may be cut short (${(error as Error).message})`);
  }
  const opened = openProject(data);
  if (!opened.ok) return opened;
  const carried = ((data as { content?: unknown }).content ?? {}) as Readonly<Record<string, unknown>>;
  const content = new Map<string, Uint8Array>();
  for (const { hash, name } of opened.project.binaries) {
    const encoded = carried[hash];
    if (typeof encoded !== "string") return refuse(`content.${hash}`, `the file lacks "${name}"`);
    const bytes = fromBase64(encoded);
    if (bytes === null || sha256(bytes) !== hash) return refuse(`content.${hash}`, `"${name}" is damaged`);
    content.set(hash, bytes);
  }
  return { ok: true, project: opened.project, content };
}

/** The text of a project file: the document, and the bytes that it refers to. Throws RangeError when some are missing. */
export function projectFileText(project: Project, content: Content = new Map()): string {
  const carried = project.binaries.map(({ hash, name }): [string, string] => {
    const bytes = content.get(hash);
    if (!bytes) throw new RangeError(`"${name}" is not there to be written`);
    return [hash, toBase64(bytes)];
  });
  const file = carried.length > 0 ? { ...project, content: Object.fromEntries(carried) } : project;
  return `${JSON.stringify(file, null, 2)}\n`;
}
