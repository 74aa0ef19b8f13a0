import { row, wholeRow, type Parameter } from "./row";

/**
 * Lanes of an arpeggio: rows of values that its steps walk through, each at a length of its own. Schema, editor and
 * evaluation derive from this table: adding a lane is one row and the line of arpeggio.ts that reads it.
 */

export const MAX_LANE_STEPS = 64;

/** What a step of the play lane does. */
export const REST = 0;
export const PLAY = 1;
export const TIE = 2;

export interface LaneKind {
  /** Range, default and how its values read. */
  readonly row: Parameter;
  /** Drawn around the middle, not from the lowest value up. */
  readonly around: boolean;
  /** Names of its values where they are no numbers. */
  readonly names?: readonly string[];
}

export const LANES = {
  play: {
    row: wholeRow({ label: "Play", unit: "", min: REST, max: TIE, default: PLAY, hint: "Whether a step plays, rests, or holds on to the note before. A rest uses up no note of the order." }),
    around: false,
    names: ["rest", "play", "tie"],
  },
  pick: { row: wholeRow({ label: "Note", unit: "", min: 1, max: 16, default: 1, hint: "Which note of the chord a step plays, counted from the lowest and on through the octaves: for the drawn order." }), around: false },
  velocity: { row: wholeRow({ label: "Velocity", unit: "%", min: 1, max: 200, default: 100, step: 5, hint: "Of the velocity of the note that is held." }), around: false },
  octave: { row: wholeRow({ label: "Octave", unit: "oct", min: -3, max: 3, default: 0 }), around: true },
  transpose: { row: wholeRow({ label: "Transpose", unit: "", min: -24, max: 24, default: 0, hint: "In semitones, or in steps of the key." }), around: true },
  gate: { row: row({ label: "Gate", unit: "%", min: 1, max: 200, default: 60, step: 5, fine: 1, hint: "How much of its step a note is held." }), around: false },
  slide: { row: row({ label: "Slide", unit: "", min: 0, max: 16, default: 0, step: 1, fine: 0.5, digits: 1, hint: "How long the next note takes to glide from this one's pitch to its own, as a note value: in sixty-fourths, so that 4 are 1/16." }), around: false },
  slideMs: { row: row({ label: "Slide ms", unit: "ms", min: 0, max: 500, default: 0, step: 10, fine: 1, hint: "How long the next note takes to glide from this one's pitch to its own, at any tempo." }), around: false },
  chance: { row: wholeRow({ label: "Chance", unit: "%", min: 0, max: 100, default: 100, step: 5, hint: "How likely a note is played. One that is left out uses up its place in the order." }), around: false },
  repeats: { row: wholeRow({ label: "Repeats", unit: "", min: 1, max: 8, default: 1, hint: "How often a note is played within its step." }), around: false },
  freeA: { row: row({ label: "Free A", unit: "%", min: 0, max: 100, default: 0, step: 5, fine: 1, hint: "Moves what you route it to: each note takes the value of its step." }), around: false },
  freeB: { row: row({ label: "Free B", unit: "%", min: 0, max: 100, default: 0, step: 5, fine: 1, hint: "Moves what you route it to: each note takes the value of its step." }), around: false },
} as const satisfies Record<string, LaneKind>; // prettier-ignore

export type LaneId = keyof typeof LANES;

/** What the values of the slide lane count. */
export const SLIDE_NOTE = { num: 1, den: 64 } as const;

export const LANE_IDS = Object.keys(LANES) as LaneId[];

export const LANE_DIRECTIONS = ["forward", "backward", "pendulum", "random"] as const;

/** The values of a lane, and how its steps are walked. */
export interface StepLane {
  readonly on: boolean;
  readonly direction: (typeof LANE_DIRECTIONS)[number];
  /** A value a step: 1 to 64 of them. */
  readonly values: readonly number[];
  /** How far chance may take each step's value either way: as many as there are values. */
  readonly ranges: readonly number[];
  /** Bars after which chance draws anew; 0 draws at each step. */
  readonly freshBars: number;
  /** Which of the draws of the project's seed is taken: another number gives other values. */
  readonly take: number;
  /** Values that chance drew in a bar and somebody kept. */
  readonly kept: readonly KeptTake[];
  /** Which of those is played instead of what chance draws; null draws. */
  readonly locked: number | null;
}

interface KeptTake {
  readonly name: string;
  /** A value a step. */
  readonly values: readonly number[];
}

export const MAX_KEPT = 32;

/** A lane of `steps` steps, all at the lane's default. */
export const newLane = (id: LaneId, steps: number): StepLane => ({
  on: true,
  direction: "forward",
  values: Array.from({ length: steps }, () => LANES[id].row.default),
  ranges: Array.from({ length: steps }, () => 0),
  freshBars: 1,
  take: 0,
  kept: [],
  locked: null,
});
