import { row } from "../row";
import { defineKind, type ModuleOf } from "./kind";

/** A filter with resonance. */
export const FILTER = defineKind({
  kind: "filter",
  label: "Filter",
  role: "effect",
  least: 0,
  most: 2,
  rows: {
    cutoff: row({ label: "Cutoff", unit: "Hz", min: 20, max: 20_000, default: 1_200, taper: "log", step: 2 ** (1 / 12), fine: 2 ** (1 / 120), digits: 1, move: { unit: "oct", reach: 8, first: 2 } }),
    resonance: row({ label: "Resonance", unit: "%", min: 0, max: 100, default: 10, digits: 1, move: { unit: "%", reach: 100, first: 20 } }),
    keyFollow: row({ label: "Key follow", unit: "%", min: 0, max: 150, default: 0, step: 5, fine: 1, move: { unit: "%", reach: 150, first: 50 } }),
  },
  choices: {
    type: { label: "Type", options: ["lp24", "lp12", "bp12", "hp12"], default: "lp24" },
  },
  times: {},
  data: {},
}); // prettier-ignore

export type Filter = ModuleOf<typeof FILTER>;
