import { compileCurve, curveAt, type CompiledCurve } from "../curve/curve";
import { cosCycles } from "../dsp/portableMath";
import { hash01 } from "../pattern/chance";
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
  const n = d.around > 0 ? draw - Math.floor(draw / d.around) * d.around : draw;
  const u = hash01(d.seed, epoch, n);
  switch (d.likely) {
    case "middle":
      return (u + hash01(d.seed, epoch, n, 1) + hash01(d.seed, epoch, n, 2)) / 3;
    case "ends":
      return 0.5 - 0.5 * cosCycles(u / 2);
    case "drawn":
      return curveAt(d.curve, u);
    default:
      return u;
  }
}

/** Value, 0 to 1, after so many draws; between two of them on half a turn of a cosine, where it is smooth. */
export function drawnAt(d: CompiledDraws, draws: number, epoch: number): number {
  const n = Math.floor(draws + 1e-9);
  const value = drawAt(d, epoch, n);
  if (!d.smooth) return value;
  const t = Math.min(1, Math.max(0, draws - n));
  return value + (drawAt(d, epoch, n + 1) - value) * (0.5 - 0.5 * cosCycles(t / 2));
}
