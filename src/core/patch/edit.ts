import { AMOUNT, splitAddress } from "./address";
import type { Module } from "./kinds";
import type { Patch, Route } from "./project";

/** Pure edits of a patch. Each returns the same patch when nothing changes. */

/** Changes one module; `change` returns the same module when nothing changes. */
export function withModule(patch: Patch, id: string, change: (module: Module) => Module): Patch {
  const index = patch.modules.findIndex((m) => m.id === id);
  const old = patch.modules[index];
  const next = old && change(old);
  return !next || next === old ? patch : { ...patch, modules: patch.modules.with(index, next) };
}

/** Removes routes, and those that move their amounts. */
export function withoutRoutes(patch: Patch, goes: (route: Route) => boolean): Patch {
  const gone = new Set(patch.routes.filter(goes).map((r) => r.id));
  for (let size = -1; size < gone.size;) {
    size = gone.size;
    for (const r of patch.routes) {
      const { owner, parameter } = splitAddress(r.target);
      if (parameter === AMOUNT && gone.has(owner)) gone.add(r.id);
    }
  }
  return gone.size === 0 ? patch : { ...patch, routes: patch.routes.filter((r) => !gone.has(r.id)) };
}

/** Removes a module with everything that goes from it and to it. */
export function withoutModule(patch: Patch, id: string): Patch {
  if (!patch.modules.some((m) => m.id === id)) return patch;
  const left = withoutRoutes(patch, (r) => r.source === id || splitAddress(r.target).owner === id);
  return {
    modules: left.modules.filter((m) => m.id !== id),
    cables: left.cables.filter((c) => c.from !== id && c.to !== id),
    routes: left.routes.map((r) => (r.scaledBy === id ? { ...r, scaledBy: null } : r)),
  };
}
