import * as z from "../zod";
import { MAX_LANE_STEPS, REST, TIE } from "../lanes";
import { row, type Move } from "../row";
import { defineKind, type ModuleOf } from "./kind";

const OCTAVES: Move = { unit: "oct", reach: 8, first: 1 };

/** Steps that open and close: a rhythm cut into whatever it moves, the part's level above all. */
export const GATE = defineKind({
  kind: "gate",
  label: "Gate",
  role: "modulator",
  least: 0,
  most: 24,
  rows: {
    attack: row({ label: "Attack", unit: "ms", min: 0.5, max: 500, default: 2, digits: 1, hint: "Time in which a step opens.", move: OCTAVES }),
    hold: row({ label: "Hold", unit: "%", min: 1, max: 100, default: 70, step: 5, fine: 1, hint: "How much of its step the gate stays open.", move: { unit: "%", reach: 100, first: 30 } }),
    tail: row({ label: "Tail", unit: "ms", min: 1, max: 2000, default: 20, digits: 1, step: 5, fine: 0.5, hint: "Time in which it closes again.", move: OCTAVES }),
    swing: row({ label: "Swing", unit: "%", min: 50, max: 75, default: 50, digits: 1, hint: "Where the second of two steps falls: 66.7 % is the triplet.", move: { unit: "%", reach: 25, first: 16.7 } }),
  },
  choices: {
    restart: { label: "Restarts", options: ["song", "bar"], default: "bar" },
  },
  times: {
    step: { label: "Step", default: { unit: "note", num: 1, den: 16 }, min: 5, max: 10_000, hz: true, move: OCTAVES },
  },
  /** What each step does: rest, open, or hold on to the step before. */
  data: { steps: z.readonly(z.listOf(z.whole(REST, TIE), 1, MAX_LANE_STEPS)) },
}); // prettier-ignore

export type Gate = ModuleOf<typeof GATE>;
