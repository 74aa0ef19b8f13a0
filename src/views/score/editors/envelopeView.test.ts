import { expect, test } from "vitest";
import { newEnvelope } from "@/core/patch/defaults";
import { drawnEnvelope, drawnTimeMs, sharedTimeMs, viewOf } from "./envelopeView";

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

test("one that all notes share has no release, and its dot goes round what loops", () => {
  const view = viewOf(envelope, BASE, true);
  expect(view.releaseMs).toBe(0);
  expect(drawnEnvelope(envelope, view)(350 + view.holdMs - 0.001)).toBeCloseTo(0.4, 6);
  // 100 ms up, 250 ms down.
  expect([0.05, 0.3, 99].map((sec) => sharedTimeMs(view, "none", sec))).toEqual([50, 300, 350 + view.holdMs]);
  expect([0.05, 0.35 + 0.02].map((sec) => Math.round(sharedTimeMs(view, "all", sec)))).toEqual([50, 20]);
  expect([0.05, 0.25 + 0.02].map((sec) => Math.round(sharedTimeMs(view, "decay", sec)))).toEqual([150, 120]);
});
