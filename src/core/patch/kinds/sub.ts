import { row } from "../row";
import { defineKind, type ModuleOf } from "./kind";
import { SOURCE_ROWS } from "./source";

/** A plain wave below the note that plays. */
export const SUB = defineKind({
  kind: "sub",
  label: "Sub",
  role: "source",
  least: 0,
  most: 1,
  rows: {
    ...SOURCE_ROWS,
    pitch: row({ label: "Pitch", unit: "st", min: -24, max: 24, default: 0, digits: 2, fine: 0.01, hint: "From where its octave puts it.", move: { unit: "st", reach: 48, first: 12 } }),
    fine: row({ label: "Fine", unit: "ct", min: -100, max: 100, default: 0, digits: 1, move: { unit: "ct", reach: 200, first: 10 } }),
    phase: row({ label: "Start phase", unit: "°", min: 0, max: 360, default: 0, step: 15, fine: 1 }),
  },
  choices: {
    wave: { label: "Wave", options: ["sine", "triangle", "saw"], default: "sine" },
    below: { label: "Below", options: ["one", "two"], default: "one" },
  },
  times: {},
  data: {},
}); // prettier-ignore

export type Sub = ModuleOf<typeof SUB>;
