import * as z from "../zod";
import { MAX_POINTS } from "../../curve/curve";
import { MAX_TICK } from "../../time/noteValue";
import { row, wholeRow } from "../row";
import { defineKind, type ModuleOf } from "./kind";

const point = z.object({
  x: z.within(0, 1),
  y: z.within(0, 1),
  tension: z._default(z.within(-100, 100), 0),
});

/** Points of a drawn curve: in order, from x 0 to x 1. */
export const pointsSchema = z.readonly(
  z.listOf(point, 2, MAX_POINTS).check(
    z.refine((p) => p[0]?.x === 0 && p.at(-1)?.x === 1, "the first point must be at x 0 and the last at x 1"),
    z.refine((p) => p.every((q, i) => i === 0 || q.x >= p[i - 1]!.x), "points must be in order of x"),
  ),
);

/** Triggers that a shape holds at the most. */
export const MAX_TRIGGERS = 4096;
/** Ticks at which a modulator is triggered, in order. */
export const triggersSchema = z
  .listOf(z.whole(0, MAX_TICK), 0, MAX_TRIGGERS)
  .check(z.refine((t) => t.every((v, i) => i === 0 || v > t[i - 1]!), "triggers must be in order of time"));

/**
 * When modulators that run in time start again: with the song, with bars, with each chord or note as it is written, with the
 * first note after a rest, with each played note, once with each played note, once with each trigger, where a hand said so.
 */
export const RESTARTS = ["song", "bar", "chord", "rest", "note", "once", "triggers", "hand"] as const;

export type Restart = (typeof RESTARTS)[number];

/** The part whose notes restart a modulator; null for its own. */
export const notesOfSchema = z._default(z.nullable(z.text(1, 64)), null);

/** Whether what runs in time goes on where its automated rate jumps, or starts again. */
export const AT_JUMPS = { label: "Where its rate jumps", options: ["goesOn", "restarts"], default: "goesOn" } as const;

/** Bars from one restart with the bar to the next. */
export const EVERY = wholeRow({ label: "Every", unit: "", min: 1, max: 32, default: 1, hint: "Bars between its restarts." }); // prettier-ignore

/** A drawn curve that runs in time. */
export const SHAPE = defineKind({
  kind: "shape",
  label: "Shape",
  role: "modulator",
  least: 0,
  most: 24,
  rows: {
    phase: row({ label: "Starts at", unit: "°", min: 0, max: 360, default: 0, step: 15, fine: 1, hint: "Where in its cycle the shape stands when it restarts: 180° is half-way through.", move: { unit: "°", reach: 360, first: 90 } }),
    smoothing: row({ label: "Smoothing", unit: "ms", min: 0, max: 200, default: 2, digits: 1, hint: "Rounds steps and corners over this time, so that they do not click.", move: { unit: "ms", reach: 200, first: 20 } }),
    every: EVERY,
    keyFollow: row({ label: "Key follow", unit: "%", min: 0, max: 200, default: 0, step: 5, fine: 1, hint: "How far its rate goes with the key, from middle C on, glides and bends included: at 100 % an octave up is twice as fast." }),
    scatter: row({ label: "Drawn start", unit: "%", min: 0, max: 100, default: 0, step: 5, fine: 1, hint: "How much of the cycle the start of each note is drawn from." }),
    heldFrom: row({ label: "Held from", unit: "%", min: 0, max: 100, default: 25, step: 5, fine: 0.5, digits: 1, hint: "Where in its cycle the stretch begins that is repeated while a note is held." }),
    heldTo: row({ label: "Held to", unit: "%", min: 0, max: 100, default: 50, step: 5, fine: 0.5, digits: 1, hint: "Where in its cycle it stands while a note is held, or where the stretch ends that is repeated." }),
    sides: row({ label: "Sides apart", unit: "°", min: 0, max: 180, default: 0, step: 15, fine: 1, hint: "How far ahead in the cycle the right side is read, for what has two sides: a cutoff, and the level in dB." }),
  },
  choices: {
    restart: { label: "Restarts", options: RESTARTS, default: "bar" },
    /** What it does where its rate is automated and jumps. */
    atJumps: AT_JUMPS,
    /** What one that goes through once with its note does while that is held. */
    whileHeld: { label: "While held", options: ["runs", "stands", "loops"], default: "runs" },
    /** Round and round, or once through after a restart that all notes share. */
    goes: { label: "Goes", options: ["round", "once"], default: "round" },
  },
  times: {
    rate: {
      label: "Rate",
      default: { unit: "note", num: 1, den: 4 },
      min: 1,
      max: 60_000,
      hz: true,
      move: { unit: "oct", reach: 8, first: 1 },
    },
    fadeIn: { label: "Fade in", default: { unit: "ms", ms: 0 }, min: 0, max: 20_000, hz: false, move: { unit: "oct", reach: 8, first: 1 } },
  },
  data: {
    points: pointsSchema,
    /** The part whose notes restart it; null for its own. */
    notesOf: notesOfSchema,
    /** Places of the song, in ticks and in order, at which it restarts with triggers or by hand. */
    triggers: z._default(z.readonly(triggersSchema), []),
  },
}); // prettier-ignore

export type Shape = ModuleOf<typeof SHAPE>;
