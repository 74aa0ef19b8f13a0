import type { Voice } from "./voice";

/** Told what every voice does: what the as-heard curves and the event lists are made of. */
export interface Recorder {
  begin(part: number, voice: Voice): void;
  values(part: number, voice: Voice, frame: number): void;
  release(part: number, voice: Voice): void;
}
