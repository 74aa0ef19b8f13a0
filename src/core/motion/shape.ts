import type { CompiledCurve } from "../curve/curve";
import type { Restart } from "../patch/kinds/shape";

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

/** Whether all notes share a shape's value: it then depends on the song's position alone. */
export const isSharedShape = (restart: Restart): boolean => restart === "song" || restart === "bar";

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
