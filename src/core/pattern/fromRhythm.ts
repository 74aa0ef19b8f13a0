import { MAX_TRIGGERS } from "../patch/kinds/shape";
import { MAX_TICK } from "../time/noteValue";
import { newLane, PLAY, REST, TIE, MAX_LANE_STEPS, type StepLane } from "../patch/lanes";

/** Something that begins in a rhythm: of notes, or of a recording. */
export interface Hit {
  readonly tick: number;
  /** Where it ends, if that is known. */
  readonly offTick: number | null;
  /** MIDI velocity, 1 to 127. */
  readonly velocity: number;
}

/** A rhythm laid on steps: what each does, and how hard the ones are hit that play. */
export interface Steps {
  readonly steps: readonly number[];
  readonly velocities: readonly number[];
}

/**
 * Lays hits on a row of steps of one length from the start of the song: a step plays what begins nearest to its start, is
 * tied where something that began before is still held at its middle, and rests otherwise. As many steps as the length
 * needs, 64 at the most; then shortened to the shortest row that repeats to the same.
 */
export function stepsOfHits(hits: readonly Hit[], stepTicks: number, lengthTicks: number): Steps {
  const count = Math.min(MAX_LANE_STEPS, Math.max(1, Math.round(lengthTicks / stepTicks)));
  const steps = Array.from({ length: count }, () => REST);
  const velocities = Array.from({ length: count }, () => 0);
  for (const h of hits) {
    const at = Math.round(h.tick / stepTicks) % count;
    if (Math.round(h.tick / stepTicks) > count) continue;
    steps[at] = PLAY;
    velocities[at] = Math.max(velocities[at]!, h.velocity);
  }
  for (const h of hits) {
    if (h.offTick === null) continue;
    const first = Math.round(h.tick / stepTicks);
    for (let i = first + 1; i < count && (i + 0.5) * stepTicks < h.offTick; i++) if (steps[i] === REST) steps[i] = TIE;
  }
  return shortest({ steps, velocities });
}

/** The shortest row that repeats to the given one. */
function shortest(row: Steps): Steps {
  const n = row.steps.length;
  for (let length = 1; length < n; length++) {
    if (n % length !== 0) continue;
    const same = row.steps.every(
      (s, i) => s === row.steps[i % length] && row.velocities[i] === row.velocities[i % length],
    );
    if (same) return { steps: row.steps.slice(0, length), velocities: row.velocities.slice(0, length) };
  }
  return row;
}

/** Places at which something is triggered: whole ticks in order, none twice. */
export const triggersOf = (ticks: readonly number[]): number[] =>
  [...new Set(ticks.map((t) => Math.round(t)))].filter((t) => t >= 0 && t <= MAX_TICK).sort((a, b) => a - b).slice(0, MAX_TRIGGERS); // prettier-ignore

/** Lanes of an arpeggio that play a rhythm: which steps play, and how loud, against the velocity of 100. */
export function lanesOfSteps({ steps, velocities }: Steps): { play: StepLane; velocity: StepLane } {
  const loud = velocities.map((v) => (v === 0 ? 100 : Math.round(v)));
  return {
    play: { ...newLane("play", steps.length), values: [...steps] },
    velocity: { ...newLane("velocity", steps.length), values: loud },
  };
}
