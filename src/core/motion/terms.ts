import { curveAt } from "../curve/curve";
import { bend } from "../curve/bend";
import type { MacroOp, TermOp } from "./program";

/** What a route adds for a source's value, its amount and the value of what scales it. */
export function termValue(
  op: Pick<TermOp, "bipolar" | "reversed" | "around" | "curve" | "scaleBipolar">,
  source: number,
  amount: number,
  scale: number,
): number {
  let x = op.bipolar ? (source + 1) / 2 : source;
  if (op.reversed) x = 1 - x;
  if (op.curve !== null) x = curveAt(op.curve, x);
  if (op.bipolar || op.around) x = 2 * x - 1;
  return amount * x * (op.scaleBipolar ? (scale + 1) / 2 : scale);
}

/** What a macro gives at a value in percent. */
export function macroValue(op: MacroOp, percent: number): number {
  const x = Math.min(1, Math.max(0, percent / 100));
  return op.low + (op.high - op.low) * bend(x, op.k, op.scale);
}
