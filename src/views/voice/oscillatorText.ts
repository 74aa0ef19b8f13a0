import type { Bend, Oscillator } from "@/core/patch/kinds/oscillator";
import { OWN_TABLES } from "@/core/dsp/ownTables";

export const BEND_TEXT: Record<Bend, string> = {
  none: "none",
  sync: "hard sync",
  squeeze: "one half squeezed",
  pulse: "pulled to its middle",
  mirror: "mirrored",
  fold: "folded",
  quantise: "on steps",
};

export const STACK_TEXT: Record<Oscillator["choices"]["stack"], string> = {
  none: "all on one pitch",
  octaves: "octaves",
  fifths: "fifths and octaves",
  minor: "minor chord",
  major: "major chord",
};

export const SPREAD_TEXT: Record<Oscillator["choices"]["spread"], string> = {
  even: "evenly",
  middle: "to the middle",
  ends: "to the ends",
};

/** What a wave is called. */
export const tableText = (o: Oscillator): string => OWN_TABLES[o.data.table].name;

/** What is told of an amount of a bend. */
export function bendText(bend: Bend, amount: number): string {
  if (bend === "sync") return `×${(16 ** (amount / 100)).toFixed(2)}`;
  if (bend === "fold") return `×${(1 + (7 * amount) / 100).toFixed(1)}`;
  return `${amount.toFixed(amount % 1 === 0 ? 0 : 1)} %`;
}
