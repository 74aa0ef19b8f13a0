import * as z from "../zod";
import { row, wholeRow } from "../row";
import { defineKind, type ModuleOf } from "./kind";
import { pointsSchema } from "./shape";

/** Takes that are kept by name. */
export const MAX_KEPT_TAKES = 12;
export const MAX_TAKE = 9999;

/** Values that are drawn from the project's seed: alike in every render. */
export const RANDOM = defineKind({
  kind: "random",
  label: "Random",
  role: "modulator",
  least: 0,
  most: 24,
  rows: {
    take: wholeRow({ label: "Take", unit: "", min: 0, max: MAX_TAKE, default: 0, hint: "Another number draws other values; the same number brings the same ones back." }),
    smoothing: row({ label: "Smoothing", unit: "ms", min: 0, max: 200, default: 2, digits: 1, hint: "Rounds jumps over this time, so that they do not click.", move: { unit: "ms", reach: 200, first: 20 } }),
  },
  choices: {
    /** A new value at a rate, for all notes together, or one of each note's own. */
    draws: { label: "New value", options: ["rate", "note"], default: "rate" },
    /** Whether a value stands until the next, or is on the way to it. */
    moves: { label: "Between", options: ["held", "smooth"], default: "held" },
    /** Which values are likely: all alike, those of the middle, those of the ends, or as drawn. */
    likely: { label: "Likely", options: ["even", "middle", "ends", "drawn"], default: "even" },
  },
  times: {
    rate: { label: "Rate", default: { unit: "note", num: 1, den: 16 }, min: 1, max: 60_000, hz: true, move: { unit: "oct", reach: 8, first: 1 } },
  },
  data: {
    /** What an even draw of 0 to 1 becomes, where it is as drawn. */
    points: pointsSchema,
    kept: z._default(z.readonly(z.listOf(z.object({ name: z.nameText(), take: z.whole(0, MAX_TAKE) }), 0, MAX_KEPT_TAKES)), []),
  },
}); // prettier-ignore

export type Random = ModuleOf<typeof RANDOM>;
