import { expect, test } from "vitest";
import { newEnvelope } from "@/core/patch/defaults";
import { drawnEnvelope, drawnTimeMs, viewOf } from "./envelopeView";

const BASE = { tempoBpm: 120, meter: { beats: 4, unit: 4 } };
const made = newEnvelope("e", "E");
const envelope = {
  ...made,
  values: { ...made.values, sustain: 40 },
  times: {
    attack: { unit: "ms" as const, ms: 100 },
    decay: { unit: "note" as const, num: 1, den: 8 },
    release: { unit: "ms" as const, ms: 300 },
  },
};

test("an envelope is drawn with its stages in milliseconds and a stretch of sustain between", () => {
  const view = viewOf(envelope, BASE);
  expect(view).toMatchObject({ attackMs: 100, decayMs: 250, releaseMs: 300 });
  const at = drawnEnvelope(envelope, view);
  expect(at(100)).toBeCloseTo(1, 9);
  expect(at(350)).toBeCloseTo(0.4, 9);
  expect(at(350 + view.holdMs)).toBeCloseTo(0.4, 6);
  expect(at(350 + view.holdMs + 300)).toBe(0);
});

test("a note's dot waits on the sustain while its key is held, and runs down after", () => {
  const view = viewOf(envelope, BASE);
  const heldEnd = 350 + view.holdMs;
  expect(drawnTimeMs(view, 0.05, Infinity)).toBe(50);
  expect(drawnTimeMs(view, 9, Infinity)).toBeCloseTo(heldEnd, 9);
  expect(drawnTimeMs(view, 1.1, 1)).toBeCloseTo(heldEnd + 100, 9);
});
