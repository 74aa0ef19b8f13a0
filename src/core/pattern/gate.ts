import type { CurvePoint } from "../curve/curve";
import { PLAY, TIE } from "../patch/lanes";

/** What a gate is made of; lengths in any one unit of time. */
export interface GateShape {
  /** Rest, open or hold on, a step each. */
  readonly steps: readonly number[];
  readonly stepLength: number;
  readonly attack: number;
  /** Of a step, 0 to 1. */
  readonly hold: number;
  readonly tail: number;
  /** Where the second of two steps falls, 0.5 to 0.75 of both. */
  readonly swing: number;
}

interface Corner {
  readonly at: number;
  readonly y: number;
}

/** Where a step begins: the second of each pair is swung; a last one without a partner is not. */
function stepStart(g: GateShape, step: number): number {
  const { length } = g.steps;
  const cycle = Math.floor(step / length);
  const inCycle = step - cycle * length;
  const swung = inCycle % 2 === 1 ? 2 * g.swing - 1 : 0;
  return (step + swung) * g.stepLength;
}

interface Opening {
  readonly on: number;
  /** When it begins to close: at the next opening at the latest. */
  readonly until: number;
}

/** When it opens and begins to close in one cycle: a step with those that hold on to it is one opening. */
function openings(g: GateShape, period: number): Opening[] {
  const { steps } = g;
  const found: { on: number; off: number }[] = [];
  for (let i = 0; i < steps.length; i++) {
    if (steps[i] !== PLAY) continue;
    let last = i;
    while (last + 1 < i + steps.length && steps[(last + 1) % steps.length] === TIE) last++;
    const length = stepStart(g, last + 1) - stepStart(g, last);
    found.push({ on: stepStart(g, i), off: stepStart(g, last) + g.hold * length });
  }
  return found.map(({ on, off }, i) => ({ on, until: Math.min(off, found[i + 1]?.on ?? found[0]!.on + period) }));
}

/**
 * Straight lines through the openings of one cycle, from the first on: up at the attack's slope from where the tail before
 * has come to, down in the tail. `before` is how far the last opening of the cycle before came.
 */
function corners(g: GateShape, list: readonly Opening[], period: number, before: number): { corners: Corner[]; peak: number } {
  const out: Corner[] = [];
  let peak = before;
  let falls = list.at(-1)!.until - period;
  for (const { on, until } of list) {
    const from = Math.max(0, peak * (1 - (on - falls) / g.tail));
    if (falls + g.tail < on) out.push({ at: falls + g.tail, y: 0 });
    out.push({ at: on, y: from });
    const rise = Math.min(g.attack * (1 - from), until - on);
    peak = Math.min(1, from + rise / g.attack);
    out.push({ at: on + rise, y: peak }, { at: until, y: peak });
    falls = until;
  }
  return { corners: out, peak };
} // prettier-ignore

/** How far the last opening comes once the gate has run for long: it rises with what was before, by no more than that. */
function steadyPeak(g: GateShape, list: readonly Opening[], period: number): number {
  let low = 0;
  let high = 1;
  for (let i = 0; i < 50; i++) {
    const middle = (low + high) / 2;
    if (corners(g, list, period, middle).peak > middle) low = middle;
    else high = middle;
  }
  return high;
}

/** Value of straight lines at a place. */
function valueAt(list: readonly Corner[], at: number): number {
  const next = list.findIndex((c) => c.at > at);
  const a = list[(next === -1 ? list.length : next) - 1]!;
  const b = next === -1 ? a : list[next]!;
  return b.at === a.at ? b.y : a.y + ((b.y - a.y) * (at - a.at)) / (b.at - a.at);
}

/**
 * One cycle of a gate as a curve from 0 (closed) to 1 (open), as it is once it runs: the tail of the last step is heard
 * over the first. A gate that never opens is flat.
 */
export function gatePoints(g: GateShape): CurvePoint[] {
  const period = g.steps.length * g.stepLength;
  const list = openings(g, period);
  if (list.length === 0) return [0, 1].map((x) => ({ x, y: 0, tension: 0 }));
  const cycle = corners(g, list, period, steadyPeak(g, list, period)).corners.sort((a, b) => a.at - b.at);
  // Where one cycle meets the next, rounding may put the last corner of one past the first of the other.
  const around = [-period, 0, period]
    .flatMap((by) => cycle.map(({ at, y }) => ({ at: at + by, y })))
    .sort((a, b) => a.at - b.at);
  const points = [
    { at: 0, y: valueAt(around, 0) },
    ...around.filter((c) => c.at > 0 && c.at < period),
    { at: period, y: valueAt(around, 0) },
  ];
  return points.map(({ at, y }, i) => ({
    x: i === 0 ? 0 : i === points.length - 1 ? 1 : at / period,
    y: Math.min(1, Math.max(0, y)),
    tension: 0,
  }));
}
