import { curveAt, type CompiledCurve } from "../curve/curve";
import type { Restart } from "../patch/project";

/** A shape ready for evaluation. */
export interface CompiledShape {
  readonly curve: CompiledCurve;
  readonly restart: Restart;
  /** Length of a cycle: in ticks when it follows the tempo, else in seconds. */
  readonly synced: boolean;
  readonly period: number;
  /** Where it starts, 0 to 1 of a cycle. */
  readonly phase: number;
  /** Seconds in which a jump has settled to 95 %; 0 does not smooth. */
  readonly smoothingSec: number;
}

/** Where the song stands. Ticks within the loop; the bar and the tempo give the rest. */
export interface SongPlace {
  readonly loopTick: number;
  readonly barTicks: number;
  readonly ticksPerSec: number;
}

/** Whether all notes share the shape's value: it then depends on the song's position alone. */
export const isShared = (shape: CompiledShape): boolean => shape.restart === "song" || shape.restart === "bar";

const wrap = (phase: number): number => phase - Math.floor(phase);

/** Phase 0 to 1 of a shape that restarts with the song or with each bar. */
export function sharedPhase(shape: CompiledShape, loopTick: number, barTicks: number, ticksPerSec: number): number {
  const since = shape.restart === "bar" ? loopTick - Math.floor(loopTick / barTicks) * barTicks : loopTick;
  return wrap((shape.synced ? since : since / ticksPerSec) / shape.period + shape.phase);
}

/** Phase of a shape that starts with its note: cycling, or once through and then held at 1. */
export function notePhase(shape: CompiledShape, ticks: number, sec: number): number {
  const phase = (shape.synced ? ticks : sec) / shape.period + shape.phase;
  return shape.restart === "once" ? Math.min(1, phase) : wrap(phase);
}

export const sharedShapeAt = (shape: CompiledShape, place: SongPlace): number =>
  curveAt(shape.curve, sharedPhase(shape, place.loopTick, place.barTicks, place.ticksPerSec));

export const noteShapeAt = (shape: CompiledShape, ticks: number, sec: number): number =>
  curveAt(shape.curve, notePhase(shape, ticks, sec));
