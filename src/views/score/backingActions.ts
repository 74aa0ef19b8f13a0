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

/** What can be done with the backing. */
export function backingActions({ workspace, view }: Studio, editable: boolean): MenuEntry[] {
  const { store } = workspace;
  const why = editable ? null : LOCKED;
  const on = store.getState().project.backing?.on ?? false;
  return [
    {
      text: on ? "Mute" : "Let it be heard",
      why,
      run: () => store.edit(on ? "Mute the backing" : "Let the backing be heard", setBackingOn(!on)),
    },
    {
      text: "Remove",
      keys: "Delete",
      why,
      run: () => {
        if (store.edit("Remove the backing", removeBacking)) view.setState({ strip: NOTES_STRIP });
      },
    },
  ];
}
