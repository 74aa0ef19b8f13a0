import { dbToGain } from "../dsp/portableMath";
import { LANES, type VoiceLanes } from "../motion/lanes";
import { isConstant, type Input, type MotionProgram, type Ref, type Use } from "../motion/program";

/** A stolen voice is faded within this time; a fade of this length lies 60 dB and more under what it ends. */
const FADE_SEC = 0.006;
const LEVEL_MAX_DB = 24;

const isStill = (use: Use): boolean =>
  (use.form === "plain" && isConstant(use.value)) ||
  (use.form === "level" && isConstant(use.level) && use.factors.length === 0);

const gainAt = (db: number, off: boolean, floor: number): number =>
  off || !(db > floor) ? 0 : dbToGain(Math.min(db, LEVEL_MAX_DB));

/** Works out the values that the modules read, from the slots of the motion: a column of the bank's rows a use. */
export class Uses {
  /** Those that differ from row to row, those that are a note's own for as long as it sounds, and those that nothing moves. */
  readonly moving: readonly number[];
  readonly fixed: readonly number[];
  readonly still: readonly number[];
  private readonly lastDb = new Float64Array(LANES).fill(NaN);
  private readonly lastGain = new Float64Array(LANES);
  readonly fadeFrames: number;

  constructor(
    readonly program: MotionProgram,
    private readonly lanes: VoiceLanes,
    sampleRate: number,
    isFixedSlot: (ref: Ref) => boolean,
  ) {
    const indices = program.uses.map((_, i) => i);
    const stands = (input: Input): boolean => isConstant(input) || isFixedSlot(input);
    const isFixed = (use: Use): boolean =>
      !isStill(use) &&
      ((use.form === "plain" && stands(use.value)) ||
        (use.form === "level" && stands(use.level) && use.factors.every(isFixedSlot)) ||
        (use.form === "pitch" && (!program.slides || !use.follows) && stands(use.semitones) && stands(use.cents)) ||
        (use.form === "log2hz" && !program.slides && stands(use.follow) && stands(use.octaves)));
    this.fixed = indices.filter((i) => isFixed(program.uses[i]!));
    this.moving = indices.filter((i) => !isStill(program.uses[i]!) && !isFixed(program.uses[i]!));
    this.still = indices.filter((i) => isStill(program.uses[i]!));
    this.fadeFrames = Math.round(FADE_SEC * sampleRate);
  }

  stillValue(index: number): number {
    const use = this.program.uses[index]!;
    if (use.form === "level" && isConstant(use.level)) return gainAt(use.level.constant, use.off, use.floor);
    return use.form === "plain" && isConstant(use.value) ? use.value.constant : 0;
  }

  /** Writes a use's values for `count` lanes of `list` to `out` from `at`. */
  write(
    index: number,
    list: Int32Array,
    count: number,
    frame: number,
    slots: Float64Array,
    shared: Float64Array,
    out: Float64Array,
    at: number,
  ): void {
    const use = this.program.uses[index]!;
    switch (use.form) {
      case "plain":
        add(use.value, 0, list, count, slots, shared, out, at);
        return;
      case "pitch":
        add(use.semitones, use.base, list, count, slots, shared, out, at);
        if (use.follows) this.pitch(use.cents, list, count, frame, slots, shared, out, at);
        else
          for (let k = 0; k < count; k++) {
            const v = list[k]!;
            out[at + v] = out[at + v]! + read(use.cents, v, slots, shared) / 100;
          }
        return;
      case "log2hz":
        add(use.octaves, use.rest, list, count, slots, shared, out, at);
        this.follow(use, list, count, frame, slots, shared, out, at);
        return;
      case "level":
        for (let k = 0; k < count; k++) {
          const v = list[k]!;
          let gain = gainAt(read(use.level, v, slots, shared), use.off, use.floor);
          for (let f = 0; f < use.factors.length; f++) gain *= read(use.factors[f]!, v, slots, shared);
          out[at + v] = gain;
        }
        return;
      case "gain":
        this.gain(use, list, count, frame, slots, shared, out, at);
        return;
      default:
        return use satisfies never;
    }
  }

  /** Adds the key and cents to semitones. */
  private pitch(
    cents: Input,
    list: Int32Array,
    count: number,
    frame: number,
    slots: Float64Array,
    shared: Float64Array,
    out: Float64Array,
    at: number,
  ): void {
    const { lanes } = this;
    const { tuned, bend } = lanes;
    const { slides } = this.program;
    if (isConstant(cents) && !slides) {
      // Most pitches: the key is where it was, and costs no call.
      const by = bend + cents.constant / 100;
      for (let k = 0; k < count; k++) out[at + list[k]!] = out[at + list[k]!]! + tuned[list[k]!]! + by;
      return;
    }
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const key = slides ? lanes.pitchAt(v, frame) : tuned[v]! + bend;
      out[at + v] = out[at + v]! + key + read(cents, v, slots, shared) / 100;
    }
  }

  /** Adds what key follow adds to octaves, and holds the sum in range. */
  private follow(
    use: Extract<Use, { form: "log2hz" }>,
    list: Int32Array,
    count: number,
    frame: number,
    slots: Float64Array,
    shared: Float64Array,
    out: Float64Array,
    at: number,
  ): void {
    const { lanes } = this;
    const { tuned, bend } = lanes;
    const { slides } = this.program;
    const { follow, min, max } = use;
    const still = isConstant(follow) ? follow.constant / 1200 : NaN;
    if (still === 0) {
      for (let k = 0; k < count; k++) {
        const v = list[k]!;
        const x = out[at + v]!;
        out[at + v] = x < min ? min : x > max ? max : x;
      }
      return;
    }
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const part = isConstant(follow) ? still : read(follow, v, slots, shared) / 1200;
      const x = out[at + v]! + part * ((slides ? lanes.pitchAt(v, frame) : tuned[v]! + bend) - 60);
      out[at + v] = x < min ? min : x > max ? max : x;
    }
  }

  private gain(
    use: Extract<Use, { form: "gain" }>,
    list: Int32Array,
    count: number,
    frame: number,
    slots: Float64Array,
    shared: Float64Array,
    out: Float64Array,
    at: number,
  ): void {
    const { stolenFrame } = this.lanes;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const db = read(use.level, v, slots, shared);
      let gain = use.off || !(db > use.floor) ? 0 : slots[use.envelope * LANES + v]! * use.scale * this.gainOf(v, db);
      for (let f = 0; f < use.factors.length; f++) gain *= read(use.factors[f]!, v, slots, shared);
      const stolen = stolenFrame[v]!;
      if (stolen !== Infinity) {
        const left = 1 - (frame - stolen) / this.fadeFrames;
        // A straight fade has corners that tick; this one is smooth at both ends.
        gain *= left <= 0 ? 0 : left >= 1 ? 1 : left * left * (3 - 2 * left);
      }
      out[at + v] = gain;
    }
  }

  /** A level as a gain; most notes keep theirs, so the last answer is kept. */
  private gainOf(v: number, db: number): number {
    if (db !== this.lastDb[v]) {
      this.lastDb[v] = db;
      this.lastGain[v] = dbToGain(db < LEVEL_MAX_DB ? db : LEVEL_MAX_DB);
    }
    return this.lastGain[v]!;
  }
}

/** Writes base + input for every lane of the list; what the input is is asked once. */
function add(
  input: Input,
  base: number,
  list: Int32Array,
  count: number,
  slots: Float64Array,
  shared: Float64Array,
  out: Float64Array,
  at: number,
): void {
  if (isConstant(input) || input < 0) {
    const value = base + (isConstant(input) ? input.constant : shared[~input]!);
    for (let k = 0; k < count; k++) out[at + list[k]!] = value;
    return;
  }
  const slot = input * LANES;
  for (let k = 0; k < count; k++) out[at + list[k]!] = base + slots[slot + list[k]!]!;
}

function read(input: Input, v: number, slots: Float64Array, shared: Float64Array): number {
  if (isConstant(input)) return input.constant;
  return input < 0 ? shared[~input]! : slots[input * LANES + v]!;
}
