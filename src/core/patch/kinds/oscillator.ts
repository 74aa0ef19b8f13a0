import { row, wholeRow } from "../row";
import { defineKind, type ModuleOf } from "./kind";
import { SOURCE_ROWS } from "./source";

/** A band-limited wave, stacked in unison. */
export const OSCILLATOR = defineKind({
  kind: "oscillator",
  label: "Oscillator",
  role: "source",
  least: 0,
  most: 3,
  rows: {
    ...SOURCE_ROWS,
    octave: wholeRow({ label: "Octave", unit: "oct", min: -4, max: 4, default: 0 }),
    pitch: row({ label: "Pitch", unit: "st", min: -24, max: 24, default: 0, digits: 2, fine: 0.01, move: { unit: "st", reach: 48, first: 12 } }),
    fine: row({ label: "Fine", unit: "ct", min: -100, max: 100, default: 0, digits: 1, move: { unit: "ct", reach: 200, first: 10 } }),
    pulseWidth: row({ label: "Pulse width", unit: "%", min: 5, max: 95, default: 50, digits: 1, move: { unit: "%", reach: 90, first: 20 } }),
    unison: wholeRow({ label: "Unison", unit: "", min: 1, max: 16, default: 1 }),
    detune: row({ label: "Detune", unit: "ct", min: 0, max: 100, default: 12, digits: 1, move: { unit: "ct", reach: 100, first: 20 } }),
    width: row({ label: "Width", unit: "%", min: 0, max: 100, default: 60, fine: 1, step: 5, move: { unit: "%", reach: 100, first: 40 } }),
    phase: row({ label: "Start phase", unit: "°", min: 0, max: 360, default: 0, step: 15, fine: 1 }),
  },
  choices: {
    wave: { label: "Wave", options: ["sine", "triangle", "saw", "pulse"], default: "saw" },
    start: { label: "Start", options: ["fixed", "random"], default: "fixed" },
  },
  times: {},
  data: {},
}); // prettier-ignore

export type Oscillator = ModuleOf<typeof OSCILLATOR>;
