import { bend, bendScale, tensionExponent } from "./bend";

/** A point of a shape: `x` is the fraction of the cycle, `y` the value, both 0 to 1; `tension` (-100 to 100 %) bends the segment that starts here. */
export interface CurvePoint {
  readonly x: number;
  readonly y: number;
  readonly tension: number;
}

export const MAX_POINTS = 128;

/**
 * A curve ready for evaluation: for each segment x0, 1/width, y0, rise, exponent, scale (six numbers a row). Steps
 * (two points at the same x) have no segment of their own. Owned by whoever compiled it; never written afterwards.
 */
export interface CompiledCurve {
  readonly rows: Float64Array;
  readonly segments: number;
  readonly last: number;
}

const ROW = 6;
/** Segments narrower than this part of a cycle are steps: their slope has no meaning, and could overflow. */
const NARROWEST = 1e-9;

/** Points must be sorted by x, the first at 0 and the last at 1 (the schema holds this). */
export function compileCurve(points: readonly CurvePoint[]): CompiledCurve {
  const rows: number[] = [];
  for (let i = 0; i + 1 < points.length; i++) {
    const a = points[i]!;
    const b = points[i + 1]!;
    if (b.x - a.x < NARROWEST) continue;
    const k = tensionExponent(a.tension);
    rows.push(a.x, 1 / (b.x - a.x), a.y, b.y - a.y, k, bendScale(k));
  }
  return { rows: Float64Array.from(rows), segments: rows.length / ROW, last: points.at(-1)!.y };
}

/** Value at phase 0 to 1. At a step the later value counts; before 0 it is the first point's, from 1 on the last one's. */
export function curveAt(curve: CompiledCurve, phase: number): number {
  if (phase >= 1 || curve.segments === 0) return curve.last;
  const rows = curve.rows;
  let low = 0;
  let high = curve.segments - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (rows[middle * ROW]! <= phase) low = middle;
    else high = middle - 1;
  }
  const r = low * ROW;
  // Beside a step that was left out, a phase may lie a hair outside of its segment.
  const t = Math.min(1, Math.max(0, (phase - rows[r]!) * rows[r + 1]!));
  return rows[r + 2]! + rows[r + 3]! * bend(t, rows[r + 4]!, rows[r + 5]!);
}
