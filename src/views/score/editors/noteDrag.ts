import { moveNotes, stretchNotes } from "@/core/pattern/noteEdit";
import type { Note } from "@/core/patch/project";
import { MAGNET } from "@/ui/curve/curveDrag";
import type { Timeline } from "../timeline";
import { tickToX, xToTick } from "../timeline";

/** Where notes are drawn: time across, keys up. */
export interface RollView {
  readonly timeline: Timeline;
  /** The key of the lowest row. */
  readonly low: number;
  readonly rows: number;
  readonly height: number;
}

export interface Px {
  readonly x: number;
  readonly y: number;
}

export const keyAt = (v: RollView, y: number): number => v.low + v.rows - 1 - Math.floor((y / v.height) * v.rows);
export const rowTop = (v: RollView, key: number): number => ((v.low + v.rows - 1 - key) / v.rows) * v.height;

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

type RollDrag =
  | { readonly kind: "idle" }
  /** Empty ground: a click adds, a drag draws a marquee. */
  | {
      readonly kind: "ground";
      readonly start: Px;
      readonly to: Px;
      readonly marquee: boolean;
      readonly gesture: string;
    }
  | {
      readonly kind: "move" | "stretch";
      readonly start: Px;
      readonly grabbed: Note;
      readonly origin: readonly Note[];
      readonly axis: "x" | "y" | null;
      readonly gesture: string;
    };

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
}

const snapped = (tick: number, snap: number): number => (snap > 0 ? Math.round(tick / snap) * snap : Math.round(tick));

export function pressRoll(
  notes: readonly Note[],
  selected: ReadonlySet<string>,
  v: RollView,
  at: Px,
  shift: boolean,
  gesture: string,
): RollEdit {
  const hit = hitNote(notes, v, at);
  if (hit.kind === "ground")
    return { notes, selected, label: null, drag: { kind: "ground", start: at, to: at, marquee: false, gesture } };
  const next = new Set(shift || selected.has(hit.note.id) ? selected : []);
  if (shift && next.has(hit.note.id)) next.delete(hit.note.id);
  else next.add(hit.note.id);
  return {
    notes,
    selected: next,
    label: null,
    drag: {
      kind: hit.kind === "edge" ? "stretch" : "move",
      start: at,
      grabbed: hit.note,
      origin: notes,
      axis: null,
      gesture,
    },
  };
}

export function moveRoll(edit: RollEdit, v: RollView, at: Px, ctrl: boolean, rules: RollRules): RollEdit {
  const { drag } = edit;
  if (drag.kind === "idle") return edit;
  const far = Math.hypot(at.x - drag.start.x, at.y - drag.start.y) > CLICK;
  if (drag.kind === "ground") {
    const marquee = drag.marquee || far;
    return {
      ...edit,
      label: null,
      selected: marquee ? inMarquee(edit.notes, v, drag.start, at) : edit.selected,
      drag: { ...drag, to: at, marquee },
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
  const byKeys = useY ? keyAt(v, at.y) - keyAt(v, drag.start.y) : 0;
  return {
    ...edit,
    drag: { ...drag, axis },
    label: "Move notes",
    notes: moveNotes(drag.origin, edit.selected, byTicks, byKeys, rules.endTick),
  };
}

export function releaseRoll(edit: RollEdit, v: RollView, rules: RollRules): RollEdit {
  const { drag } = edit;
  const done: RollEdit = { ...edit, drag: { kind: "idle" }, label: null };
  if (drag.kind !== "ground" || drag.marquee) return done;
  const unit = Math.max(1, rules.snapTicks);
  const startTick = Math.floor(xToTick(v.timeline, drag.start.x) / unit) * unit;
  const key = keyAt(v, drag.start.y);
  if (startTick < 0 || startTick >= rules.endTick || key < 0 || key > 127) return done;
  const note: Note = { id: rules.newId(), startTick, lengthTicks: unit, key, velocity: rules.velocity };
  return { ...done, notes: [...edit.notes, note], selected: new Set([note.id]), label: "Add a note" };
}

function inMarquee(notes: readonly Note[], v: RollView, a: Px, b: Px): ReadonlySet<string> {
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
