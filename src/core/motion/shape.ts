import type { CompiledCurve } from "../curve/curve";
import type { CompiledDraws } from "./drawn";
import type { CompiledFollower } from "./follower";
import type { CompiledSequence } from "./sequence";
import type { CompiledGate } from "../pattern/gate";
import type { Restart } from "../patch/kinds/shape";

/** A shape ready for evaluation. */
export interface CompiledShape {
  /** What it runs through in a cycle: a drawn curve; or a sequence, draws, a gate or what follows notes, each in its own place. */
  readonly curve: CompiledCurve;
  readonly sequence: CompiledSequence | null;
  readonly draws: CompiledDraws | null;
  readonly follower: CompiledFollower | null;
  readonly gate: CompiledGate | null;
  readonly restart: Restart;
  /** Bars from one restart with the bar to the next. */
  readonly every: number;
  /** Length of a cycle: in ticks when it follows the tempo, else in seconds. */
  readonly synced: boolean;
  readonly period: number;
  /** Where it starts, 0 to 1 of a cycle. */
  readonly phase: number;
  /** Seconds in which a jump has settled to 95 %; 0 does not smooth. */
  readonly smoothingSec: number;
  /** Whether it runs through once after each restart and then stands at its end. */
  readonly once: boolean;
  /** What is repeated while its note is held, or where it stands; null where it runs on. */
  readonly held: Stretch | null;
  /** Ticks of the pass at which it starts again, in order; empty where those are not listed. */
  readonly triggers: readonly number[];
  /** How much of a cycle the start of each note is drawn from, and what it is drawn with. */
  readonly scatter: number;
  readonly seed: number;
  /** Time after a restart in which it comes to its full width, in ticks or seconds as its period; 0 for at once. */
  readonly fadeIn: number;
  /** The value that it starts at. */
  readonly from: number;
  /** 0 to 1: between the rows of a sequence, where nothing moves it. */
  readonly blend: number;
}

/**
 * A shape as the evaluators read it: all of them with their fields in one order. Read from objects of many forms, a number
 * becomes an object on the heap each time.
 */
export const evenShape = (s: CompiledShape): CompiledShape => ({
  curve: s.curve,
  sequence: s.sequence,
  draws: s.draws,
  follower: s.follower,
  gate: s.gate,
  restart: s.restart,
  every: s.every,
  synced: s.synced,
  period: s.period,
  phase: s.phase,
  smoothingSec: s.smoothingSec,
  once: s.once,
  held: s.held,
  triggers: s.triggers,
  scatter: s.scatter,
  seed: s.seed,
  fadeIn: s.fadeIn,
  from: s.from,
  blend: s.blend,
});

/** Part of a cycle, 0 to 1. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/** What a part's shared motion needs to know of the song. */
export interface SongFrame {
  readonly loopTicks: number;
  readonly barTicks: number;
  readonly ticksPerSec: number;
}

/** Whether all notes share a shape's value: it then depends on the song's position alone. */
export const isSharedShape = (restart: Restart): boolean => restart !== "note" && restart !== "once";

const wrap = (phase: number): number => phase - Math.floor(phase);

/**
 * Where a shared shape last started again, in ticks of the pass: before its start where the last trigger belongs to the
 * pass before. -Infinity where nothing triggers it.
 */
export function restartTick(shape: CompiledShape, loopTick: number, { loopTicks, barTicks }: SongFrame): number {
  if (shape.restart === "bar") return Math.floor(loopTick / (barTicks * shape.every)) * barTicks * shape.every;
  if (shape.restart !== "triggers") return 0;
  const { triggers } = shape;
  const before = lastUpTo(triggers, loopTick);
  if (before !== -1) return triggers[before]!;
  const last = lastUpTo(triggers, loopTicks - 1);
  return last === -1 ? -Infinity : triggers[last]! - loopTicks;
}

/** Index of the last of rising numbers that is not above a value; -1 for none. */
function lastUpTo(rising: readonly number[], value: number): number {
  let low = 0;
  let high = rising.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (rising[middle]! <= value) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** The phase of a shared shape whose cycles since its restart are known: cycling, or once through and then held at 1, as one is that nothing started. */
export const phaseOfCycles = (shape: CompiledShape, cycles: number): number =>
  shape.once || cycles === Infinity ? Math.min(1, cycles) : wrap(cycles);

/** Whether a shape that goes through once has come to its end, or nothing started it. */
export const isOver = (shape: CompiledShape, cycles: number): boolean =>
  shape.once ? cycles >= 1 : cycles === Infinity;

/** A value that fades in from where the shape starts, `since` its restart, within a time in the same unit. */
export const fadedIn = (shape: CompiledShape, value: number, since: number, within: number): number =>
  since >= within ? value : shape.from + (value - shape.from) * Math.max(0, since / within);

/** Phase 0 to 1 of a shape that all notes share. */
export function sharedPhase(shape: CompiledShape, loopTick: number, song: SongFrame): number {
  const since = loopTick - restartTick(shape, loopTick, song);
  return phaseOfCycles(shape, (shape.synced ? since : since / song.ticksPerSec) / shape.period + shape.phase);
}

/** A note that ends with a round has come round, whichever way its last sample was rounded. Of a cycle. */
const COME_ROUND = 1e-4;

/**
 * Where in its cycle something stands that has run for so many cycles, `off` of them when its note was let go: it repeats the
 * stretch until then, or stands where that is none, and goes on from where it is.
 */
export function heldCycles({ from, to }: Stretch, cycles: number, off: number): number {
  const until = Math.min(cycles, off);
  if (until < to - COME_ROUND) return cycles;
  const length = to - from;
  if (length === 0) return to + (cycles - until);
  const round = (until - from) % length;
  return from + (length - round < COME_ROUND ? 0 : round) + (cycles - until);
}

/**
 * Phase of a shape that starts with its note, after a time in ticks and seconds, let go after `offSec` (Infinity while it is
 * held): cycling, or once through and then held at 1.
 */
export function notePhase(shape: CompiledShape, ticks: number, sec: number, offSec: number): number {
  const per = 1 / shape.period;
  const cycles = (shape.synced ? ticks : sec) * per + shape.phase;
  if (!shape.once) return wrap(cycles);
  const off = cycles - Math.max(0, sec - offSec) * (shape.synced && sec > 0 ? ticks / sec : 1) * per;
  return Math.min(1, shape.held ? heldCycles(shape.held, cycles, offSec < sec ? off : Infinity) : cycles);
}
