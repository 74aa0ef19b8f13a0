import * as z from "../zod";
import { row } from "../row";
import { defineKind, type ModuleOf } from "./kind";

/** Level and place of every note, shaped by one of the patch's envelopes: a note lives as long as that one does. */
export const AMP = defineKind({
  kind: "amp",
  label: "Amp",
  role: "output",
  least: 1,
  most: 1,
  rows: {
    level: row({ label: "Level", unit: "dB", min: -60, max: 6, default: -12, digits: 1, offAtMin: true, move: { unit: "dB", reach: 60, first: -12, sides: { row: "apart", per: 1 } } }),
    pan: row({ label: "Pan", unit: "%", min: -100, max: 100, default: 0, step: 5, fine: 1, move: { unit: "%", reach: 200, first: 50 } }),
    apart: row({ label: "Sides apart", unit: "dB", min: -24, max: 24, default: 0, digits: 1, hint: "How far the level of the right side lies above that of the left one.", move: { unit: "dB", reach: 60, first: 6 } }),
    feedback: row({ label: "Feedback", unit: "dB", min: -60, max: 24, default: -60, digits: 1, offAtMin: true, hint: "How much of each note comes back from behind the amp into the filters, 64 samples later. It is bent before it can run away.", move: { unit: "dB", reach: 60, first: 30 } }),
  },
  choices: {},
  times: {},
  data: { envelope: z.text(1, 64).check(z.describe("id of the envelope that shapes the level")) },
}); // prettier-ignore

export type Amp = ModuleOf<typeof AMP>;
