import { dbToGain } from "../dsp/portableMath";
import { LANES, type VoiceLanes } from "../motion/lanes";
import { isConstant, type Input, type Use } from "../motion/program";
import { readInput } from "../motion/run/voiceRun";

/** What the columns of a part are worked out from. */
export interface UseRoom {
  readonly lanes: VoiceLanes;
  /** Whether notes glide from one key to another. */
  readonly slides: boolean;
  /** Frames in which a stolen voice is faded. */
  readonly fadeFrames: number;
}

/** Works out one use's column. A class each, so that no number is handed from one function to another: see `VoiceRun`. */
export interface UseRun {
  /** Writes the values of `count` lanes of `list` to `out` from `at`. */
  write(
    list: Int32Array,
    count: number,
    frame: number,
    slots: Float64Array,
    shared: Float64Array,
    out: Float64Array,
    at: number,
  ): void;
}

const LEVEL_MAX_DB = 24;

/** Turns a level of a row into a gain: silence from its floor on down. */
export function toGain({ off, floor }: { readonly off: boolean; readonly floor: number }, row: Float64Array, at: number): void {
  const db = row[at]!;
  row[at] = off || !(db > floor) ? 0 : dbToGain(Math.min(db, LEVEL_MAX_DB));
} // prettier-ignore

/** Writes base + input for every lane of the list; what the input is is asked once. */
class AddRun implements UseRun {
  constructor(
    private readonly input: Input,
    private readonly base: number,
  ) {}

  write(list: Int32Array, count: number, _: number, slots: Float64Array, shared: Float64Array, out: Float64Array, at: number): void {
    const { input, base } = this;
    if (isConstant(input) || input < 0) {
      const value = base + (isConstant(input) ? input.constant : shared[~input]!);
      for (let k = 0; k < count; k++) out[at + list[k]!] = value;
      return;
    }
    const slot = input * LANES;
    for (let k = 0; k < count; k++) out[at + list[k]!] = base + slots[slot + list[k]!]!;
  } // prettier-ignore
}

type PitchUse = Extract<Use, { form: "pitch" }>;

/** Adds the key, where it is followed, what the part's pitch adds to it, and cents to semitones. */
class KeyRun implements UseRun {
  constructor(
    private readonly use: PitchUse,
    private readonly room: UseRoom,
  ) {}

  write(list: Int32Array, count: number, frame: number, slots: Float64Array, shared: Float64Array, out: Float64Array, at: number): void {
    const { cents, follows, apart } = this.use;
    const { lanes, slides } = this.room;
    const { tuned, bend } = lanes;
    if (follows && isConstant(cents) && isConstant(apart) && !slides) {
      // Most pitches: the key is where it was, and costs no call.
      const by = bend + cents.constant / 100 + apart.constant;
      for (let k = 0; k < count; k++) out[at + list[k]!] = out[at + list[k]!]! + tuned[list[k]!]! + by;
      return;
    }
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const key = !follows ? 0 : slides ? lanes.pitchAt(v, frame) : tuned[v]! + bend;
      out[at + v] = out[at + v]! + key + readInput(cents, v, slots, shared) / 100 + readInput(apart, v, slots, shared);
    }
  } // prettier-ignore
}

/** Adds what key follow adds to octaves, and holds the sum in range. */
class FollowRun implements UseRun {
  constructor(
    private readonly use: Extract<Use, { form: "log2hz" }>,
    private readonly room: UseRoom,
  ) {}

  write(list: Int32Array, count: number, frame: number, slots: Float64Array, shared: Float64Array, out: Float64Array, at: number): void {
    const { lanes, slides } = this.room;
    const { tuned, bend } = lanes;
    const { follow, apart, min, max } = this.use;
    const still = isConstant(follow);
    if (still && follow.constant === 0) {
      for (let k = 0; k < count; k++) {
        const v = list[k]!;
        const x = out[at + v]!;
        out[at + v] = x < min ? min : x > max ? max : x;
      }
      return;
    }
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const part = readInput(follow, v, slots, shared) / 1200;
      const key = (slides ? lanes.pitchAt(v, frame) : tuned[v]! + bend) + readInput(apart, v, slots, shared);
      const x = out[at + v]! + part * (key - 60);
      out[at + v] = x < min ? min : x > max ? max : x;
    }
  } // prettier-ignore
}

/** A level in dB as a gain; most notes keep theirs, so the last answer is kept. */
class LevelRun implements UseRun {
  private readonly lastDb = new Float64Array(LANES).fill(NaN);
  private readonly lastGain = new Float64Array(LANES);

  constructor(private readonly use: Extract<Use, { form: "level" | "gain" }>) {}

  write(list: Int32Array, count: number, _: number, slots: Float64Array, shared: Float64Array, out: Float64Array, at: number): void {
    const { lastDb, lastGain } = this;
    const { use } = this;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const db = readInput(use.level, v, slots, shared);
      if (db !== lastDb[v]) {
        lastDb[v] = db;
        lastGain[v] = db;
        toGain(use, lastGain, v);
      }
      out[at + v] = lastGain[v]!;
    }
  } // prettier-ignore
}

/** Multiplies by factors of amplitude. */
class FactorsRun implements UseRun {
  constructor(private readonly use: Extract<Use, { form: "level" | "gain" }>) {}

  write(list: Int32Array, count: number, _: number, slots: Float64Array, shared: Float64Array, out: Float64Array, at: number): void {
    const { factors } = this.use;
    for (let f = 0; f < factors.length; f++)
      for (let k = 0; k < count; k++) {
        const v = list[k]!;
        out[at + v] = out[at + v]! * readInput(factors[f]!, v, slots, shared);
      }
  } // prettier-ignore
}

/** Multiplies by the envelope, and fades what was stolen. */
class GainRun implements UseRun {
  constructor(
    private readonly use: Extract<Use, { form: "gain" }>,
    private readonly room: UseRoom,
  ) {}

  write(list: Int32Array, count: number, frame: number, slots: Float64Array, _: Float64Array, out: Float64Array, at: number): void {
    const { stolenFrame } = this.room.lanes;
    const { fadeFrames } = this.room;
    const { envelope, scale } = this.use;
    const from = envelope * LANES;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      let gain = slots[from + v]! * scale * out[at + v]!;
      const stolen = stolenFrame[v]!;
      if (stolen <= frame) {
        const left = Math.max(0, 1 - (frame - stolen) / fadeFrames);
        // A straight fade has corners that tick; this one is smooth at both ends.
        gain *= left * left * (3 - 2 * left);
      }
      out[at + v] = gain;
    }
  } // prettier-ignore
}

/** The stages of a use, in their order. */
export function useRuns(use: Use, room: UseRoom): UseRun[] {
  switch (use.form) {
    case "plain":
      return [new AddRun(use.value, 0)];
    case "pitch":
      return [new AddRun(use.semitones, use.base), new KeyRun(use, room)];
    case "log2hz":
      return [new AddRun(use.octaves, use.rest), new FollowRun(use, room)];
    case "level":
    case "gain": {
      const stages: UseRun[] = [new LevelRun(use)];
      if (use.form === "gain") stages.push(new GainRun(use, room));
      if (use.factors.length > 0) stages.push(new FactorsRun(use));
      return stages;
    }
    default:
      return use satisfies never;
  }
}
