import { row } from "../row";

/** What every source has: how loud it is before filters and amp, and where it stands. */
export const SOURCE_ROWS = {
  level: row({ label: "Level", unit: "dB", min: -60, max: 12, default: 0, digits: 1, offAtMin: true, move: { unit: "dB", reach: 96, first: -12 } }),
  pan: row({ label: "Pan", unit: "%", min: -100, max: 100, default: 0, step: 5, fine: 1, move: { unit: "%", reach: 200, first: 40 } }),
} as const; // prettier-ignore
