import { row, wholeRow } from "./row";

/** Rows of what is set by a number outside of a patch's modules. */

export const SONG_ROWS = {
  tempo: row({ label: "Tempo", unit: "BPM", min: 20, max: 400, default: 120, digits: 2, fine: 0.01 }),
  loopBars: wholeRow({ label: "Loop", unit: "", min: 1, max: 32, default: 4 }),
  swing: row({ label: "Swing", unit: "%", min: 50, max: 75, default: 50, digits: 1 }),
  trim: row({ label: "Level trim", unit: "dB", min: -24, max: 12, default: 0, digits: 1 }),
} as const;

export const ARPEGGIO_ROWS = {
  octaves: wholeRow({ label: "Octaves", unit: "", min: 1, max: 4, default: 1 }),
  gate: row({ label: "Gate", unit: "%", min: 1, max: 200, default: 60, step: 5, fine: 1, hint: "How much of each step its note is held." }),
  swing: row({ label: "Own swing", unit: "%", min: 50, max: 75, default: 50, digits: 1 }),
  length: wholeRow({ label: "Length", unit: "", min: 1, max: 64, default: 16, hint: "Steps after which the pattern begins again from its first note." }),
} as const; // prettier-ignore

export const PART_ROWS = {
  semitones: wholeRow({ label: "Transposed", unit: "st", min: -48, max: 48, default: 0 }),
} as const;

export const NOTE_ROWS = {
  velocity: wholeRow({ label: "Velocity", unit: "", min: 1, max: 127, default: 100, step: 5 }),
  chance: wholeRow({
    label: "Chance",
    unit: "%",
    min: 0,
    max: 100,
    default: 100,
    step: 5,
    hint: "How likely the note is played; drawn from the project's seed, alike in every pass of the loop.",
  }),
} as const;
