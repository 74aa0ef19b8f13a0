import { expect, test } from "vitest";
import { makeProject } from "../../../tests/support/projects";
import { newOscillator } from "./defaults";
import { withSource } from "./edit";
import { FILTER } from "./kinds/filter";
import { OSCILLATOR } from "./kinds/oscillator";
import { changedWith, shiftedWith, valuesAt, withValues } from "./together";

const base = makeProject({ values: { "osc.level": -6, "filter.cutoff": 400 } }).parts[0]!.patch;
const patch = withSource(base, { ...newOscillator("osc2", "Second"), values: { ...newOscillator("x", "x").values, level: -20 } }); // prettier-ignore

test("values of one unit go by one difference, each held in its own range; frequencies by one ratio", () => {
  const chosen = ["osc.level", "osc2.level", "amp.level", "filter.cutoff", "osc.unison", "gone.level"] as const;
  const together = changedWith(patch, "osc2.level", chosen);
  expect(together).toEqual(["osc.level", "osc2.level", "amp.level"]);
  const began = valuesAt(patch, together);
  expect(Object.fromEntries(began)).toEqual({ "osc.level": -6, "osc2.level": -20, "amp.level": -12 });
  const up = withValues(patch, shiftedWith(began, "osc2.level", -11, OSCILLATOR.rows.level));
  expect(Object.fromEntries(valuesAt(up, together))).toEqual({ "osc.level": 3, "osc2.level": -11, "amp.level": -3 });
  // Held at the top of the range, a value comes back to where it began when the hand does.
  const far = withValues(up, shiftedWith(began, "osc2.level", 6, OSCILLATOR.rows.level));
  expect(valuesAt(far, together).get("osc.level")).toBe(OSCILLATOR.rows.level.max);
  expect(withValues(far, shiftedWith(began, "osc2.level", -20, OSCILLATOR.rows.level))).toEqual(patch);
  const cutoffs = shiftedWith(new Map([["filter.cutoff", 400], ["other.cutoff", 1000]] as const), "filter.cutoff", 800, FILTER.rows.cutoff); // prettier-ignore
  expect(cutoffs.get("other.cutoff")).toBe(2000);
});

test("set together, each takes the value as far as it goes, and whole ones stay whole", () => {
  const set = withValues(patch, new Map([["osc.unison", 3.4], ["osc2.unison", 99], ["gone.unison", 2]] as const)); // prettier-ignore
  expect(Object.fromEntries(valuesAt(set, ["osc.unison", "osc2.unison"]))).toEqual({ "osc.unison": 3, "osc2.unison": 16 }); // prettier-ignore
  expect(withValues(patch, new Map([["osc.level", -6]] as const))).toBe(patch);
});
