import { FileButton } from "@/ui/FileButton";
import { useEditable } from "@/views/studio/studio";
import { useRecording, useTakeRecording } from "./recordings";

const SOUND_FILES = "audio/*,.wav";

/** Which recording it is, what became of it, and the way to another one. */
export function WhichRecording({ hash, label, use }: { hash: string | null; label: string; use: Parameters<ReturnType<typeof useTakeRecording>["take"]>[2] }) {
  const { recording, binary, missing } = useRecording(hash);
  const { busy, take } = useTakeRecording();
  const editable = useEditable();
  const told = busy
    ? "Reading it"
    : missing
      ? `“${binary?.name ?? "The recording"}” is not in this browser: choose the file again`
      : hash === null
        ? "No recording yet: choose a sound file"
        : recording
          ? `${binary?.name ?? "Recording"}, ${(recording.channels[0]!.length / recording.sampleRate).toFixed(2)} s, ${recording.channels.length === 2 ? "stereo" : "mono"}`
          : "Opening it";
  return (
    <div className="flex items-center gap-2 py-1">
      <p className="min-w-0 flex-1 truncate text-[12px]" title={told} role={missing ? "alert" : undefined}>
        {missing && <span className="mr-1 inline-block h-2 w-2 bg-warn" aria-hidden />}
        {told}
      </p>
      <FileButton
        text={hash === null ? "Choose a file" : "Another file"}
        label={label}
        accept={SOUND_FILES}
        disabled={busy || !editable}
        onFile={(file) => void take(file, `Take ${file.name}`, use)}
      />
    </div>
  );
} // prettier-ignore
