import { newPart } from "@/core/patch/defaults";
import { MAX_PARTS, type Follow, type Part, type PartMix } from "@/core/patch/project";
import { editPart } from "./edits";
import type { Edit } from "./projectStore";

/** Pure edits of the list of parts. Each leaves the project as it is when nothing changes. */

const numbered = (parts: readonly Part[], name: string): string => {
  const names = new Set(parts.map((p) => p.name));
  const stem = name.replace(/ \d+$/, "").slice(0, 76);
  for (let n = 2; ; n++) if (!names.has(`${stem} ${n}`)) return `${stem} ${n}`;
};

/** Puts a part behind another one, or at the end; a project holds eight. */
const inserted = (parts: readonly Part[], part: Part, behind: string | null): readonly Part[] => {
  if (parts.length >= MAX_PARTS) return parts;
  const at = behind === null ? -1 : parts.findIndex((p) => p.id === behind);
  return parts.toSpliced(at === -1 ? parts.length : at + 1, 0, part);
};

/** Adds an empty part at the end. */
export const addPart =
  (id: string): Edit =>
  (p) => ({ ...p, parts: inserted(p.parts, newPart(id, numbered(p.parts, "Part 1")), null) });

/** A copy of a part behind it: all of it, or its sound alone, which then follows it. */
export const duplicatePart =
  (partId: string, id: string, follows: boolean): Edit =>
  (p) => {
    const part = p.parts.find((q) => q.id === partId);
    if (!part) return p;
    const made: Part = { ...part, id, name: numbered(p.parts, part.name) };
    const layer: Part = { ...made, notes: [], noteChord: null, follows: part.follows ?? { part: partId, semitones: 0, later: null, linked: false } };
    return { ...p, parts: inserted(p.parts, follows ? layer : made, partId) };
  }; // prettier-ignore

/** Removes a part; those that follow it keep what they played as patterns of their own. The last one stays. */
export const removePart =
  (partId: string): Edit =>
  (p) => {
    const gone = p.parts.find((q) => q.id === partId);
    if (!gone || p.parts.length === 1) return p;
    const kept = p.parts.filter((q) => q.id !== partId);
    return { ...p, parts: kept.map((q) => (q.follows?.part === partId ? withPatternOf(q, gone) : q)) };
  };

const withPatternOf = (part: Part, other: Part): Part => {
  const by = part.follows?.semitones ?? 0;
  const notes = other.notes.map((n) => ({ ...n, key: n.key + by })).filter((n) => n.key >= 0 && n.key <= 127);
  return { ...part, follows: null, notes, noteChord: other.noteChord, arpeggio: other.arpeggio };
};

/** Moves a part up or down among the others. */
export const movePart =
  (partId: string, by: -1 | 1): Edit =>
  (p) => {
    const at = p.parts.findIndex((q) => q.id === partId);
    const to = at + by;
    const part = p.parts[at];
    if (!part || to < 0 || to >= p.parts.length) return p;
    return { ...p, parts: p.parts.toSpliced(at, 1).toSpliced(to, 0, part) };
  };

export const editMix = (partId: string, change: Partial<PartMix>): Edit =>
  editPart(partId, (part) => ({ ...part, mix: { ...part.mix, ...change } }));

/** Lets a part follow another one, or play its own pattern. Parts that followed it follow the other one too. */
export const followPart =
  (partId: string, follows: Follow | null): Edit =>
  (p) => ({
    ...p,
    parts: p.parts.map((q) => {
      if (q.id === partId) return { ...q, follows };
      return follows && q.follows?.part === partId ? { ...q, follows: { ...q.follows, part: follows.part } } : q;
    }),
  });

/** Gives a part that follows the pattern that it plays as its own, so that it can be edited. */
export const ownPattern =
  (partId: string): Edit =>
  (p) =>
    editPart(partId, (part) => {
      const other = part.follows && p.parts.find((q) => q.id === part.follows?.part);
      return other ? withPatternOf(part, other) : part;
    })(p);
