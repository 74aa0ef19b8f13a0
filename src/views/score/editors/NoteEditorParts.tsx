import { useRef, type PointerEvent } from "react";
import { noteName } from "@/core/pitch/note";
import type { Note } from "@/core/patch/project";
import { newGesture } from "@/ui/gesture";
import { useStudio } from "@/views/studio/studio";
import { NOTES_STRIP } from "@/views/studio/viewStore";
import { LABEL_WIDTH } from "../layout";
import { tickToX, type Timeline } from "../timeline";
import { keyAt, rowTop, type RollView } from "./noteDrag";
import { stemsOf, VELOCITY_HEIGHT } from "./notePaint";

/** Note names beside the rows; a press plays the note. */
export function KeyColumn({
  roll,
  flats,
  onPlay,
  onEnd,
}: {
  roll: RollView;
  flats: boolean;
  onPlay: (key: number) => void;
  onEnd: (key: number) => void;
}) {
  const held = useRef<number | null>(null);
  const start = (e: PointerEvent<HTMLDivElement>): void => {
    const box = e.currentTarget.getBoundingClientRect();
    e.currentTarget.setPointerCapture(e.pointerId);
    held.current = keyAt(roll, e.clientY - box.top);
    onPlay(held.current);
  };
  const end = (): void => {
    if (held.current !== null) onEnd(held.current);
    held.current = null;
  };
  const rowHeight = roll.height / roll.keys.length;
  return (
    <div className="relative shrink-0 border-r border-line bg-paper" style={{ width: LABEL_WIDTH }}>
      <div
        className="absolute inset-x-0 top-0 cursor-pointer"
        style={{ height: roll.height }}
        title="Press to hear the note"
        onPointerDown={start}
        onPointerUp={end}
        onPointerCancel={end}
      >
        {roll.keys
          .filter((key) => rowHeight >= 11 || key % 12 === 0 || key % 12 === 7)
          .map((key) => (
            <span
              key={key}
              aria-hidden
              className={`absolute right-2 text-[10px] leading-none ${key % 12 === 0 ? "font-semibold text-ink" : "text-ink2"}`}
              style={{ top: rowTop(roll, key) + rowHeight / 2 - 5 }}
            >
              {noteName(key, flats)}
            </span>
          ))}
      </div>
      <span className="absolute right-2 bottom-3 text-[11px] text-ink2">velocity</span>
    </div>
  );
}

/** Velocity stems under the notes: drag one up or down; selected notes move together. */
export function VelocityLane({
  notes,
  selected,
  timeline,
  editable,
  onVelocity,
}: {
  notes: readonly Note[];
  selected: ReadonlySet<string>;
  timeline: Timeline;
  editable: boolean;
  onVelocity: (ids: ReadonlySet<string>, velocity: number, gesture: string) => void;
}) {
  const drag = useRef<{ ids: ReadonlySet<string>; gesture: string } | null>(null);
  const set = (e: PointerEvent<HTMLDivElement>): void => {
    const box = e.currentTarget.getBoundingClientRect();
    if (drag.current)
      onVelocity(drag.current.ids, 127 * (1 - (e.clientY - box.top - 8) / (VELOCITY_HEIGHT - 8)), drag.current.gesture);
  };
  return (
    <div
      className="absolute inset-x-0 bottom-0 cursor-ns-resize"
      style={{ height: VELOCITY_HEIGHT }}
      data-testid="velocity-lane"
      onPointerDown={(e) => {
        e.stopPropagation();
        if (!editable || e.button !== 0) return;
        const x = e.clientX - e.currentTarget.getBoundingClientRect().left;
        const stems = stemsOf(notes, (tick) => tickToX(timeline, tick));
        const away = Math.min(...stems.map((s) => Math.abs(s.x + 1 - x)));
        const near = stems.filter((s) => away < 7 && Math.abs(s.x + 1 - x) === away).map((s) => s.note);
        const chosen = near.filter((n) => selected.has(n.id));
        const grabbed = chosen.length > 0 ? [...selected] : near.map((n) => n.id);
        if (grabbed.length === 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        drag.current = { ids: new Set(grabbed), gesture: newGesture() };
        set(e);
      }}
      onPointerMove={(e) => {
        if (!drag.current) return;
        e.stopPropagation();
        set(e);
      }}
      onPointerUp={() => {
        drag.current = null;
      }}
      onPointerCancel={() => {
        drag.current = null;
      }}
    />
  );
}

/** Frames that an inspector may take to be there. */
const FRAMES_TO_LOAD = 120;

/** Three ways to begin where there is no note yet. */
export function Starts({ onNote, editable }: { onNote: () => void; editable: boolean }) {
  const { view } = useStudio();
  /** The fields stand in the inspector, which may show something else yet, and is loaded when it is first needed. */
  const field = (label: string, then: (field: HTMLElement) => void): void => {
    view.setState({ strip: NOTES_STRIP });
    const seek = (left: number): void => {
      const found = document.querySelector<HTMLElement>(`[aria-label="${label}"]`);
      if (found) then(found);
      else if (left > 0) requestAnimationFrame(() => seek(left - 1));
    };
    seek(FRAMES_TO_LOAD);
  };
  return (
    <div className="pointer-events-none absolute inset-x-0 top-1/4 flex flex-col items-center gap-2 text-[12px]">
      <p className="bg-sheet px-2 text-ink2">Nothing is played yet. Click in the grid, or start with</p>
      <div
        className="pointer-events-auto flex gap-2"
        onPointerDown={(e) => e.stopPropagation()}
        onKeyDown={(e) => {
          // Enter presses the button alone; the editor would add a note, too.
          if (e.key === "Enter") e.stopPropagation();
        }}
      >
        <button
          type="button"
          className="chip"
          disabled={!editable}
          onClick={() => {
            view.setState({ strip: NOTES_STRIP });
            onNote();
          }}
        >
          A note
        </button>
        <button type="button" className="chip" disabled={!editable} onClick={() => field("Chord", (f) => f.focus())}>
          A chord
        </button>
        <button
          type="button"
          className="chip"
          disabled={!editable}
          onClick={() => field("MIDI or sound file", (f) => f.click())}
        >
          A MIDI or sound file
        </button>
      </div>
    </div>
  );
}
