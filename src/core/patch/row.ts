/** A row describes one number that a person sets: its unit, range, scale, default and the modulation it takes. */

export type Unit = "Hz" | "dB" | "%" | "st" | "ct" | "°" | "ms" | "BPM" | "oct" | "rad" | "×" | "key" | "";

/** The modulation that a value takes: the unit of an amount, and how far an amount may go either way. */
export interface Move {
  readonly unit: Unit;
  readonly reach: number;
  /** What a new route starts with. */
  readonly first: number;
  /** The row of the same kind that sets the right side above the left one, and how many of its units make one of these. */
  readonly sides?: { readonly row: string; readonly per: number };
}

export interface Parameter {
  readonly label: string;
  readonly unit: Unit;
  readonly min: number;
  readonly max: number;
  /** What a file that lacks the value means. Neutral, and never changed once released. */
  readonly default: number;
  readonly taper: "linear" | "log";
  /** What one arrow key moves: an amount for linear tapers, a ratio for log ones. */
  readonly step: number;
  /** What Shift with an arrow key moves, in the same sense. */
  readonly fine: number;
  readonly digits: number;
  /** Whether only whole numbers are meant. */
  readonly whole: boolean;
  /** Below this the value is called "off" and means silence (levels only). */
  readonly offAtMin: boolean;
  /** Null: not movable. */
  readonly move: Move | null;
  /** What it does, in a sentence, where the label alone does not say. */
  readonly hint?: string;
}

type Given = Pick<Parameter, "label" | "unit" | "min" | "max" | "default"> & Partial<Parameter>;

export const row = (given: Given): Parameter => ({
  taper: "linear",
  step: 1,
  fine: 0.1,
  digits: 0,
  whole: false,
  offAtMin: false,
  move: null,
  ...given,
});

/** A row of whole numbers: fine steps are steps. */
export const wholeRow = (given: Given): Parameter => row({ fine: 1, whole: true, ...given });

/** Whether routes move a value by octaves up and down from what it is: times, frequencies and ratios, not spans of octaves. */
export const movesInOctaves = (move: Move | null, row: Pick<Parameter, "unit"> | null): boolean =>
  move?.unit === "oct" && row?.unit !== "oct";

/** A NaN becomes the default: one that got into a filter's memory would never leave. */
export function clampToParameter(p: Pick<Parameter, "min" | "max" | "default">, value: number): number {
  if (Number.isNaN(value)) return p.default;
  return Math.min(p.max, Math.max(p.min, value));
}

/** Place on the parameter's scale, 0 to 1. */
export const toNorm = (p: Parameter, value: number): number =>
  p.taper === "log" ? Math.log(value / p.min) / Math.log(p.max / p.min) : (value - p.min) / (p.max - p.min);

export const fromNorm = (p: Parameter, norm: number): number =>
  p.taper === "log" ? p.min * (p.max / p.min) ** norm : p.min + norm * (p.max - p.min);

/** The value with an amount of modulation added, in the amount's unit (octaves on frequencies), held in range. */
export const moved = (p: Parameter, value: number, amount: number): number =>
  clampToParameter(p, movesInOctaves(p.move, p) ? value * 2 ** amount : value + amount);
