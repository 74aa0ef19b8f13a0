import { describe, expect, test } from "vitest";
import { expectSame } from "../../../tests/support/same";
import { RATE, columnsOf, rise } from "../../../tests/support/heardMotion";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { compileProject } from "../engine/compile";
import { renderNow } from "../engine/render";
import { adjusted } from "../patch/kinds/kind";
import type { Shape } from "../patch/kinds/shape";

/** One cycle of a rise in the bar of two seconds, its right side so many degrees ahead. */
const apart = (sides: number): Shape => adjusted(rise("r", 0.5, "bar"), { values: { sides } });
const held: Made = { notes: [note(0, 3840, 60, 127)], amp: { sustain: 100 }, values: { "amp.level": -12, "filter.cutoff": 400 } }; // prettier-ignore
/** A rise goes round: its value at a share of the bar. */
const value = (x: number): number => x - Math.floor(x);

describe("a shape that stands elsewhere for the right side", () => {
  test.each([
    [90, {}],
    [180, {}],
    [135, { reversed: true }],
    [90, { around: true }],
    // A route that bends is compiled another way.
    [
      90,
      {
        curve: [
          { x: 0, y: 0, tension: 0 },
          { x: 0.5, y: 1, tension: 0 },
          { x: 1, y: 1, tension: 0 },
        ],
      },
    ],
  ] as const)("by %d° parts the cutoffs, and each is where its side says (%j)", (sides, how) => {
    const route = { source: "r", target: "filter.cutoff", amount: 2, ...how } as const;
    const project = makeProject({ ...held, modules: [apart(sides)], routes: [route] });
    const [middle, between] = (["filter.cutoff", "filter.apart"] as const).map((a) => columnsOf(project, a));
    const added = (x: number): number => {
      const v = "reversed" in how ? 1 - value(x) : "curve" in how ? Math.min(1, 2 * value(x)) : value(x);
      return 2 * ("around" in how ? 2 * v - 1 : v);
    };
    for (const x of [0.1, 0.3, 0.55, 0.7, 0.9]) {
      const [left, right] = [added(x), added(x + sides / 360)];
      expect(Math.log2(middle!.high(x) / 400), `${x}`).toBeCloseTo((left + right) / 2, 1);
      expect(between!.high(x), `${x}`).toBeCloseTo(12 * (right - left), 0);
    }
  });

  test("lets the level go from side to side, in dB", () => {
    const points = [0, 0.5, 0.5, 1].map((x, i) => ({ x, y: i < 2 ? 0 : 1, tension: 0 }));
    const square = adjusted(apart(180), { data: { points } });
    const sound = (sides: number) => {
      const shape = adjusted(square, { values: { sides } });
      const made = { ...held, values: { ...held.values, "osc.unison": 1 }, modules: [shape], routes: [{ source: "r", target: "amp.level", amount: -18 }] } as const; // prettier-ignore
      return renderNow(compileProject(makeProject(made)), { sampleRate: RATE, bars: 1, tail: "cut" });
    };
    const db = (x: Float32Array, from: number): number => {
      const part = x.subarray(from * RATE, (from + 0.5) * RATE);
      return 10 * Math.log10(part.reduce((sum, v) => sum + v * v, 0) / part.length);
    };
    const both = sound(180);
    // The left side is down in the second half of the bar, the right one in the first.
    expect(db(both.left, 0.25) - db(both.right, 0.25)).toBeCloseTo(18, 1);
    expect(db(both.right, 1.25) - db(both.left, 1.25)).toBeCloseTo(18, 1);
    const alike = sound(0);
    expect(db(both.left, 0.25)).toBeCloseTo(db(alike.left, 0.25), 1);
    expectSame(alike.left, alike.right);
  });

  test("what has one side takes the left one's value", () => {
    const route = { source: "r", target: "filter.resonance", amount: 80 } as const;
    const of = (sides: number) => columnsOf(makeProject({ ...held, modules: [apart(sides)], routes: [route] }), "filter.resonance"); // prettier-ignore
    for (const x of [0.2, 0.6]) expect(of(120).high(x)).toBe(of(0).high(x));
  });
});
