import * as z from "../zod";
import { OWN_TABLE_IDS, type OwnTable } from "../../dsp/ownTableIds";
import { FRAME_LENGTHS } from "../../dsp/tableSpec";
import { row, wholeRow } from "../row";
import { defineKind, type DataOf, type ModuleOf } from "./kind";
import { binaryId } from "./recording";
import { SOURCE_ROWS } from "./source";

/** Harmonics that are set by hand, and frames of them. */
export const MAX_DRAWN_HARMONICS = 64;
export const MAX_DRAWN_FRAMES = 32;

const drawnFrame = z.object({
  /** Of each harmonic from the first on, 0 to 1. */
  levels: z.readonly(z.listOf(z.within(0, 1), 1, MAX_DRAWN_HARMONICS)),
  /** Degrees; harmonics that are not named stand at 0. */
  phases: z._default(z.readonly(z.listOf(z.within(-360, 360), 0, MAX_DRAWN_HARMONICS)), []),
});
export type DrawnFrame = z.output<typeof drawnFrame>;

const corner = z.object({
  table: z.enum(OWN_TABLE_IDS),
  /** Where it is read, 0 to 100 %. */
  place: z.within(0, 100),
  /** How many of its cycles fit in one: 2 is an octave up. */
  harmonic: z.whole(1, 16),
  /** 0 to 1 of a saw's loudness. */
  level: z.within(0, 1),
  /** Degrees. */
  phase: z.within(0, 360),
});
export type Corner = z.output<typeof corner>;

const plainCorner = (place: number): Corner => ({ table: "plain", place, harmonic: 1, level: 1, phase: 0 });
/** Sine and saw below, triangle and square above. */
const PLAIN_CORNERS: readonly Corner[] = [0, 200 / 3, 100 / 3, 100].map(plainCorner);

/** A recording that is cut into cycles of so many samples: the frames of a table. */
const importedCycles = z._default(
  z.object({
    recording: binaryId,
    length: z.whole(FRAME_LENGTHS.min, FRAME_LENGTHS.max),
    /** Whether each is made as loud as the others. */
    even: z._default(z.boolean(), true),
  }),
  { recording: null, length: 2048, even: true },
);

/** What is done to the harmonics of a cycle: a place in one of our own tables. */
const harmonicWeights = z.object({
  table: z.enum(OWN_TABLE_IDS),
  /** Where it is read, 0 to 100 %. */
  place: z.within(0, 100),
  /** Levels of 0 to 1 of the harmonics from the first on, again and again. */
  pattern: z.readonly(z.listOf(z.within(0, 1), 1, 32)),
  /** Numbers that they move up. */
  shift: z.whole(-32, 32),
  /** Only every so many are left, from the first on. */
  every: z.whole(1, 16),
  /** Degrees that each is turned more than the one below. */
  turn: z.within(-180, 180),
  /** Those below and above are cut. */
  low: z.whole(1, 64),
  high: z.whole(1, 512),
});
export type HarmonicWeights = z.output<typeof harmonicWeights>;
/** Every second harmonic of a saw. */
const PLAIN_WEIGHTS: HarmonicWeights = { table: "plain", place: 200 / 3, pattern: [1, 0, 1, 0, 1, 0, 1, 0], shift: 0, every: 1, turn: 0, low: 1, high: 512 }; // prettier-ignore

/** An oscillator that turns or rings another one: the id of a source; null for none. */
const sourceId = z._default(z.nullable(z.text(1, 64)), null);

const BENDS = ["none", "sync", "squeeze", "pulse", "mirror", "fold", "quantise"] as const;
export type Bend = (typeof BENDS)[number];

const amount = (label: string, hint: string) =>
  row({ label, unit: "%", min: 0, max: 100, default: 0, digits: 1, hint, move: { unit: "%", reach: 100, first: 30 } });
const radians = (label: string, max: number, hint: string) =>
  row({
    label,
    unit: "rad",
    min: 0,
    max,
    default: 0,
    digits: 2,
    step: 0.1,
    fine: 0.01,
    hint,
    move: { unit: "rad", reach: max, first: 1 },
  });

/** A wave, stacked in unison: plain and band-limited, or read from a table and bent. */
export const OSCILLATOR = defineKind({
  kind: "oscillator",
  label: "Oscillator",
  role: "source",
  least: 0,
  most: 3,
  rows: {
    ...SOURCE_ROWS,
    octave: wholeRow({ label: "Octave", unit: "oct", min: -10, max: 4, default: 0 }),
    pitch: row({ label: "Pitch", unit: "st", min: -24, max: 48, default: 0, digits: 2, fine: 0.01, move: { unit: "st", reach: 48, first: 12 } }),
    fine: row({ label: "Fine", unit: "ct", min: -100, max: 100, default: 0, digits: 1, move: { unit: "ct", reach: 200, first: 10 } }),
    fixed: row({ label: "Frequency", unit: "Hz", min: 0.01, max: 20_000, default: 1, taper: "log", step: 2 ** (1 / 12), fine: 2 ** (1 / 120), digits: 2, hint: "Where it stands when it does not follow the keys. Pitch and fine go on from there." }),
    pulseWidth: row({ label: "Pulse width", unit: "%", min: 5, max: 95, default: 50, digits: 1, move: { unit: "%", reach: 90, first: 20 } }),
    position: row({ label: "Position", unit: "%", min: 0, max: 100, default: 0, digits: 1, hint: "Where the table is read; between two frames they blend.", move: { unit: "%", reach: 100, first: 50 } }),
    upward: row({ label: "Up", unit: "%", min: 0, max: 100, default: 0, digits: 1, hint: "How far up the square of four waves stands.", move: { unit: "%", reach: 100, first: 50 } }),
    weighting: row({ label: "Weighting", unit: "%", min: 0, max: 100, default: 100, digits: 1, hint: "From the cycle as it is to its harmonics as they are weighted.", move: { unit: "%", reach: 100, first: -50 } }),
    bend1: amount("First bend", "How much of it. Bends of the phase come before those of the value, in either place."),
    bend2: amount("Second bend", "How much of it. Bends of the phase come before those of the value, in either place."),
    pm: radians("Turned by", 25, "How far another source turns the phase, in radians, where it is a sine at full level."),
    inner: radians("Turned within", 25, "How far the oscillator's own modulator turns the phase, in radians."),
    ratio: row({ label: "Ratio", unit: "×", min: 1 / 64, max: 64, default: 1, taper: "log", step: 2 ** (1 / 12), fine: 2 ** (1 / 120), digits: 3, hint: "Cycles of the modulator to one of the oscillator.", move: { unit: "oct", reach: 6, first: 1 } }),
    innerHz: row({ label: "Its frequency", unit: "Hz", min: 0.01, max: 20_000, default: 100, taper: "log", step: 2 ** (1 / 12), fine: 2 ** (1 / 120), digits: 2, move: { unit: "oct", reach: 8, first: 1 } }),
    feedback: radians("Turned by itself", 3, "How far the oscillator's own sound turns its phase, in radians."),
    ring: amount("Rings with", "How much of the sound is multiplied with that of another source."),
    unison: wholeRow({ label: "Unison", unit: "", min: 1, max: 16, default: 1 }),
    detune: row({ label: "Detune", unit: "ct", min: 0, max: 100, default: 12, digits: 1, move: { unit: "ct", reach: 100, first: 20 } }),
    width: row({ label: "Width", unit: "%", min: 0, max: 100, default: 60, fine: 1, step: 5, move: { unit: "%", reach: 100, first: 40 } }),
    blend: wholeRow({ label: "Blend", unit: "%", min: 0, max: 100, default: 100, step: 5, hint: "How loud the outer voices are against those in the middle. All together stay as loud." }),
    phase: row({ label: "Start phase", unit: "°", min: 0, max: 360, default: 0, step: 15, fine: 1 }),
  },
  choices: {
    wave: { label: "Wave", options: ["sine", "triangle", "saw", "pulse", "table", "drawn", "corners", "cycles", "harmonics"], default: "saw" },
    keys: { label: "Keys", options: ["follows", "fixed"], default: "follows" },
    bend1: { label: "First", options: BENDS, default: "none" },
    bend2: { label: "Second", options: BENDS, default: "none" },
    /** The wave of the oscillator's own modulator. */
    inner: { label: "Own modulator", options: ["sine", "triangle", "saw", "square"], default: "sine" },
    innerPitch: { label: "Its pitch", options: ["ratio", "hz"], default: "ratio" },
    /** Intervals that the voices of a unison take in turn. */
    stack: { label: "Stacked", options: ["none", "octaves", "fifths", "minor", "major"], default: "none" },
    /** Where the voices of a unison lie within its detune. */
    spread: { label: "Spread", options: ["even", "middle", "ends"], default: "even" },
    start: { label: "Start", options: ["fixed", "random", "running"], default: "fixed" },
  },
  times: {},
  data: {
    table: z._default(z.enum(OWN_TABLE_IDS), "plain" satisfies OwnTable),
    drawn: z._default(z.readonly(z.listOf(drawnFrame, 1, MAX_DRAWN_FRAMES)), [{ levels: [1], phases: [] }]),
    corners: z._default(z.readonly(z.listOf(corner, 4, 4)), [...PLAIN_CORNERS]),
    cycles: importedCycles,
    weights: z._default(harmonicWeights, PLAIN_WEIGHTS),
    pmFrom: sourceId,
    ringFrom: sourceId,
  },
}); // prettier-ignore

export type Oscillator = ModuleOf<typeof OSCILLATOR>;

/** What files without it mean. */
export const OSCILLATOR_DATA: DataOf<typeof OSCILLATOR> = {
  table: "plain",
  drawn: [{ levels: [1], phases: [] }],
  corners: PLAIN_CORNERS,
  cycles: { recording: null, length: 2048, even: true },
  weights: PLAIN_WEIGHTS,
  pmFrom: null,
  ringFrom: null,
};
