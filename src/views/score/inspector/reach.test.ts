import { expect, test } from "vitest";
import { newPart, newRoute, newShape } from "@/core/patch/defaults";
import { AUTOMATION } from "@/core/patch/kinds/automation";
import { adjusted, newModule } from "@/core/patch/kinds/kind";
import { SHAPE } from "@/core/patch/kinds/shape";
import { FILTER } from "@/core/patch/kinds/filter";
import type { Part, Route } from "@/core/patch/project";
import { spanNorm } from "@/ui/values";
import { timeReach, valueReach } from "./reach";

const SONG = { tempoBpm: 120, meter: { beats: 4, unit: 4 } } as const;
const shape = newShape("s", "S");
const fade = { unit: "ms", ms: 400 } as const;
const withRoutes = (routes: readonly Route[], ...lines: Part["patch"]["modules"]): Part => {
  const part = newPart("p", "P");
  const s = adjusted(shape, { times: { fadeIn: fade } });
  return { ...part, patch: { ...part.patch, modules: [...part.patch.modules, s, ...lines], routes } };
};
const line = (target: "s.fadeIn" | "filter.resonance", ys: readonly number[]) =>
  newModule(AUTOMATION, "line", "Line", { target, points: ys.map((y, i) => ({ x: i / (ys.length - 1), y, tension: 0 })) }); // prettier-ignore

test("a value is marked from the least to the most that its routes add to it together", () => {
  const { resonance } = FILTER.rows;
  const at = (...routes: Route[]) => valueReach(withRoutes(routes), resonance, "filter.resonance", 40);
  expect(at()).toBeNull();
  expect(at(newRoute("a", "s", "filter.resonance", 30))).toEqual({ from: 0.4, to: 0.7, kind: "shape" });
  // Around rest it goes both ways; what is off, or elsewhere, counts for nothing.
  const around = { ...newRoute("b", "velocity", "filter.resonance", 10), around: true };
  const off = { ...newRoute("c", "s", "filter.resonance", 50), on: false };
  expect(at(around, off, newRoute("d", "s", "filter.cutoff", 2))).toEqual({ from: 0.3, to: 0.5, kind: "notes" });
  const automated = withRoutes([], line("filter.resonance", [0.2, 0.9, 0.5]));
  expect(valueReach(automated, resonance, "filter.resonance", 40)).toEqual({ from: 0.2, to: 0.9, kind: "heard" });
});

test("a length is marked longer by octaves, a rate shorter; one that is automated over what it comes to", () => {
  const routes = [newRoute("a", "s", "s.fadeIn", 2), newRoute("b", "s", "s.rate", 1)];
  const length = timeReach(withRoutes(routes), SHAPE.times.fadeIn, "s.fadeIn", fade, SONG)!;
  expect([length.from, length.to]).toEqual([spanNorm(400), spanNorm(1600)]);
  // A quarter at 120 BPM lasts 500 ms.
  const rate = timeReach(withRoutes(routes), SHAPE.times.rate, "s.rate", { unit: "note", num: 1, den: 4 }, SONG)!;
  expect([rate.from, rate.to]).toEqual([spanNorm(250), spanNorm(500)]);
  const automated = timeReach(withRoutes([], line("s.fadeIn", [0, 1])), SHAPE.times.fadeIn, "s.fadeIn", fade, SONG)!;
  expect([automated.from, automated.kind]).toEqual([spanNorm(0.1), "heard"]);
  expect(automated.to).toBeCloseTo(spanNorm(20_000), 9);
});
