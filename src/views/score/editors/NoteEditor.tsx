import { useCallback, useMemo, useState, type KeyboardEvent, type PointerEvent, type WheelEvent } from "react";
import { addNotes, moveNotes, setVelocity, stretchNotes } from "@/core/pattern/noteEdit";
import { nearestInScale } from "@/core/pattern/noteTools";
import { loopTicks } from "@/core/pattern/events";
import { noteName, usesFlats } from "@/core/pitch/note";
import type { Note } from "@/core/patch/project";
import { formatPosition } from "@/core/time/meter";
import { NOTE_VALUES, noteValueName, noteValueTicks } from "@/core/time/noteValue";
import { editNotes } from "@/state/edits";
import { newId } from "@/state/ids";
import { newGesture } from "@/ui/gesture";
import { menuOf, runKeyed, type MenuEntry } from "@/ui/menu";
import { Select } from "@/ui/Select";
import { Toggle } from "@/ui/Toggle";
import { useReadOut } from "@/ui/ReadOut";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useSize } from "@/ui/useSize";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { Playhead } from "../Playhead";
import { GUTTER } from "../layout";
import type { Timeline } from "../timeline";
import { CHORD_ROW_HEIGHT, ChordRow } from "./ChordRow";
import { EditorFrame } from "./EditorFrame";
import { KeyColumn, Starts, VelocityLane } from "./NoteEditorParts";
import { noteActions } from "./noteActions";
import { paintRoll, StillPicture, VELOCITY_HEIGHT } from "./notePaint";
import { rowsOf, scrolled, shows, usedRows, type Rows } from "./noteRows";
import { hitNote, keyAt, moveRoll, pressRoll, releaseRoll, type Px, type RollEdit, type RollRules, type RollView } from "./noteDrag"; // prettier-ignore

/** Every note value up to a whole note, dotted ones and triplets included, longest first. */
const SNAPS = NOTE_VALUES.filter((v) => v.num <= v.den);
/** Move, stretch and draw. */
const CURSORS = { body: "move", edge: "ew-resize", ground: "crosshair" } as const;
const NO_PARTS: readonly never[] = [];

export function NoteEditor({ timeline }: { timeline: Timeline }) {
  const studio = useStudio();
  const { workspace, view: studioView } = studio;
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const parts = useProject((s) => s.project.parts);
  const editable = useEditable();
  const selected = useView((v) => v.selectedNotes);
  const snapValue = useView((v) => v.noteSnap);
  const noteLength = useView((v) => v.noteLength);
  const keyLock = useView((v) => v.keyLock);
  const fold = useView((v) => v.foldRows);
  const [ghosts, setGhosts] = useState(true);
  const [still] = useState(() => new StillPicture());
  const [size, sizeRef] = useSize();
  const [view, setView] = useState<{ readonly rows: Rows; readonly scrolled: boolean }>(() => ({
    rows: rowsOf(part.notes),
    scrolled: false,
  }));
  const [edit, setEdit] = useState<RollEdit | null>(null);
  const flats = usesFlats(song.key);
  const endTick = loopTicks(song);
  const snapTicks = noteValueTicks(snapValue);
  const dragging = edit !== null && edit.drag.kind !== "idle";
  const folded = useMemo(() => (fold ? usedRows(part.notes) : null), [fold, part.notes]);
  // Rows stand still, or notes would slip from under the hand; they change when a note leaves them, unless somebody scrolled.
  const keys = useMemo<Rows>(() => {
    if (folded) return folded;
    return view.scrolled || dragging || shows(view.rows, part.notes) ? view.rows : rowsOf(part.notes);
  }, [folded, view, dragging, part.notes]);
  const [foldedAtPress, setFoldedAtPress] = useState<Rows | null>(null);
  const height = Math.max(20, size.height - VELOCITY_HEIGHT);
  const shownKeys = dragging && foldedAtPress ? foldedAtPress : keys;
  const roll: RollView = { timeline: { ...timeline, width: size.width }, keys: shownKeys, height };
  const rules: RollRules = {
    snapTicks,
    endTick,
    newId,
    velocity: part.notes.find((n) => selected.has(n.id))?.velocity ?? 100,
    lengthTicks: noteLength ?? snapTicks,
    allowed: keyLock ? (key) => nearestInScale(key, song.key) : (key) => key,
  };

  const select = (ids: ReadonlySet<string>): void => studioView.setState({ selectedNotes: ids });
  const commit = (notes: readonly Note[], label: string, gesture?: string): void => {
    workspace.store.edit(
      label,
      editNotes(part.id, () => notes),
      gesture,
    );
  };
  const hear = (notes: readonly Note[], ids: ReadonlySet<string>): void => {
    const chosen = notes.filter((n) => ids.has(n.id));
    const start = Math.min(...chosen.map((n) => n.startTick));
    const first = chosen.filter((n) => n.startTick === start);
    if (first.length > 0) studio.hear(part.id, first.map((n) => n.key), first[0]!.velocity); // prettier-ignore
  };
  const keysOf = (notes: readonly Note[], ids: ReadonlySet<string>): string =>
    notes.flatMap((n) => (ids.has(n.id) ? [n.key] : [])).join();
  const take = (next: RollEdit, gesture: string): void => {
    setEdit(next.drag.kind === "idle" ? null : next);
    if (next.selected !== selected) select(next.selected);
    if (next.label && next.notes !== part.notes) commit(next.notes, next.label, gesture);
    const now = keysOf(next.notes, next.selected);
    if (next.drag.kind !== "frame" && now !== "" && now !== keysOf(part.notes, selected))
      hear(next.notes, next.selected);
    const drawn = next.label === "Add a note" || next.label === "Stretch notes" ? next.notes.find((n) => next.selected.has(n.id)) : null; // prettier-ignore
    if (drawn) studioView.setState({ noteLength: drawn.lengthTicks });
  };

  const describe = (at: Px): string =>
    at.y >= height
      ? ""
      : `${formatPosition(Math.max(0, roll.timeline.fromTick + (at.x / size.width) * roll.timeline.ticks), song.meter).replace(/\+.*/, "")}  ${noteName(keyAt(roll, at.y), flats)}`;
  const readOut = useReadOut(describe);
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
    setFoldedAtPress(folded);
    take(
      pressRoll(part.notes, selected, roll, local(e), { shift: e.shiftKey, alt: e.altKey, gesture }, newId),
      gesture,
    );
  };
  const onPointerMove = (e: PointerEvent<HTMLElement>): void => {
    const at = local(e);
    readOut.point(at);
    if (editable && !edit) e.currentTarget.style.cursor = e.altKey && hitNote(part.notes, roll, at).kind !== "ground" ? "copy" : CURSORS[hitNote(part.notes, roll, at).kind]; // prettier-ignore
    if (edit && edit.drag.kind !== "idle")
      take(moveRoll({ ...edit, notes: part.notes }, roll, at, e.ctrlKey || e.metaKey, rules), edit.drag.gesture);
  };
  const onPointerUp = (): void => {
    if (edit && edit.drag.kind !== "idle")
      take(releaseRoll({ ...edit, notes: part.notes }, roll, rules), edit.drag.gesture);
  };
  const onWheel = (e: WheelEvent): void => {
    if (!fold && !e.ctrlKey && !e.shiftKey && Math.abs(e.deltaY) > Math.abs(e.deltaX))
      setView({ rows: scrolled(keys, -Math.sign(e.deltaY) * 2), scrolled: true });
  };

  // Asked anew each time: what was copied, and where Play starts, draw nothing here.
  const actions = (): MenuEntry[] => Object.values(noteActions(studio, part, song, editable));
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
      else {
        const first = part.notes.find((n) => selected.has(n.id))!;
        const keyStep = dy === 0 ? 0 : keyLock ? stepInKey(first.key, dy, rules.allowed) : dy;
        const moved = moveNotes(part.notes, selected, dx * unit, keyStep, endTick);
        commit(moved, "Move notes");
        if (dy !== 0) hear(moved, selected);
      }
      return true;
    }
    if (e.key === "Enter") {
      const last = part.notes.find((n) => selected.has(n.id));
      const startTick = last
        ? Math.min(endTick - 1, last.startTick + last.lengthTicks)
        : Math.min(endTick - 1, studioView.getState().startTick);
      const note: Note = {
        id: newId(),
        velocity: rules.velocity,
        startTick,
        lengthTicks: last?.lengthTicks ?? rules.lengthTicks,
        key: last?.key ?? rules.allowed(keys[Math.floor(keys.length / 2)]!),
      };
      commit(addNotes(part.notes, [note]), "Add a note");
      select(new Set([note.id]));
      hear([note], new Set([note.id]));
      return true;
    }
    return false;
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    if (runKeyed(actions(), e)) return;
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
      hear(part.notes, new Set([sorted[to]!.id]));
      handled = true;
    } else if (e.key === "Escape") {
      select(new Set());
      handled = true;
    } else if (editable && !e.ctrlKey && !e.metaKey) handled = step(e);
    if (!handled) return;
    e.preventDefault();
    e.stopPropagation();
  };

  const from = edit?.drag.kind === "frame" ? edit.drag.start : null;
  const to = edit?.drag.kind === "frame" ? edit.drag.to : null;
  const others = useMemo(() => (ghosts && parts.length > 1 ? parts.filter((p) => p.id !== part.id) : NO_PARTS), [ghosts, parts, part.id]); // prettier-ignore
  const paint = useCallback(
    (s: Surface) => {
      const v: RollView = {
        timeline: { ...timeline, width: s.width },
        keys: shownKeys,
        height: s.height - VELOCITY_HEIGHT,
      };
      const frame = from && to ? { from, to } : null;
      paintRoll(s, v, { notes: part.notes, selected, others, song, frame }, still);
    },
    [timeline, shownKeys, song, part.notes, selected, others, from, to, still],
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
      subtitle={oneText || "drag draws, Shift drag chooses, Alt drag copies"}
      tools={
        <>
          <ViewToggle text="hear" title="Notes are heard as they are drawn, moved and chosen" field="hearNotes" />
          <ViewToggle text="in key" title="Only keys of the scale are drawn" field="keyLock" />
          <ViewToggle text="used rows" title="Shows only the rows that hold notes" field="foldRows" />
          {parts.length > 1 && (
            <Toggle text="other parts" title="Shows the notes of other parts behind" on={ghosts} onChange={setGhosts} />
          )}
          <Select
            label="Snap of notes"
            className="chip"
            value={noteValueName(snapValue)}
            options={SNAPS.map((s) => ({ value: noteValueName(s), text: `snap ${noteValueName(s)}` }))}
            onChange={(name) =>
              studioView.setState({
                noteSnap: SNAPS.find((s) => noteValueName(s) === name) ?? snapValue,
                noteLength: null,
              })
            }
          />
        </>
      }
    >
      <ChordRow timeline={roll.timeline} />
      <div className="absolute inset-x-0 bottom-0 flex" style={{ top: CHORD_ROW_HEIGHT }}>
        <KeyColumn
          roll={roll}
          flats={flats}
          onPlay={(key) => studio.noteOn(part.id, key, 100)}
          onEnd={(key) => studio.noteOff(part.id, key)}
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
          onPointerLeave={() => readOut.point(null)}
          onKeyDown={onKeyDown}
          onContextMenu={menuOf("Notes", actions)}
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
          {readOut.element}
          {part.notes.length === 0 && (
            <Starts
              onNote={() => {
                const note: Note = { id: newId(), velocity: rules.velocity, startTick: 0, key: 48 + song.key.tonic, lengthTicks: rules.lengthTicks }; // prettier-ignore
                commit(addNotes(part.notes, [note]), "Add a note");
                select(new Set([note.id]));
                hear([note], new Set([note.id]));
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

/** Semitones from a key to the next one up or down that may be drawn. */
function stepInKey(key: number, direction: number, allowed: (key: number) => number): number {
  for (let by = 1; by <= 12; by++) if (allowed(key + direction * by) === key + direction * by) return direction * by;
  return direction;
}

/** A way of looking at notes that stays as it is chosen. */
function ViewToggle({
  text,
  title,
  field,
}: {
  text: string;
  title: string;
  field: "hearNotes" | "keyLock" | "foldRows";
}) {
  const { view } = useStudio();
  const on = useView((v) => v[field]);
  return <Toggle text={text} title={title} on={on} onChange={(now) => view.setState({ [field]: now })} />;
}
