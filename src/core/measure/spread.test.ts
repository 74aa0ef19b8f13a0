import { expect, test } from "vitest";
import { spreadOf } from "./spread";

test("a sine favours its ends, a triangle nothing (the arcsine law: 20.5 % in the top tenth, 12.8 % in the middle fifth)", () => {
  const run = (of: (x: number) => number): Float64Array => Float64Array.from({ length: 100_000 }, (_, i) => of(i / 100_000)); // prettier-ignore
  const sine = spreadOf([run((x) => Math.sin(2 * Math.PI * x))], (v) => (v + 1) / 2, 10).overTime;
  expect(sine[9]).toBeCloseTo(0.205, 3);
  expect(sine[4]! + sine[5]!).toBeCloseTo(0.128, 3);
  const triangle = spreadOf([run((x) => 1 - Math.abs(2 * x - 1))], (v) => v, 10).overTime;
  for (const share of triangle) expect(share).toBeCloseTo(0.1, 3);
});

test("starts count once a run, what lies off the scale at its end", () => {
  const { atStarts, overTime } = spreadOf([[0.1, 0.9, 0.9], [2], []], (v) => v, 2);
  expect([...atStarts]).toEqual([0.5, 0.5]);
  expect([...overTime]).toEqual([0.25, 0.75]);
  expect([...spreadOf([], (v) => v, 2).overTime]).toEqual([0, 0]);
  expect([...spreadOf([], (v) => v, 2).atStarts]).toEqual([0, 0]);
  expect([...spreadOf([[0.7]], (v) => v, 2).atStarts]).toEqual([0, 1]);
  expect([...spreadOf([[0.7]], (v) => v, 2).overTime]).toEqual([0, 1]);
});
