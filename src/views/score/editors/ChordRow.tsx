import { useMemo, type KeyboardEvent } from "react";
import { chordGroups } from "@/core/pattern/chords";
import { chordName } from "@/core/pitch/chord";
import { usesFlats } from "@/core/pitch/note";
import { formatPosition } from "@/core/time/meter";
import { usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { GUTTER, LABEL_WIDTH } from "../layout";
import { tickToX, type Timeline } from "../timeline";

export const CHORD_ROW_HEIGHT = 20;

/** The chords over the bars: each chooses its notes, which the inspector then inverts, spreads, strums or replaces. */
export function ChordRow({ timeline }: { timeline: Timeline }) {
  const studio = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const selected = useView((v) => v.selectedNotes);
  const groups = useMemo(() => chordGroups(part.notes), [part.notes]);
  const flats = usesFlats(song.key);
  const choose = (index: number, more: boolean): void => {
    const group = groups[index];
    if (!group) return;
    studio.view.setState({ selectedNotes: new Set([...(more ? selected : []), ...group.notes.map((n) => n.id)]) });
    studio.hear(part.id, group.notes.map((n) => n.key), group.notes[0]!.velocity); // prettier-ignore
  };
  const onKeyDown = (e: KeyboardEvent<HTMLDivElement>): void => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
    if (by === undefined || e.ctrlKey || e.altKey || e.metaKey) return;
    e.preventDefault();
    e.stopPropagation();
    const buttons = [...e.currentTarget.querySelectorAll("button")];
    const to = Math.min(buttons.length - 1, Math.max(0, buttons.indexOf(e.target as HTMLButtonElement) + by));
    buttons[to]?.focus();
    choose(to, e.shiftKey);
  };
  const first = groups.findIndex((g) => g.notes.some((n) => selected.has(n.id)));
  return (
    <div className="absolute inset-x-0 top-0 flex border-b border-line" style={{ height: CHORD_ROW_HEIGHT }}>
      <span
        className="shrink-0 border-r border-line bg-paper pl-3 text-[11px] leading-[19px] text-ink2"
        style={{ width: LABEL_WIDTH }}
      >
        Chords
      </span>
      <div
        className="relative min-w-0 flex-1 overflow-hidden bg-paper"
        style={{ marginRight: GUTTER }}
        role="toolbar"
        aria-label="Chords"
        onKeyDown={onKeyDown}
      >
        {groups.map((g, i) => {
          const x = tickToX(timeline, g.startTick);
          const width = tickToX(timeline, g.endTick) - x;
          if (x + width < 0 || x > timeline.width) return null;
          const name = chordName(g.notes.map((n) => n.key), flats) ?? `${g.notes.length} notes`; // prettier-ignore
          const on = g.notes.every((n) => selected.has(n.id));
          return (
            <button
              key={g.startTick}
              type="button"
              aria-pressed={on}
              aria-label={`${name} at ${formatPosition(g.startTick, song.meter)}`}
              title="Chooses the notes of this chord; Shift adds them"
              tabIndex={i === Math.max(0, first) ? 0 : -1}
              className="absolute top-0 h-full cursor-pointer truncate border-l border-line bg-sheet px-1.5 text-left text-[11px] font-semibold aria-pressed:bg-ink aria-pressed:text-sheet"
              style={{ left: x, width: Math.max(3, width - 1) }}
              onClick={(e) => choose(i, e.shiftKey)}
            >
              {name}
            </button>
          );
        })}
      </div>
    </div>
  );
}
