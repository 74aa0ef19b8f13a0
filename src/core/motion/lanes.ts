/** Voices that a part can hold at once, those that are being faded included: a multiple of four. */
export const LANES = 64;

/** Onsets of a part after which their count begins again. */
export const COUNTED = 16;

/** Keys of equal temperament, as they are. */
const EQUAL = Float64Array.from({ length: 128 }, (_, key) => key);

/** What sets the voices of a part apart, one lane a voice. */
export class VoiceLanes {
  /** The pitch of each MIDI key in keys of equal temperament; NaN where it is not played. */
  tuning: Float64Array = EQUAL;
  /** The pitch of each voice's key, tuned: what a glide ends at. */
  readonly tuned = new Float64Array(LANES);
  /** What the hands do to all voices: how far they bend the pitch, in semitones. */
  bend = 0;
  /** Where their bend stands, -1 to 1, and their wheel and pressure, 0 to 1. */
  stick = 0;
  wheel = 0;
  pressure = 0;
  readonly active = new Uint8Array(LANES);
  /** Set until the voice's first evaluation. */
  readonly fresh = new Uint8Array(LANES);
  readonly key = new Float64Array(LANES);
  readonly velocity = new Float64Array(LANES);
  /** What the arpeggio's free lanes say for the note, in percent. */
  readonly freeA = new Float64Array(LANES);
  readonly freeB = new Float64Array(LANES);
  /** Onsets of the part before the note's, in rounds of `COUNTED`. */
  readonly onsets = new Float64Array(LANES);
  /** A glide into the key: the pitch where it begins, its first frame, and how many it takes; none where that is 0. */
  readonly slideFrom = new Float64Array(LANES);
  readonly slideFrame = new Float64Array(LANES);
  readonly slideFrames = new Float64Array(LANES);
  /** Set where what moves the glide of the part's rule has still to say how long this one takes. */
  readonly slideOpen = new Uint8Array(LANES);
  /** Place among the copies of a note, -1 to 1. */
  readonly copy = new Float64Array(LANES);
  /** Counts notes of the part: the greatest is the newest. */
  readonly serial = new Float64Array(LANES);
  readonly onFrame = new Float64Array(LANES);
  readonly onTick = new Float64Array(LANES);
  /** Its onset within the pass, as its event says. */
  readonly eventTick = new Float64Array(LANES);
  /** Ticks since the engine's start at which the key is let go; Infinity when it is held by hand. */
  readonly offTick = new Float64Array(LANES);
  readonly offFrame = new Float64Array(LANES);
  /** Frame at which a stolen voice began to fade; Infinity otherwise. */
  readonly stolenFrame = new Float64Array(LANES);
  /** Frame of the last evaluation. */
  readonly lastFrame = new Float64Array(LANES);

  /** The lane of the note that was started last and still sounds; -1 for none. */
  get newest(): number {
    let newest = -1;
    for (let v = 0; v < this.top; v++)
      if (this.active[v] === 1 && (newest === -1 || this.serial[v]! > this.serial[newest]!)) newest = v;
    return newest;
  }

  /** Lanes that sound. */
  count = 0;
  /** One more than the highest lane that sounds. */
  top = 0;

  /** Tunes the keys; null for equal temperament. */
  tune(table: Float64Array | null): void {
    this.tuning = table ?? EQUAL;
    for (let v = 0; v < LANES; v++) if (this.active[v] === 1) this.setKey(v, this.key[v]!);
  }

  /** Gives a voice a key, and the pitch that it is tuned to. */
  setKey(lane: number, key: number): void {
    this.key[lane] = key;
    // A voice that sounds when a tuning leaves its key out stays as it would be without.
    const pitch = this.tuning[key]!;
    this.tuned[lane] = Number.isNaN(pitch) ? key : pitch;
  }

  /** The pitch of a voice at a frame, as a key, on its way to the note's. */
  pitchAt(lane: number, frame: number): number {
    const frames = this.slideFrames[lane]!;
    const key = this.tuned[lane]!;
    if (frames === 0) return key + this.bend;
    const from = this.slideFrom[lane]!;
    const done = (frame - this.slideFrame[lane]!) / frames;
    return this.bend + (done <= 0 ? from : done >= 1 ? key : from + (key - from) * done);
  }

  /** Lets a voice glide into its key from another pitch. */
  slide(lane: number, from: number, frame: number, frames: number, byRule: boolean): void {
    this.slideFrom[lane] = from;
    this.slideFrame[lane] = frame;
    this.slideFrames[lane] = frames;
    this.slideOpen[lane] = Number(byRule);
  }

  start(lane: number): void {
    this.active[lane] = 1;
    this.fresh[lane] = 1;
    this.count++;
    if (lane >= this.top) this.top = lane + 1;
  }

  end(lane: number): void {
    this.active[lane] = 0;
    this.count--;
    while (this.top > 0 && this.active[this.top - 1] === 0) this.top--;
  }
}
