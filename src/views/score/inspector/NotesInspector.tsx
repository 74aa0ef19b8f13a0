import { useState } from "react";
import { readMidiFile, type MidiJob } from "@/audio/files";
import { addNotes, removeNotes, setVelocity } from "@/core/pattern/noteEdit";
import { loopTicks } from "@/core/pattern/events";
import { CHORD_KINDS, chordKeys, type ChordSymbol } from "@/core/pitch/chord";
import { noteName, usesFlats } from "@/core/pitch/note";
import type { MidiImport, MidiOpened } from "@/core/format/midi";
import type { Note } from "@/core/patch/project";
import { NOTE_ROWS } from "@/core/patch/rows";
import { barTicks, formatPosition } from "@/core/time/meter";
import { editNotes, editPart } from "@/state/edits";
import { newId } from "@/state/ids";
import { FileButton } from "@/ui/FileButton";
import { later } from "@/ui/later";
import { NameField } from "@/ui/NameField";
import { Select } from "@/ui/Select";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { NumberRow } from "./rows";

const MidiImportDialog = later(() => import("./MidiImportDialog").then((m) => m.MidiImportDialog));

const LENGTHS = [
  { value: "1/4", text: "1/4 bar", bars: 0.25 },
  { value: "1/2", text: "1/2 bar", bars: 0.5 },
  { value: "1", text: "1 bar", bars: 1 },
  { value: "2", text: "2 bars", bars: 2 },
] as const;

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
      <div>
        <NameField
          name={part.name}
          disabled={!editable}
          onRename={(name) =>
            workspace.store.edit(
              "Rename part",
              editPart(part.id, (p) => ({ ...p, name })),
            )
          }
        />
        <p className="text-[12px] text-ink2">
          part, {part.notes.length === 1 ? "1 note" : `${part.notes.length} notes`}
        </p>
      </div>
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

/** Adds a chord by name at the next free place: after the last note, or at the selected one. */
function ChordAdder() {
  const { workspace, view } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const editable = useEditable();
  const [root, setRoot] = useState(String(48 + song.key.tonic));
  const [symbol, setSymbol] = useState<ChordSymbol>(song.key.scale === "minor" ? "m" : "M");
  const [length, setLength] = useState<(typeof LENGTHS)[number]["value"]>("1");
  const flats = usesFlats(song.key);
  const end = loopTicks(song);
  const lastEnd = Math.max(0, ...part.notes.map((n) => n.startTick + n.lengthTicks));
  const full = lastEnd >= end;
  const add = (): void => {
    const bars = LENGTHS.find((l) => l.value === length)!.bars;
    const lengthTicks = Math.min(end - lastEnd, Math.round(bars * barTicks(song.meter)));
    const notes = chordKeys(Number(root), symbol).map((key): Note => ({
      id: newId(),
      startTick: lastEnd,
      lengthTicks,
      key,
      velocity: 100,
    }));
    if (
      workspace.store.edit(
        "Add a chord",
        editNotes(part.id, (old) => addNotes(old, notes)),
      )
    )
      view.setState({ selectedNotes: new Set(notes.map((n) => n.id)) });
  };
  return (
    <section>
      <h3 className="heading mb-1.5">Add a chord</h3>
      <div className="flex flex-wrap gap-1">
        <Select
          label="Root"
          value={root}
          options={Array.from({ length: 36 }, (_, i) => 36 + i).map((k) => ({
            value: String(k),
            text: noteName(k, flats),
          }))}
          onChange={setRoot}
        />
        <Select
          label="Kind of chord"
          value={symbol}
          options={CHORD_KINDS.map((c) => ({ value: c.symbol, text: c.name }))}
          onChange={setSymbol}
        />
        <Select label="Length" value={length} options={LENGTHS} onChange={setLength} />
        <button type="button" className="chip" disabled={!editable || full} onClick={add}>
          Add
        </button>
      </div>
      <p className="mt-1 text-[11px] text-ink2">
        {full
          ? "The loop is full. Make it longer, or delete notes."
          : `It starts at ${formatPosition(lastEnd, song.meter)}, after the last note.`}
      </p>
    </section>
  );
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
