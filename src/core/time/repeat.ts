import { barTicks, type Meter } from "./meter";

/** A length that runs inside the loop and is restarted where the loop starts again. */
export interface Cycle {
  /** Of what it is. */
  readonly id: string;
  readonly name: string;
  /** Ticks, not necessarily whole (a rate in Hz). */
  readonly ticks: number;
  /** Restarted every so many ticks (whole bars, or the loop). */
  readonly restartTicks: number;
}

/** What the loop cuts short: the cycle's name and the part of a cycle (0 to 1) that is left when it is restarted. */
export interface Drift {
  readonly id: string;
  readonly name: string;
  readonly leftover: number;
  /** Bars after which it is restarted: those of the loop at the most. */
  readonly everyBars: number;
  /**
   * Ticks by which a cycle that runs on starts after the bar line (before it, below 0) when a bar has gone by; null for what
   * restarts with the bar, and for what lasts longer than one.
   */
  readonly slidTicks: number | null;
}

export interface RepeatReport {
  /** Bars after which the part sounds the same again. */
  readonly repeatBars: number;
  readonly drifts: readonly Drift[];
}

/** A thousandth of a cycle: less than this is called a fit, as a rate typed with two decimals can't do better. */
const FIT = 1e-3;

/**
 * How the moving things of a part fit its loop. A cycle that does not divide its restart interval is cut off there,
 * and is reported with the fraction that is lost. `patternBars` is the shortest repeat of the notes themselves.
 */
export function repeatReport(
  cycles: readonly Cycle[],
  patternBars: number,
  meter: Meter,
  loopBars: number,
): RepeatReport {
  const bar = barTicks(meter);
  const drifts: Drift[] = [];
  let repeatBars = patternBars;
  // Bars that the loop cuts short come again with the loop.
  const withinLoop = (bars: number): number => (loopBars % bars === 0 ? bars : loopBars);
  for (const cycle of cycles) {
    const count = cycle.restartTicks / cycle.ticks;
    const leftover = count - Math.floor(count + FIT);
    if (leftover > FIT) {
      const everyBars = Math.round(cycle.restartTicks / bar);
      const slides = everyBars > 1 && cycle.ticks <= bar;
      const slidTicks = slides ? Math.round(bar / cycle.ticks) * cycle.ticks - bar : null;
      drifts.push({ id: cycle.id, name: cycle.name, leftover, everyBars, slidTicks });
      repeatBars = leastCommonMultiple(repeatBars, withinLoop(everyBars));
    } else if (cycle.restartTicks > bar) {
      let bars = 1;
      while (bars < loopBars && Math.abs(Math.round((bars * bar) / cycle.ticks) - (bars * bar) / cycle.ticks) > FIT)
        bars++;
      repeatBars = leastCommonMultiple(repeatBars, withinLoop(bars));
    }
  }
  return { repeatBars: Math.min(repeatBars, loopBars), drifts };
}

/** The smallest whole number that both divide. */
export function leastCommonMultiple(a: number, b: number): number {
  let [x, y] = [a, b];
  while (y !== 0) [x, y] = [y, x % y];
  return (a / x) * b;
}
