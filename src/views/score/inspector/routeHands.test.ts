import { describe, expect, test } from "vitest";
import { newProject, newRoute } from "@/core/patch/defaults";
import { targetAt } from "@/core/patch/targets";
import { amountValue } from "./routeHands";

const { patch } = newProject("n", "New", 1).parts[0]!;

/** What typing a text sets: an amount, or both ends; or why not. */
function typed(address: "filter.cutoff" | "filter.resonance" | "amp-envelope.decay", text: string): unknown {
  let taken: unknown = null;
  const target = targetAt(patch, [], address)!;
  const value = amountValue(
    target,
    newRoute("r", "velocity", address, 0),
    (amount) => (taken = amount),
    (from, to) => (taken = [from, to]),
  );
  return value.type(text) ?? taken;
}

describe("an amount as it is typed", () => {
  test.each([
    ["filter.resonance", "30", 30],
    ["filter.cutoff", "2 oct", 2],
    ["filter.cutoff", "7 st", 0.583],
    ["filter.resonance", "13 to 95 %", [13, 95]],
    ["filter.cutoff", "400 to 2.2k", [400, 2200]],
    ["filter.cutoff", "A3 to A5", [220, 880]],
    ["filter.resonance", "to 60", [patch.modules.find((m) => m.kind === "filter")!.values.resonance, 60]],
    ["filter.resonance", "whole range", [0, 100]],
  ] as const)("%s: %s", (address, text, expected) => {
    expect(typed(address, text)).toEqual(expected);
  });

  test("what cannot be read says how to write it", () => {
    expect(typed("filter.cutoff", "some")).toContain("octaves or semitones");
    expect(typed("filter.cutoff", "some")).toContain("whole range");
    expect(typed("filter.cutoff", "low to high")).toContain("a frequency or a note");
    expect(typed("amp-envelope.decay", "10 to 20 ms")).toContain("has ends");
  });
});
