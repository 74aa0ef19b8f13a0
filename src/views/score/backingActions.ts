import { GROOVES } from "@/core/pattern/grooves";
import { addBacking, removeBacking, setBackingOn } from "@/state/backingEdits";
import { newId } from "@/state/ids";
import { LOCKED, type MenuEntry } from "@/ui/menu";
import type { Studio } from "@/views/studio/studio";
import { BACKING_STRIP, NOTES_STRIP } from "@/views/studio/viewStore";

/** Adds a backing that strikes the first of the rhythms, and brings it into view; false when it was not to be had. */
export function startBacking({ workspace, view }: Studio): boolean {
  if (!workspace.store.edit("Add a backing", addBacking(newId(), GROOVES[0]!.steps))) return false;
  view.setState({ strip: BACKING_STRIP, stroke: null });
  return true;
}

/** Silences the backing, or lets it be heard; what follows it does so all the same. */
export const muteBacking = ({ workspace }: Studio, mute: boolean): boolean =>
  workspace.store.edit(mute ? "Mute the backing" : "Let the backing be heard", setBackingOn(!mute));

/** Removes the backing; what followed it follows its own notes again. */
export function dropBacking({ workspace, view }: Studio): void {
  if (!workspace.store.edit("Remove the backing", removeBacking)) return;
  if (view.getState().strip.kind === "backing") view.setState({ strip: NOTES_STRIP });
}

/** What can be done with the backing. */
export function backingActions(studio: Studio, editable: boolean): MenuEntry[] {
  const why = editable ? null : LOCKED;
  const on = studio.workspace.store.getState().project.backing?.on ?? false;
  return [
    { text: on ? "Mute" : "Let it be heard", why, run: () => muteBacking(studio, on) },
    { text: "Remove", keys: "Delete", why, run: () => dropBacking(studio) },
  ];
}
