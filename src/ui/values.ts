import { clampToParameter, fromNorm, toNorm, type Parameter } from "@/core/patch/row";
import { formatValue, howToWrite, parseValue, roundToDigits, spokenValue } from "@/core/patch/valueText";
import {
  HZ_RANGE,
  SYNCED_SPANS,
  formatSpan,
  isSynced,
  parseSpan,
  spanMs,
  type Span,
  type TimeBase,
} from "@/core/time/span";
import type { HandledValue, StepSize } from "./useValueHands";

const STEPS_OF: Record<StepSize, number> = { step: 1, fine: 1, page: 10 };

/** Decimals a dragged value is kept to, so that files hold no noise. */
const tidy = (p: Parameter, value: number): number => {
  if (p.digits === 0 && p.unit !== "Hz") return Math.round(value);
  const decimals = p.unit === "Hz" && value >= 100 ? 1 : Math.max(2, p.digits);
  return Number(value.toFixed(decimals));
};

/** A parameter's value for the hands. */
export function parameterValue(
  p: Parameter,
  value: number,
  set: (value: number, gesture?: string) => void,
  text: (value: number) => string = (v) => formatValue(p, v),
): HandledValue {
  const change = (next: number, gesture?: string): void => set(clampToParameter(p, tidy(p, next)), gesture);
  return {
    norm: Math.min(1, Math.max(0, toNorm(p, value))),
    text: text(value),
    origin: p.min === -p.max ? 0.5 : 0,
    now: value,
    min: p.min,
    max: p.max,
    spoken: spokenValue(p, value),
    setNorm: (norm, gesture) => change(fromNorm(p, norm), gesture),
    step: (direction, size, gesture) => {
      const by = size === "fine" ? p.fine : p.step;
      const times = direction * STEPS_OF[size];
      change(p.taper === "log" ? value * by ** times : value + by * times, gesture);
    },
    type: (typed) => {
      const read = parseValue(p, typed);
      if (read === null) return howToWrite(p.unit);
      set(roundToDigits(p, read));
      return null;
    },
    reset: () => set(p.default),
  };
}

const BARE_NUMBER = /^\d*[.,]?\d+$/;

/** Ends of the bar of a time or rate, in milliseconds. */
const SPAN_BAR = { min: 0.5, max: 60_000 };

export interface SpanRules {
  readonly min: number;
  readonly max: number;
  /** Whether a rate in Hz is understood. */
  readonly hz: boolean;
}

const inHz = (hz: number): number => Math.min(HZ_RANGE.max, Math.max(HZ_RANGE.min, hz));

/** Place of a time or rate on its bar, 0 to 1, from its length in milliseconds. */
export const spanNorm = (ms: number): number =>
  Math.min(1, Math.max(0, Math.log(Math.max(ms, SPAN_BAR.min) / SPAN_BAR.min) / Math.log(SPAN_BAR.max / SPAN_BAR.min)));

const MS_STEP = 2 ** (1 / 6);
const MS_FINE = 2 ** (1 / 48);

const nearestSynced = (targetMs: number, base: TimeBase): number => {
  const gap = (span: Span): number => Math.abs(Math.log(spanMs(span, base) / Math.max(targetMs, 0.1)));
  return SYNCED_SPANS.reduce((best, s, i) => (gap(s) < gap(SYNCED_SPANS[best]!) ? i : best), 0);
};

/** The span nearest to a length in milliseconds, in the unit of `like`: the nearest note value where that is synced. */
export function spanNear(like: Span, ms: number, base: TimeBase, rules: SpanRules): Span {
  if (isSynced(like)) return SYNCED_SPANS[nearestSynced(ms, base)]!;
  const held = Math.min(rules.max, Math.max(rules.min, ms));
  if (like.unit === "hz") return { unit: "hz", hz: Number(inHz(1000 / held).toFixed(3)) };
  return { unit: "ms", ms: Number(held.toFixed(held < 10 ? 2 : 1)) };
}

/** A time or rate for the hands: one in note values moves along the note values, one in ms or Hz along a log scale. */
export function spanValue(
  span: Span,
  base: TimeBase,
  rules: SpanRules,
  fallback: Span,
  set: (span: Span, gesture?: string) => void,
): HandledValue {
  const ms = spanMs(span, base);
  return {
    norm: spanNorm(ms),
    text: formatSpan(span),
    origin: 0,
    now: ms,
    min: rules.min,
    max: rules.max,
    spoken: isSynced(span) ? `${formatSpan(span)}, ${Math.round(ms)} milliseconds` : formatSpan(span),
    setNorm: (norm, gesture) => {
      const target = norm === 0 ? rules.min : SPAN_BAR.min * (SPAN_BAR.max / SPAN_BAR.min) ** norm;
      set(spanNear(span, target, base, rules), gesture);
    },
    step: (direction, size, gesture) => {
      if (isSynced(span)) {
        const at = nearestSynced(ms, base) + direction * (size === "page" ? 3 : 1);
        set(SYNCED_SPANS[Math.min(SYNCED_SPANS.length - 1, Math.max(0, at))]!, gesture);
        return;
      }
      const ratio = (size === "fine" ? MS_FINE : MS_STEP) ** (direction * STEPS_OF[size]);
      set(spanNear(span, Math.max(ms, 0.5) * ratio, base, rules), gesture);
    },
    type: (typed) => {
      if (isSynced(span) && BARE_NUMBER.test(typed.trim()))
        return `"${typed.trim()}" of what? Write a note value, bars or a unit: "1/8", "1/8T", "2 bars", "120 ms".`;
      const read = parseSpan(typed);
      if (!read || (read.unit === "hz" && !rules.hz))
        return `Write a time or a note value: "250 ms", "1.2 s", ${rules.hz ? '"4 Hz", ' : ""}"1/8", "1/8 dotted", "1/8T", "2 bars".`;
      if (read.unit === "ms") set({ unit: "ms", ms: Math.min(rules.max, Math.max(rules.min, read.ms)) });
      else if (read.unit === "hz") set({ unit: "hz", hz: inHz(read.hz) });
      else set(read);
      return null;
    },
    reset: () => set(fallback),
  };
}

/** Times of envelope stages, as the schema bounds them. */
export const TIME_RULES: SpanRules = { min: 0, max: 60_000, hz: false };
/** Lengths of shape cycles. */
export const RATE_RULES: SpanRules = { min: 1, max: 60_000, hz: true };
