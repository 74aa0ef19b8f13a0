import { MAX_NOTES, type Note } from "../patch/project";
import { MAX_TICK } from "../time/noteValue";

/** Pure edits of a part's notes, in whole ticks and within what a document holds. Each returns the same array when nothing changes. */

const clamp = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v));

/** Moves the chosen notes together; the group stops at the start of the loop, at `endTick`, and at MIDI's lowest and highest key. */
export function moveNotes(
  notes: readonly Note[],
  ids: ReadonlySet<string>,
  deltaTicks: number,
  deltaKeys: number,
  endTick: number,
): readonly Note[] {
  const chosen = notes.filter((n) => ids.has(n.id));
  if (chosen.length === 0) return notes;
  const ticks = clamp(
    Math.round(deltaTicks),
    -Math.min(...chosen.map((n) => n.startTick)),
    Math.max(0, endTick - 1 - Math.max(...chosen.map((n) => n.startTick))),
  );
  const keys = clamp(deltaKeys, -Math.min(...chosen.map((n) => n.key)), 127 - Math.max(...chosen.map((n) => n.key)));
  if (ticks === 0 && keys === 0) return notes;
  return notes.map((n) => (ids.has(n.id) ? { ...n, startTick: n.startTick + ticks, key: n.key + keys } : n));
}

/** Makes the chosen notes longer or shorter, none shorter than `shortest` ticks. */
export function stretchNotes(
  notes: readonly Note[],
  ids: ReadonlySet<string>,
  deltaTicks: number,
  shortest: number,
): readonly Note[] {
  const by = Math.round(deltaTicks);
  if (by === 0) return notes;
  return notes.map((n) => {
    const lengthTicks = Math.min(MAX_TICK, Math.max(Math.min(shortest, n.lengthTicks), n.lengthTicks + by));
    return ids.has(n.id) && lengthTicks !== n.lengthTicks ? { ...n, lengthTicks } : n;
  });
}

export function setVelocity(notes: readonly Note[], ids: ReadonlySet<string>, velocity: number): readonly Note[] {
  const next = clamp(Math.round(velocity), 1, 127);
  return notes.some((n) => ids.has(n.id) && n.velocity !== next)
    ? notes.map((n) => (ids.has(n.id) ? { ...n, velocity: next } : n))
    : notes;
}

export const removeNotes = (notes: readonly Note[], ids: ReadonlySet<string>): readonly Note[] =>
  notes.some((n) => ids.has(n.id)) ? notes.filter((n) => !ids.has(n.id)) : notes;

/** Adds notes, as many as the part can hold (4096). */
export const addNotes = (notes: readonly Note[], added: readonly Note[]): readonly Note[] =>
  added.length === 0 ? notes : [...notes, ...added].slice(0, MAX_NOTES);
