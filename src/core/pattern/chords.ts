import type { Note } from "../patch/project";

/** Notes that start together. */
export interface ChordGroup {
  readonly startTick: number;
  /** Where the longest of them ends, or the next chord begins. */
  readonly endTick: number;
  readonly notes: readonly Note[];
}

/** The chords among notes, in order: two notes or more that start together. */
export function chordGroups(notes: readonly Note[]): ChordGroup[] {
  const byStart = new Map<number, Note[]>();
  for (const n of notes) byStart.set(n.startTick, [...(byStart.get(n.startTick) ?? []), n]);
  const groups = [...byStart.entries()].filter(([, list]) => list.length > 1).sort(([a], [b]) => a - b);
  return groups.map(([startTick, list], i) => {
    const end = Math.max(...list.map((n) => n.startTick + n.lengthTicks));
    return { startTick, endTick: Math.min(end, groups[i + 1]?.[0] ?? Infinity), notes: list };
  });
}
