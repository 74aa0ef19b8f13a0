/** One edit as a person sees it. Documents share their unchanged parts, so keeping both ends costs little. */
export interface Entry<T> {
  readonly label: string;
  /** Edits of one gesture (a drag) are one entry. */
  readonly gesture: string | null;
  readonly before: T;
  readonly after: T;
}

export interface History<T> {
  readonly done: readonly Entry<T>[];
  readonly undone: readonly Entry<T>[];
}

const LONGEST = 500;

export const emptyHistory = <T>(): History<T> => ({ done: [], undone: [] });

/** Records an edit. An edit of the gesture that is open extends its entry. */
export function record<T>(history: History<T>, entry: Entry<T>): History<T> {
  const last = history.done.at(-1);
  if (last && entry.gesture !== null && last.gesture === entry.gesture && history.undone.length === 0) {
    return { done: [...history.done.slice(0, -1), { ...last, after: entry.after }], undone: [] };
  }
  return { done: [...history.done, entry].slice(-LONGEST), undone: [] };
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
