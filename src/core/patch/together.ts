import { splitAddress, type Address } from "./address";
import { withModule } from "./edit";
import { kindOf, type Module } from "./kinds";
import type { Patch } from "./project";
import { clampToParameter, type Parameter } from "./row";

/** Values of a patch that are changed together: those of its modules' rows. */

/** The module and the row at an address of a patch; null where there is none. */
function rowAt(patch: Patch, address: Address): { module: Module; key: string; row: Parameter; value: number } | null {
  const { owner, parameter: key } = splitAddress(address);
  const module = patch.modules.find((m) => m.id === owner);
  const row = module && kindOf(module).rows[key];
  if (!row) return null;
  const values: Readonly<Record<string, number>> = module.values;
  return { module, key, row, value: values[key]! };
}

/** What of some values can be changed with one of them: those in its unit, itself included. */
export const changedWith = (patch: Patch, address: Address, others: readonly Address[]): readonly Address[] => {
  const own = rowAt(patch, address);
  return own ? others.filter((a) => rowAt(patch, a)?.row.unit === own.row.unit) : [];
};

/** Values as they stand, by their addresses. */
export const valuesAt = (patch: Patch, addresses: readonly Address[]): ReadonlyMap<Address, number> =>
  new Map(
    addresses.flatMap((a) => rowAt(patch, a) ?? []).map(({ module, key, value }) => [`${module.id}.${key}`, value]),
  );

/** Sets each value, held in its range. */
export const withValues = (patch: Patch, values: ReadonlyMap<Address, number>): Patch =>
  [...values].reduce<Patch>((done, [address, wanted]) => {
    const found = rowAt(done, address);
    if (!found) return done;
    const value = clampToParameter(found.row, found.row.whole ? Math.round(wanted) : wanted);
    if (value === found.value) return done;
    return withModule(done, found.module.id, (m) => ({ ...m, values: { ...m.values, [found.key]: value } }) as Module);
  }, patch);

/**
 * Values as far from where they began as one of them is now: by the same difference, or by the same ratio where its scale is
 * one of ratios.
 */
export function shiftedWith(
  began: ReadonlyMap<Address, number>,
  address: Address,
  now: number,
  row: Pick<Parameter, "taper">,
): ReadonlyMap<Address, number> {
  const from = began.get(address) ?? now;
  const to = (v: number): number => (row.taper === "log" ? (v * now) / from : v + now - from);
  return new Map([...began].map(([a, v]) => [a, a === address ? now : Number(to(v).toPrecision(12))]));
}
