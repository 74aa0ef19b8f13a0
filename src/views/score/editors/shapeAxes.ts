import type { Route } from "@/core/patch/project";
import type { Target } from "@/core/patch/targets";
import type { Automatable } from "@/core/patch/automation";
import { fromNorm, toNorm } from "@/core/patch/row";
import { formatAmount, parseAmount } from "@/core/patch/valueText";
import { inScale, noteName, parseNote, usesFlats, type Key } from "@/core/pitch/note";
import { beatTicks, formatPosition, parsePosition } from "@/core/time/meter";
import { TICKS_PER_WHOLE, noteValueTicks, parseNoteValue } from "@/core/time/noteValue";
import { formatSpan, isSynced, parseSpan, spanMs, spanTicks, type Span, type TimeBase } from "@/core/time/span";
import { roundMarks } from "@/core/curve/roundMarks";
import type { AxisMark } from "@/ui/curve/curveProps";

/** What a shape's value is read as: percent, or what one of its routes makes of it. */
export interface ValueReading {
  /** Ruled lines with their texts. */
  readonly marks: readonly AxisMark[];
  /** One snap, as a fraction of the range. */
  readonly snap: number;
  readonly text: (y: number) => string;
  /** The place of what was typed, in the unit of `text`; null when it cannot be read. */
  readonly read: (text: string) => number | null;
  /** The place of the nearest note of the song's key; null where values are no pitches. */
  readonly inKey: ((y: number) => number) | null;
}

const STEPS = [0.02, 0.05, 0.1, 0.2, 0.25, 0.5, 1, 2, 3, 5, 6, 10, 12, 20, 25, 50];
const LINES = 12;

/** The smallest round step that rules a range with at most a dozen lines. */
export const niceStep = (range: number): number => STEPS.find((s) => range / s <= LINES + 1e-9) ?? 100;

/** Lines at whole steps from one value to another, the even ones strong. */
function ruled(
  low: number,
  high: number,
  step: number,
  text: (value: number) => string,
  far: (value: number) => string | undefined,
): AxisMark[] {
  const first = Math.ceil(Math.min(low, high) / step - 1e-9);
  const last = Math.floor(Math.max(low, high) / step + 1e-9);
  return Array.from({ length: last - first + 1 }, (_, i): AxisMark => {
    const value = (first + i) * step;
    const strong = (first + i) % 2 === 0;
    const second = strong ? far(value) : undefined;
    return { at: (value - low) / (high - low), text: text(value), strong, ...(second ? { far: second } : {}) };
  });
}

export const PERCENT: ValueReading = {
  marks: ruled(
    0,
    100,
    10,
    (v) => formatAmount(v, "%", 0),
    () => undefined,
  ),
  snap: 0.05,
  text: (y) => formatAmount(y * 100, "%", 0),
  read: (text) => {
    const percent = parseAmount(text, "%");
    return percent === null ? null : percent / 100;
  },
  inKey: null,
};

/** Reads a shape's value as the amount that a route adds: semitones with notes, octaves with Hz, dB, percent. */
export function routeReading(route: Route, target: Target, key: Key): ValueReading {
  const unit = route.amplitude ? "%" : target.move.unit;
  const rest = target.rest;
  if (route.amount === 0) return PERCENT;
  const low = route.around ? -route.amount : 0;
  const span = route.amount - low;
  const range = Math.abs(span);
  const pitch = unit === "st";
  const semitones = pitch && range <= 24;
  const step = semitones ? 1 : niceStep(range);
  const root = 48 + key.tonic;
  const flats = usesFlats(key);
  const of = (y: number): number => low + span * (route.reversed ? 1 - y : y);
  const placeOf = (amount: number): number =>
    (route.reversed ? 1 : 0) + ((route.reversed ? -1 : 1) * (amount - low)) / span;
  /** Round figures of what the value becomes stand on the right, where they are no notes. */
  const becomes =
    rest === null || pitch
      ? null
      : unit === "oct"
        ? {
            of: (a: number) => rest * 2 ** a,
            amountOf: (v: number) => Math.log2(v / rest),
            unit: "Hz" as const,
            log: true,
          }
        : unit === "dB"
          ? { of: (a: number) => rest + a, amountOf: (v: number) => v - rest, unit: "dB" as const, log: false }
          : null;
  const far = (amount: number): string | undefined => {
    if (pitch) return noteName(root + amount, flats);
    if (unit === "oct" && rest !== null) return formatAmount(rest * 2 ** amount, "Hz", 0);
    if (unit === "dB" && rest !== null) return formatAmount(rest + amount, "dB", 1);
    return undefined;
  };
  const digits = step < 0.1 ? 2 : step < 1 ? 1 : 0;
  const ends = becomes ? [becomes.of(low), becomes.of(route.amount)].sort((a, b) => a - b) : [];
  const marks = [
    ...ruled(low, route.amount, step, (v) => formatAmount(v, unit, digits, true), becomes ? () => undefined : far),
    ...(becomes
      ? roundMarks(ends[0]!, ends[1]!, becomes.log).map((v): AxisMark => ({
          at: (becomes.amountOf(v) - low) / span,
          text: "",
          strong: false,
          bare: true,
          far: formatAmount(v, becomes.unit, 0).replace(".00 kHz", " kHz"),
        }))
      : []),
  ];
  return {
    marks: route.reversed ? marks.map((m) => ({ ...m, at: 1 - m.at })) : marks,
    snap: step / range / (semitones ? 1 : 2),
    text: (y) => {
      const amount = of(y);
      const second = far(amount);
      return `${formatAmount(amount, unit, semitones ? 0 : 2, true)}${second ? `, ${second}` : ""}`;
    },
    read: (text) => {
      const key = pitch ? parseNote(text) : null;
      const amount = key !== null ? key - root : parseAmount(text, unit);
      return amount === null ? null : placeOf(amount);
    },
    inKey: pitch ? (y) => placeOf(nearestInKey(of(y), low, route.amount, root, key)) : null,
  };
}

/** The whole semitones above a tonic that are nearest to an amount and a note of its key, of those between two amounts; the amount where there are none. */
function nearestInKey(amount: number, from: number, to: number, root: number, key: Key): number {
  const [low, high] = [Math.ceil(Math.min(from, to)), Math.floor(Math.max(from, to))];
  const inside = Array.from({ length: Math.max(0, high - low + 1) }, (_, i) => low + i).filter((a) => inScale(root + a, key));
  return inside.reduce((best, a) => (Math.abs(a - amount) < Math.abs(best - amount) ? a : best), inside[0] ?? amount);
} // prettier-ignore

/** What can be automated on its own scale: round figures, texts as they are typed; rates in note values. */
export function automatedReading({ row, text, read }: Automatable): ValueReading {
  const log = row.taper === "log";
  // Eleven octaves of note values, each with a line.
  const rates = row.unit === "" && log;
  const octaves = Math.round(Math.log2(row.max / row.min));
  const figures = rates
    ? Array.from({ length: octaves + 1 }, (_, k) => row.min * 2 ** k)
    : roundMarks(row.min, row.max, log);
  return {
    marks: figures.map((v, i) => ({
      at: toNorm(row, v),
      text: text(v).replace(".00 kHz", " kHz"),
      strong: i % 2 === 0,
    })),
    snap: log ? Math.log(row.step) / Math.log(row.max / row.min) : row.step / (row.max - row.min),
    text: (y) => text(fromNorm(row, y)),
    read: (typed) => {
      const value = read(typed);
      return value === null ? null : toNorm(row, value);
    },
    inKey: null,
  };
}

/** Snaps in time, as parts of a whole note; 0 is none. */
export const SNAPS = { "1/1": 1, "1/4": 4, "1/8": 8, "1/16": 16, "1/32": 32, "1/64": 64, off: 0 } as const;
export type SnapName = keyof typeof SNAPS;

export interface TimeReading {
  readonly marks: readonly AxisMark[];
  readonly snap: number;
  readonly text: (x: number) => string;
  /** Where the cycle runs in seconds: what a snap of 1/n of a bar becomes there. */
  readonly snapText?: (parts: number) => string;
  /** The place of what was typed, in the unit of `text`; null when it cannot be read. */
  readonly read: (text: string) => number | null;
}

/** The round length nearest below 4/n of a cycle in seconds: its snap, in milliseconds. */
const msSnap = (ms: number, parts: number): number => {
  const wanted = ms * Math.min(0.25, 2 / parts);
  const decade = 10 ** Math.floor(Math.log10(wanted));
  return decade * ([5, 2, 1].find((m) => m * decade <= wanted + 1e-9) ?? 1);
};

/** A cycle of some length over the song grid (snap 1/`parts` of a whole note, 0 for none), or over round milliseconds. */
export function timeReading(rate: Span, base: TimeBase, parts: number): TimeReading {
  if (!isSynced(rate)) {
    const ms = spanMs(rate, base);
    const text = (x: number): string => formatAmount(x * ms, "ms", ms < 20 ? 2 : ms < 200 ? 1 : 0);
    const line = msSnap(ms, 16);
    const every = Math.ceil(ms / line / 6);
    const marks = Array.from({ length: Math.floor(ms / line + 1e-6) + 1 }, (_, i): AxisMark => ({
      at: Math.min(1, (i * line) / ms),
      text:
        i % every === 0 && i * line < ms * 0.97
          ? formatSpan({ unit: "ms", ms: Number((i * line).toPrecision(6)) })
          : "",
      strong: i % every === 0,
    }));
    return {
      marks,
      snap: parts > 0 ? msSnap(ms, parts) / ms : 0,
      text,
      snapText: (n) => formatSpan({ unit: "ms", ms: Number(msSnap(ms, n).toPrecision(3)) }),
      read: (typed) => {
        const read = parseSpan(typed);
        return read?.unit === "ms" ? read.ms / ms : null;
      },
    };
  }
  const snapTicks = parts > 0 ? noteValueTicks({ num: 1, den: parts }) : 0;
  const ticks = spanTicks(rate, base);
  const beat = beatTicks(base.meter);
  const labelled = Math.max(beat, Math.ceil(ticks / 16 / beat) * beat);
  const grid = snapTicks > 0 && ticks / snapTicks <= 64 ? snapTicks : Math.min(beat, ticks / 4);
  const marks: AxisMark[] = [];
  for (let t = 0; t <= ticks + 1e-6; t += grid) {
    const onLabel = t % labelled === 0 && t < ticks;
    marks.push({
      at: t / ticks,
      text: onLabel ? formatPosition(t, base.meter).replace(/\.1$/, "") : "",
      strong: t % beat === 0,
    });
  }
  return {
    marks,
    snap: snapTicks / ticks,
    text: (x) => formatPosition(x * ticks, base.meter),
    read: (typed) => {
      const note = parseNoteValue(typed);
      const tick = note ? (note.num * TICKS_PER_WHOLE) / note.den : parsePosition(typed, base.meter);
      return tick === null ? null : tick / ticks;
    },
  };
}
