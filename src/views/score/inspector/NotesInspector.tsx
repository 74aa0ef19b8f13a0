import { useRef, useState } from "react";
import { readMidiFile, type MidiJob } from "@/audio/files";
import { addNotes, removeNotes, setVelocity } from "@/core/pattern/noteEdit";
import { CHORD_KINDS, chordKeys, chordOf, chordText, parseChord, type Chord } from "@/core/pitch/chord";
import { noteName, usesFlats } from "@/core/pitch/note";
import type { MidiImport, MidiOpened } from "@/core/format/midi";
import type { Note } from "@/core/patch/project";
import { NOTE_ROWS } from "@/core/patch/rows";
import { barTicks, formatPosition } from "@/core/time/meter";
import { editNotes } from "@/state/edits";
import { newId } from "@/state/ids";
import { FileButton } from "@/ui/FileButton";
import { later } from "@/ui/later";
import { Select } from "@/ui/Select";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { InspectorTitle } from "./InspectorTitle";
import { NumberRow } from "./rows";

const MidiImportDialog = later(() => import("./MidiImportDialog").then((m) => m.MidiImportDialog));

export function NotesInspector() {
  const { workspace, view } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const selected = useView((v) => v.selectedNotes);
  const editable = useEditable();
  const flats = usesFlats(song.key);
  const chosen = part.notes.filter((n) => selected.has(n.id));
  const velocity = chosen[0]?.velocity ?? 100;
  const edit = (label: string, change: (notes: readonly Note[]) => readonly Note[], gesture?: string): void => {
    workspace.store.edit(label, editNotes(part.id, change), gesture);
  };
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
        {chosen.length === 0 && <p className="text-[11px] text-ink2">Click a note, or drag a frame round several.</p>}
        {chosen.length > 0 && (
          <>
            {chosen.length === 1 && (
              <dl className="grid grid-cols-[84px_1fr] gap-y-1 text-[12px]">
                <dt>Note</dt>
                <dd className="text-right font-semibold">{noteName(chosen[0]!.key, flats)}</dd>
                <dt>Starts at</dt>
                <dd className="text-right font-semibold">{formatPosition(chosen[0]!.startTick, song.meter)}</dd>
              </dl>
            )}
            <NumberRow
              row={NOTE_ROWS.velocity}
              kind="notes"
              value={velocity}
              onChange={(v, l, g) => edit(l, (notes) => setVelocity(notes, selected, v), g)}
            />
            <button
              type="button"
              className="chip mt-1"
              disabled={!editable}
              onClick={() => {
                edit(chosen.length > 1 ? "Delete notes" : "Delete a note", (notes) => removeNotes(notes, selected));
                view.setState({ selectedNotes: new Set() });
              }}
            >
              Delete
            </button>
          </>
        )}
      </section>
      <ChordAdder />
      <MidiImporter />
    </>
  );
}

/** Lengths of a chord, in bars, of which those that fit are offered. */
const CHORD_BARS = [0.25, 0.5, 1, 2, 4, 8, 16, 32];
const barsText = (bars: number): string => (bars < 1 ? `1/${1 / bars} bar` : bars === 1 ? "1 bar" : `${bars} bars`);

/** Adds a chord by name or degree: at the next free bar line unless told otherwise, near the last chord. */
function ChordAdder() {
  const { workspace, view } = useStudio();
  const part = usePart();
  const { key, meter, loopBars } = useProject((s) => s.project.song);
  const editable = useEditable();
  const [typed, setTyped] = useState<string | null>(null);
  const [start, setStart] = useState("");
  const [length, setLength] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const field = useRef<HTMLInputElement>(null);
  const flats = usesFlats(key);
  const bar = barTicks(meter);
  const lastEnd = Math.max(0, ...part.notes.map((n) => n.startTick + n.lengthTicks));
  const free = Math.ceil(lastEnd / bar);
  const bars = Array.from({ length: loopBars }, (_, i) => i);
  const at = bars.find((b) => String(b) === start) ?? (free < loopBars ? free : null);
  const room = at === null ? [] : CHORD_BARS.filter((b) => b <= loopBars - at);
  const long = room.find((b) => String(b) === length) ?? 1;
  const text = typed ?? chordText(lastChord(part.notes) ?? { root: key.tonic, symbol: key.scale === "minor" ? "m" : "M" }, flats); // prettier-ignore
  const add = (): void => {
    const chord = parseChord(text, key);
    setProblem(chord ? null : 'Write a chord by its name or degree: "Dm7", "F#", "iv", "V7".');
    if (!chord || at === null) return field.current?.select();
    const notes = chordKeys(rootNear(part.notes, chord.root), chord.symbol).map((k): Note => ({
      id: newId(),
      startTick: at * bar,
      lengthTicks: Math.round(long * bar),
      key: k,
      velocity: 100,
    }));
    const named = `Add ${chordText(chord, flats)}`;
    if (!workspace.store.edit(named, editNotes(part.id, (old) => addNotes(old, notes)))) return; // prettier-ignore
    view.setState({ selectedNotes: new Set(notes.map((n) => n.id)) });
    setTyped(null);
    setStart("");
    // The next one is typed over it.
    requestAnimationFrame(() => field.current?.select());
  };
  return (
    <section>
      <h3 className="heading mb-1.5">Add a chord</h3>
      <form
        className="grid grid-cols-[1fr_auto_auto_auto] gap-1"
        onSubmit={(e) => {
          e.preventDefault();
          add();
        }}
      >
        <input
          ref={field}
          className="field w-full min-w-0"
          aria-label="Chord"
          aria-invalid={problem !== null}
          list="chords"
          value={text}
          onFocus={(e) => e.currentTarget.select()}
          onChange={(e) => {
            setTyped(e.currentTarget.value);
            setProblem(null);
          }}
        />
        <datalist id="chords">
          {CHORD_KINDS.map((c) => {
            const chord = { root: key.tonic, symbol: c.symbol };
            return <option key={c.symbol} value={chordText(chord, flats)} label={c.name} />;
          })}
        </datalist>
        <Select
          label="Start of the chord"
          value={String(at ?? "")}
          options={[...(at === null ? [{ value: "", text: "at" }] : []), ...bars.map((b) => ({ value: String(b), text: `at ${b + 1}.1` }))]} // prettier-ignore
          onChange={setStart}
        />
        <Select
          label="Length of the chord"
          value={String(long)}
          options={(room.length > 0 ? room : [1]).map((b) => ({ value: String(b), text: barsText(b) }))}
          onChange={setLength}
        />
        <button type="submit" className="chip" disabled={!editable || at === null}>
          Add
        </button>
      </form>
      <p className={`mt-1 text-[11px] ${problem ? "" : "text-ink2"}`} role={problem ? "alert" : undefined}>
        {problem ??
          (at === null
            ? "The loop is full. Make it longer, choose a start, or delete notes."
            : "By name or degree. It takes the next free bar, near the last chord.")}
      </p>
    </section>
  );
}

/** The chord that begins last; null when the notes make none. */
function lastChord(notes: readonly Note[]): Chord | null {
  const startTick = Math.max(0, ...notes.map((n) => n.startTick));
  const keys = notes.filter((n) => n.startTick === startTick).map((n) => n.key);
  return keys.length > 1 ? chordOf(keys) : null;
}

/** The key of a root nearest to the lowest note of the last chord, or to C3. */
function rootNear(notes: readonly Note[], root: number): number {
  const startTick = Math.max(0, ...notes.map((n) => n.startTick));
  const lowest = notes.filter((n) => n.startTick === startTick).map((n) => n.key);
  const near = lowest.length > 0 ? Math.min(...lowest) : 48;
  return Math.min(115, Math.max(0, root + 12 * Math.round((near - root) / 12)));
}

/** Larger files are no songs. */
const LARGEST_MIDI = 4_000_000;
const TOO_LARGE = { ok: false, reason: "it is larger than 4 MB" } as const;

function MidiImporter() {
  const { tell } = useStudio();
  const editable = useEditable();
  const [opened, setOpened] = useState<{ fileName: string; file: MidiImport } | null>(null);
  const [job, setJob] = useState<{ fileName: string; job: MidiJob } | null>(null);
  const inWorker = async (file: File): Promise<MidiOpened | null> => {
    try {
      const started = readMidiFile(new Uint8Array(await file.arrayBuffer()));
      setJob({ fileName: file.name, job: started });
      return await started.result;
    } catch (error) {
      return { ok: false, reason: error instanceof Error ? error.message : String(error) };
    } finally {
      setJob(null);
    }
  };
  const read = async (file: File): Promise<void> => {
    const result = file.size > LARGEST_MIDI ? TOO_LARGE : await inWorker(file);
    if (!result) return;
    if (!result.ok)
      tell({
        kind: "error",
        text: `"${file.name}" could not be read as a MIDI file: ${result.reason}. Nothing was changed.`,
      });
    else if (result.file.notes.length === 0)
      tell({ kind: "error", text: `"${file.name}" holds no notes. Nothing was changed.` });
    else setOpened({ fileName: file.name, file: result.file });
  };
  return (
    <section>
      <h3 className="heading mb-1.5">MIDI</h3>
      <FileButton
        text="Import a MIDI file…"
        label="MIDI file"
        accept=".mid,.midi,audio/midi"
        disabled={!editable || job !== null}
        onFile={(f) => void read(f)}
      />
      {job && (
        <div className="mt-1.5 flex items-center gap-2">
          <progress className="h-2 min-w-0 flex-1 accent-ink" aria-label={`Reading ${job.fileName}`} />
          <button type="button" className="chip" onClick={() => job.job.cancel()}>
            Cancel
          </button>
        </div>
      )}
      {opened && <MidiImportDialog opened={opened} onClose={() => setOpened(null)} />}
    </section>
  );
}
