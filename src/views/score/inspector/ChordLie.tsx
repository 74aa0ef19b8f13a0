import { useState } from "react";
import type { Note } from "@/core/patch/project";
import { addNotes, removeNotes } from "@/core/pattern/noteEdit";
import * as tools from "@/core/pattern/noteTools";
import { chordOf, chordText, keysOfChord, sameFunction } from "@/core/pitch/chord";
import { usesFlats } from "@/core/pitch/note";
import { drop, invertDown, invertUp, nearestVoicing, spreadOut } from "@/core/pitch/voicing";
import { NOTE_VALUES, noteValueName, noteValueTicks } from "@/core/time/noteValue";
import { editNotes } from "@/state/edits";
import { newId } from "@/state/ids";
import { Select } from "@/ui/Select";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";

/** Times between the notes of a strummed chord, shortest first. */
const STRUMS = NOTE_VALUES.filter((v) => v.num / v.den <= 1 / 8).reverse();

/** How the chords among the chosen notes lie: notes that start together are one. */
export function ChordLie({ chosen }: { chosen: readonly Note[] }) {
  const { workspace, view } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const editable = useEditable();
  const flats = usesFlats(song.key);
  const starts = [...new Set(chosen.map((n) => n.startTick))].sort((a, b) => a - b);
  const groups = starts.map((s) => chosen.filter((n) => n.startTick === s)).filter((g) => g.length > 1);
  const [between, setBetween] = useState(noteValueName(STRUMS[2]!));
  if (groups.length === 0) return null;
  const keysOf = (g: readonly Note[]): number[] => g.map((n) => n.key).sort((a, b) => a - b);
  const names = groups.map((g) => chordOf(keysOf(g))).flatMap((c) => (c ? [chordText(c, flats)] : []));
  /** Lays every chord anew; `lie` gets its keys and those of the chord before it. */
  const relay = (label: string, lie: (keys: number[], before: readonly number[]) => readonly number[]) => (): void => {
    const next = new Map<string, number>();
    const earlier = part.notes.filter((n) => n.startTick < starts[0]!);
    const last = Math.max(...earlier.map((n) => n.startTick));
    let before: readonly number[] = keysOf(earlier.filter((n) => n.startTick === last));
    for (const g of groups) {
      const made = lie(keysOf(g), before);
      [...g].sort((a, b) => a.key - b.key).forEach((n, i) => next.set(n.id, made[i] ?? n.key));
      before = made;
    }
    workspace.store.edit(
      label,
      editNotes(part.id, (notes) =>
        notes.some((n) => next.has(n.id) && next.get(n.id) !== n.key)
          ? notes.map((n) => (next.has(n.id) ? { ...n, key: next.get(n.id)! } : n))
          : notes,
      ),
    );
  };
  const strum = (down: boolean) => (): void =>
    void workspace.store.edit(
      "Strum chords",
      editNotes(part.id, (notes) =>
        tools.strum(
          notes,
          new Set(groups.flat().map((n) => n.id)),
          noteValueTicks(STRUMS.find((v) => noteValueName(v) === between)!),
          down,
        ),
      ),
    );
  const [group] = groups;
  const only = groups.length === 1 && group ? chordOf(keysOf(group)) : null;
  const others = only ? sameFunction(only, song.key) : [];
  /** Puts another chord in the place of the only one, near where it lay. */
  const replace = (name: string): void => {
    const to = others.find((c) => chordText(c, flats) === name);
    if (!to || !group) return;
    const keys = nearestVoicing(keysOfChord(to, 48 + to.root), keysOf(group));
    const made = keys.map((key): Note => ({ ...group[0]!, id: newId(), key }));
    const gone = new Set(group.map((n) => n.id));
    workspace.store.edit(
      `Replace by ${name}`,
      editNotes(part.id, (notes) => addNotes(removeNotes(notes, gone), made)),
    );
    view.setState({ selectedNotes: new Set(made.map((n) => n.id)) });
  };
  return (
    <section>
      <h3 className="heading mb-1">{names.length > 0 ? names.slice(0, 8).join(" ") : "Chord"}</h3>
      <div className="flex flex-wrap gap-1">
        {(
          [
            ["Invert up", "Invert chords up", invertUp, "The lowest note goes up past the highest"],
            ["Invert down", "Invert chords down", invertDown, "The highest note goes down past the lowest"],
            ["Drop 2", "Drop the second note", (k: number[]) => drop(k, 2), "The second note from the top goes an octave down"],
            ["Drop 3", "Drop the third note", (k: number[]) => drop(k, 3), "The third note from the top goes an octave down"],
            ["Spread", "Spread chords", spreadOut, "Every other note goes an octave up"],
            ["Nearest", "Lay chords nearest", nearestVoicing, "Each chord moves as little as can be from the one before"],
          ] as const
        ).map(([text, label, lie, title]) => (
          <button key={text} type="button" className="chip" title={title} disabled={!editable} onClick={relay(label, lie)}>
            {text}
          </button>
        ))}
        {others.length > 0 && (
          <Select
            label="Replace by a chord of the same function"
            className="chip"
            disabled={!editable}
            value=""
            options={[{ value: "", text: "Replace…" }, ...others.map((c) => ({ value: chordText(c, flats), text: chordText(c, flats) }))]}
            onChange={replace}
          />
        )}
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button type="button" className="chip" title="Each note starts after the next lower one" disabled={!editable} onClick={strum(false)}>
          Strum up
        </button>
        <button type="button" className="chip" title="Each note starts after the next higher one" disabled={!editable} onClick={strum(true)}>
          Strum down
        </button>
        <Select
          label="Time between strummed notes"
          className="chip"
          value={between}
          options={STRUMS.map((v) => ({ value: noteValueName(v), text: `by ${noteValueName(v)}` }))}
          onChange={setBetween}
        />
      </div>
    </section>
  ); // prettier-ignore
}
