import { useCallback } from "react";
import { goTo, usePlace, type Place } from "@/views/studio/places";
import { useStudio, type Studio } from "@/views/studio/studio";
import { PART_STRIP, type StripId } from "@/views/studio/viewStore";

/** Views that show one part. */
const OF_PARTS = ["/", "/voice", "/moves"];

export type ShowPart = (id: string, strip: StripId, on?: Place) => void;

/** Shows a part with one of its strips: where the view shows no part, or another one is asked for, that view is opened. */
export function useShowPart(): ShowPart {
  const { view } = useStudio();
  const path = usePlace();
  return useCallback(
    (id, strip, on) => {
      view.setState({ partId: id, strip, selectedNotes: new Set(), laneSteps: new Set(), chosenValues: [] });
      if (on ?? !OF_PARTS.includes(path)) goTo(on ?? "/");
    },
    [view, path],
  );
}

/** Shows the voice of a part. */
export function openVoice(studio: Studio, id: string, show: ShowPart): void {
  show(id, PART_STRIP, "/voice");
  studio.view.setState({ address: null });
}
