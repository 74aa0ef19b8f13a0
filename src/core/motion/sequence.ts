import { hash01 } from "../pattern/chance";
import type { StepForm, Steps } from "../patch/kinds/steps";

/** A step sequence ready for evaluation: a number a step in each list. */
export interface CompiledSequence {
  readonly values: Float64Array;
  readonly seconds: Float64Array;
  /** Numbers of `FORMS`. */
  readonly forms: Uint8Array;
  /** Shares of a step and of certainty, 0 to 1. */
  readonly glides: Float64Array;
  readonly chances: Float64Array;
  readonly holds: Uint8Array;
  readonly seed: number;
}

const FORMS: Record<StepForm, number> = { flat: 0, rise: 1, fall: 2, swell: 3, drop: 4, hill: 5, dip: 6 };

export const compileSequence = (steps: Steps["data"]["steps"], seed: number): CompiledSequence => ({
  values: Float64Array.from(steps, (s) => s.value),
  seconds: Float64Array.from(steps, (s) => s.second),
  forms: Uint8Array.from(steps, (s) => FORMS[s.form]),
  glides: Float64Array.from(steps, (s) => s.glide / 100),
  chances: Float64Array.from(steps, (s) => s.chance / 100),
  holds: Uint8Array.from(steps, (s) => (s.hold ? 1 : 0)),
  seed,
});

/** A form's share of the step's value at a place of 0 to 1 in it. */
function formAt(form: number, t: number): number {
  switch (form) {
    case 1:
      return t;
    case 2:
      return 1 - t;
    case 3:
      return t * t * t;
    case 4:
      return (1 - t) * (1 - t) * (1 - t);
    case 5:
      return 1 - Math.abs(2 * t - 1);
    case 6:
      return Math.abs(2 * t - 1);
    default:
      return 1;
  }
}

/** Whether a step of a round is played: it is no hold, and chance lets it. */
const plays = (s: CompiledSequence, epoch: number, round: number, step: number): boolean =>
  s.holds[step] === 0 && (s.chances[step]! >= 1 || hash01(s.seed, epoch, round, step) < s.chances[step]!);

/** The value of a step at a place in it, without its glide. */
const within = (s: CompiledSequence, step: number, blend: number, t: number): number =>
  (s.values[step]! + (s.seconds[step]! - s.values[step]!) * blend) * formAt(s.forms[step]!, t);

/**
 * Value, 0 to 1, of a sequence that has gone through so many rounds since it restarted; `blend` 0 to 1 goes from its first
 * row to its second. A step that is not played lets the one before stand where it ended; where none was played in a whole
 * round, it is the value of the step itself. `epoch` names the restart: chance falls another way with another one.
 */
export function sequenceAt(s: CompiledSequence, rounds: number, blend: number, epoch: number): number {
  const count = s.values.length;
  const place = rounds * count;
  // A hair before a step's start is its start: cycles are sums of fractions.
  let whole = Math.floor(place + 1e-9);
  const t = Math.min(1, Math.max(0, place - whole));
  const step = whole - Math.floor(whole / count) * count;
  let from = step;
  let round = Math.floor(whole / count);
  for (let back = 0; !plays(s, epoch, round, from); back++) {
    if (back === count) return within(s, step, blend, 0);
    whole--;
    from = whole - Math.floor(whole / count) * count;
    round = Math.floor(whole / count);
  }
  if (from !== step || whole !== Math.floor(place + 1e-9)) return within(s, from, blend, 1);
  const glide = s.glides[step]!;
  const value = within(s, step, blend, t);
  if (glide === 0 || t <= 1 - glide) return value;
  const next = (step + 1) % count;
  const nextRound = step + 1 === count ? round + 1 : round;
  if (!plays(s, epoch, nextRound, next)) return value;
  return value + (within(s, next, blend, 0) - value) * ((t - (1 - glide)) / glide);
}

/** Where a sequence that ran through once has come to rest. */
export const sequenceEnd = (s: CompiledSequence, blend: number, epoch: number): number => {
  const count = s.values.length;
  for (let step = count - 1; step >= 0; step--) if (plays(s, epoch, 0, step)) return within(s, step, blend, 1);
  return within(s, count - 1, blend, 0);
};
