import type { CurvePoint } from "./curve";

/**
 * The fewest points of a curve, by Ramer (1972) and Douglas and Peucker (1973): those that are left out lie no further than
 * `error` above or below the straight lines between those that are kept. Points in order of x; both ends stay.
 */
export function simplify(points: readonly CurvePoint[], error: number): CurvePoint[] {
  if (points.length < 3) return [...points];
  const kept = new Set([0, points.length - 1]);
  const parts: [number, number][] = [[0, points.length - 1]];
  for (let part = parts.pop(); part; part = parts.pop()) {
    const [from, to] = part;
    const [a, b] = [points[from]!, points[to]!];
    let furthest = -1;
    let most = error;
    for (let i = from + 1; i < to; i++) {
      const p = points[i]!;
      const onLine = b.x === a.x ? a.y : a.y + ((b.y - a.y) * (p.x - a.x)) / (b.x - a.x);
      const off = Math.abs(p.y - onLine);
      if (off > most) {
        most = off;
        furthest = i;
      }
    }
    if (furthest === -1) continue;
    kept.add(furthest);
    parts.push([from, furthest], [furthest, to]);
  }
  return points.filter((_, i) => kept.has(i));
}

/** A curve of at most `most` points, as near to the given one as that allows. */
export function simplifyTo(points: readonly CurvePoint[], most: number): CurvePoint[] {
  let low = 0;
  let high = 1;
  if (points.length <= most) return [...points];
  for (let i = 0; i < 24; i++) {
    const middle = (low + high) / 2;
    if (simplify(points, middle).length > most) low = middle;
    else high = middle;
  }
  return simplify(points, high);
}
