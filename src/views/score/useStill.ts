import { useState } from "react";
import { sameTracks } from "./heardTracks";
import type { Track } from "./paint";

/** The tracks that were drawn, while they are still the same ones: what did not change is not painted again. */
export function useStill(tracks: readonly Track[]): readonly Track[] {
  const [drawn, setDrawn] = useState(tracks);
  if (sameTracks(drawn, tracks)) return drawn;
  setDrawn(tracks);
  return tracks;
}
