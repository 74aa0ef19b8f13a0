import { splitAddress, type Address } from "./address";
import { AUTOMATION, type Automation } from "./kinds/automation";
import { ENVELOPE } from "./kinds/envelope";
import { kindOf, modulesOf, type Module } from "./kinds";
import { newModule, type TimeRow } from "./kinds/kind";
import type { Patch } from "./project";
import { row, toNorm, type Parameter } from "./row";
import { formatValue, parseValue } from "./valueText";
import { MAX_POINTS, type CurvePoint } from "../curve/curve";
import { NOTE_VALUES, TICKS_PER_WHOLE, noteValueName, type NoteValue } from "../time/noteValue";
import { HZ_RANGE, formatSpan, isSynced, parseSpan, spanMs, spanTicks, type Span, type TimeBase } from "../time/span";
import { simplifyTo } from "../curve/simplify";

/** What can be automated, and the scale that its break points lie on. */
export interface Automatable {
  readonly module: Module;
  /** Of a rate, one that goes up as the rate does: cycles of a whole note where it follows the tempo, else a second. */
  readonly row: Parameter;
  readonly rest: number;
  readonly text: (value: number) => string;
  /** Reads what `text` tells; null for what cannot be read. */
  readonly read: (text: string) => number | null;
}

/** Rates that follow the tempo, in cycles of a whole note: from 32 whole notes to 1/64. */
const SYNCED_RATE = {
  unit: "",
  min: 1 / 32,
  max: 64,
  default: 4,
  taper: "log",
  step: 2,
  fine: 2 ** (1 / 12),
} as const;
const FREE_RATE = { unit: "Hz", ...HZ_RANGE, default: 1, taper: "log", step: 2 ** (1 / 2), fine: 2 ** (1 / 12), digits: 2 } as const; // prettier-ignore

const wholes = (span: Span, base: TimeBase): number => TICKS_PER_WHOLE / spanTicks(span, base);

/** Rates are read as what they are nearest to; so near an octave's hundredth is called by its name alone. */
function rateText(cycles: number): string {
  const off = (v: NoteValue): number => Math.abs(Math.log2((cycles * v.num) / v.den));
  const near = [...NOTE_VALUES, ...LONG_NOTES].reduce((best, v) => (off(v) < off(best) ? v : best));
  return off(near) < 0.01 ? noteValueName(near) : `about ${noteValueName(near)}`;
}
/** Whole notes that a rate may last, beside the usual values. */
const LONG_NOTES: readonly NoteValue[] = [2, 4, 8, 16, 32].map((num) => ({ num, den: 1 }));

function automatableRate(module: Module, time: TimeRow, span: Span, base: TimeBase): Automatable {
  if (isSynced(span)) {
    const read = (text: string): number | null => {
      const typed = parseSpan(text);
      return typed && isSynced(typed) ? wholes(typed, base) : null;
    };
    const scale = row({ ...SYNCED_RATE, label: time.label });
    return { module, row: scale, rest: wholes(span, base), text: rateText, read };
  }
  const scale = row({ ...FREE_RATE, label: time.label });
  const read = (text: string): number | null => parseValue(scale, text);
  return { module, row: scale, rest: 1000 / spanMs(span, base), text: (v) => formatValue(scale, v), read };
}

/** Lengths that are automated, in milliseconds; note values are read as what they last now. */
export const SHORTEST_MS = 0.1;
const LENGTH = { unit: "ms", min: SHORTEST_MS, default: 100, taper: "log", step: 2 ** (1 / 4), fine: 2 ** (1 / 24), digits: 1 } as const; // prettier-ignore

function automatableLength(module: Module, time: TimeRow, span: Span, base: TimeBase): Automatable {
  const scale = row({ ...LENGTH, label: time.label, max: time.max });
  const read = (text: string): number | null => {
    const typed = parseSpan(text);
    return typed && spanMs(typed, base);
  };
  const text = (ms: number): string => formatSpan({ unit: "ms", ms });
  return { module, row: scale, rest: Math.max(scale.min, spanMs(span, base)), text, read };
}

/** Whether there is something to automate at an address: a number that routes can move, a rate, or a length of each note's own. */
export function canAutomate(patch: Pick<Patch, "modules">, address: Address): boolean {
  const { owner, parameter } = splitAddress(address);
  const module = patch.modules.find((m) => m.id === owner);
  if (!module) return false;
  const { rows, times } = kindOf(module);
  return (rows[parameter]?.move ?? null) !== null || isRate(times[parameter]) || isLength(module, times[parameter]);
}

/** Times that may be given in Hz are rates. */
const isRate = (time: TimeRow | undefined): time is TimeRow => time?.hz === true && time.move !== null;

/** An envelope that all notes share is not let go. */
const isLength = (module: Module, time: TimeRow | undefined): time is TimeRow =>
  time?.hz === false &&
  time.move !== null &&
  !(module.kind === "envelope" && module.choices.restart !== "note" && time === ENVELOPE.times.release);

/** What can be automated at an address, as `canAutomate` says; null for anything else. */
export function automatable(patch: Pick<Patch, "modules">, address: Address, base: TimeBase): Automatable | null {
  const { owner, parameter } = splitAddress(address);
  const module = patch.modules.find((m) => m.id === owner);
  if (!module) return null;
  const { rows, times } = kindOf(module);
  const found = rows[parameter];
  if (found?.move) {
    const values: Readonly<Record<string, number>> = module.values;
    return {
      module,
      row: found,
      rest: values[parameter]!,
      text: (v) => formatValue(found, v),
      read: (text) => parseValue(found, text),
    };
  }
  const time = times[parameter];
  const spans: Readonly<Record<string, Span>> = module.times;
  if (isRate(time)) return automatableRate(module, time, spans[parameter]!, base);
  return isLength(module, time) ? automatableLength(module, time, spans[parameter]!, base) : null;
}

/** Ticks of a pass at which break points jump, in order. */
export const jumpsOf = (points: readonly CurvePoint[], loopTicks: number): number[] =>
  points.flatMap((p, i) => {
    const before = points[i - 1];
    return before?.x === p.x && before.y !== p.y && p.x < 1 ? [Math.round(p.x * loopTicks)] : [];
  });

/** The automation of a value, on or off; null where it has none. */
export const automationOf = (patch: Patch, address: Address): Automation | null =>
  modulesOf(patch.modules, AUTOMATION).find((a) => a.data.target === address) ?? null;

/** Gives a value an automation that holds it where it is; the patch as it is where it has one, or cannot have one. */
export function withAutomation(patch: Patch, address: Address, id: string, base: TimeBase): Patch {
  const found = automatable(patch, address, base);
  if (!found || automationOf(patch, address)) return patch;
  if (modulesOf(patch.modules, AUTOMATION).length >= AUTOMATION.most) return patch;
  const y = Math.min(1, Math.max(0, toNorm(found.row, found.rest)));
  const points = [0, 1].map((x) => ({ x, y, tension: 0 }));
  const name = `${found.row.label} of ${found.module.name}`.slice(0, 80);
  return { ...patch, modules: [...patch.modules, newModule(AUTOMATION, id, name, { target: address, points })] };
}

/**
 * Writes what a hand did from one place of the loop to another over what was there: `places` in order, on the value's own
 * scale. What lies before and after stays; the curve comes back to it at the end.
 */
export function writtenPoints(
  points: readonly CurvePoint[],
  places: readonly { readonly x: number; readonly y: number }[],
): readonly CurvePoint[] {
  if (places.length === 0) return points;
  const [first, last] = [places[0]!, places.at(-1)!];
  const before = points.filter((p) => p.x < first.x);
  const after = points.filter((p) => p.x > last.x);
  // The hand's value stands from where it took hold.
  const own = places.map(({ x, y }) => ({ x, y, tension: 0 }));
  const whole = [...before, ...own, ...after];
  return simplifyTo(whole, MAX_POINTS);
}
