import { exp } from "../dsp/portableMath";
import type { NoteEvent } from "../pattern/noteEvent";
import { SETTLE } from "./terms";

/** A follower ready for evaluation: from each place of the pass on, it goes from a value towards another one. */
export interface CompiledFollower {
  /** Ticks, rising from 0. */
  readonly ticks: Float64Array;
  /** The value there, and the one that it goes towards: 0 to 1. */
  readonly values: Float64Array;
  readonly goals: Float64Array;
  /** What is left of the way after a tick is exp(-this), up and down. */
  readonly up: number;
  readonly down: number;
  readonly loopTicks: number;
}

/** Passes after which what was there before has gone, for all that can be told. */
const MOST_PASSES = 64;

/** Ticks in which it comes to 95 % of the way; 0 is at once. */
const perTick = (ticks: number): number => (ticks > 0 ? SETTLE / ticks : Infinity);

const towards = (f: Pick<CompiledFollower, "up" | "down">, value: number, goal: number, ticks: number): number => {
  const rate = goal > value ? f.up : f.down;
  return rate === Infinity ? goal : goal + (value - goal) * exp(-rate * ticks);
};

/**
 * Notes of a pass as the loudest of those that are held, 0 to 1, each for `heldTicks` at the most. It runs on round the loop's
 * end: the value there is that of the steady pass.
 */
export function compileFollower(
  notes: readonly NoteEvent[],
  { loopTicks, heldTicks, attackTicks, releaseTicks, alike }: { readonly loopTicks: number; readonly heldTicks: number; readonly attackTicks: number; readonly releaseTicks: number; readonly alike: boolean },
): CompiledFollower {
  const spans = notes.flatMap((n) => {
    const level = alike ? 1 : n.velocity / 127;
    const end = Math.min(n.offTick, n.onTick + heldTicks);
    // What lasts past the end is heard at the start of the next pass.
    if (end <= loopTicks) return [{ from: n.onTick, end, level }];
    return [{ from: n.onTick, end: loopTicks, level }, { from: 0, end: Math.min(n.onTick, end - loopTicks), level }];
  });
  const turns = [...spans.map((s) => ({ tick: s.from, level: s.level, on: true })), ...spans.map((s) => ({ tick: s.end, level: s.level, on: false }))].sort((a, b) => a.tick - b.tick);
  // Levels that sound, by how many notes have them: velocities are few.
  const sounding = new Map<number, number>();
  const ticks: number[] = [0];
  const goals: number[] = [0];
  for (let i = 0; i < turns.length; ) {
    const { tick } = turns[i]!;
    for (; i < turns.length && turns[i]!.tick === tick; i++) {
      const { level, on } = turns[i]!;
      sounding.set(level, (sounding.get(level) ?? 0) + (on ? 1 : -1));
      if (sounding.get(level) === 0) sounding.delete(level);
    }
    const goal = Math.max(0, ...sounding.keys());
    if (tick >= loopTicks) continue;
    if (tick === 0) goals[0] = goal;
    else if (goal !== goals.at(-1)) {
      ticks.push(tick);
      goals.push(goal);
    }
  }
  const rates = { up: perTick(attackTicks), down: perTick(releaseTicks) };
  const values = new Float64Array(ticks.length);
  let value = goals.at(-1)!;
  for (let pass = 0; pass < MOST_PASSES; pass++) {
    const began = value;
    ticks.forEach((tick, i) => {
      values[i] = value;
      value = towards(rates, value, goals[i]!, (ticks[i + 1] ?? loopTicks) - tick);
    });
    if (value === began) break;
  }
  return { ticks: Float64Array.from(ticks), values, goals: Float64Array.from(goals), ...rates, loopTicks };
} // prettier-ignore

/** A hair before a turn, in ticks, is the turn: places are quotients. */
const HAIR = 1e-6;

/** Value, 0 to 1, at a place of 0 to 1 of the pass. */
export function followerAt(f: CompiledFollower, place: number): number {
  const tick = (place - Math.floor(place)) * f.loopTicks;
  let low = 0;
  let high = f.ticks.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (f.ticks[middle]! <= tick + HAIR) low = middle;
    else high = middle - 1;
  }
  return towards(f, f.values[low]!, f.goals[low]!, Math.max(0, tick - f.ticks[low]!));
}
