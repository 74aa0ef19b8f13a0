import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compileCurve, curveAt } from "../curve/curve";
import { PLAY, REST, TIE } from "../patch/lanes";
import { gatePoints, type GateShape } from "./gate";

const base: GateShape = { steps: [PLAY, REST, PLAY, REST], stepLength: 100, attack: 10, hold: 0.5, tail: 20, swing: 0.5 }; // prettier-ignore
const at = (g: GateShape, place: number): number =>
  curveAt(compileCurve(gatePoints(g)), place / (g.steps.length * g.stepLength));
const values = (g: Partial<GateShape>, places: readonly number[]): number[] =>
  places.map((p) => Number(at({ ...base, ...g }, p).toFixed(6)));

describe("a gate", () => {
  test("opens in its attack, stays open for its hold, and closes in its tail", () => {
    expect(values({}, [0, 5, 10, 49, 50, 60, 70, 71, 150, 205])).toEqual([0, 0.5, 1, 1, 1, 0.5, 0, 0, 0, 0.5]);
  });
  test("a tie holds it open through its own step; one round the end holds on to the last", () => {
    expect(values({ steps: [PLAY, TIE, REST, REST] }, [100, 149, 160, 171])).toEqual([1, 1, 0.5, 0]);
    expect(values({ steps: [TIE, REST, REST, PLAY] }, [300, 310, 399, 0, 49, 60, 75])).toEqual([0, 1, 1, 1, 1, 0.5, 0]);
    expect(values({ steps: [TIE, REST] }, [0, 50, 150])).toEqual([0, 0, 0]);
  });
  test("steps that fill it all keep it open when held to their end", () => {
    expect(values({ steps: [PLAY, PLAY, PLAY], hold: 1 }, [0, 99, 100, 105, 250])).toEqual([1, 1, 1, 1, 1]);
    expect(values({ steps: [REST, REST] }, [0, 20, 120])).toEqual([0, 0, 0]);
  });
  test("a tail that is longer than the pause is cut by the next step, from where it has come to", () => {
    // From 50 the tail falls over 400; at 200 it stands at 1 - 150 / 400 and rises by a tenth a unit.
    expect(values({ tail: 400 }, [199.999, 200, 201])).toEqual([0.625003, 0.625, 0.725]);
    // As it runs, the tail of the last step is heard over the first.
    expect(values({ tail: 400 }, [0])[0]).toBeCloseTo(0.625, 6);
  });
  test("swing moves every second step", () => {
    expect(values({ steps: [PLAY, PLAY], swing: 2 / 3 }, [133.2, 133.4, 138.4, 200 - 0.001])[0]).toBe(0);
    expect(at({ ...base, steps: [PLAY, PLAY], swing: 2 / 3 }, 400 / 3 + 5)).toBeCloseTo(0.5, 6);
  });
  test("whatever it is made of, it stays between closed and open, in order, and joins its own start", () => {
    const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });
    fc.assert(
      fc.property(
        fc.record({
          steps: fc.array(fc.integer({ min: 0, max: 2 }), { minLength: 1, maxLength: 64 }),
          stepLength: number(1, 2000),
          attack: number(0.5, 500),
          hold: number(0.01, 1),
          tail: number(1, 4000),
          swing: number(0.5, 0.75),
        }),
        (g) => {
          const points = gatePoints(g);
          expect([points[0]!.x, points.at(-1)!.x]).toEqual([0, 1]);
          points.forEach((p, i) => {
            expect(p.y).toBeGreaterThanOrEqual(0);
            expect(p.y).toBeLessThanOrEqual(1);
            expect(p.x).toBeGreaterThanOrEqual(points[i - 1]?.x ?? 0);
          });
          expect(points.at(-1)!.y).toBe(points[0]!.y);
          // Nowhere is it steeper than its attack and its tail, but at the join of the drawn cycle.
          const period = g.steps.length * g.stepLength;
          points.slice(1).forEach((p, i) => {
            const rise = p.y - points[i]!.y;
            const time = (p.x - points[i]!.x) * period;
            expect(rise).toBeLessThanOrEqual(time / g.attack + 1e-6);
            expect(rise).toBeGreaterThanOrEqual(-time / g.tail - 1e-6);
          });
        },
      ),
      { numRuns: 200 },
    );
  });
});
