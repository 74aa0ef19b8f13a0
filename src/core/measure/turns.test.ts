import fc from "fast-check";
import { expect, test } from "vitest";
import { evenly } from "../../../tests/support/evenly";
import { turnsOf } from "./turns";

test("peaks of a sine lie where its crests are; a ripple that stands out less is no peak", () => {
  const sine = Float64Array.from({ length: 400 }, (_, i) => 0.5 + 0.5 * Math.sin((2 * Math.PI * i) / 100));
  expect(turnsOf(sine, 0.1)).toEqual([25, 125, 225, 325]);
  const rippled = sine.map((v, i) => v + 0.02 * Math.sin(i * 2));
  expect(turnsOf(rippled, 0.1)).toHaveLength(4);
  expect(turnsOf(sine.map((v) => 0.05 * v), 0.1)).toEqual([]); // prettier-ignore
});

test("steps count where they jump up, falls from the start at once, silence not at all", () => {
  expect(turnsOf([0, 0, 1, 1, 0, 0, 1, 1], 0.1)).toEqual([2, 6]);
  expect(turnsOf([NaN, 0.2, NaN, 0.9, 0.1], 0.1)).toEqual([3]);
  expect(turnsOf([], 0.1)).toEqual([]);
  expect([turnsOf([0, 1, 0], 1), turnsOf([0, 1, 0], 1.001)]).toEqual([[1], []]);
  expect(turnsOf([1, 0, 0, 1], 0.1)).toEqual([3]);
  // What rises over the end has its peak at the start.
  expect(turnsOf([1, 0, 0, 0.9], 0.1)).toEqual([0]);
  expect(turnsOf([0.5, 1, 0, 0, 0.45], 0.1)).toEqual([1]);
  expect(turnsOf([0.9, 0.87, 0, 0, 0.95], 0.1)).toEqual([4]);
});

test("whatever the line, between two peaks it falls by as much as they stand out", () => {
  fc.assert(
    fc.property(fc.array(evenly(0, 1), { maxLength: 60 }), (line) => {
      const found = turnsOf(line, 0.2);
      found.slice(1).forEach((at, i) => {
        const between = Math.min(...line.slice(found[i], at));
        expect(line[found[i]!]! - between).toBeGreaterThanOrEqual(0.2);
        expect(line[at]! - between).toBeGreaterThanOrEqual(0.2);
      });
    }),
  );
});

test("wherever a line that goes round is begun, its peaks are the same ones", () => {
  fc.assert(
    fc.property(fc.uniqueArray(fc.integer({ min: 0, max: 1000 }), { minLength: 3, maxLength: 40 }), fc.nat(40), (line, turn) => {
      const by = turn % line.length;
      const turned = [...line.slice(by), ...line.slice(0, by)];
      expect(turnsOf(turned, 150).map((i) => (i + by) % line.length).sort((x, y) => x - y)).toEqual(turnsOf(line, 150));
    }),
  );
}); // prettier-ignore
