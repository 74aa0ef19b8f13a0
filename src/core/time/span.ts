import { barTicks, type Meter } from "./meter";
import {
  MAX_NOTE_VALUE,
  NOTE_VALUES,
  TICKS_PER_QUARTER,
  TICKS_PER_WHOLE,
  noteValueName,
  parseNoteValue,
  type NoteValue,
} from "./noteValue";

/** A length of time as a musician gives it: in milliseconds, as a rate in Hz, as a note value or in bars. */
export type Span =
  | { readonly unit: "ms"; readonly ms: number }
  | { readonly unit: "hz"; readonly hz: number }
  | { readonly unit: "note"; readonly num: number; readonly den: number }
  | { readonly unit: "bars"; readonly bars: number };

/** Rates in Hz that a document holds. */
export const HZ_RANGE = { min: 0.01, max: 200 } as const;

/** What a span is measured against. */
export interface TimeBase {
  readonly tempoBpm: number;
  readonly meter: Meter;
}

/** A quarter lasts 60 000 / BPM ms: the definition of beats per minute. */
const quarterMs = (tempoBpm: number): number => 60_000 / tempoBpm;
export const ticksPerSecond = (tempoBpm: number): number => (TICKS_PER_QUARTER * tempoBpm) / 60;

/** Ticks, not rounded. */
export function spanTicks(span: Span, base: TimeBase): number {
  switch (span.unit) {
    case "ms":
      return (span.ms / quarterMs(base.tempoBpm)) * TICKS_PER_QUARTER;
    case "hz":
      return ticksPerSecond(base.tempoBpm) / span.hz;
    case "note":
      return (span.num * TICKS_PER_WHOLE) / span.den;
    case "bars":
      return span.bars * barTicks(base.meter);
  }
}

export const spanMs = (span: Span, base: TimeBase): number =>
  span.unit === "ms" ? span.ms : (spanTicks(span, base) / TICKS_PER_QUARTER) * quarterMs(base.tempoBpm);

/** Whether the length follows the tempo. */
export const isSynced = (span: Span): boolean => span.unit === "note" || span.unit === "bars";

const trim = (value: number, digits: number): string => String(Number(value.toFixed(digits)));

/** "12.5 ms", "1.2 s", "4 Hz", "1/8T", "2 bars". */
export function formatSpan(span: Span): string {
  switch (span.unit) {
    case "ms":
      return span.ms >= 1000 ? `${trim(span.ms / 1000, 2)} s` : `${trim(span.ms, span.ms < 10 ? 2 : 1)} ms`;
    case "hz":
      return `${trim(span.hz, 2)} Hz`;
    case "note":
      return noteValueName(span);
    case "bars":
      return span.bars === 1 ? "1 bar" : `${span.bars} bars`;
  }
}

/** A share of a note value as the note value that lies nearest: 25 % of a quarter is a sixteenth. Null when it has none. */
function shareOf(percent: number, { num, den }: NoteValue): NoteValue | null {
  const wanted = (percent / 100) * (num / den);
  let best: NoteValue | null = null;
  let error = Infinity;
  for (let d = 1; d <= MAX_NOTE_VALUE.den; d++) {
    const n = Math.round(wanted * d);
    if (n < 1 || n > MAX_NOTE_VALUE.num || Math.abs(n / d - wanted) >= error - 1e-12) continue;
    error = Math.abs(n / d - wanted);
    best = { num: n, den: d };
  }
  return best;
}

/** Reads "250ms", "1.2 s", "4hz", "1/8T", "25 % of 1/4", "2 bars"; a bare number is milliseconds. Null when it is none of these. */
export function parseSpan(text: string): Span | null {
  const clean = text.trim().toLowerCase().replace(",", ".");
  const note = parseNoteValue(clean);
  if (note) return { unit: "note", ...note };
  const share = /^(\d*\.?\d+)\s*%\s*(?:of\s*)?(.+)$/.exec(clean);
  const whole = share && parseNoteValue(share[2]!);
  const part = whole && shareOf(Number(share[1]), whole);
  if (part) return { unit: "note", ...part };
  const match = /^(\d*\.?\d+)\s*(ms|s|hz|bars?)?$/.exec(clean);
  if (!match) return null;
  const value = Number(match[1]);
  switch (match[2]) {
    case "s":
      return { unit: "ms", ms: value * 1000 };
    case "hz":
      return value > 0 ? { unit: "hz", hz: value } : null;
    case "bar":
    case "bars":
      return Number.isInteger(value) && value >= 1 && value <= 32 ? { unit: "bars", bars: value } : null;
    default:
      return { unit: "ms", ms: value };
  }
}

/** The lengths that stepping through a synced span visits, shortest first: 1/64T up to 1/1D, then 2 to 32 bars. */
export const SYNCED_SPANS: readonly Span[] = [
  ...[...NOTE_VALUES].reverse().map((v): Span => ({ unit: "note", ...v })),
  ...[2, 3, 4, 6, 8, 12, 16, 24, 32].map((bars): Span => ({ unit: "bars", bars })),
];
