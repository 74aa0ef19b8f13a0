import { expect, test } from "vitest";
import { newEnvelope } from "@/core/patch/defaults";
import { drawnEnvelope, drawnTimeMs, viewOf } from "./envelopeView";

const BASE = { tempoBpm: 120, meter: { beats: 4, unit: 4 } };
const made = newEnvelope("e", "E");
const envelope = {
  ...made,
  values: { ...made.values, sustain: 40 },
  times: {
    ...made.times,
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

test("delay and hold have their room", () => {
  const later = { ...envelope, times: { ...envelope.times, delay: { unit: "ms" as const, ms: 50 }, hold: { unit: "ms" as const, ms: 80 } } }; // prettier-ignore
  const view = viewOf(later, BASE);
  const at = drawnEnvelope(later, view);
  expect(at(49)).toBe(0);
  for (const ms of [150.001, 229]) expect(at(ms)).toBeCloseTo(1, 6);
  expect(at(480)).toBeCloseTo(0.4, 9);
  expect(drawnTimeMs(view, 1.1, 1)).toBeCloseTo(480 + view.holdMs + 100, 9);
});

test("a note's dot waits on the sustain while its key is held, and runs down after", () => {
  const view = viewOf(envelope, BASE);
  const heldEnd = 350 + view.holdMs;
  expect(drawnTimeMs(view, 0.05, Infinity)).toBe(50);
  expect(drawnTimeMs(view, 9, Infinity)).toBeCloseTo(heldEnd, 9);
  expect(drawnTimeMs(view, 1.1, 1)).toBeCloseTo(heldEnd + 100, 9);
});
