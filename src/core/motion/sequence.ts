import { stir, unit, UNSTIRRED } from "../pattern/chance";
import type { StepForm, Steps } from "../patch/kinds/steps";

/** A step sequence ready for evaluation: a number a step in each list. */
export interface CompiledSequence {
  readonly values: Float64Array;
  readonly seconds: Float64Array;
  /** Numbers of `FORMS`. */
  readonly forms: Uint8Array;
  /** What the form of each step sets out from: its share at the step's start. */
  readonly starts: Float64Array;
  /** Shares of a step and of certainty, 0 to 1. */
  readonly glides: Float64Array;
  readonly chances: Float64Array;
  readonly holds: Uint8Array;
  /** What chance is drawn with, stirred in. */
  readonly seed: number;
}

const FORMS: Record<StepForm, number> = { flat: 0, rise: 1, fall: 2, swell: 3, drop: 4, hill: 5, dip: 6 };

export const compileSequence = (steps: Steps["data"]["steps"], seed: number): CompiledSequence => ({
  values: Float64Array.from(steps, (s) => s.value),
  seconds: Float64Array.from(steps, (s) => s.second),
  forms: Uint8Array.from(steps, (s) => FORMS[s.form]),
  starts: Float64Array.from(steps, (s) => formAt(FORMS[s.form], 0)),
  glides: Float64Array.from(steps, (s) => s.glide / 100),
  chances: Float64Array.from(steps, (s) => s.chance / 100),
  holds: Uint8Array.from(steps, (s) => Number(s.hold)),
  seed: stir(UNSTIRRED, seed),
});

/** How the forms run, a row each in the order of their numbers: p, q, r, s of r + s |p + q t|, and whether that is cubed. */
const FORM_ROW = 5;
const RUNS = Float64Array.of(
  1, 0, 0, 1, 0,
  0, 1, 0, 1, 0,
  1, -1, 0, 1, 0,
  0, 1, 0, 1, 1,
  1, -1, 0, 1, 1,
  -1, 2, 1, -1, 0,
  -1, 2, 0, 1, 0,
); // prettier-ignore

/** A form's share of the step's value at a place of 0 to 1 in it. */
function formAt(form: number, t: number): number {
  const row = form * FORM_ROW;
  const x = RUNS[row + 2]! + RUNS[row + 3]! * Math.abs(RUNS[row]! + RUNS[row + 1]! * t);
  return RUNS[row + 4] === 1 ? x * x * x : x;
}

/** Whether a step of a round is played: it is no hold, and chance lets it. */
function plays(s: CompiledSequence, epoch: number, round: number, step: number): boolean {
  if (s.holds[step] !== 0) return false;
  const chance = s.chances[step]!;
  // Nearly every step: it needs no draw.
  if (chance >= 1) return true;
  return unit(stir(stir(stir(s.seed, epoch), round), step)) < chance;
}

/** What a step is set to, between its two rows. */
const levelOf = (s: CompiledSequence, step: number, blend: number): number =>
  s.values[step]! + (s.seconds[step]! - s.values[step]!) * blend;

/** How many steps before one, counted from the restart, the last that is played lies: 0 for itself; more than a round for none. */
function stepsSince(s: CompiledSequence, epoch: number, whole: number): number {
  const count = s.values.length;
  let round = Math.floor(whole / count);
  let step = whole - round * count;
  for (let back = 0; back <= count; back++) {
    if (plays(s, epoch, round, step)) return back;
    if (--step >= 0) continue;
    step = count - 1;
    round--;
  }
  return count + 1;
}

/** Where a sequence is, by lane: the step that sounds, how far through, and the one that it glides into; -1 for none. */
export class Places {
  readonly step: Int32Array;
  readonly through: Float64Array;
  readonly next: Int32Array;

  constructor(lanes: number) {
    this.step = new Int32Array(lanes);
    this.through = new Float64Array(lanes);
    this.next = new Int32Array(lanes);
  }
}

/**
 * Finds where a sequence is that has gone through so many rounds since it restarted, or that has come to rest after a first
 * one that is `over`. A step that is not played lets the one before stand where it ended; where none was played in a whole
 * round, the step stands where it starts. `epoch` names the restart: chance falls another way with another one.
 */
export function findPlace(s: CompiledSequence, places: Places, lane: number, rounds: number, epoch: number, over: boolean): void {
  const count = s.values.length;
  const place = rounds * count;
  // A hair before a step's start is its start: cycles are sums of fractions.
  const whole = over ? count - 1 : Math.floor(place + 1e-9);
  const back = stepsSince(s, epoch, whole);
  const from = back > count ? whole : whole - back;
  const step = from - Math.floor(from / count) * count;
  const t = back > count ? 0 : over || back > 0 ? 1 : Math.max(0, place - whole);
  const glides = !over && back === 0 && t > 1 - s.glides[step]! && stepsSince(s, epoch, whole + 1) === 0;
  places.step[lane] = step;
  places.through[lane] = t;
  places.next[lane] = !glides ? -1 : step + 1 === count ? 0 : step + 1;
} // prettier-ignore

/** The value, 0 to 1, of a sequence at its place; `blend` 0 to 1 goes from its first row to its second. */
export function valueThere(s: CompiledSequence, places: Places, lane: number, blend: number): number {
  const step = places.step[lane]!;
  const t = places.through[lane]!;
  const value = levelOf(s, step, blend) * formAt(s.forms[step]!, t);
  const next = places.next[lane]!;
  if (next === -1) return value;
  const glide = s.glides[step]!;
  return value + (levelOf(s, next, blend) * s.starts[next]! - value) * ((t - (1 - glide)) / glide);
}

/** The value after so many rounds, without keeping the place. */
export function sequenceAt(s: CompiledSequence, rounds: number, blend: number, epoch: number, over = false): number {
  const places = new Places(1);
  findPlace(s, places, 0, rounds, epoch, over);
  return valueThere(s, places, 0, blend);
}
