import type { ReactNode } from "react";
import { clockTime } from "@/ui/clockTime";
import { useProject, useSound, useStudio } from "./studio";
import { useSaveAsFile } from "./useSaveAsFile";

const WHY = {
  "other-tab":
    "This project is open in another tab, so here it can only be heard. It can be edited here when that tab is gone.",
  "taken-over": "Another tab has taken this project over, so here it can only be heard.",
  deleted: "This project was deleted in another tab. What you see here is all that is left of it.",
} as const;

/** What keeps this page from sounding, editing or saving, and the way on. */
export function Banner() {
  return (
    <div>
      <SoundStrip />
      <KeepingStrip />
    </div>
  );
}

function SoundStrip() {
  const studio = useStudio();
  const state = useSound((s) => s.state);
  const reason = useSound((s) => s.reason);
  // A sound that was never there is told where it was asked for.
  if (reason === null) return null;
  return (
    <Strip
      text={`The sound has ${state === "paused" ? "paused" : "stopped"}: ${reason}. Nothing of your work is lost.`}
    >
      <Act text={state === "paused" ? "Go on" : "Start the sound again"} onClick={() => studio.wake()} />
    </Strip>
  );
}

function KeepingStrip() {
  const { workspace } = useStudio();
  const readOnly = useProject((s) => s.readOnly);
  const save = useProject((s) => s.save);
  const saveAsFile = useSaveAsFile();
  if (readOnly) {
    return (
      <Strip text={WHY[readOnly]}>
        {readOnly === "deleted" ? (
          <>
            <Act text="Bring it back" onClick={() => workspace.bringBack()} />
            <Act text="Save as a file" onClick={saveAsFile} />
          </>
        ) : (
          <Act text="Edit it here" onClick={() => workspace.takeOver()} />
        )}
      </Strip>
    );
  }
  if (save.kind !== "failed") return null;
  return (
    <Strip text={`Not saved since ${clockTime(save.since)}: ${save.reason}.`}>
      <Act text="Save as a file" onClick={saveAsFile} />
      {save.conflict ? (
        <>
          <Act text="Go on with a copy" onClick={() => workspace.keepAsCopy()} />
          <Act text="Show what is stored" onClick={() => workspace.takeOver()} />
        </>
      ) : (
        <Act text="Try again" onClick={() => workspace.tryAgain()} />
      )}
    </Strip>
  );
}

function Strip({ text, children }: { text: string; children: ReactNode }) {
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-warn bg-paper px-4 py-2" role="status">
      <span className="h-2 w-2 shrink-0 bg-warn" aria-hidden />
      <span className="min-w-0">{text}</span>
      {children}
    </div>
  );
}

function Act({ text, onClick }: { text: string; onClick: () => Promise<unknown> }) {
  return (
    <button type="button" className="chip" onClick={() => void onClick()}>
      {text}
    </button>
  );
}
