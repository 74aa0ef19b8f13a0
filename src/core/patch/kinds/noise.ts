import { row } from "../row";
import { defineKind, type ModuleOf } from "./kind";
import { SOURCE_ROWS } from "./source";

/** Noise, seeded: the same in every render. */
export const NOISE = defineKind({
  kind: "noise",
  label: "Noise",
  role: "source",
  least: 0,
  most: 1,
  rows: {
    ...SOURCE_ROWS,
    width: row({ label: "Width", unit: "%", min: 0, max: 100, default: 0, step: 5, fine: 1, hint: "From the same on both sides to two noises that have nothing in common.", move: { unit: "%", reach: 100, first: 40 } }),
    rate: row({ label: "Rate", unit: "Hz", min: 20, max: 20_000, default: 20_000, taper: "log", step: 2 ** (1 / 12), fine: 2 ** (1 / 120), digits: 1, hint: "How often a new value is drawn and held. At the top, at every sample.", move: { unit: "oct", reach: 10, first: -4 } }),
  },
  choices: {
    colour: { label: "Colour", options: ["white", "pink", "brown"], default: "white" },
    /** The same noise with each note, or one that runs on. */
    start: { label: "Start", options: ["alike", "running"], default: "alike" },
  },
  times: {},
  data: {},
}); // prettier-ignore

export type Noise = ModuleOf<typeof NOISE>;
