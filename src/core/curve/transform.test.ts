import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { evenly } from "../../../tests/support/evenly";
import { arbitraryPoints } from "../../../tests/support/arbitraryProject";
import { runs } from "../../../tests/support/runs";
import { hash01 } from "../pattern/chance";
import { compileCurve, curveAt, MAX_POINTS, type CurvePoint } from "./curve";
import { firstHalf, flipped, holding, onGrid, onSteps, onValues, repeated, reversed, rotated, scaled, shaken, smoothed, stepped } from "./transform"; // prettier-ignore

const at = (points: readonly CurvePoint[], x: number): number => curveAt(compileCurve(points), x);
const points: readonly CurvePoint[] = [
  { x: 0, y: 0, tension: 40 },
  { x: 0.25, y: 1, tension: -30 },
  { x: 0.6, y: 0.2, tension: 0 },
  { x: 0.6, y: 0.8, tension: 0 },
  { x: 1, y: 0, tension: 0 },
];
const PLACES = [0.05, 0.13, 0.31, 0.47, 0.55, 0.7, 0.88];

describe("curve tools", () => {
  test.each([
    ["reversed", reversed(points), (x: number) => at(points, 1 - x)],
    ["flipped", flipped(points), (x: number) => 1 - at(points, x)],
    ["half as high", scaled(points, 0.5), (x: number) => 0.5 + (at(points, x) - 0.5) / 2],
    ["repeated", repeated(points), (x: number) => at(points, (2 * x) % 1)],
    ["its first half", firstHalf(points), (x: number) => at(points, x / 2)],
    ["turned a quarter later", rotated(points, 0.25), (x: number) => at(points, (x + 0.75) % 1)],
  ] as const)("%s: the value is that of the place it came from", (_name, made, expected) => {
    for (const x of PLACES) expect(at(made, x)).toBeCloseTo(expected(x), 6);
  });

  test("turned all the way round, or where a point is, it is the same curve with as many points", () => {
    expect(rotated(points, 1)).toEqual(points);
    expect(rotated(points, 0.75)).toHaveLength(points.length);
    expect(rotated(points, -1e-20)).toEqual(points);
    for (const turn of [0.4, 0.75])
      for (const x of PLACES) expect(at(rotated(points, turn), x)).toBeCloseTo(at(points, (x + 1 - turn) % 1), 6);
    expect(at(rotated(rotated(points, 0.3), 0.7), 0.4)).toBeCloseTo(at(points, 0.4), 6);
  });

  test("on steps of values and of time, and into steps", () => {
    expect(onSteps(points, 0.25).map((p) => p.y)).toEqual([0, 1, 0.25, 0.75, 0]);
    expect(onValues(points, (y) => (y < 0.5 ? -1 : 0.6)).map((p) => p.y)).toEqual([0, 0.6, 0, 0.6, 0]);
    expect(onGrid(points, 0.125).map((p) => p.x)).toEqual([0, 0.25, 0.625, 0.625, 1]);
    expect(onGrid(points, 0.3).map((p) => Number(p.x.toFixed(9)))).toEqual([0, 0.3, 0.6, 0.6, 1]);
    // Nothing is put behind the end.
    expect(
      onGrid(
        points.map((p) => (p.x === 0.6 ? { ...p, x: 0.99 } : p)),
        0.66,
      ).map((p) => p.x),
    ).toEqual([0, 0, 1, 1, 1]);
    const eight = stepped(points, 8);
    for (let i = 0; i < 8; i++)
      for (const t of [0.1, 0.5, 0.9]) expect(at(eight, (i + t) / 8)).toBeCloseTo(at(points, (i + 0.5) / 8), 9);
  });

  test("holding, each value stands until the next point", () => {
    const made = holding(points);
    for (const [x, y] of [[0.1, 0], [0.24, 0], [0.26, 1], [0.59, 1], [0.7, 0.8], [0.99, 0.8]] as const) expect(at(made, x)).toBe(y);
    expect(holding(made)).toEqual(made);
  }); // prettier-ignore

  test("smoothed, it has no jump left and the same mean; shaken, it is another one, alike by its seed", () => {
    const soft = smoothed(points, 0.1);
    const fine = Array.from({ length: 1000 }, (_, i) => at(soft, i / 1000));
    expect(Math.max(...fine.slice(1).map((v, i) => Math.abs(v - fine[i]!)))).toBeLessThan(0.03);
    const mean = (list: readonly CurvePoint[]): number => Array.from({ length: 1000 }, (_, i) => at(list, i / 1000)).reduce((s, v) => s + v, 0) / 1000; // prettier-ignore
    expect(mean(soft)).toBeCloseTo(mean(points), 1);
    expect(soft.every((p) => p.tension === 0)).toBe(true);
    // The mean of 13 samples of 256 to either side, which is half of the share; beyond its ends the curve stands.
    const held = (x: number): number => at(points, Math.min(1, Math.max(0, x)));
    const meanAt = (i: number, reach: number): number => Array.from({ length: 2 * reach + 1 }, (_, k) => held((i + k - reach) / 256)).reduce((s, v) => s + v, 0) / (2 * reach + 1); // prettier-ignore
    const off = (made: readonly CurvePoint[], reach: number): number => Math.max(...Array.from({ length: 257 }, (_, i) => Math.abs(at(made, i / 256) - meanAt(i, reach)))); // prettier-ignore
    expect(off(soft, 13)).toBeLessThanOrEqual(0.004 + 1e-9);
    expect(off(smoothed(points, 0.001), 1)).toBeLessThanOrEqual(0.004 + 1e-9);
    expect(soft.length).toBeLessThan(30);
    expect(shaken(points, 0.2, 5)).toEqual(shaken(points, 0.2, 5));
    expect(shaken(points, 0.2, 5)).not.toEqual(shaken(points, 0.2, 6));
    const many = Array.from({ length: 400 }, (_, i) => ({ x: i / 399, y: 0.5, tension: 0 }));
    const moved = shaken(many, 0.2, 5).map((p) => p.y - 0.5);
    expect([Math.min(...moved), Math.max(...moved)].map((v) => v.toFixed(2))).toEqual(["-0.20", "0.20"]);
    expect(moved.reduce((s, v) => s + v, 0) / 400).toBeCloseTo(0, 1);
    // Up where its draw is above a half.
    expect(moved.every((by, i) => Math.abs(by - 0.4 * (hash01(5, i) - 0.5)) < 1e-12)).toBe(true);
    shaken(points, 0.2, 5).forEach((p, i) => expect(Math.abs(p.y - points[i]!.y)).toBeLessThanOrEqual(0.2));
  });

  test("whatever the curve, what comes out is one that a file may hold", () => {
    fc.assert(
      fc.property(arbitraryPoints, evenly(0, 1), (any, by) => {
        for (const made of [reversed(any), flipped(any), scaled(any, 1.5), onSteps(any, 1 / 12), onGrid(any, 1 / 16), rotated(any, by), repeated(any), firstHalf(any), stepped(any, 64), holding(any), smoothed(any, 0.1), shaken(any, by, 3)]) {
          expect(made.length).toBeLessThanOrEqual(MAX_POINTS);
          expect([made[0]!.x, made.at(-1)!.x]).toEqual([0, 1]);
          const wrong = made.filter(
            (p, i) => !(p.x >= (made[i - 1]?.x ?? 0) && p.y >= 0 && p.y <= 1 && Math.abs(p.tension) <= 100),
          );
          expect(wrong).toEqual([]);
        }
      }),
      runs(25),
    );
  }); // prettier-ignore
});
