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
    cutoff: row({ label: "Cutoff", unit: "Hz", min: 20, max: 20_000, default: 1_200, taper: "log", step: 2 ** (1 / 12), fine: 2 ** (1 / 120), digits: 1, move: { unit: "oct", reach: 8, first: 2, sides: { row: "apart", per: 12 } } }),
    resonance: row({ label: "Resonance", unit: "%", min: 0, max: 100, default: 10, digits: 1, move: { unit: "%", reach: 100, first: 20 } }),
    width: row({ label: "Width", unit: "oct", min: 0.1, max: 6, default: 1.9, step: 0.1, fine: 0.01, digits: 2, hint: "Between the points where half of the power is left, before resonance narrows it.", move: { unit: "oct", reach: 4, first: 1 } }),
    vowel: row({ label: "Vowel", unit: "%", min: 0, max: 100, default: 0, digits: 1, hint: "The way through a, e, i, o and u. A cutoff of 1 kHz is as a man speaks them, an octave up twice as small.", move: { unit: "%", reach: 100, first: 50 } }),
    drive: row({ label: "Drive", unit: "dB", min: 0, max: 36, default: 0, digits: 1, hint: "Bends what goes in, or in the driven four-pole what goes round.", move: { unit: "dB", reach: 36, first: 6 } }),
    keyFollow: row({ label: "Key follow", unit: "%", min: 0, max: 200, default: 0, step: 5, fine: 1, move: { unit: "%", reach: 200, first: 50 } }),
    apart: row({ label: "Sides apart", unit: "st", min: -24, max: 24, default: 0, digits: 1, hint: "How far the cutoff of the right side lies above that of the left one.", move: { unit: "st", reach: 24, first: 7 } }),
    mix: row({ label: "Mix", unit: "%", min: 0, max: 100, default: 100, digits: 1, hint: "How much of the filtered sound replaces the sound that came in.", move: { unit: "%", reach: 100, first: 50 } }),
    onward: row({ label: "Onward", unit: "%", min: 0, max: 100, default: 100, digits: 1, hint: "How much of its sound goes through the next filter; the rest goes past that. At 0 % both stand side by side.", move: { unit: "%", reach: 100, first: -50 } }),
  },
  choices: {
    type: {
      label: "Type",
      options: ["lp24", "lp12", "bp12", "hp12", "hp24", "bp24", "notch12", "notch24", "ladder", "combUp", "combDown", "vowel", "allpass"],
      default: "lp24",
    },
  },
  times: {},
  data: {},
}); // prettier-ignore

export type Filter = ModuleOf<typeof FILTER>;
