/** One edit as a person sees it. Documents share their unchanged parts, so keeping both ends costs little. */
export interface Entry<T> {
  readonly label: string;
  /** Edits of one gesture (a drag) are one entry. */
  readonly gesture: string | null;
  readonly before: T;
  readonly after: T;
  /** About what the entry keeps in memory that its neighbours do not. */
  readonly bytes: number;
  /** The sum of that and of what all entries before it took, those that were let go included. */
  readonly bytesSoFar: number;
}

export interface History<T> {
  readonly done: readonly Entry<T>[];
  readonly undone: readonly Entry<T>[];
}

/** Entries are kept until they take about this much memory; the newest always stays. */
const HISTORY_BYTES = 64_000_000;

export const emptyHistory = <T>(): History<T> => ({ done: [], undone: [] });

type Tree = Readonly<Record<string, unknown>>;
const isTree = (x: unknown): x is Tree => typeof x === "object" && x !== null;

/** Whether two values hold the same. Parts that are the same object are not looked into. */
export function holdsSame(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (!isTree(a) || !isTree(b) || Array.isArray(a) !== Array.isArray(b)) return false;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((x, i) => holdsSame(x, b[i]));
  const keys = Object.keys(a);
  return keys.length === Object.keys(b).length && keys.every((k) => k in b && holdsSame(a[k], b[k]));
}

const SLOT_BYTES = 16;

/** About the memory that `after` takes beside `before`: what they share costs nothing. */
function bytesApart(before: unknown, after: unknown): number {
  if (before === after) return 0;
  if (!isTree(after)) return typeof after === "string" ? 2 * after.length : 0;
  const old: Tree = isTree(before) ? before : {};
  let bytes = SLOT_BYTES;
  if (Array.isArray(after)) {
    // Names of thousands of places would take longer than what stands there.
    const places: readonly unknown[] = Array.isArray(before) ? before : [];
    for (let i = 0; i < after.length; i++) bytes += SLOT_BYTES + bytesApart(places[i], after[i]);
    return bytes;
  }
  for (const key of Object.keys(after)) bytes += SLOT_BYTES + bytesApart(old[key], after[key]);
  return bytes;
}

/** Drops the oldest entries beyond the memory that a history may take. */
function withinMemory<T>(done: readonly Entry<T>[]): readonly Entry<T>[] {
  const tooMuch = done.at(-1)!.bytesSoFar - HISTORY_BYTES;
  // The first that stays: as a rule the first of all.
  const first = done.findIndex((e, i) => e.bytesSoFar - e.bytes >= tooMuch || i === done.length - 1);
  return first === 0 ? done : done.slice(first);
}

/** Records an edit. An edit of the gesture that is open extends its entry; a gesture that ends where it began leaves none. */
export function record<T>(history: History<T>, edit: Omit<Entry<T>, "bytes" | "bytesSoFar">): History<T> {
  const last = history.done.at(-1);
  const extended = last && edit.gesture !== null && last.gesture === edit.gesture && history.undone.length === 0;
  const rest = extended ? history.done.slice(0, -1) : history.done;
  const before = extended ? last.before : edit.before;
  if (extended && holdsSame(before, edit.after)) return { done: rest, undone: [] };
  const bytes = bytesApart(before, edit.after);
  const entry = { ...edit, before, bytes, bytesSoFar: (rest.at(-1)?.bytesSoFar ?? 0) + bytes };
  return { done: withinMemory([...rest, entry]), undone: [] };
}

/** The history after undoing, and the document to go back to; null when there is nothing to undo. */
export function undo<T>(history: History<T>): { history: History<T>; entry: Entry<T> } | null {
  const entry = history.done.at(-1);
  return entry ? { history: { done: history.done.slice(0, -1), undone: [...history.undone, entry] }, entry } : null;
}

export function redo<T>(history: History<T>): { history: History<T>; entry: Entry<T> } | null {
  const entry = history.undone.at(-1);
  return entry ? { history: { done: [...history.done, entry], undone: history.undone.slice(0, -1) }, entry } : null;
}
