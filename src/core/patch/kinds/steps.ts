import * as z from "../zod";
import { row, wholeRow } from "../row";
import { defineKind, type ModuleOf } from "./kind";
import { RESTARTS, triggersSchema, notesOfSchema, AT_JUMPS } from "./shape";

export const MAX_SEQUENCE_STEPS = 64;

/** How the value of a step runs within it: as it is; up to it, or down from it, straight or bent; there and back. */
export const STEP_FORMS = ["flat", "rise", "fall", "swell", "drop", "hill", "dip"] as const;
export type StepForm = (typeof STEP_FORMS)[number];

const percent = (given: number) => z._default(z.within(0, 100), given);

const step = z.object({
  /** 0 to 1. */
  value: z.within(0, 1),
  /** What the second row says. */
  second: z._default(z.within(0, 1), 0),
  form: z._default(z.enum(STEP_FORMS), "flat"),
  /** How much of its end is a glide into the next step, in percent. */
  glide: percent(0),
  /** How likely it is played; one that is not lets the step before go on. */
  chance: percent(100),
  /** Lets the step before go on. */
  hold: z._default(z.boolean(), false),
});
export type SequenceStep = z.output<typeof step>;

/** A sequence of values, a step each. */
export const STEPS = defineKind({
  kind: "steps",
  label: "Step sequence",
  role: "modulator",
  least: 0,
  most: 24,
  rows: {
    blend: row({ label: "Rows", unit: "%", min: 0, max: 100, default: 0, step: 5, fine: 1, hint: "From the first row of values to the second.", move: { unit: "%", reach: 100, first: 100 } }),
    phase: row({ label: "Starts at", unit: "°", min: 0, max: 360, default: 0, step: 15, fine: 1, hint: "Where in its cycle it stands when it restarts: 180° is half-way through.", move: { unit: "°", reach: 360, first: 90 } }),
    smoothing: row({ label: "Smoothing", unit: "ms", min: 0, max: 200, default: 2, digits: 1, hint: "Rounds steps over this time, so that they do not click.", move: { unit: "ms", reach: 200, first: 20 } }),
    every: wholeRow({ label: "Every", unit: "", min: 0, max: 32, default: 0, hint: "Bars between its restarts; 0 is as many as it takes to go through." }),
  },
  choices: {
    restart: { label: "Restarts", options: RESTARTS, default: "bar" },
    /** Whether the rate is that of each step, or of all of them together. */
    rateOf: { label: "Rate of", options: ["step", "all"], default: "step" },
    atJumps: AT_JUMPS,
  },
  times: {
    rate: { label: "Rate", default: { unit: "note", num: 1, den: 16 }, min: 1, max: 60_000, hz: true, move: { unit: "oct", reach: 8, first: 1 } },
  },
  data: {
    steps: z.readonly(z.listOf(step, 1, MAX_SEQUENCE_STEPS)),
    /** Places of the song at which it runs through once, in ticks and in order, where it restarts with triggers. */
    triggers: z._default(z.readonly(triggersSchema), []),
    notesOf: notesOfSchema,
  },
}); // prettier-ignore

export type Steps = ModuleOf<typeof STEPS>;
