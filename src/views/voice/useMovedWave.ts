import { useEffect, useMemo, useState } from "react";
import { addressOfRow } from "@/core/patch/kinds";
import { OSCILLATOR, type Oscillator } from "@/core/patch/kinds/oscillator";
import { MARKS, onFrame } from "@/ui/frames";
import { valueAt, valueTracks } from "@/views/score/heardTracks";
import { MOVED } from "./movedWaves";
import { useHeard, usePart, useProject, useSound, useStudio } from "@/views/studio/studio";

type Moved = Partial<Record<(typeof MOVED)[number], number>>;

const { rows } = OSCILLATOR;

/** What of a wave is moved, as it is heard now; null while nothing plays or nothing moves it. */
export function useMovedWave(o: Oscillator): Moved | null {
  const studio = useStudio();
  const part = usePart();
  const partIndex = useProject((s) => s.project.parts.indexOf(part));
  const playing = useSound((s) => s.playing);
  const { heard, program } = useHeard();
  const [now, setNow] = useState<Moved | null>(null);
  const tracks = useMemo(() => {
    if (!heard || !program || !playing) return null;
    const moves = new Set(part.patch.routes.filter((r) => r.on).map((r) => r.target));
    const found = MOVED.filter((key) => moves.has(addressOfRow(o, rows[key]))).map(
      (key) => [key, valueTracks(heard, program, partIndex, addressOfRow(o, rows[key]))] as const,
    );
    return found.length > 0 ? found : null;
  }, [heard, program, playing, part, partIndex, o]);
  useEffect(() => {
    if (!tracks) return;
    return onFrame(() => {
      const snapshot = studio.session.snapshot();
      if (!snapshot) return;
      const tick = snapshot.loopTick;
      setNow((before) => {
        const next: Moved = {};
        for (const [key, list] of tracks) {
          const value = valueAt(list, tick);
          if (value !== null) next[key] = value;
        }
        const same = before && MOVED.every((key) => Math.abs((before[key] ?? 0) - (next[key] ?? 0)) < 0.2);
        return same ? before : next;
      });
    }, MARKS);
  }, [tracks, studio]);
  return tracks ? now : null;
}
