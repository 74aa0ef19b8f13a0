import { useCallback } from "react";
import { goTo, usePlace, type Place } from "@/views/studio/places";
import { useStudio } from "@/views/studio/studio";
import type { StripId } from "@/views/studio/viewStore";

/** Views that show one part. */
const OF_PARTS = ["/", "/voice", "/moves"];

/** Shows a part with one of its strips: where the view shows no part, or another one is asked for, that view is opened. */
export function useShowPart(): (id: string, strip: StripId, on?: Place) => void {
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
