import { addNotes, moveNotes, stretchNotes } from "@/core/pattern/noteEdit";
import type { Note } from "@/core/patch/project";
import { MAGNET } from "@/ui/curve/curveDrag";
import type { Timeline } from "../timeline";
import { tickToX, xToTick } from "../timeline";

/** Where notes are drawn: time across, keys up. */
export interface RollView {
  readonly timeline: Timeline;
  /** The keys of the rows from the lowest up: all between two, or only those that are used. */
  readonly keys: readonly number[];
  readonly height: number;
}

export interface Px {
  readonly x: number;
  readonly y: number;
}

/** The row at a height, from the lowest; it may lie outside. */
const rowAt = (v: RollView, y: number): number => v.keys.length - 1 - Math.floor((y / v.height) * v.keys.length);

/** The key at a height; above and below the rows it goes on by semitones. */
export function keyAt(v: RollView, y: number): number {
  const row = rowAt(v, y);
  const last = v.keys.length - 1;
  if (row < 0) return v.keys[0]! + row;
  return row > last ? v.keys[last]! + row - last : v.keys[row]!;
}

/** The upper edge of a key's row; keys without a row lie outside. */
export function rowTop(v: RollView, key: number): number {
  const row = v.keys.indexOf(key);
  const at = row !== -1 ? row : key < v.keys[0]! ? -2 : v.keys.length + 1;
  return ((v.keys.length - 1 - at) / v.keys.length) * v.height;
}

type RollHit = { readonly kind: "body" | "edge"; readonly note: Note } | { readonly kind: "ground" };

/** Pixels at a note's end that stretch it, at most a third of the note. */
const EDGE = 7;
const CLICK = 3;

export function hitNote(notes: readonly Note[], v: RollView, at: Px): RollHit {
  const key = keyAt(v, at.y);
  for (let i = notes.length - 1; i >= 0; i--) {
    const note = notes[i]!;
    if (note.key !== key) continue;
    const x0 = tickToX(v.timeline, note.startTick);
    const x1 = Math.max(x0 + 5, tickToX(v.timeline, note.startTick + note.lengthTicks));
    if (at.x < x0 || at.x > x1 + 2) continue;
    return { kind: at.x > x1 - Math.min(EDGE, (x1 - x0) / 3) ? "edge" : "body", note };
  }
  return { kind: "ground" };
}

interface Begun {
  readonly start: Px;
  readonly gesture: string;
}

type RollDrag =
  | { readonly kind: "idle" }
  /** Empty ground: a click adds a note, a drag draws one with its length. */
  | ({ readonly kind: "draw"; readonly drawn: Note | null; readonly origin: readonly Note[] } & Begun)
  /** With Shift, a frame that chooses. */
  | ({ readonly kind: "frame"; readonly to: Px } & Begun)
  | ({
      readonly kind: "move" | "stretch";
      readonly grabbed: Note;
      readonly origin: readonly Note[];
      /** Whether what moves is a copy of what was chosen. */
      readonly copies: boolean;
      readonly axis: "x" | "y" | null;
    } & Begun);

export interface RollEdit {
  readonly drag: RollDrag;
  readonly notes: readonly Note[];
  readonly selected: ReadonlySet<string>;
  readonly label: string | null;
}

export interface RollRules {
  readonly snapTicks: number;
  readonly endTick: number;
  readonly newId: () => string;
  readonly velocity: number;
  /** What a click draws. */
  readonly lengthTicks: number;
  /** Brings a key to one that may be drawn. */
  readonly allowed: (key: number) => number;
}

const snapped = (tick: number, snap: number): number => (snap > 0 ? Math.round(tick / snap) * snap : Math.round(tick));

export interface Press {
  readonly shift: boolean;
  readonly alt: boolean;
  readonly gesture: string;
}

/** A press: takes hold of a note, with Alt of a copy of what is chosen, or begins to draw or to frame. */
export function pressRoll(
  notes: readonly Note[],
  selected: ReadonlySet<string>,
  v: RollView,
  at: Px,
  press: Press,
  newId: () => string,
): RollEdit {
  const { shift, alt, gesture } = press;
  const begun = { start: at, gesture };
  const hit = hitNote(notes, v, at);
  if (hit.kind === "ground") {
    const drag: RollDrag = shift ? { kind: "frame", to: at, ...begun } : { kind: "draw", drawn: null, origin: notes, ...begun }; // prettier-ignore
    return { notes, selected, label: null, drag };
  }
  const next = new Set(shift || selected.has(hit.note.id) ? selected : []);
  if (shift && next.has(hit.note.id)) next.delete(hit.note.id);
  else next.add(hit.note.id);
  if (!alt)
    return {
      notes,
      selected: next,
      label: null,
      drag: {
        kind: hit.kind === "edge" ? "stretch" : "move",
        grabbed: hit.note,
        origin: notes,
        copies: false,
        axis: null,
        ...begun,
      },
    };
  const copies = notes.filter((n) => next.has(n.id)).map((n) => ({ ...n, id: newId() }));
  const grabbed = copies.find((n) => n.startTick === hit.note.startTick && n.key === hit.note.key)!;
  return {
    notes,
    selected: new Set(copies.map((n) => n.id)),
    label: null,
    drag: { kind: "move", grabbed, origin: addNotes(notes, copies), copies: true, axis: null, ...begun },
  };
}

const startOfStep = (v: RollView, x: number, snap: number): number => {
  const unit = Math.max(1, snap);
  return Math.floor(xToTick(v.timeline, x) / unit) * unit;
};

/** The note that is drawn from a press to a place: to the right it lasts until there, to the left it starts there. */
function drawn(begun: Begun, v: RollView, at: Px, id: string, rules: RollRules): Note | null {
  const unit = Math.max(1, rules.snapTicks);
  const from = startOfStep(v, begun.start.x, unit);
  const to = startOfStep(v, at.x, unit);
  const startTick = Math.max(0, Math.min(from, to));
  const key = rules.allowed(keyAt(v, begun.start.y));
  if (from < 0 || from >= rules.endTick || key < 0 || key > 127) return null;
  return { id, startTick, lengthTicks: Math.min(rules.endTick, Math.max(from, to) + unit) - startTick, key, velocity: rules.velocity }; // prettier-ignore
}

export function moveRoll(edit: RollEdit, v: RollView, at: Px, ctrl: boolean, rules: RollRules): RollEdit {
  const { drag } = edit;
  if (drag.kind === "idle") return edit;
  const far = Math.hypot(at.x - drag.start.x, at.y - drag.start.y) > CLICK;
  if (drag.kind === "frame")
    return { ...edit, label: null, selected: inFrame(edit.notes, v, drag.start, at), drag: { ...drag, to: at } };
  if (drag.kind === "draw") {
    // A hand that trembles still clicks.
    if (drag.drawn === null && Math.abs(at.x - drag.start.x) <= MAGNET) return edit;
    const note = drawn(drag, v, at, drag.drawn?.id ?? rules.newId(), rules);
    if (!note) return edit;
    return {
      drag: { ...drag, drawn: note },
      notes: addNotes(drag.origin, [note]),
      selected: new Set([note.id]),
      label: "Add a note",
    };
  }
  if (drag.axis === null && !far) return edit;
  const dx = at.x - drag.start.x;
  const axis = drag.axis ?? (drag.kind === "stretch" || Math.abs(dx) > Math.abs(at.y - drag.start.y) ? "x" : "y");
  const ticks = (dx / v.timeline.width) * v.timeline.ticks;
  if (drag.kind === "stretch") {
    const end = drag.grabbed.startTick + drag.grabbed.lengthTicks;
    const by = snapped(end + ticks, rules.snapTicks) - end;
    return {
      ...edit,
      drag: { ...drag, axis },
      label: "Stretch notes",
      notes: stretchNotes(drag.origin, edit.selected, by, Math.max(1, rules.snapTicks)),
    };
  }
  const useX = ctrl ? axis === "x" : Math.abs(dx) > MAGNET;
  const useY = ctrl ? axis === "y" : Math.abs(at.y - drag.start.y) > MAGNET;
  const byTicks = useX ? snapped(drag.grabbed.startTick + ticks, rules.snapTicks) - drag.grabbed.startTick : 0;
  const byKeys = useY
    ? rules.allowed(keyAt(v, at.y) - keyAt(v, drag.start.y) + drag.grabbed.key) - drag.grabbed.key
    : 0;
  return {
    ...edit,
    drag: { ...drag, axis },
    label: drag.copies ? "Copy notes" : "Move notes",
    notes: moveNotes(drag.origin, edit.selected, byTicks, byKeys, rules.endTick),
  };
}

export function releaseRoll(edit: RollEdit, v: RollView, rules: RollRules): RollEdit {
  const { drag } = edit;
  // Copies that were not moved away are none.
  const known = new Set(edit.notes.map((n) => n.id));
  const selected = new Set([...edit.selected].filter((id) => known.has(id)));
  const done: RollEdit = { ...edit, selected, drag: { kind: "idle" }, label: null };
  if (drag.kind !== "draw" || drag.drawn) return done;
  const made = drawn(drag, v, drag.start, rules.newId(), rules);
  if (!made) return done;
  const note = { ...made, lengthTicks: Math.max(1, rules.lengthTicks) };
  return { ...done, notes: addNotes(edit.notes, [note]), selected: new Set([note.id]), label: "Add a note" };
}

function inFrame(notes: readonly Note[], v: RollView, a: Px, b: Px): ReadonlySet<string> {
  const [x0, x1] = [Math.min(a.x, b.x), Math.max(a.x, b.x)];
  const [low, high] = [keyAt(v, Math.max(a.y, b.y)), keyAt(v, Math.min(a.y, b.y))];
  return new Set(
    notes
      .filter(
        (n) =>
          n.key >= low &&
          n.key <= high &&
          tickToX(v.timeline, n.startTick) <= x1 &&
          tickToX(v.timeline, n.startTick + n.lengthTicks) >= x0,
      )
      .map((n) => n.id),
  );
}
