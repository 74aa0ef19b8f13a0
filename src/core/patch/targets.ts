import { AMOUNT, addressOf, splitAddress, type Address } from "./address";
import { kindOf, type Module } from "./kinds";
import type { Role } from "./kinds/kind";
import type { Patch, Route } from "./project";
import { row, type Move, type Parameter, type Unit } from "./row";

/** Something that a route can move. */
export interface Target {
  readonly address: Address;
  readonly label: string;
  /** Of what: the module's name, or the source of the route. */
  readonly of: string;
  readonly role: Role | "route";
  readonly move: Move;
  /** The row, where the value is a number and not a time or an amount. */
  readonly row: Parameter | null;
  /** The value at rest; null for times. */
  readonly rest: number | null;
}

/** By module, which never changes: they are asked for again and again. */
const known = new WeakMap<Module, readonly Target[]>();

function targetsOfModule(module: Module): readonly Target[] {
  const found = known.get(module) ?? listTargets(module);
  known.set(module, found);
  return found;
}

function listTargets(module: Module): Target[] {
  const kind = kindOf(module);
  const common = { of: module.name, role: kind.role };
  const values: Readonly<Record<string, number>> = module.values;
  return [
    ...Object.entries(kind.rows).flatMap(([id, row]): Target[] =>
      row.move
        ? [{ ...common, address: addressOf(module.id, id), label: row.label, move: row.move, row, rest: values[id]! }]
        : [],
    ),
    ...Object.entries(kind.times).flatMap(([id, time]): Target[] =>
      time.move
        ? [{ ...common, address: addressOf(module.id, id), label: time.label, move: time.move, row: null, rest: null }]
        : [],
    ),
  ];
}

/** Amounts of routes are moved in their own unit. A route that moves an amount is one more deep, and found all the same. */
function targetOfRoute(patch: Patch, songModules: readonly Module[], route: Route, depth: number): Target | null {
  if (depth > patch.routes.length) return null;
  const moves = find(patch, songModules, route.target, depth + 1);
  if (!moves) return null;
  const unit: Unit = route.amplitude ? "%" : moves.move.unit;
  const reach = route.amplitude ? AMPLITUDE_REACH : moves.move.reach;
  return {
    address: addressOf(route.id, AMOUNT),
    label: "Amount",
    of: `${route.source} to ${moves.label.toLowerCase()}`,
    role: "route",
    move: { unit, reach, first: 0 },
    row: null,
    rest: route.amount,
  };
}

/** An amount in percent of amplitude goes from silence to twice the amplitude. */
export const AMPLITUDE_REACH = 100;

function find(patch: Patch, songModules: readonly Module[], address: Address, depth: number): Target | null {
  const { owner, parameter } = splitAddress(address);
  const module = patch.modules.find((m) => m.id === owner) ?? songModules.find((m) => m.id === owner);
  if (module) return targetsOfModule(module).find((t) => t.address === address) ?? null;
  const route = parameter === AMOUNT ? patch.routes.find((r) => r.id === owner) : undefined;
  return route ? targetOfRoute(patch, songModules, route, depth) : null;
}

/** Everything that the routes of a patch can move, in the order of its modules, then amounts of routes. */
export const targetsOf = (patch: Patch, songModules: readonly Module[]): Target[] => [
  ...patch.modules.flatMap(targetsOfModule),
  ...songModules.flatMap(targetsOfModule),
  ...patch.routes.flatMap((r) => targetOfRoute(patch, songModules, r, 0) ?? []),
];

/** The target at an address; null when there is none, or it cannot be moved. */
export const targetAt = (patch: Patch, songModules: readonly Module[], address: Address): Target | null =>
  find(patch, songModules, address, 0);

/** Sources that every note brings along. Bipolar ones go from -1 to 1, others from 0 to 1. */
export const NOTE_SOURCES = [
  { id: "velocity", name: "Velocity", bipolar: false },
  { id: "key", name: "Key", bipolar: true },
  { id: "copy", name: "Copy", bipolar: true },
  { id: "freeA", name: "Free lane A", bipolar: false },
  { id: "freeB", name: "Free lane B", bipolar: false },
  { id: "held", name: "Held", bipolar: false },
  { id: "count", name: "Onset count", bipolar: false },
  { id: "wheel", name: "Mod wheel", bipolar: false },
  { id: "bend", name: "Pitch bend", bipolar: true },
  { id: "pressure", name: "Pressure", bipolar: false },
] as const;
export type NoteSource = (typeof NOTE_SOURCES)[number]["id"];

/** How far ahead a route reads the cycle of its source. */
export const TAP = row({ label: "Ahead", unit: "°", min: 0, max: 359, default: 0, step: 15, fine: 1, hint: "How far ahead in its cycle the source is read: 90° is a quarter of the way round." }); // prettier-ignore

/** Whether routes may read a source ahead of where it stands in its cycle: shapes and step sequences. */
export const canTap = (m: Module | null | undefined): boolean => m?.kind === "shape" || m?.kind === "steps";

export interface Source {
  readonly id: string;
  readonly name: string;
  readonly module: Module | null;
}

/** Everything that can move a value of a patch. */
export const sourcesOf = (patch: Patch, songModules: readonly Module[]): Source[] => [
  ...[...patch.modules, ...songModules]
    .filter((m) => kindOf(m).role === "modulator")
    .map((m) => ({ id: m.id, name: m.name, module: m })),
  ...NOTE_SOURCES.map((s) => ({ id: s.id, name: s.name, module: null })),
];
