import { useCallback, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent, type WheelEvent } from "react";
import { addNotes, moveNotes, removeNotes, setVelocity, stretchNotes } from "@/core/pattern/noteEdit";
import { loopTicks } from "@/core/pattern/events";
import { inScale, noteName, usesFlats } from "@/core/pitch/note";
import type { Note } from "@/core/patch/project";
import { formatPosition } from "@/core/time/meter";
import { noteValueName, noteValueTicks } from "@/core/time/noteValue";
import { editNotes } from "@/state/edits";
import { newId } from "@/state/ids";
import { setText } from "@/ui/frames";
import { newGesture } from "@/ui/gesture";
import { LOCKED, menuOf } from "@/ui/menu";
import { Select } from "@/ui/Select";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useSize } from "@/ui/useSize";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { paintGrid, pitchRange } from "../paint";
import { Playhead } from "../Playhead";
import { GUTTER } from "../Strips";
import { tickToX, type Timeline } from "../timeline";
import { EditorFrame } from "./EditorFrame";
import { KeyColumn, Starts, VELOCITY_HEIGHT, VelocityLane } from "./NoteEditorParts";
import {
  hitNote,
  keyAt,
  moveRoll,
  pressRoll,
  releaseRoll,
  rowTop,
  type Px,
  type RollEdit,
  type RollRules,
  type RollView,
} from "./noteDrag";

const SNAPS = [4, 8, 16, 32, 64].map((den) => ({ num: 1, den }));
const FEWEST_ROWS = 22;
/** Move, stretch and draw. */
const CURSORS = { body: "move", edge: "ew-resize", ground: "crosshair" } as const;

interface Rows {
  /** The key of the lowest row. */
  readonly low: number;
  readonly rows: number;
}

const held = (low: number, rows: number): Rows => ({ low: Math.min(128 - rows, Math.max(0, low)), rows });

/** The rows that show the notes with room, at least `FEWEST_ROWS`. */
function rowsOf(notes: readonly Note[]): Rows {
  const range = pitchRange(
    notes.map((n) => n.key),
    4,
  );
  const rows = Math.max(FEWEST_ROWS, range.high - range.low + 1);
  return held(Math.round((range.low + range.high) / 2 - rows / 2), rows);
}

const shows = (v: Rows, notes: readonly Note[]): boolean =>
  notes.every((n) => n.key >= v.low && n.key < v.low + v.rows);

export function NoteEditor({ timeline }: { timeline: Timeline }) {
  const studio = useStudio();
  const { workspace, view: studioView, session } = studio;
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const editable = useEditable();
  const selected = useView((v) => v.selectedNotes);
  const snapValue = useView((v) => v.noteSnap);
  const [size, sizeRef] = useSize();
  const [view, setView] = useState<Rows & { readonly scrolled: boolean }>(() => ({
    ...rowsOf(part.notes),
    scrolled: false,
  }));
  const [edit, setEdit] = useState<RollEdit | null>(null);
  const readOut = useRef<HTMLDivElement>(null);
  const flats = usesFlats(song.key);
  const endTick = loopTicks(song);
  const snapTicks = noteValueTicks(snapValue);
  // Rows stand still, or notes would slip from under the hand; they change when a note leaves them, unless somebody scrolled.
  const dragging = edit !== null && edit.drag.kind !== "idle";
  const rows = useMemo<Rows>(
    () => (view.scrolled || dragging || shows(view, part.notes) ? view : rowsOf(part.notes)),
    [view, dragging, part.notes],
  );
  const height = Math.max(20, size.height - VELOCITY_HEIGHT);
  const roll: RollView = { timeline: { ...timeline, width: size.width }, ...rows, height };
  const rules: RollRules = {
    snapTicks,
    endTick,
    newId,
    velocity: part.notes.find((n) => selected.has(n.id))?.velocity ?? 100,
  };

  const select = (ids: ReadonlySet<string>): void => studioView.setState({ selectedNotes: ids });
  const commit = (notes: readonly Note[], label: string, gesture?: string): void => {
    workspace.store.edit(
      label,
      editNotes(part.id, () => notes),
      gesture,
    );
  };
  const take = (next: RollEdit, gesture: string): void => {
    setEdit(next.drag.kind === "idle" ? null : next);
    select(next.selected);
    if (next.label && next.notes !== part.notes) commit(next.notes, next.label, gesture);
  };

  const describe = (at: Px): string =>
    `${formatPosition(Math.max(0, roll.timeline.fromTick + (at.x / size.width) * roll.timeline.ticks), song.meter).replace(/\+.*/, "")}  ${noteName(keyAt(roll, at.y), flats)}`;
  const local = (e: PointerEvent<HTMLElement>): Px => {
    const box = e.currentTarget.getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  };
  const onPointerDown = (e: PointerEvent<HTMLElement>): void => {
    if (e.button !== 0) return;
    e.currentTarget.focus();
    if (!editable) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    const gesture = newGesture();
    take(pressRoll(part.notes, selected, roll, local(e), e.shiftKey, gesture), gesture);
  };
  const onPointerMove = (e: PointerEvent<HTMLElement>): void => {
    const at = local(e);
    const element = readOut.current;
    if (element) {
      // Written straight into the page: a pointer that only moves draws nothing anew.
      element.style.visibility = at.y < height ? "visible" : "hidden";
      setText(element, describe(at));
    }
    if (editable && !edit) e.currentTarget.style.cursor = CURSORS[hitNote(part.notes, roll, at).kind];
    if (edit && edit.drag.kind !== "idle")
      take(moveRoll({ ...edit, notes: part.notes }, roll, at, e.ctrlKey || e.metaKey, rules), edit.drag.gesture);
  };
  const onPointerUp = (): void => {
    if (edit && edit.drag.kind !== "idle")
      take(releaseRoll({ ...edit, notes: part.notes }, roll, rules), edit.drag.gesture);
  };
  const onWheel = (e: WheelEvent): void => {
    if (!e.ctrlKey && !e.shiftKey && Math.abs(e.deltaY) > Math.abs(e.deltaX))
      setView({ ...held(rows.low - Math.sign(e.deltaY) * 2, rows.rows), scrolled: true });
  };

  const newNote = () => ({ id: rules.newId(), velocity: rules.velocity });
  const step = (e: KeyboardEvent): boolean => {
    const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    if (arrow && selected.size > 0) {
      const [dx, dy] = arrow as [number, number];
      const unit = e.shiftKey ? Math.max(1, Math.round(snapTicks / 8)) : snapTicks;
      if (e.altKey && dx !== 0) commit(stretchNotes(part.notes, selected, dx * unit, 1), "Stretch notes");
      else if (e.altKey)
        commit(
          setVelocity(part.notes, selected, (part.notes.find((n) => selected.has(n.id))?.velocity ?? 100) + 5 * dy),
          "Set velocity",
        );
      else commit(moveNotes(part.notes, selected, dx * unit, dy, endTick), "Move notes");
      return true;
    }
    if ((e.key === "PageUp" || e.key === "PageDown") && selected.size > 0) {
      commit(moveNotes(part.notes, selected, 0, e.key === "PageUp" ? 12 : -12, endTick), "Move notes by an octave");
      return true;
    }
    if ((e.key === "Delete" || e.key === "Backspace") && selected.size > 0) {
      commit(removeNotes(part.notes, selected), selected.size > 1 ? "Delete notes" : "Delete a note");
      select(new Set());
      return true;
    }
    if (e.key === "Enter") {
      const last = part.notes.find((n) => selected.has(n.id));
      const startTick = last
        ? Math.min(endTick - 1, last.startTick + last.lengthTicks)
        : Math.min(endTick - 1, studioView.getState().startTick);
      const note: Note = {
        ...newNote(),
        startTick,
        lengthTicks: last?.lengthTicks ?? snapTicks,
        key: last?.key ?? rows.low + Math.floor(rows.rows / 2),
      };
      commit(addNotes(part.notes, [note]), "Add a note");
      select(new Set([note.id]));
      return true;
    }
    return false;
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    const sorted = [...part.notes].sort((a, b) => a.startTick - b.startTick || a.key - b.key);
    let handled = false;
    if ((e.key === "[" || e.key === "]") && sorted.length > 0) {
      const at = sorted.findIndex((n) => selected.has(n.id));
      const to =
        at === -1
          ? e.key === "]"
            ? 0
            : sorted.length - 1
          : Math.min(sorted.length - 1, Math.max(0, at + (e.key === "]" ? 1 : -1)));
      select(new Set([sorted[to]!.id]));
      handled = true;
    } else if (e.key === "Escape") {
      select(new Set());
      handled = true;
    } else if (e.key.toLowerCase() === "a" && (e.ctrlKey || e.metaKey)) {
      select(new Set(part.notes.map((n) => n.id)));
      handled = true;
    } else if (editable && !e.ctrlKey && !e.metaKey) handled = step(e);
    if (!handled) return;
    e.preventDefault();
    e.stopPropagation();
  };

  const marquee = edit?.drag.kind === "ground" && edit.drag.marquee ? edit.drag : null;
  const paint = useCallback(
    (s: Surface) => {
      const v: RollView = { timeline: { ...timeline, width: s.width }, ...rows, height: s.height - VELOCITY_HEIGHT };
      const rowHeight = v.height / v.rows;
      for (let key = v.low; key < v.low + v.rows; key++) {
        const y = rowTop(v, key);
        s.g.fillStyle = inScale(key, song.key) ? s.palette.sheet : s.palette.paper;
        s.g.fillRect(0, y, s.width, rowHeight);
        s.g.fillStyle = key % 12 === song.key.tonic ? s.palette.line : s.palette.line2;
        s.g.fillRect(0, y + rowHeight - 1, s.width, 1);
      }
      paintGrid(s, v.timeline, song.meter, endTick);
      s.g.fillStyle = s.palette.ink2;
      s.g.fillRect(0, v.height, s.width, 1);
      for (const n of part.notes) {
        const x = tickToX(v.timeline, n.startTick);
        const w = Math.max(4, tickToX(v.timeline, n.startTick + n.lengthTicks) - x - 1);
        const on = selected.has(n.id);
        s.g.globalAlpha = on ? 1 : 0.45 + 0.5 * (n.velocity / 127);
        s.g.fillStyle = s.palette.notes;
        s.g.fillRect(x, rowTop(v, n.key) + 1, w, rowHeight - 2);
        if (on) {
          s.g.strokeStyle = s.palette.heard;
          s.g.lineWidth = 2;
          s.g.strokeRect(x, rowTop(v, n.key) + 1, w, rowHeight - 2);
        }
        const stem = (n.velocity / 127) * (VELOCITY_HEIGHT - 8);
        s.g.fillStyle = on ? s.palette.heard : s.palette.notes;
        s.g.fillRect(x, s.height - stem, 3, stem);
        s.g.globalAlpha = 1;
      }
      if (marquee) {
        s.g.strokeStyle = s.palette.ink;
        s.g.setLineDash([3, 3]);
        s.g.strokeRect(
          marquee.start.x,
          marquee.start.y,
          marquee.to.x - marquee.start.x,
          marquee.to.y - marquee.start.y,
        );
        s.g.setLineDash([]);
      }
    },
    [timeline, rows, song, endTick, part.notes, selected, marquee],
  );
  const canvas = useCanvas(paint);

  const chosen = part.notes.filter((n) => selected.has(n.id));
  const one = chosen.length === 1 ? chosen[0]! : null;
  const oneText = one
    ? `${noteName(one.key, flats)} at ${formatPosition(one.startTick, song.meter)}, velocity ${one.velocity}`
    : chosen.length > 1
      ? `${chosen.length} notes selected`
      : "";
  return (
    <EditorFrame
      title="Notes"
      subtitle={oneText || "click adds, drag moves, the end stretches"}
      tools={
        <Select
          label="Snap of notes"
          className="chip"
          value={noteValueName(snapValue)}
          options={SNAPS.map((s) => ({ value: noteValueName(s), text: `snap ${noteValueName(s)}` }))}
          onChange={(name) =>
            studioView.setState({ noteSnap: SNAPS.find((s) => noteValueName(s) === name) ?? snapValue })
          }
        />
      }
    >
      <div className="absolute inset-0 flex">
        <KeyColumn
          roll={roll}
          flats={flats}
          onPlay={(key) => studio.noteOn(part.id, key, 100)}
          onEnd={(key) => session.noteOff(part.id, key)}
        />
        <div
          ref={sizeRef}
          className="relative min-w-0 flex-1 touch-none"
          style={{ marginRight: GUTTER }}
          tabIndex={0}
          role="application"
          aria-roledescription="note editor"
          aria-label={`Notes: ${part.notes.length}. [ and ] choose a note, arrows move it, Alt and arrows stretch it or set its velocity, Enter adds one, Delete removes.`}
          onPointerDown={onPointerDown}
          onPointerMove={onPointerMove}
          onPointerUp={onPointerUp}
          onPointerCancel={onPointerUp}
          onPointerLeave={() => {
            if (readOut.current) readOut.current.style.visibility = "hidden";
          }}
          onKeyDown={onKeyDown}
          onContextMenu={menuOf("Notes", () => {
            const why = !editable ? LOCKED : selected.size === 0 ? "No note is chosen" : null;
            const octave = (keys: number) => (): void =>
              commit(moveNotes(part.notes, selected, 0, keys, endTick), "Move notes by an octave");
            return [
              { text: "Select all", keys: "Ctrl A", run: () => select(new Set(part.notes.map((n) => n.id))) },
              { text: "Octave up", keys: "Page up", why, run: octave(12) },
              { text: "Octave down", keys: "Page down", why, run: octave(-12) },
              {
                text: "Delete",
                keys: "Delete",
                why,
                run: () => {
                  commit(removeNotes(part.notes, selected), selected.size > 1 ? "Delete notes" : "Delete a note");
                  select(new Set());
                },
              },
            ];
          })}
          onWheel={onWheel}
          data-testid="note-editor"
        >
          <canvas ref={canvas} className="absolute inset-0 h-full w-full" aria-hidden />
          <VelocityLane
            notes={part.notes}
            selected={selected}
            timeline={roll.timeline}
            editable={editable}
            onVelocity={(ids, velocity, gesture) =>
              commit(setVelocity(part.notes, ids, velocity), "Set velocity", gesture)
            }
          />
          <Playhead timeline={roll.timeline} left={0} />
          <div
            ref={readOut}
            className="pointer-events-none invisible absolute top-1 right-1 bg-ink px-2 py-[2px] text-[11px] whitespace-pre text-sheet"
            data-testid="read-out"
          />
          {part.notes.length === 0 && (
            <Starts
              onNote={() => {
                const note = { ...newNote(), startTick: 0, key: 48 + song.key.tonic, lengthTicks: snapTicks };
                commit(addNotes(part.notes, [note]), "Add a note");
                select(new Set([note.id]));
              }}
              editable={editable}
            />
          )}
        </div>
        <span className="sr-only" aria-live="polite">
          {oneText}
        </span>
      </div>
    </EditorFrame>
  );
}
