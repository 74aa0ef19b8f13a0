import { MAX_NOTES, type Note } from "../patch/project";
import { MAX_TICK } from "../time/noteValue";
import { inScale, moveInScale, type Key } from "../pitch/note";
import { hash01 } from "./chance";

/**
 * Pure tools on the chosen notes of a part, in whole ticks and within what a document holds. Each returns the same list
 * when nothing changes. `newId` names notes that are new.
 */

type Ids = ReadonlySet<string>;
type NewId = () => string;

const inRange = (n: Note): Note => ({
  ...n,
  startTick: Math.min(MAX_TICK, Math.max(0, Math.round(n.startTick))),
  lengthTicks: Math.min(MAX_TICK, Math.max(1, Math.round(n.lengthTicks))),
  velocity: Math.min(127, Math.max(1, Math.round(n.velocity))),
});

const same = (a: Note, b: Note): boolean =>
  a.startTick === b.startTick && a.lengthTicks === b.lengthTicks && a.key === b.key && a.velocity === b.velocity;

/** Changes the chosen notes one by one; a note whose key would leave MIDI's keeps its own. */
function changed(notes: readonly Note[], ids: Ids, change: (note: Note) => Note): readonly Note[] {
  const next = notes.map((n) => {
    if (!ids.has(n.id)) return n;
    const made = inRange(change(n));
    const valid = made.key >= 0 && made.key <= 127 ? made : { ...made, key: n.key };
    return same(valid, n) ? n : valid;
  });
  return next.every((n, i) => n === notes[i]) ? notes : next;
}

const chosenOf = (notes: readonly Note[], ids: Ids): Note[] => notes.filter((n) => ids.has(n.id));
const startOf = (list: readonly Note[]): number => list.reduce((least, n) => Math.min(least, n.startTick), Infinity);
const endOf = (list: readonly Note[]): number =>
  list.reduce((most, n) => Math.max(most, n.startTick + n.lengthTicks), 0);

/** How likely a note is played, in percent: 100 where nothing is said. */
export const chanceOf = (note: Note): number => note.chance ?? 100;

export const setChance = (notes: readonly Note[], ids: Ids, percent: number): readonly Note[] => {
  const next = Math.min(100, Math.max(0, Math.round(percent)));
  if (chosenOf(notes, ids).every((n) => chanceOf(n) === next)) return notes;
  return notes.map((n) => {
    if (!ids.has(n.id)) return n;
    const { id, startTick, lengthTicks, key, velocity } = n;
    const always: Note = { id, startTick, lengthTicks, key, velocity };
    return next === 100 ? always : { ...always, chance: next };
  });
};

export const setLength = (notes: readonly Note[], ids: Ids, lengthTicks: number): readonly Note[] =>
  changed(notes, ids, (n) => ({ ...n, lengthTicks }));

/** Moves starts towards the grid of `gridTicks` by a strength of 0 to 1; lengths stay. */
export const quantise = (notes: readonly Note[], ids: Ids, gridTicks: number, strength: number): readonly Note[] =>
  changed(notes, ids, (n) => ({
    ...n,
    startTick: n.startTick + strength * (Math.round(n.startTick / gridTicks) * gridTicks - n.startTick),
  }));

/** Lets each of the chosen notes last until the next of them starts; the last ones until `endTick`. */
export function legato(notes: readonly Note[], ids: Ids, endTick: number): readonly Note[] {
  const starts = [...new Set(chosenOf(notes, ids).map((n) => n.startTick))].sort((a, b) => a - b);
  return changed(notes, ids, (n) => {
    const next = starts.find((s) => s > n.startTick) ?? endTick;
    return { ...n, lengthTicks: next - n.startTick };
  });
}

/**
 * Spreads notes that start together: each starts so many ticks after the next lower one (or higher, when `down`) and ends
 * where it ended.
 */
export const strum = (notes: readonly Note[], ids: Ids, ticks: number, down: boolean): readonly Note[] => {
  const chosen = chosenOf(notes, ids);
  return changed(notes, ids, (n) => {
    const before = chosen.filter((o) => o.startTick === n.startTick && (down ? o.key > n.key : o.key < n.key)).length;
    const by = Math.min(before * ticks, n.lengthTicks - 1);
    return { ...n, startTick: n.startTick + by, lengthTicks: n.lengthTicks - by };
  });
};

/** Adds notes above each chosen one, stacked in thirds of the key: `count` in all, itself included. Keys past MIDI's are left out. */
export function stackInKey(notes: readonly Note[], ids: Ids, count: number, key: Key, newId: NewId): readonly Note[] {
  const taken = new Set(notes.map((n) => `${n.startTick}:${n.key}`));
  const added = chosenOf(notes, ids).flatMap((n) =>
    Array.from({ length: count - 1 }, (_, i) => ({ ...n, id: newId(), key: moveInScale(n.key, 2 * (i + 1), key) })),
  );
  const fit = added.filter((n) => n.key <= 127 && !taken.has(`${n.startTick}:${n.key}`));
  return keep(notes, [...notes, ...fit].slice(0, MAX_NOTES));
}

/** Moves starts and velocities by what the seed draws for each note, at most so far either way. */
export const humanise = (
  notes: readonly Note[],
  ids: Ids,
  seed: number,
  ticks: number,
  velocity: number,
): readonly Note[] =>
  changed(notes, ids, (n) => ({
    ...n,
    startTick: n.startTick + ticks * (2 * hash01(seed, n.startTick, n.key, 0) - 1),
    velocity: n.velocity + velocity * (2 * hash01(seed, n.startTick, n.key, 1) - 1),
  }));

/** Moves notes by steps of the key's scale. */
export const transposeInKey = (notes: readonly Note[], ids: Ids, steps: number, key: Key): readonly Note[] =>
  changed(notes, ids, (n) => ({ ...n, key: moveInScale(n.key, steps, key) }));

/** Moves keys that lie outside the scale to the nearest one within; downwards where two are as near. */
export const toKey = (notes: readonly Note[], ids: Ids, key: Key): readonly Note[] =>
  changed(notes, ids, (n) => ({ ...n, key: nearestInScale(n.key, key) }));

export function nearestInScale(midiKey: number, key: Key): number {
  for (let by = 0; ; by++) {
    if (inScale(midiKey - by, key)) return midiKey - by;
    if (inScale(midiKey + by, key)) return midiKey + by;
  }
}

/** Plays the chosen notes backwards within the time they take. */
export function reverse(notes: readonly Note[], ids: Ids): readonly Note[] {
  const chosen = chosenOf(notes, ids);
  const [start, end] = [startOf(chosen), endOf(chosen)];
  return changed(notes, ids, (n) => ({ ...n, startTick: start + end - n.startTick - n.lengthTicks }));
}

/** Plays the chosen notes `factor` times as long, from where the first one starts. */
export function stretchTime(notes: readonly Note[], ids: Ids, factor: number): readonly Note[] {
  const start = startOf(chosenOf(notes, ids));
  return changed(notes, ids, (n) => ({
    ...n,
    startTick: start + (n.startTick - start) * factor,
    lengthTicks: n.lengthTicks * factor,
  }));
}

/** Parts each chosen note in two, at `atTick` where that lies within it, else in its middle. */
export function split(notes: readonly Note[], ids: Ids, atTick: number | null, newId: NewId): readonly Note[] {
  let room = MAX_NOTES - notes.length;
  return keep(notes, notes.flatMap((n) => {
    if (!ids.has(n.id) || n.lengthTicks < 2 || room <= 0) return [n];
    const inside = atTick !== null && atTick > n.startTick && atTick < n.startTick + n.lengthTicks;
    const where = inside ? Math.round(atTick - n.startTick) : Math.floor(n.lengthTicks / 2);
      const first = Math.min(n.lengthTicks - 1, Math.max(1, where));
    room--;
    return [
      { ...n, lengthTicks: first },
      { ...n, id: newId(), startTick: n.startTick + first, lengthTicks: n.lengthTicks - first },
    ];
  })); // prettier-ignore
}

/** Joins chosen notes of one key to one note, from the start of the first to the end of the last. */
export function join(notes: readonly Note[], ids: Ids): readonly Note[] {
  const byKey = new Map<number, Note[]>();
  for (const n of chosenOf(notes, ids)) byKey.set(n.key, [...(byKey.get(n.key) ?? []), n]);
  const joined = new Map<string, Note | null>();
  for (const list of byKey.values()) {
    if (list.length < 2) continue;
    const start = startOf(list);
    const first = list.find((n) => n.startTick === start)!;
    for (const n of list) joined.set(n.id, null);
    joined.set(first.id, inRange({ ...first, lengthTicks: endOf(list) - start }));
  }
  if (joined.size === 0) return notes;
  return notes.flatMap((n) => (joined.has(n.id) ? (joined.get(n.id) ?? []) : [n]));
}

/** Notes laid `atTick`, keeping their distances; those that would start at or after `endTick` are left out. */
export function placed(list: readonly Note[], atTick: number, endTick: number, newId: NewId): Note[] {
  const start = startOf(list);
  return list
    .map((n) => ({ ...n, id: newId(), startTick: n.startTick - start + atTick }))
    .filter((n) => n.startTick < Math.min(endTick, MAX_TICK));
}

/** The time that notes take, from the first start to the last end, rounded up to whole units. */
export const spanOf = (list: readonly Note[], unitTicks: number): number =>
  list.length === 0 ? 0 : Math.max(1, Math.ceil((endOf(list) - startOf(list)) / unitTicks)) * unitTicks;

/** Repeats the chosen notes, every so many whole units, until the loop is full. Returns the whole list. */
export function repeatToFill(
  notes: readonly Note[],
  ids: Ids,
  unitTicks: number,
  endTick: number,
  newId: NewId,
): readonly Note[] {
  const chosen = chosenOf(notes, ids);
  const span = spanOf(chosen, unitTicks);
  const start = startOf(chosen);
  const added: Note[] = [];
  for (let at = start + span; at < endTick && added.length < MAX_NOTES; at += span)
    added.push(...placed(chosen, at, endTick, newId));
  return added.length === 0 ? notes : [...notes, ...added].slice(0, MAX_NOTES);
}

const keep = (before: readonly Note[], after: readonly Note[]): readonly Note[] =>
  after.length === before.length ? before : after;
