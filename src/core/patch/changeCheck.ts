import type { Schema } from "./zod";
import { MAX_NOTES, type Note, type Part, type Project } from "./project";
import { PIECES, checkBinaries, checkFollows, checkPatch, isNote, modulesOfSong } from "./schema";

/** Where a changed document breaks the rules, and which rule. */
export interface Problem {
  readonly path: string;
  readonly reason: string;
}

const pathText = (path: readonly PropertyKey[]): string => path.map(String).join(".");

function inPiece(schema: Schema, value: unknown, path: readonly PropertyKey[]): Problem | null {
  const result = schema.safeParse(value);
  if (result.success) return null;
  const issue = result.error.issues[0]!;
  return { path: pathText([...path, ...issue.path]), reason: issue.message };
}

/** The first problem among the things of a list that are not, the same objects, in the list before. */
function inList<T>(
  schema: Schema,
  after: readonly T[],
  before: readonly T[],
  path: readonly PropertyKey[],
): Problem | null {
  if (after === before) return null;
  const known = new Set(before);
  for (let i = 0; i < after.length; i++) {
    const problem = known.has(after[i]!) ? null : inPiece(schema, after[i], [...path, i]);
    if (problem) return problem;
  }
  return null;
}

function inNotes(after: readonly Note[], before: readonly Note[], path: readonly PropertyKey[]): Problem | null {
  if (after === before) return null;
  if (after.length > MAX_NOTES) return { path: pathText(path), reason: `a part holds ${MAX_NOTES} notes` };
  const kept = after.length === before.length && after.every((n, i) => n === before[i] || n.id === before[i]!.id);
  if (!kept && new Set(after.map((n) => n.id)).size < after.length)
    return { path: pathText(path), reason: "two notes have the same id" };
  return after.every((n, i) => n === before[i] || isNote(n)) ? null : inList(PIECES.note, after, before, path);
}

function inPart(
  after: Part,
  before: Part | undefined,
  project: Project,
  index: number,
  songChanged: boolean,
): Problem | null {
  if (after === before && !songChanged) return null;
  const path = ["parts", index];
  const { patch } = after;
  let problem =
    (before ? null : inPiece(PIECES.partId, after.id, [...path, "id"])) ??
    (after.name === before?.name ? null : inPiece(PIECES.name, after.name, [...path, "name"])) ??
    inNotes(after.notes, before?.notes ?? [], [...path, "notes"]) ??
    (after.mix === before?.mix ? null : inPiece(PIECES.mix, after.mix, [...path, "mix"])) ??
    (after.follows === before?.follows ? null : inPiece(PIECES.follows, after.follows, [...path, "follows"])) ??
    (after.noteChord === before?.noteChord
      ? null
      : inPiece(PIECES.noteChord, after.noteChord, [...path, "noteChord"])) ??
    (after.arpeggio === before?.arpeggio ? null : inPiece(PIECES.arpeggio, after.arpeggio, [...path, "arpeggio"]));
  if (problem || (patch === before?.patch && !songChanged)) return problem;
  const at = [...path, "patch"];
  problem =
    inPiece(PIECES.patchFrame, patch, at) ??
    inList(PIECES.module, patch.modules, before?.patch.modules ?? [], [...at, "modules"]) ??
    inList(PIECES.route, patch.routes, before?.patch.routes ?? [], [...at, "routes"]);
  if (!problem)
    checkPatch(patch, modulesOfSong(project), (reason, where) => {
      problem ??= { path: pathText([...at, ...where]), reason };
    });
  return problem;
}

/**
 * Checks what an edit has changed in a document that was valid before: parts that are the same objects are not looked at
 * again, so that it can be done with every edit. Null when the document is still valid; see ProjectSchema for the whole.
 */
export function problemOfEdit(before: Project, after: Project): Problem | null {
  if (after === before) return null;
  const songChanged = after.modules !== before.modules || after.backing?.id !== before.backing?.id;
  const problem =
    (after.name === before.name ? null : inPiece(PIECES.name, after.name, ["name"])) ??
    (after.song === before.song ? null : inPiece(PIECES.song, after.song, ["song"])) ??
    (after.outputTrim === before.outputTrim ? null : inPiece(PIECES.trim, after.outputTrim, ["outputTrim"])) ??
    (after.backing === before.backing ? null : inPiece(PIECES.backing, after.backing, ["backing"])) ??
    inPiece(PIECES.frame, after, []) ??
    inList(PIECES.module, after.modules, before.modules, ["modules"]);
  if (problem) return problem;
  const following: Problem[] = [];
  checkFollows(after.parts, (reason, where) => following.push({ path: pathText(["parts", ...where]), reason }));
  if (following[0]) return following[0];
  for (let i = 0; i < after.parts.length; i++) {
    const part = after.parts[i]!;
    const known = before.parts.find((p) => p.id === part.id);
    const inside = inPart(part, known, after, i, songChanged);
    if (inside) return inside;
  }
  let lacking: Problem | null = null;
  checkBinaries(after, (reason, where) => (lacking ??= { path: pathText(where), reason }));
  return lacking;
}
