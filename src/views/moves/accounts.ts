import { splitAddress, type Address } from "@/core/patch/address";
import { automationOf } from "@/core/patch/automation";
import { kindOf, type Module } from "@/core/patch/kinds";
import type { Patch, Route } from "@/core/patch/project";
import { sourcesOf, targetAt, targetsOf, type Target } from "@/core/patch/targets";
import { formatAmount, formatValue } from "@/core/patch/valueText";
import { noteName } from "@/core/pitch/note";
import { formatSpan, spanMs, type Span, type TimeBase } from "@/core/time/span";
import { heardValue } from "../score/heardTracks";

/** Routes that belong together: all that move one value, or all that one source moves. */
export interface Account {
  /** An address, or the id of a source. */
  readonly id: string;
  readonly title: string;
  readonly of: string;
  /** The value that they move; null where they belong to a source. */
  readonly target: Target | null;
  readonly routes: readonly Route[];
}

export type Order = "sound" | "name" | "count";
export type Side = "moved" | "moves";

/** "Swell: rate" for what belongs to a modulator, as for a module. */
const nameOf = (t: Target): string => (t.role === "route" ? `${t.label} of ${t.of}` : t.label);

/**
 * The book of a patch: an account for each value that is moved, or for each source that moves some, in the order of the
 * sound, by name, or those with the most routes first. `wanted` leaves those in whose source or value has all of its words.
 */
export function accountsOf(
  patch: Patch,
  songModules: readonly Module[],
  side: Side,
  order: Order,
  wanted: string,
): Account[] {
  const sources = sourcesOf(patch, songModules);
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (r: Route): boolean => {
    const target = targetAt(patch, songModules, r.target);
    const source = sources.find((s) => s.id === r.source);
    const text = `${source?.name ?? ""} ${target?.label ?? ""} ${target?.of ?? ""}`.toLowerCase();
    return words.every((w) => text.includes(w));
  };
  const routes = patch.routes.filter(fits);
  const accounts =
    side === "moved"
      ? targetsOf(patch, songModules).flatMap((target): Account[] => {
          const mine = routes.filter((r) => r.target === target.address);
          return mine.length === 0
            ? []
            : [
                {
                  id: target.address,
                  title: nameOf(target),
                  of: target.role === "route" ? "" : target.of,
                  target,
                  routes: mine,
                },
              ];
        })
      : sources.flatMap((source): Account[] => {
          const mine = routes.filter((r) => r.source === source.id);
          const of = source.module ? kindOf(source.module).label.toLowerCase() : "from the notes and the hands";
          return mine.length === 0 ? [] : [{ id: source.id, title: source.name, of, target: null, routes: mine }];
        });
  if (order === "name") accounts.sort((a, b) => a.title.localeCompare(b.title) || a.of.localeCompare(b.of));
  if (order === "count") accounts.sort((a, b) => b.routes.length - a.routes.length);
  return accounts;
}

/** The time of a module at an address; null where it is none. */
function spanAt(patch: Patch, address: Address): { span: Span; rate: boolean } | null {
  const { owner, parameter } = splitAddress(address);
  const module = patch.modules.find((m) => m.id === owner);
  const times: Readonly<Record<string, Span>> = module?.times ?? {};
  const span = times[parameter];
  // A rate that goes up by an octave takes half of the time.
  return span ? { span, rate: parameter === "rate" } : null;
}

/** The value at rest, for people. */
export function restText(patch: Patch, t: Target): string {
  if (automationOf(patch, t.address)?.on) return "automated";
  const time = spanAt(patch, t.address);
  if (time) return formatSpan(time.span);
  if (t.row && t.move.unit === "st" && t.rest === 0) return "as played";
  if (t.rest === null) return "";
  return t.row ? formatValue(t.row, t.rest) : formatAmount(t.rest, t.move.unit, 2, true);
}

/** Lowest and highest of what is heard of a value, for people, and whether it is held at one of its ends. */
export function rangeText(
  patch: Patch,
  t: Target,
  range: { low: number; high: number },
  base: TimeBase,
): { text: string; held: string | null } {
  const between = (a: string, b: string): string => (a === b ? a : `${a} to ${b}`);
  const time = spanAt(patch, t.address);
  if (time) {
    const at = (octaves: number): string => {
      const ms = spanMs(time.span, base) * 2 ** (time.rate ? -octaves : octaves);
      return formatSpan({ unit: "ms", ms: Number(ms.toPrecision(3)) });
    };
    return { text: between(at(range.low), at(range.high)), held: null };
  }
  const value = heardValue(patch, t.address);
  if (!value)
    return {
      text: between(formatAmount(range.low, t.move.unit, 2, true), formatAmount(range.high, t.move.unit, 2, true)),
      held: null,
    };
  const { row, reads } = value;
  const text = (v: number): string =>
    reads === "key"
      ? noteName(Math.round(v))
      : formatAmount(reads === "octaves" ? row.default * 2 ** v : v, row.unit, row.unit === "Hz" ? 0 : row.digits);
  const near = (v: number, end: number): boolean => Math.abs(v - end) <= 1e-6 * Math.max(1, Math.abs(end));
  const bounded = reads === "hz" || (reads === "plain" && row.unit !== "°");
  const held = !bounded ? null : near(range.high, row.max) ? row.max : near(range.low, row.min) ? row.min : null;
  return { text: between(text(range.low), text(range.high)), held: held === null ? null : text(held) };
}
