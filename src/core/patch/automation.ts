import { splitAddress, type Address } from "./address";
import { AUTOMATION, type Automation } from "./kinds/automation";
import { kindOf, modulesOf, type Module } from "./kinds";
import { newModule } from "./kinds/kind";
import type { Patch } from "./project";
import { toNorm, type Parameter } from "./row";
import { MAX_POINTS, type CurvePoint } from "../curve/curve";
import { simplifyTo } from "../curve/simplify";

/** The number of a module at an address, if it can be automated: one that routes can move. */
export function automatable(
  patch: Pick<Patch, "modules">,
  address: Address,
): { module: Module; row: Parameter; rest: number } | null {
  const { owner, parameter } = splitAddress(address);
  const module = patch.modules.find((m) => m.id === owner);
  const row = module ? kindOf(module).rows[parameter] : undefined;
  const values: Readonly<Record<string, number>> = module?.values ?? {};
  return module && row?.move ? { module, row, rest: values[parameter]! } : null;
}

/** The automation of a value, on or off; null where it has none. */
export const automationOf = (patch: Patch, address: Address): Automation | null =>
  modulesOf(patch.modules, AUTOMATION).find((a) => a.data.target === address) ?? null;

/** Gives a value an automation that holds it where it is; the patch as it is where it has one, or cannot have one. */
export function withAutomation(patch: Patch, address: Address, id: string): Patch {
  const found = automatable(patch, address);
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
  const first = places[0];
  const last = places.at(-1);
  if (!first || !last) return points;
  const before = points.filter((p) => p.x < first.x);
  const after = points.filter((p) => p.x > last.x);
  // The hand's value stands from where it took hold.
  const own = places.map(({ x, y }) => ({ x, y, tension: 0 }));
  const joined = [...before, ...own, ...after];
  const head = joined[0]!.x > 0 ? [{ x: 0, y: points[0]!.y, tension: 0 }, ...joined] : joined;
  const whole = head.at(-1)!.x < 1 ? [...head, { x: 1, y: points.at(-1)!.y, tension: 0 }] : head;
  if (whole.length <= MAX_POINTS) return whole;
  return simplifyTo(whole, MAX_POINTS);
}
