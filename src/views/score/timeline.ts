import { barTicks, beatTicks, stepTicks, type Meter } from "@/core/time/meter";

/** The stretch of song that is in sight, and how wide it is drawn. */
export interface Timeline {
  readonly fromTick: number;
  readonly ticks: number;
  readonly width: number;
}

export const tickToX = (t: Timeline, tick: number): number => ((tick - t.fromTick) / t.ticks) * t.width;
export const xToTick = (t: Timeline, x: number): number => t.fromTick + (x / t.width) * t.ticks;

export interface GridLine {
  readonly tick: number;
  readonly level: "bar" | "beat" | "step";
}

/** Lines closer than this are left out, finest level first. */
const CLOSEST_PX = 7;

/** The grid lines in sight, up to `endTick` inclusive. */
export function gridLines(t: Timeline, meter: Meter, endTick: number): GridLine[] {
  const pxPerTick = t.width / t.ticks;
  const bar = barTicks(meter);
  const beat = beatTicks(meter);
  const step = stepTicks(meter);
  const unit = step * pxPerTick >= CLOSEST_PX ? step : beat * pxPerTick >= CLOSEST_PX ? beat : bar;
  const lines: GridLine[] = [];
  const last = Math.min(endTick, t.fromTick + t.ticks);
  for (let tick = Math.ceil(t.fromTick / unit) * unit; tick <= last; tick += unit) {
    lines.push({ tick, level: tick % bar === 0 ? "bar" : (tick % bar) % beat === 0 ? "beat" : "step" });
  }
  return lines;
}
