import { MAX_POINTS, type CurvePoint } from "./curve";

/** Pure edits of a shape's points. Each returns the same array when nothing changes. The ends stay at x 0 and 1. */

const clamp01 = (v: number): number => Math.min(1, Math.max(0, v));

/** Nearest multiple of `step`, measured from 0; a step of 0 leaves the value as it is. */
export const snapTo = (value: number, step: number): number => (step > 0 ? Math.round(value / step) * step : value);

/** Adds a point, taking over the tension of the segment it lands in, and tells its index; null when there are `MAX_POINTS`. */
export function addPoint(
  points: readonly CurvePoint[],
  x: number,
  y: number,
): { points: CurvePoint[]; index: number } | null {
  if (points.length >= MAX_POINTS) return null;
  const at = clamp01(x);
  let index = points.findIndex((p) => p.x > at);
  if (index === -1) index = points.length - 1;
  index = Math.max(1, index);
  const { tension } = points[index - 1]!;
  return { points: points.toSpliced(index, 0, { x: at, y: clamp01(y), tension }), index };
}

/** Moves points by (dx, dy), keeping their order: a point stops at its neighbours, the ends keep their x. */
export function movePoints(
  points: readonly CurvePoint[],
  indices: ReadonlySet<number>,
  dx: number,
  dy: number,
): readonly CurvePoint[] {
  // A point may go as far as the nearest neighbour that stays where it is.
  const room = (i: number): [number, number] => {
    let [before, behind] = [i - 1, i + 1];
    while (before > 0 && indices.has(before)) before--;
    while (behind < points.length - 1 && indices.has(behind)) behind++;
    return [points[before]!.x, points[behind]!.x];
  };
  const isInner = (i: number): boolean => i > 0 && i < points.length - 1;
  let shift = dx;
  points.forEach((p, i) => {
    if (!indices.has(i) || !isInner(i)) return;
    const [low, high] = room(i);
    shift = Math.min(high - p.x, Math.max(low - p.x, shift));
  });
  const moved = points.map((p, i) => {
    if (!indices.has(i)) return p;
    const [low, high] = isInner(i) ? room(i) : [p.x, p.x];
    const x = Math.min(high, Math.max(low, p.x + shift));
    const y = clamp01(p.y + dy);
    return x === p.x && y === p.y ? p : { ...p, x, y };
  });
  return moved.every((p, i) => p === points[i]) ? points : moved;
}

/** Removes points; the two ends stay. */
export function removePoints(points: readonly CurvePoint[], indices: ReadonlySet<number>): readonly CurvePoint[] {
  const kept = points.filter((_, i) => i === 0 || i === points.length - 1 || !indices.has(i));
  return kept.length === points.length ? points : kept;
}

/** Sets the tension (-100 to 100 %) of the segment that starts at `index`. */
export function setTension(points: readonly CurvePoint[], index: number, tension: number): readonly CurvePoint[] {
  const point = points[index];
  const next = Math.min(100, Math.max(-100, tension));
  if (!point || index >= points.length - 1 || point.tension === next) return points;
  return points.with(index, { ...point, tension: next });
}

/** The chosen points as they are copied: in order, from the first one's place on. Empty when none is chosen. */
export function copyPoints(points: readonly CurvePoint[], indices: ReadonlySet<number>): CurvePoint[] {
  const chosen = points.filter((_, i) => indices.has(i));
  const from = chosen[0]?.x ?? 0;
  return chosen.map((p) => ({ ...p, x: p.x - from }));
}

/**
 * Adds copied points from `x` on, as many as have room before the end, and tells their indices; null when none has. What
 * lies between them stays.
 */
export function pastePoints(
  points: readonly CurvePoint[],
  copied: readonly CurvePoint[],
  x: number,
): { points: readonly CurvePoint[]; indices: ReadonlySet<number> } | null {
  const added = copied
    .map((p) => ({ ...p, x: x + p.x }))
    .filter((p) => p.x >= 0 && p.x <= 1)
    .slice(0, MAX_POINTS - points.length);
  if (added.length === 0) return null;
  const next = [...points];
  for (const p of added) {
    const before = next.findIndex((q) => q.x > p.x);
    next.splice(Math.max(1, before === -1 ? next.length - 1 : before), 0, p);
  }
  return { points: next, indices: new Set(next.flatMap((p, i) => (added.includes(p) ? [i] : []))) };
}
