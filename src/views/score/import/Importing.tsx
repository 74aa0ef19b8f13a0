import { useEffect, useState } from "react";
import { listenTo, readMidiFile } from "@/audio/files";
import type { Heard } from "@/audio/workers/file.worker";
import type { MidiImport } from "@/core/format/midi";
import { useStudio } from "@/views/studio/studio";
import { MidiDialog } from "./MidiDialog";
import { RecordingDialog } from "./RecordingDialog";

const LARGEST_MIDI = 4_000_000;
const LARGEST_SOUND = 100_000_000;

const isMidi = (file: File): boolean => /\.midi?$/i.test(file.name) || /midi/.test(file.type);

type Opened =
  { readonly kind: "midi"; readonly file: MidiImport } | { readonly kind: "sound"; readonly heard: Heard } | null;

/** Reads a file that was chosen or dropped, with progress, and asks what is to become of it. */
export function Importing({ file }: { file: File }) {
  const { tell, view } = useStudio();
  const [opened, setOpened] = useState<Opened>(null);
  const [progress, setProgress] = useState<number | null>(null);
  const [cancel, setCancel] = useState<(() => void) | null>(null);
  useEffect(() => {
    const shown = { current: true };
    const isShown = (): boolean => shown.current;
    const close = (): void => view.setState({ importing: null });
    const refuse = (reason: string): void => {
      tell({ kind: "error", text: `"${file.name}" could not be read as ${isMidi(file) ? "a MIDI file" : "sound"}: ${reason}. Nothing was changed.` });
      close();
    };
    const read = async (): Promise<void> => {
      const midi = isMidi(file);
      if (file.size > (midi ? LARGEST_MIDI : LARGEST_SOUND)) return refuse(`it is larger than ${midi ? 4 : 100} MB`);
      try {
        const job = midi
          ? readMidiFile(new Uint8Array(await file.arrayBuffer()))
          : listenTo(file, (share) => isShown() && setProgress(share));
        if (!isShown()) return job.cancel();
        setCancel(() => () => job.cancel());
        const result = await job.result;
        if (!isShown()) return;
        if (!result) close();
        else if (!("ok" in result)) setOpened({ kind: "sound", heard: result });
        else if (!result.ok) refuse(result.reason);
        else if (result.file.notes.length === 0) refuse("it holds no notes");
        else setOpened({ kind: "midi", file: result.file });
      } catch (error) {
        if (isShown()) refuse(error instanceof Error ? error.message : String(error));
      } finally {
        setCancel(null);
      }
    };
    void read();
    return () => {
      shown.current = false;
    };
  }, [file, tell, view]);
  const close = (): void => view.setState({ importing: null });
  if (opened?.kind === "midi") return <MidiDialog fileName={file.name} file={opened.file} onClose={close} />;
  if (opened?.kind === "sound") return <RecordingDialog fileName={file.name} heard={opened.heard} onClose={close} />;
  return (
    <div className="fixed right-4 bottom-10 z-40 flex w-[300px] items-center gap-2 border border-ink bg-sheet p-2" role="status">
      <span className="min-w-0 flex-1 truncate text-[12px]">{file.name}</span>
      <progress className="h-2 w-[90px] accent-ink" aria-label={`Reading ${file.name}`} {...(progress === null ? {} : { value: progress, max: 1 })} />
      <button type="button" className="chip" onClick={() => (cancel ? cancel() : close())}>
        Cancel
      </button>
    </div>
  );
} // prettier-ignore
