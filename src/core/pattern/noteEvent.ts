/** A note as it is played within one pass of the loop. Whole ticks; `offTick` may lie past the loop's end. */
export interface NoteEvent {
  readonly onTick: number;
  readonly offTick: number;
  readonly key: number;
  /** MIDI velocity, 1 to 127. */
  readonly velocity: number;
}
