import { useEffect, useMemo } from "react";
import { turnsOf } from "@/core/measure/turns";
import { loopTicks } from "@/core/pattern/events";
import { useHeard, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { modulatorTracks } from "./heardTracks";

/** How far a peak stands out, of the whole range. */
const LEAST = 0.08;
/** Places of the loop that are told apart. */
const PLACES = 4096;

/**
 * Lets the peaks of the modulator that is chosen for it click with the song. It shows nothing: what is heard comes to it
 * alone, and not to the whole view.
 */
export function Clicking(): null {
  const { session } = useStudio();
  const part = usePart();
  const id = useView((v) => v.clicking);
  const partIndex = useProject((s) => s.project.parts.indexOf(part));
  const end = useProject((s) => loopTicks(s.project.song));
  const { heard, program } = useHeard();
  const ticks = useMemo(() => {
    if (id === null || !heard || !program) return new Float64Array(0);
    // What the newest note does, over the loop.
    const line = new Float64Array(PLACES).fill(NaN);
    for (const t of modulatorTracks(heard, program, partIndex, id))
      for (let i = 0; i < t.strongUntil; i++) {
        const from = Math.round(((t.firstTick + (i - 0.5) * t.tickStep) / end) * PLACES);
        const to = Math.round(((t.firstTick + (i + 0.5) * t.tickStep) / end) * PLACES);
        line.fill(t.high[i]!, Math.max(0, from), Math.min(PLACES, to));
      }
    return Float64Array.from(turnsOf(line, LEAST), (i) => (i / PLACES) * end);
  }, [id, heard, program, partIndex, end]);
  useEffect(() => {
    session.setMarks(ticks);
  }, [session, ticks]);
  useEffect(() => () => session.setMarks(new Float64Array(0)), [session]);
  return null;
}
