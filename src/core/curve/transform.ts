import { hash01 } from "../pattern/chance";
import { compileCurve, curveAt, MAX_POINTS, type CurvePoint } from "./curve";
import { simplify, simplifyTo } from "./simplify";

/** Whole-curve tools. Each gives points in order, from x 0 to x 1, at most as many as a curve holds. */

type Points = readonly CurvePoint[];

/** As many points as a curve holds, in order: where pieces meet, rounding may put one before the last. */
function held(points: Points): CurvePoint[] {
  let last = 0;
  const inOrder = points.map((p) => {
    last = Math.max(last, p.x);
    return p.x === last ? p : { ...p, x: last };
  });
  return simplifyTo(inOrder, MAX_POINTS);
}

/** From the end to the start: a segment's bend turns its way. */
export const reversed = (points: Points): CurvePoint[] =>
  points.map((_, i) => {
    const p = points[points.length - 1 - i]!;
    const before = points[points.length - 2 - i];
    return { x: 1 - p.x, y: p.y, tension: before ? -before.tension : 0 };
  });

/** Upside down. */
export const flipped = (points: Points): CurvePoint[] => points.map((p) => ({ ...p, y: 1 - p.y }));

/** Stretched about the middle of its values by a factor, held between 0 and 1. */
export const scaled = (points: Points, by: number): CurvePoint[] =>
  points.map((p) => ({ ...p, y: Math.min(1, Math.max(0, 0.5 + (p.y - 0.5) * by)) }));

/** Values where `nearest` puts them, held between 0 and 1. */
export const onValues = (points: Points, nearest: (y: number) => number): CurvePoint[] =>
  points.map((p) => ({ ...p, y: Math.min(1, Math.max(0, nearest(p.y))) }));

/** Values on whole multiples of a step. */
export const onSteps = (points: Points, step: number): CurvePoint[] =>
  onValues(points, (y) => Math.round(y / step) * step);

/** Places on whole multiples of a step; the ends stay. */
export const onGrid = (points: Points, step: number): CurvePoint[] =>
  points.map((p, i) => (i === 0 || i === points.length - 1 ? p : { ...p, x: Math.min(1, Math.max(0, Math.round(p.x / step) * step)) })); // prettier-ignore

/** With a point more at a place from 0 to less than 1, and the same curve: a piece of an exponential segment is one itself, bent by its share. */
function cutAt(points: Points, x: number): { points: CurvePoint[]; index: number } {
  const next = points.findIndex((p) => p.x > x);
  const a = points[next - 1]!;
  const b = points[next]!;
  if (a.x === x) return { points: [...points], index: next - 1 };
  const share = (x - a.x) / (b.x - a.x);
  const middle = { x, y: curveAt(compileCurve(points), x), tension: a.tension * (1 - share) };
  return {
    points: [...points.slice(0, next - 1), { ...a, tension: a.tension * share }, middle, ...points.slice(next)],
    index: next,
  };
}

/** Later by a share of the cycle, round its end. */
export function rotated(points: Points, by: number): CurvePoint[] {
  const turn = by - Math.floor(by);
  const end = 1 - turn;
  if (end === 1) return [...points];
  const { points: whole, index } = cutAt(points, end);
  const cut = whole[index]!;
  const last = whole.at(-1)!;
  const first = whole[0]!;
  const tail = whole.slice(index).map((p) => ({ ...p, x: Math.max(0, p.x - cut.x) }));
  const head = whole.slice(0, index + 1).map((p) => ({ ...p, x: Math.min(1, p.x + turn) }));
  // Where the cycle's end meets its start, a jump is two points, and no jump is one.
  const joined = last.y === first.y ? tail.slice(0, -1) : tail;
  const made = [...joined, ...head];
  return held([{ ...made[0]!, x: 0 }, ...made.slice(1, -1), { ...made.at(-1)!, x: 1, tension: 0 }]);
}

/** Twice in the same time; what is too many points for a curve is thinned. */
export const repeated = (points: Points): CurvePoint[] =>
  held([...points.map((p) => ({ ...p, x: p.x / 2 })), ...points.map((p) => ({ ...p, x: 0.5 + p.x / 2 }))]);

/** Its first half, stretched over all of the time. */
export function firstHalf(points: Points): CurvePoint[] {
  const { points: whole, index } = cutAt(points, 0.5);
  const kept = whole.slice(0, index + 1).map((p) => ({ ...p, x: Math.min(1, p.x * 2) }));
  return [...kept.slice(0, -1), { ...kept.at(-1)!, x: 1, tension: 0 }];
}

const SAMPLES = 256;

/** Steps of one length each, at the value of their middle. */
export function stepped(points: Points, count: number): CurvePoint[] {
  const curve = compileCurve(points);
  const values = Array.from({ length: count }, (_, i) => curveAt(curve, (i + 0.5) / count));
  return held(values.flatMap((y, i) => [i, i + 1].map((k) => ({ x: k / count, y, tension: 0 }))));
}

/** Each value until the next point, where it jumps. */
export const holding = (points: Points): CurvePoint[] =>
  held(
    points.flatMap((p, i) => {
      const before = points[i - 1];
      const here = { ...p, tension: 0 };
      return before && before.x < p.x && before.y !== p.y ? [{ x: p.x, y: before.y, tension: 0 }, here] : [here];
    }),
  );

/** Rounded over a share of the cycle: each value is the mean of those about it. */
export function smoothed(points: Points, over: number): CurvePoint[] {
  const curve = compileCurve(points);
  const reach = Math.max(1, Math.round((over * SAMPLES) / 2));
  const mean = (i: number): number => {
    let sum = 0;
    for (let k = i - reach; k <= i + reach; k++) sum += curveAt(curve, k / SAMPLES);
    return sum / (2 * reach + 1);
  };
  const fine = Array.from({ length: SAMPLES + 1 }, (_, i) => ({ x: i / SAMPLES, y: mean(i), tension: 0 }));
  return held(simplify(fine, 0.004));
}

/** Each value elsewhere by chance, up to `by` either way; the same for the same seed. */
export const shaken = (points: Points, by: number, seed: number): CurvePoint[] =>
  points.map((p, i) => ({ ...p, y: Math.min(1, Math.max(0, p.y + by * (2 * hash01(seed, i) - 1))) }));
