import { describe, expect, test } from "vitest";
import { MAX_KIT_STEPS, type Drum, type KitStep } from "../patch/kinds/kit";
import { GROOVES, cleared, spread, turned, withSteps, withStroke } from "./grooves";

const kicks = (list: readonly number[]): KitStep[] => list.map((kick, i) => ({ kick, clap: i === 1 ? 90 : 0, hat: 0 }));
const of = (steps: readonly KitStep[], drum: Drum = "kick"): number[] => steps.map((s) => s[drum]);

describe("steps of a backing", () => {
  test("rhythms to start from are bars of sixteenths; four on the floor has a kick on each beat, a clap on every other", () => {
    for (const g of GROOVES) expect(g.steps, g.name).toHaveLength(16);
    const struck = (drum: Drum): number[] => GROOVES[0]!.steps.flatMap((s, i) => (s[drum] > 0 ? [i] : []));
    expect([struck("kick"), struck("clap"), struck("hat")]).toEqual([
      [0, 4, 8, 12],
      [4, 12],
      [2, 6, 10, 14],
    ]);
  });
  test("a stroke is set and taken away; what changes nothing is the same list", () => {
    const steps = kicks([100, 0, 0]);
    expect(of(withStroke(steps, 2, "kick", 50))).toEqual([100, 0, 50]);
    expect(of(withStroke(steps, 0, "kick", 0))).toEqual([0, 0, 0]);
    expect(withStroke(steps, 0, "kick", 100)).toBe(steps);
    expect(withStroke(steps, 9, "kick", 100)).toBe(steps);
  });
  test("a longer round goes on with its own start, within its limits", () => {
    expect(of(withSteps(kicks([1, 2, 3]), 5))).toEqual([1, 2, 3, 1, 2]);
    expect(of(withSteps(kicks([1, 2, 3]), 2))).toEqual([1, 2]);
    expect(withSteps(kicks([1]), 0)).toHaveLength(1);
    expect(withSteps(kicks([1]), 1000)).toHaveLength(MAX_KIT_STEPS);
  });
  test("later is later, and what falls off the end comes in at the start", () => {
    expect(of(turned(kicks([1, 2, 3]), 1))).toEqual([3, 1, 2]);
    expect(of(turned(kicks([1, 2, 3]), -1))).toEqual([2, 3, 1]);
    expect(of(turned(kicks([1, 2, 3]), 1), "clap")).toEqual([0, 0, 90]);
  });
  test("hits are spread as evenly as steps allow, with the velocities that are there, and leave other drums alone", () => {
    // Three in eight: E(3,8), the tresillo (Toussaint 2005).
    const steps = spread(kicks([70, 0, 0, 0, 0, 0, 0, 0]), "kick", 3);
    expect(of(steps).map((v) => Number(v > 0))).toEqual([1, 0, 0, 1, 0, 0, 1, 0]);
    expect(of(steps)[0]).toBe(70);
    expect(of(steps, "clap")[1]).toBe(90);
    expect(of(cleared(steps))).toEqual(of(cleared(steps, "kick")));
    expect(of(cleared(steps, "kick"), "clap")[1]).toBe(90);
    expect(of(cleared(steps), "clap")[1]).toBe(0);
  });
});
