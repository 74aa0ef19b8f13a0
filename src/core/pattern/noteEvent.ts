/** A note as it is played within one pass of the loop. Whole ticks; `offTick` may lie past the loop's end. */
export interface NoteEvent {
  readonly onTick: number;
  readonly offTick: number;
  readonly key: number;
  /** MIDI velocity, 1 to 127. */
  readonly velocity: number;
}

/** A glide into a note from another key, straight in pitch: in time that follows the tempo and in time that does not. */
export interface Slide {
  /** MIDI key that it begins at. */
  readonly from: number;
  readonly ticks: number;
  readonly ms: number;
  /** Whether its time is that of the part's rule of playing, and not the note's own. */
  readonly byRule?: boolean;
}

/** What a part plays: a note with what it brings to modulations. */
export interface PlayedNote extends NoteEvent {
  readonly slide?: Slide;
  /** It goes on with the voice that sounds, and starts nothing again. */
  readonly tied?: boolean;
  /** What the free lanes of the arpeggio say for it, in percent: 0 without them. */
  readonly freeA: number;
  readonly freeB: number;
}
