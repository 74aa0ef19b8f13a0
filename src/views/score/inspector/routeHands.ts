import type { Module } from "@/core/patch/kinds";
import type { Part, Route } from "@/core/patch/project";
import { clampToParameter, moved, type Parameter } from "@/core/patch/row";
import { AMPLITUDE_REACH, sourcesOf, type Target } from "@/core/patch/targets";
import { formatAmount, formatValue, howToWrite, parseAmount, parseValue } from "@/core/patch/valueText";
import type { Kind } from "@/ui/ValueRow";
import type { HandledValue } from "@/ui/useValueHands";
import { colourOf } from "../stripList";

/** The name of a route's source, and the colour of its kind. */
export function sourceOf(part: Part, songModules: readonly Module[], id: string): { name: string; kind: Kind } {
  const source = sourcesOf(part.patch, songModules).find((s) => s.id === id);
  return { name: source?.name ?? id, kind: source?.module ? colourOf(source.module) : "notes" };
}

const IN_AMPLITUDE = { unit: "%", reach: AMPLITUDE_REACH } as const;

/** A value at rest with the whole of a route's amount; half of an amplitude is 6.02 dB less (20 log 2). */
export function atFull(row: Parameter, rest: number, { amount, amplitude }: Route): number {
  if (!amplitude) return moved(row, rest, amount);
  return clampToParameter(row, amount <= -100 ? row.min : rest + 20 * Math.log10(1 + amount / 100));
}

/** An amount for the hands: both ways from the middle, in the target's unit. */
export function amountValue(
  target: Target,
  { amount, amplitude }: Route,
  set: (amount: number, gesture?: string) => void,
  /** Takes the value at rest and where the amount leads to. */
  span: (from: number, to: number) => void,
): HandledValue {
  const { unit, reach } = amplitude ? IN_AMPLITUDE : target.move;
  const small = unit === "oct" || unit === "st";
  const digits = unit === "oct" ? 2 : 1;
  const tidy = (v: number): number => Number(Math.min(reach, Math.max(-reach, v)).toFixed(digits === 2 ? 3 : 2));
  return {
    norm: (amount / reach + 1) / 2,
    text: formatAmount(amount, unit, unit === "st" && amount % 1 === 0 ? 0 : digits, true),
    origin: 0.5,
    now: amount,
    min: -reach,
    max: reach,
    spoken: formatAmount(amount, unit, digits, true),
    // Semitones are drawn whole; a fine drag leaves them.
    setNorm: (norm, g, fine) => {
      const amount = (norm * 2 - 1) * reach;
      set(tidy(unit === "st" && !fine ? Math.round(amount) : amount), g);
    },
    step: (direction, size, g) => {
      const by = unit === "oct" ? 1 / 12 : 1;
      set(tidy(amount + direction * (size === "fine" ? by / (small ? 12 : 10) : size === "page" ? by * 10 : by)), g);
    },
    type: (text) => {
      const between = readSpan(text, target);
      if (typeof between === "string") return between;
      if (between) {
        span(...between);
        return null;
      }
      const read = parseAmount(text, unit);
      if (read === null)
        return `${howToWrite(unit)}${target.row ? ` Or from where to where: "${formatValue(target.row, target.row.min)} to ${formatValue(target.row, target.row.max)}", "to ${formatValue(target.row, target.row.max)}", "whole range".` : ""}`;
      set(tidy(read));
      return null;
    },
    reset: () => set(0),
  };
}

/** What the target does at full amount, in words: "at rest 420 Hz, reaches 2.2 kHz". */
export function reachText({ row, rest, move }: Target, route: Route): string {
  // A pitch at rest is the note's own, and a time has no row: only the way is told.
  if (!row || rest === null || move.unit === "st")
    return route.amount === 0 ? "moves nothing yet" : `up to ${formatAmount(route.amount, move.unit, 1, true)}`;
  const full = atFull(row, rest, route);
  const verb = route.amount < 0 ? "falls to" : "reaches";
  return `at rest ${formatValue(row, rest)}, ${verb} ${formatValue(row, full)}`;
}

/**
 * Reads an amount that is told by its ends: "13 to 95 %", "to 95 %" from what the value is now, "whole range". Null for any
 * other text; why not, where an end cannot be read.
 */
function readSpan(text: string, { row, rest }: Target): readonly [from: number, to: number] | string | null {
  const written = text.trim();
  const whole = /^whole( range)?$/i.test(written);
  const match = /^(.*?)(?:\bto\b)\s*(.+)$/i.exec(written);
  if (!whole && !match) return null;
  if (!row || rest === null) return "Only a number of a module has ends to go between.";
  if (whole) return [row.min, row.max];
  const [, first, last] = match!;
  // A unit behind the second end counts for both.
  const unit = /[a-z%°×♯]+$/i.exec(last!.trim())?.[0] ?? "";
  const read = (end: string): number | null => parseValue(row, end) ?? parseValue(row, `${end.trim()} ${unit}`);
  const from = first!.trim() === "" ? rest : read(first!);
  const to = read(last!);
  return from === null || to === null ? howToWrite(row.unit) : [from, to];
}
