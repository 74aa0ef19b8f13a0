import type * as z from "../zod";
import type { Span } from "../../time/span";
import type { Move, Parameter } from "../row";

/** One of a few named settings. */
export interface Choice {
  readonly label: string;
  readonly options: readonly [string, ...string[]];
  /** What a file that lacks it means. */
  readonly default: string;
}

/** A length of time or the length of a cycle, as a span. */
export interface TimeRow {
  readonly label: string;
  readonly default: Span;
  /** Shortest and longest, in milliseconds. */
  readonly min: number;
  readonly max: number;
  /** Whether it may be given in Hz. */
  readonly hz: boolean;
  readonly move: Move | null;
}

/**
 * Where modules of a kind stand: sources make sound, effects change it, an output ends the chain of each note, the mix takes
 * all notes of a part together; modulators move values; rules say how notes are played; automation stands in for what a value is at rest;
 * a backing stands in for the song around the parts.
 */
export type Role = "source" | "effect" | "output" | "mix" | "modulator" | "rule" | "automation" | "backing";

export interface KindShape {
  readonly kind: string;
  readonly label: string;
  readonly role: Role;
  /** How many of the kind a patch needs and holds. */
  readonly least: number;
  readonly most: number;
  readonly rows: Readonly<Record<string, Parameter>>;
  readonly choices: Readonly<Record<string, Choice>>;
  readonly times: Readonly<Record<string, TimeRow>>;
  /** Fields of `data`, checked by Zod; a field without a default must be there. */
  readonly data: Readonly<Record<string, z.Schema>>;
}

/** The key of a row in a kind's record of rows: what addresses and files have. Throws RangeError for a row of another kind. */
export function keyOfRow(rows: Readonly<Record<string, unknown>>, row: unknown): string {
  const key = Object.keys(rows).find((k) => rows[k] === row);
  if (key === undefined) throw new RangeError("the row belongs to another kind");
  return key;
}

/** A kind of module, typed by what it declares. Everything else derives from it. */
export const defineKind = <const K extends KindShape>(kind: K): K => kind;

type ValuesOf<K extends KindShape> = { readonly [P in keyof K["rows"]]: number };
type ChoicesOf<K extends KindShape> = { readonly [P in keyof K["choices"]]: K["choices"][P]["options"][number] };
type TimesOf<K extends KindShape> = { readonly [P in keyof K["times"]]: Span };
export type DataOf<K extends KindShape> = { readonly [P in keyof K["data"]]: z.output<K["data"][P]> };

/** One module of a patch or of the song. */
export interface ModuleOf<K extends KindShape> {
  readonly id: string;
  readonly kind: K["kind"];
  readonly name: string;
  readonly on: boolean;
  readonly values: ValuesOf<K>;
  readonly choices: ChoicesOf<K>;
  readonly times: TimesOf<K>;
  readonly data: DataOf<K>;
}

/** A module with the defaults of its rows; `data` is the caller's. */
export function newModule<K extends KindShape>(kind: K, id: string, name: string, data: DataOf<K>): ModuleOf<K> {
  const from = <T, U>(record: Readonly<Record<string, T>>, pick: (row: T) => U): Record<string, U> =>
    Object.fromEntries(Object.entries(record).map(([key, value]) => [key, pick(value)]));
  return {
    id,
    kind: kind.kind,
    name,
    on: true,
    values: from(kind.rows, (r) => r.default) as ValuesOf<K>,
    choices: from(kind.choices, (c) => c.default) as ChoicesOf<K>,
    times: from(kind.times, (t) => t.default) as TimesOf<K>,
    data,
  };
}

type Settings = "values" | "choices" | "times" | "data";

/** A module with some of its values, choices, times and data as given, the others as they are. */
export function adjusted<M extends Pick<ModuleOf<KindShape>, Settings>>(
  module: M,
  some: { readonly [P in Settings]?: Partial<M[P]> },
): M {
  const fields = Object.keys(some) as Settings[];
  return { ...module, ...Object.fromEntries(fields.map((f) => [f, { ...module[f], ...some[f] }])) };
}
