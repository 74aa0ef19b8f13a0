import { row } from "../row";
import { defineKind, type ModuleOf } from "./kind";

/** One value for the hand that moves many. */
export const MACRO = defineKind({
  kind: "macro",
  label: "Macro",
  role: "modulator",
  least: 0,
  most: 8,
  rows: {
    value: row({ label: "Value", unit: "%", min: 0, max: 100, default: 0, digits: 1, step: 5, fine: 1, move: { unit: "%", reach: 100, first: 50 } }),
    low: row({ label: "Lower limit", unit: "%", min: 0, max: 100, default: 0, digits: 1, step: 5, fine: 1, hint: "What it gives at 0 %. Above the upper limit it turns round." }),
    high: row({ label: "Upper limit", unit: "%", min: 0, max: 100, default: 100, digits: 1, step: 5, fine: 1, hint: "What it gives at 100 %." }),
    curve: row({ label: "Curve", unit: "%", min: -100, max: 100, default: 0, step: 5, fine: 1, hint: "Above 0 it gives much early, below 0 late." }),
  },
  choices: {},
  times: {},
  data: {},
}); // prettier-ignore

export type Macro = ModuleOf<typeof MACRO>;
