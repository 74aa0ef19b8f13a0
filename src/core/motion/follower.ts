import { envelopeAt, type CompiledEnvelope } from "../curve/envelope";
import { exp } from "../dsp/portableMath";
import type { NoteEvent } from "../pattern/noteEvent";
import { SETTLE } from "./smoothing";

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
  /** Neither may be above this: what hears a shape hears it in steps. */
  readonly fastest: number;
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

/** How a follower hears notes. */
interface Hearing {
  readonly loopTicks: number;
  /** Each note is heard for this long at the most. */
  readonly heldTicks: number;
  readonly attackTicks: number;
  readonly releaseTicks: number;
  /** Whether loud notes count no more than soft ones. */
  readonly alike: boolean;
  /** The envelope that shapes each note's level; null hears notes as long as they are held. */
  readonly shape: CompiledEnvelope | null;
  readonly ticksPerSec: number;
}

/** From each place of the pass on, where it goes. */
interface Goals {
  readonly ticks: number[];
  readonly goals: number[];
}

/**
 * Notes of a pass as the loudest of those that sound, 0 to 1. It runs on round the loop's end: the value there is that of the
 * steady pass.
 */
export function compileFollower(notes: readonly NoteEvent[], hearing: Hearing): CompiledFollower {
  const { loopTicks, attackTicks, releaseTicks, shape } = hearing;
  const step = shape ? stepFor(notes, shape, hearing) : 0;
  const { ticks, goals } = shape ? shapedGoals(notes, shape, step, hearing) : heldGoals(notes, hearing);
  // Between places of a shape it stands: no faster than that, or the steps would be heard.
  const rates = { up: perTick(Math.max(attackTicks, 2 * step)), down: perTick(Math.max(releaseTicks, 2 * step)) };
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
  const fastest = perTick(2 * step);
  return { ticks: Float64Array.from(ticks), values, goals: Float64Array.from(goals), ...rates, fastest, loopTicks };
}

/** The loudest of the notes that are held. */
function heldGoals(notes: readonly NoteEvent[], { loopTicks, heldTicks, alike }: Hearing): Goals {
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
  return { ticks, goals };
} // prettier-ignore

/** A shape is looked at this often, some 4 ms at 120 BPM, and in all notes together no more often than that. */
const SHAPED_STEP_TICKS = 8;
const MOST_LOOKS = 200_000;

/** Ticks over which a note is heard, its release included. */
const heardTicks = (n: NoteEvent, e: CompiledEnvelope, { heldTicks, ticksPerSec }: Hearing): number =>
  Math.min(n.offTick - n.onTick + e.releaseSec * ticksPerSec, heldTicks);

function stepFor(notes: readonly NoteEvent[], e: CompiledEnvelope, hearing: Hearing): number {
  const all = notes.reduce((sum, n) => sum + heardTicks(n, e, hearing), 0);
  let step = SHAPED_STEP_TICKS;
  while (all / step > MOST_LOOKS) step *= 2;
  return step;
}

/** The loudest of the notes as their envelope shapes them, in equal steps of the pass. */
function shapedGoals(notes: readonly NoteEvent[], e: CompiledEnvelope, step: number, hearing: Hearing): Goals {
  const { loopTicks, ticksPerSec } = hearing;
  const count = Math.ceil(loopTicks / step);
  const goals = new Array<number>(count).fill(0);
  for (const n of notes) {
    const most = hearing.alike ? 1 : n.velocity / 127;
    const offSec = (n.offTick - n.onTick) / ticksPerSec;
    const end = n.onTick + heardTicks(n, e, hearing);
    for (let pass = 0; pass * loopTicks < end; pass++) {
      const first = Math.max(0, Math.ceil((n.onTick - pass * loopTicks) / step));
      for (let k = first; k < count; k++) {
        // As it stands in the middle of the step.
        const tick = pass * loopTicks + (k + 0.5) * step;
        if (tick >= end) break;
        goals[k] = Math.max(goals[k]!, most * envelopeAt(e, (tick - n.onTick) / ticksPerSec, offSec));
      }
    }
  }
  return { ticks: goals.map((_, k) => k * step), goals };
}

/** A hair before a turn, in ticks, is the turn: places are quotients. */
const HAIR = 1e-6;

/** Value, 0 to 1, at a place of 0 to 1 of the pass. */
export function followerAt(f: CompiledFollower, place: number): number {
  const tick = (place - Math.floor(place)) * f.loopTicks;
  const at = turnBefore(f.ticks, tick);
  return towards(f, f.values[at]!, f.goals[at]!, Math.max(0, tick - f.ticks[at]!));
}

/** Index of the last turn up to a tick. */
function turnBefore(ticks: Float64Array, tick: number): number {
  let low = 0;
  let high = ticks.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (ticks[middle]! <= tick + HAIR) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** What `followInto` reads, and the value that it writes: an array, for numbers that are handed over may become objects on the heap. */
export const FOLLOWED = { from: 0, to: 1, up: 2, down: 3, value: 4 } as const;
export const followedRoom = (): Float64Array => new Float64Array(5);

/** Moves a follower on from one tick of the pass to a later one, at rates of its own. Allocates nothing. */
export function followInto({ ticks, goals }: CompiledFollower, room: Float64Array): void {
  const to = room[FOLLOWED.to]!;
  const up = room[FOLLOWED.up]!;
  const down = room[FOLLOWED.down]!;
  let at = room[FOLLOWED.from]!;
  let value = room[FOLLOWED.value]!;
  for (let i = turnBefore(ticks, at); i < ticks.length; i++) {
    const next = i + 1 < ticks.length ? ticks[i + 1]! : Infinity;
    const end = to < next ? to : next;
    const goal = goals[i]!;
    const rate = goal > value ? up : down;
    value = rate === Infinity ? goal : goal + (value - goal) * exp(-rate * Math.max(0, end - at));
    at = end;
    if (to < next - HAIR) break;
  }
  room[FOLLOWED.value] = value;
}
