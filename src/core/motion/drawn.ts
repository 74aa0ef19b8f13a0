import { compileCurve, curveAt, type CompiledCurve } from "../curve/curve";
import { cosCycles } from "../dsp/portableMath";
import { stir, unit, UNSTIRRED } from "../pattern/chance";
import type { Random } from "../patch/kinds/random";

/** Draws of a random modulator, ready for evaluation. */
export interface CompiledDraws {
  readonly seed: number;
  readonly smooth: boolean;
  readonly likely: Random["choices"]["likely"];
  readonly curve: CompiledCurve;
  /** Draws in a pass of the loop, where that is a whole number: the last one is then on its way to the first. 0 else. */
  readonly around: number;
}

export const compileDraws = (m: Random, seed: number, around: number): CompiledDraws => ({
  seed,
  smooth: m.choices.moves === "smooth",
  likely: m.choices.likely,
  curve: compileCurve(m.data.points),
  around,
});

/** What an even draw becomes: the mean of three is near the middle, half a turn of a cosine at the ends (the arcsine law). */
function drawAt(d: CompiledDraws, epoch: number, draw: number): number {
  const n = d.around > 0 ? draw % d.around : draw;
  const h = stir(stir(stir(UNSTIRRED, d.seed), epoch), n);
  const u = unit(h);
  switch (d.likely) {
    case "middle":
      return (u + unit(stir(h, 1)) + unit(stir(h, 2))) / 3;
    case "ends":
      return 0.5 - 0.5 * cosCycles(u / 2);
    case "drawn":
      return curveAt(d.curve, u);
    default:
      return u;
  }
}

/** Draws as they stand, by lane: which of them it is, of which restart, and its value and the next one's. */
export class Drawn {
  readonly n: Float64Array;
  readonly epoch: Float64Array;
  readonly from: Float64Array;
  readonly to: Float64Array;

  constructor(lanes: number) {
    this.n = new Float64Array(lanes).fill(NaN);
    this.epoch = new Float64Array(lanes).fill(NaN);
    this.from = new Float64Array(lanes);
    this.to = new Float64Array(lanes);
  }
}

/** A hair before a draw is the draw: cycles are sums of fractions. */
const HAIR = 1e-9;

/** Draws anew where so many draws have gone by that it is another one's turn, or `epoch` names another restart. */
export function draw(d: CompiledDraws, drawn: Drawn, lane: number, draws: number, epoch: number): void {
  const n = Math.floor(draws + HAIR);
  if (n === drawn.n[lane] && epoch === drawn.epoch[lane]) return;
  drawn.n[lane] = n;
  drawn.epoch[lane] = epoch;
  drawn.from[lane] = drawAt(d, epoch, n);
  if (d.smooth) drawn.to[lane] = drawAt(d, epoch, n + 1);
}

/** Value, 0 to 1, after so many draws; between two of them on half a turn of a cosine, where it is smooth. */
export function drawnBetween(d: CompiledDraws, drawn: Drawn, lane: number, draws: number): number {
  const from = drawn.from[lane]!;
  if (!d.smooth) return from;
  const t = draws - drawn.n[lane]!;
  return from + (drawn.to[lane]! - from) * (0.5 - 0.5 * cosCycles(t / 2));
}

/** The same, of a restart, without keeping what was drawn. */
export function drawnAt(d: CompiledDraws, draws: number, epoch: number): number {
  const drawn = new Drawn(1);
  draw(d, drawn, 0, draws, epoch);
  return drawnBetween(d, drawn, 0, draws);
}
