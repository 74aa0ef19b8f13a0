import { useState } from "react";
import { readMidiFile, type MidiJob } from "@/audio/files";
import type { MidiImport, MidiOpened } from "@/core/format/midi";
import { FileButton } from "@/ui/FileButton";
import { later } from "@/ui/later";
import { useEditable, useStudio } from "@/views/studio/studio";

const MidiImportDialog = later(() => import("./MidiImportDialog").then((m) => m.MidiImportDialog));

/** Larger files are no songs. */
const LARGEST_MIDI = 4_000_000;
const TOO_LARGE = { ok: false, reason: "it is larger than 4 MB" } as const;

/** Opens a MIDI file; what it holds is asked about before it is taken. */
export function MidiImporter() {
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
