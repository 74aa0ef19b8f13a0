import { chordOf, chordText } from "@/core/pitch/chord";
import { drop, invertDown, invertUp, nearestVoicing, spreadOut } from "@/core/pitch/voicing";
import { usesFlats } from "@/core/pitch/note";
import { moveNotes, setVelocity } from "@/core/pattern/noteEdit";
import { loopTicks } from "@/core/pattern/events";
import { chanceOf, setChance, setLength } from "@/core/pattern/noteTools";
import type { Note } from "@/core/patch/project";
import { NOTE_ROWS } from "@/core/patch/rows";
import { noteValueTicks } from "@/core/time/noteValue";
import { editNotes } from "@/state/edits";
import type { MenuEntry } from "@/ui/menu";
import { ValueRow } from "@/ui/ValueRow";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { noteActions } from "../editors/noteActions";
import { ChordAdder } from "./ChordAdder";
import { InspectorTitle } from "./InspectorTitle";
import { MidiImporter } from "./MidiImporter";
import { keyValue, lengthValue, positionValue } from "./noteValues";
import { NumberRow } from "./rows";

export function NotesInspector() {
  const part = usePart();
  const selected = useView((v) => v.selectedNotes);
  const chosen = part.notes.filter((n) => selected.has(n.id));
  return (
    <>
      <InspectorTitle title="Notes" subtitle={part.notes.length === 1 ? "1 note" : `${part.notes.length} notes`} />
      <section>
        <h3 className="heading mb-1">
          {chosen.length === 0
            ? "No note selected"
            : chosen.length === 1
              ? "Selected note"
              : `${chosen.length} notes selected`}
        </h3>
        {chosen.length === 0 ? (
          <p className="text-[11px] text-ink2">Click a note, or drag a frame round several with Shift.</p>
        ) : (
          <ChosenNotes chosen={chosen} selected={selected} />
        )}
      </section>
      {chosen.length > 1 && <ChordLie chosen={chosen} />}
      <ChordAdder />
      <MidiImporter />
    </>
  );
}

/** Every number of the chosen notes, and what can be done with them. */
function ChosenNotes({ chosen, selected }: { chosen: readonly Note[]; selected: ReadonlySet<string> }) {
  const studio = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const snap = noteValueTicks(useView((v) => v.noteSnap));
  const editable = useEditable();
  const flats = usesFlats(song.key);
  const end = loopTicks(song);
  const edit = (label: string, change: (notes: readonly Note[]) => readonly Note[], gesture?: string): void =>
    void studio.workspace.store.edit(label, editNotes(part.id, change), gesture);
  const first = chosen.reduce((least, n) => (n.startTick < least.startTick ? n : least));
  const lowest = chosen.reduce((least, n) => (n.key < least.key ? n : least));
  const actions = noteActions(studio, part, song, editable);
  const tools: MenuEntry[] = [actions.quantise, actions.half, actions.later, actions.legato, actions.split, actions.join, actions.fill, actions.bar, actions.reverse, actions.halve, actions.double, actions.humanise, actions.stepUp, actions.stepDown, actions.intoKey, actions.remove].flatMap((a) => a ?? []); // prettier-ignore
  return (
    <>
      <ValueRow
        label={chosen.length > 1 ? "First at" : "Starts at"}
        disabled={!editable}
        value={positionValue(first.startTick, song.meter, snap, end, (tick, g) => edit("Move notes", (n) => moveNotes(n, selected, tick - first.startTick, 0, end), g))}
      />
      <ValueRow
        label="Length"
        disabled={!editable}
        value={lengthValue(first.lengthTicks, song, snap, (ticks, g) => edit("Set length", (n) => setLength(n, selected, ticks), g))}
      />
      <ValueRow
        label={chosen.length > 1 ? "Lowest" : "Key"}
        disabled={!editable}
        value={keyValue(lowest.key, flats, (key, g) => edit("Move notes", (n) => moveNotes(n, selected, 0, key - lowest.key, end), g))}
      />
      <NumberRow
        row={NOTE_ROWS.velocity}
        kind="notes"
        value={first.velocity}
        onChange={(v, l, g) => edit(l, (n) => setVelocity(n, selected, v), g)}
      />
      <NumberRow
        row={NOTE_ROWS.chance}
        kind="notes"
        value={chanceOf(first)}
        onChange={(v, l, g) => edit(l, (n) => setChance(n, selected, v), g)}
      />
      <div className="mt-1.5 flex flex-wrap gap-1">
        {tools.map((a) => (
          <Action key={a.text} action={a} />
        ))}
      </div>
    </>
  ); // prettier-ignore
}

/** A button for an action of a menu, with its key and why it cannot be done. */
function Action({ action }: { action: MenuEntry }) {
  const { text, keys, why, run } = action;
  return (
    <button type="button" className="chip" disabled={Boolean(why)} title={why ?? (keys ? `${text} (${keys})` : undefined)} onClick={run}>
      {text}
    </button>
  ); // prettier-ignore
}

/** How the chords among the chosen notes lie: notes that start together are one. */
function ChordLie({ chosen }: { chosen: readonly Note[] }) {
  const { workspace } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const editable = useEditable();
  const starts = [...new Set(chosen.map((n) => n.startTick))].sort((a, b) => a - b);
  const groups = starts.map((s) => chosen.filter((n) => n.startTick === s)).filter((g) => g.length > 1);
  if (groups.length === 0) return null;
  const keysOf = (g: readonly Note[]): number[] => g.map((n) => n.key).sort((a, b) => a - b);
  const names = groups.map((g) => chordOf(keysOf(g))).flatMap((c) => (c ? [chordText(c, usesFlats(song.key))] : []));
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
      </div>
    </section>
  ); // prettier-ignore
}
