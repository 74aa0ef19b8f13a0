import { describe, expect, test } from "vitest";
import { makeProject } from "../../../tests/support/projects";
import { adjusted } from "./kinds/kind";
import type { Span } from "../time/span";
import { compileSequence, sequenceAt } from "../motion/sequence";
import { compileCurve, curveAt } from "../curve/curve";
import { newShape } from "./defaults";
import { asShape, asSteps } from "./turnInto";
import { step, steps } from "../../../tests/support/steps";

describe("one kind turned into another", () => {
  const song = makeProject({}).song;
  test("a shape as steps and back: each step has the value of its middle, in the same time", () => {
    const shape = adjusted(newShape("s", "S"), { times: { rate: { unit: "note", num: 1, den: 2 } } });
    const made = asSteps(shape, "t", "T");
    const curve = compileCurve(shape.data.points);
    made.data.steps.forEach((st, i) => expect(st.value).toBeCloseTo(curveAt(curve, (i + 0.5) / 16), 9));
    expect(made.times.rate).toEqual(shape.times.rate);
    const back = asShape(made, "b", "B", song);
    for (let i = 0; i < 16; i++) expect(curveAt(compileCurve(back.data.points), (i + 0.3) / 16)).toBeCloseTo(made.data.steps[i]!.value, 9); // prettier-ignore
    expect(back.times.rate).toEqual(shape.times.rate);
  });

  test("what glides or has a form is followed closely, by straight lines; jumps stay jumps", () => {
    for (const more of [{ glide: 60 }, { form: "rise" }] as const) {
      const m = steps([step(0.2, more), step(0.9, more), step(0.5, more)]);
      const made = asShape(m, "b", "B", song);
      const curve = compileCurve(made.data.points);
      const sequence = compileSequence(m.data.steps, 0);
      // Small jumps, each to the value of its middle.
      const parts = made.data.points.length / 2;
      expect(parts).toBeGreaterThanOrEqual(60);
      for (let i = 0; i < parts; i++) expect(curveAt(curve, (i + 0.5) / parts)).toBeCloseTo(sequenceAt(sequence, (i + 0.5) / parts, 0, 0), 9); // prettier-ignore
      expect(made.data.points.every((p) => p.tension === 0)).toBe(true);
    }
    const jumps = asShape(steps([step(0.2), step(0.9)]), "b", "B", song).data.points;
    expect(jumps).toEqual([[0, 0.2], [0.5, 0.2], [0.5, 0.9], [1, 0.9]].map(([x, y]) => ({ x, y, tension: 0 }))); // prettier-ignore
  });

  test("a sequence as a shape lasts as long as all of its steps; forms are followed", () => {
    const three = asShape(steps([step(1), step(0.5, { form: "fall" }), step(0, { hold: true })]), "b", "B", song);
    expect(three.times.rate).toEqual({ unit: "note", num: 3, den: 4 });
    const curve = compileCurve(three.data.points);
    expect(curveAt(curve, 0.2)).toBe(1);
    expect(curveAt(curve, 0.5)).toBeCloseTo(0.25, 1);
    expect(curveAt(curve, 0.9)).toBeCloseTo(0, 1);
    const long = asShape(steps(Array.from({ length: 64 }, () => step(0.5)), {}, { unit: "note", num: 64, den: 1 }), "b", "B", song); // prettier-ignore
    expect(long.times.rate).toEqual({ unit: "ms", ms: 60_000 });
    // Its first row alone.
    const rows = asShape(steps([step(1, { second: 0.3 }), step(0.5, { second: 0.9 })]), "b", "B", song);
    expect([0.2, 0.7].map((x) => curveAt(compileCurve(rows.data.points), x))).toEqual([1, 0.5]);
    // So many steps of a length: the shortest fraction of a bar, whole bars up to 32, else milliseconds.
    const lasting = (count: number, rate: Span): Span => asShape(steps(Array.from({ length: count }, () => step(0.5)), {}, rate), "b", "B", song).times.rate; // prettier-ignore
    expect(lasting(6, { unit: "note", num: 1, den: 8 })).toEqual({ unit: "note", num: 3, den: 4 });
    expect(lasting(6, { unit: "note", num: 16, den: 1 })).toEqual({ unit: "note", num: 96, den: 1 });
    expect(lasting(7, { unit: "note", num: 16, den: 1 })).toEqual({ unit: "ms", ms: 60_000 });
    expect(lasting(16, { unit: "bars", bars: 2 })).toEqual({ unit: "bars", bars: 32 });
    expect(lasting(17, { unit: "bars", bars: 1 })).toEqual({ unit: "bars", bars: 17 });
    expect(lasting(3, { unit: "bars", bars: 12 })).toEqual({ unit: "ms", ms: 60_000 });
    expect(lasting(5, { unit: "ms", ms: 130 })).toEqual({ unit: "ms", ms: 650 });
    expect(lasting(5, { unit: "hz", hz: 4 })).toEqual({ unit: "ms", ms: 1250 });
  });
});
