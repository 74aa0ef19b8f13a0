import { usesFlats } from "@/core/pitch/note";
import { moveNotes, setVelocity } from "@/core/pattern/noteEdit";
import { loopTicks } from "@/core/pattern/events";
import { chanceOf, setChance, setLength } from "@/core/pattern/noteTools";
import type { Note } from "@/core/patch/project";
import { wholeRow } from "@/core/patch/row";
import { NOTE_ROWS } from "@/core/patch/rows";
import { NOTE_VALUES, noteValueName, noteValueTicks } from "@/core/time/noteValue";
import { editNotes } from "@/state/edits";
import type { MenuEntry } from "@/ui/menu";
import { FileButton } from "@/ui/FileButton";
import { SelectRow } from "@/ui/Select";
import { ValueRow } from "@/ui/ValueRow";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { noteActions } from "../editors/noteActions";
import { ChordAdder } from "./ChordAdder";
import { ChordLie } from "./ChordLie";
import { InspectorTitle } from "./InspectorTitle";
import { NoteChordSection } from "./NoteChordSection";
import { keyValue, lengthValue, positionValue } from "./noteValues";
import { NumberRow } from "./rows";
import { TuningSection } from "./TuningSection";

const STRENGTH = wholeRow({ label: "Quantises", unit: "%", min: 1, max: 100, default: 100, step: 5, hint: "How far quantising moves notes to the grid of the snap." }); // prettier-ignore

export function NotesInspector() {
  const { view } = useStudio();
  const part = usePart();
  const editable = useEditable();
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
      <NoteChordSection />
      <section>
        <h3 className="heading mb-1">From a file</h3>
        <FileButton
          text="Take notes or rhythm from MIDI or sound…"
          label="MIDI or sound file"
          accept=".mid,.midi,audio/*"
          disabled={!editable}
          onFile={(importing) => view.setState({ importing })}
        />
        <p className="mt-1 text-[11px] text-ink2">Or drop one on the score.</p>
      </section>
      <TuningSection />
    </>
  );
}

/** Every number of the chosen notes, and what can be done with them. */
function ChosenNotes({ chosen, selected }: { chosen: readonly Note[]; selected: ReadonlySet<string> }) {
  const studio = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const snap = noteValueTicks(useView((v) => v.noteSnap));
  const strength = useView((v) => v.quantiseStrength);
  const moveBy = useView((v) => v.moveBy);
  const editable = useEditable();
  const flats = usesFlats(song.key);
  const end = loopTicks(song);
  const edit = (label: string, change: (notes: readonly Note[]) => readonly Note[], gesture?: string): void =>
    void studio.workspace.store.edit(label, editNotes(part.id, change), gesture);
  const first = chosen.reduce((least, n) => (n.startTick < least.startTick ? n : least));
  const lowest = chosen.reduce((least, n) => (n.key < least.key ? n : least));
  const actions = noteActions(studio, part, song, editable);
  const tools: MenuEntry[] = [actions.quantise, actions.earlier, actions.later, actions.legato, actions.split, actions.join, actions.fill, actions.bar, actions.reverse, actions.halve, actions.double, actions.humanise, actions.stepUp, actions.stepDown, actions.intoKey, actions.triad, actions.seventh, actions.remove].flatMap((a) => a ?? []); // prettier-ignore
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
      <NumberRow
        row={STRENGTH}
        kind="notes"
        value={strength}
        onChange={(v) => studio.view.setState({ quantiseStrength: v })}
      />
      <SelectRow
        label="Moves by"
        name="What notes are moved by"
        value={moveBy ? noteValueName(moveBy) : ""}
        options={[{ value: "", text: "the snap" }, ...NOTE_VALUES.map((v) => ({ value: noteValueName(v), text: noteValueName(v) }))]}
        onChange={(name) => studio.view.setState({ moveBy: NOTE_VALUES.find((v) => noteValueName(v) === name) ?? null })}
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
