import { useStore } from "zustand";
import { Dialog, DialogButtons } from "@/ui/Dialog";
import { clockTime } from "@/ui/clockTime";
import { useSaveAsFile } from "./useSaveAsFile";
import { useStudio } from "./studio";

/** Asks before work is left that could not be saved. */
export function LeaveDialog() {
  const { workspace } = useStudio();
  const asked = useStore(workspace.question, (q) => q.asked);
  const saveAsFile = useSaveAsFile();
  if (!asked) return null;
  const { name, since, answer } = asked;
  return (
    <Dialog title="Leave what is not saved?" onClose={() => answer(false)}>
      <p className="break-words">
        &ldquo;{name}&rdquo; has changes since {clockTime(since)} that this browser could not store. They are gone when
        it is left.
      </p>
      <DialogButtons>
        <button type="button" className="chip" onClick={() => answer(true)}>
          Leave without them
        </button>
        <button type="button" className="chip" onClick={() => answer(false)}>
          Stay
        </button>
        <button
          type="button"
          className="chip"
          data-on="true"
          autoFocus
          onClick={() => void saveAsFile().then((done) => done && answer(true))}
        >
          Save as a file, then leave
        </button>
      </DialogButtons>
    </Dialog>
  );
}
