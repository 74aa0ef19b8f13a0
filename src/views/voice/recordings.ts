import { useState } from "react";
import { useStore } from "zustand";
import { framesOf } from "@/core/dsp/importedFrames";
import type { Harmonics } from "@/core/dsp/fourier";
import type { Recording } from "@/core/format/wavRead";
import type { Oscillator } from "@/core/patch/kinds/oscillator";
import type { Binary } from "@/core/patch/project";
import type { Edit } from "@/state/projectStore";
import { useProject, useStudio } from "@/views/studio/studio";

/** What is known of the recording under a hash. */
export interface RecordingHere {
  readonly recording: Recording | null;
  readonly binary: Binary | null;
  /** It is named, and nowhere to be found in this browser. */
  readonly missing: boolean;
}

const NONE: RecordingHere = { recording: null, binary: null, missing: false };

export function useRecording(hash: string | null): RecordingHere {
  const { store } = useStudio().workspace.recordings;
  const recording = useStore(store, (s) => (hash === null ? null : (s.known.get(hash) ?? null)));
  const missing = useStore(store, (s) => hash !== null && s.missing.has(hash));
  const binary = useProject((s) => s.project.binaries.find((b) => b.hash === hash) ?? null);
  return hash === null ? NONE : { recording, binary, missing };
}

const cut = new WeakMap<Recording, { readonly length: number; readonly frames: readonly Harmonics[] }>();

/** The frames of a recording that is cut into cycles; the last cut of each is kept. */
function framesIn(recording: Recording, length: number): readonly Harmonics[] {
  const known = cut.get(recording);
  if (known?.length === length) return known.frames;
  // What is shorter than one cycle has no frames.
  const frames = (recording.channels[0]?.length ?? 0) < length ? [] : framesOf(recording, length);
  cut.set(recording, { length, frames });
  return frames;
}

/** The frames that an oscillator's recording is cut into; null while there are none. */
export function useCycles(o: Oscillator): readonly Harmonics[] | null {
  const { recording, length } = o.data.cycles;
  const here = useRecording(o.choices.wave === "cycles" ? recording : null);
  if (!here.recording) return null;
  const frames = framesIn(here.recording, length);
  return frames.length > 0 ? frames : null;
}

const STEM = /\.[^.]+$/;

/** Brings in a recording and lets an edit use it; `busy` while it is read. */
export function useTakeRecording(): { busy: boolean; take: (file: File, label: string, editFor: (hash: string, samples: number) => Edit) => Promise<void> } {
  const { workspace, tell } = useStudio();
  const [busy, setBusy] = useState(false);
  const take = async (file: File, label: string, editFor: (hash: string, samples: number) => Edit): Promise<void> => {
    setBusy(true);
    try {
      // What reads files is loaded with the first one.
      const { takeRecording } = await import("@/audio/files");
      const { recording, bytes, hash } = await takeRecording(file);
      const name = file.name.replace(STEM, "").trim().slice(0, 80) || "Recording";
      await workspace.recordings.keep({ binary: { hash, name, bytes: bytes.length }, bytes, recording });
      workspace.store.edit(label, editFor(hash, recording.channels[0]!.length));
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error);
      tell({ kind: "error", text: `"${file.name}" could not be taken as a recording: ${reason}. Nothing was changed.` });
    } finally {
      setBusy(false);
    }
  };
  return { busy, take };
} // prettier-ignore
