import { AMOUNT, addressOf, splitAddress } from "./address";
import { movesInOctaves, type Parameter } from "./row";
import { kindOf, modulesOf, type Module } from "./kinds";
import { adjusted } from "./kinds/kind";
import { MIX, type Mix } from "./kinds/mix";
import { MAX_MODULATORS, type Patch, type Project, type Route } from "./project";

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
  let size: number;
  do {
    size = gone.size;
    for (const r of patch.routes) {
      const { owner, parameter } = splitAddress(r.target);
      if (parameter === AMOUNT && gone.has(owner)) gone.add(r.id);
    }
  } while (size < gone.size);
  return gone.size === 0 ? patch : { ...patch, routes: patch.routes.filter((r) => !gone.has(r.id)) };
}

/** Where a module's sound goes, by the cables. */
export const destinationsOf = (patch: Patch, id: string): string[] =>
  patch.cables.filter((c) => c.from === id).map((c) => c.to);

/** Whether sound that leaves a module comes to another one, by any way. */
const reaches = (patch: Patch, from: string, to: string): boolean =>
  destinationsOf(patch, from).some((d) => d === to || reaches(patch, d, to));

/** What a module may be cabled to: effects and outputs that its sound does not come from. */
export const possibleDestinations = (patch: Patch, id: string): Module[] =>
  patch.modules.filter((m) => {
    const { role } = kindOf(m);
    return m.id !== id && (role === "output" || (role === "effect" && !reaches(patch, m.id, id)));
  });

/** Lets a module's sound go to a destination, or not. The last one stays: sound that goes nowhere is not heard. */
export function withCable(patch: Patch, from: string, to: string, on: boolean): Patch {
  const has = patch.cables.some((c) => c.from === from && c.to === to);
  if (has === on) return patch;
  if (on) return { ...patch, cables: [...patch.cables, { from, to }] };
  if (destinationsOf(patch, from).length === 1) return patch;
  return { ...patch, cables: patch.cables.filter((c) => c.from !== from || c.to !== to) };
}

/** Adds a source that goes where the first one goes, or to the output. */
export function withSource(patch: Patch, source: Module): Patch {
  const first = patch.modules.find((m) => kindOf(m).role === "source");
  const output = patch.modules.find((m) => kindOf(m).role === "output");
  const to = first ? destinationsOf(patch, first.id) : output ? [output.id] : [];
  const at = patch.modules.findLastIndex((m) => kindOf(m).role === "source") + 1;
  return {
    ...patch,
    modules: patch.modules.toSpliced(at, 0, source),
    cables: [...patch.cables, ...to.map((id) => ({ from: source.id, to: id }))],
  };
}

/**
 * Adds an effect before the output, behind the effects that go there. Sources that go past them stay clean; where there is
 * no other effect, all go through the new one.
 */
export function withEffect(patch: Patch, effect: Module): Patch {
  const output = patch.modules.find((m) => kindOf(m).role === "output");
  if (!output) return patch;
  const effects = new Set(patch.modules.filter((m) => kindOf(m).role === "effect").map((m) => m.id));
  const last = patch.cables.some((c) => c.to === output.id && effects.has(c.from));
  const at = patch.modules.findLastIndex((m) => effects.has(m.id)) + 1;
  return {
    ...patch,
    modules: patch.modules.toSpliced(at === 0 ? patch.modules.indexOf(output) : at, 0, effect),
    cables: [
      ...patch.cables.map((c) => (c.to === output.id && (!last || effects.has(c.from)) ? { ...c, to: effect.id } : c)),
      { from: effect.id, to: output.id },
    ],
  };
}

/** Removes a source or an effect; what came into an effect goes on to where its sound went. */
export function withoutSound(patch: Patch, id: string): Patch {
  const to = destinationsOf(patch, id);
  const feeders = patch.cables.filter((c) => c.to === id).map((c) => c.from);
  const joined = feeders.reduce((p, from) => to.reduce((q, next) => withCable(q, from, next, true), p), patch);
  return withoutModule(joined, id);
}

/** An oscillator that listened to a module listens to nothing. */
function deaf(m: Module, id: string): Module {
  if (m.kind !== "oscillator" || (m.data.pmFrom !== id && m.data.ringFrom !== id)) return m;
  const { pmFrom, ringFrom } = m.data;
  return {
    ...m,
    data: { ...m.data, pmFrom: pmFrom === id ? null : pmFrom, ringFrom: ringFrom === id ? null : ringFrom },
  };
}

/** Gives a module the values, choices, times and data of another one of its kind. */
export const withSettingsOf = (patch: Patch, id: string, from: Module): Patch =>
  withModule(patch, id, (m) => (m.kind === from.kind ? { ...from, id: m.id, name: m.name, on: m.on } : m));

/** Sets a value of every module of a kind. */
export const withValueOnAll = (patch: Patch, kind: string, key: string, value: number): Patch => ({
  ...patch,
  modules: patch.modules.map((m) =>
    m.kind === kind ? ({ ...m, values: { ...m.values, [key]: value } } as Module) : m,
  ),
});

/** The module that says how loud a part is among the others, and where. */
export const mixOf = (patch: Patch): Mix | undefined => modulesOf(patch.modules, MIX)[0];

/** Sets how loud a part is among the others, or where. */
export function withMix(patch: Patch, values: Partial<Mix["values"]>): Patch {
  const mix = mixOf(patch);
  return mix ? withModule(patch, mix.id, (m) => adjusted(m as Mix, { values })) : patch;
}

/** Removes a module with everything that goes from it and to it. */
export function withoutModule(patch: Patch, id: string): Patch {
  if (!patch.modules.some((m) => m.id === id)) return patch;
  const left = withoutRoutes(patch, (r) => r.source === id || splitAddress(r.target).owner === id);
  return {
    modules: left.modules
      .filter((m) => m.id !== id && !(m.kind === "automation" && splitAddress(m.data.target).owner === id))
      .map((m) => deaf(m, id)),
    cables: left.cables.filter((c) => c.from !== id && c.to !== id),
    routes: left.routes.map((r) => (r.scaledBy === id ? { ...r, scaledBy: null } : r)),
  };
}

/** Takes a song's modulator away, with what goes from it and to it in every part. */
export const withoutSongModule = (project: Project, id: string): Project =>
  project.modules.some((m) => m.id === id)
    ? {
        ...project,
        modules: project.modules.filter((m) => m.id !== id),
        parts: project.parts.map((p) => ({ ...p, patch: deafTo(p.patch, id) })),
      }
    : project;

/** A patch without what goes from and to a modulator that it has no longer. */
function deafTo(patch: Patch, id: string): Patch {
  const left = withoutRoutes(patch, (r) => r.source === id || splitAddress(r.target).owner === id);
  if (!left.routes.some((r) => r.scaledBy === id)) return left;
  return { ...left, routes: left.routes.map((r) => (r.scaledBy === id ? { ...r, scaledBy: null } : r)) };
}

/** Why a part's modulator cannot be shared with the other parts; null when it can. */
export function whyNotShared(project: Project, partId: string, id: string): string | null {
  const patch = project.parts.find((p) => p.id === partId)?.patch;
  if (!patch?.modules.some((m) => m.id === id)) return "It belongs to the song already";
  if (patch.modules.some((m) => m.kind === "amp" && m.data.envelope === id)) return "It shapes the level of every note";
  if (patch.modules.some((m) => m.kind === "automation" && splitAddress(m.data.target).owner === id))
    return "Its values are automated in this part";
  return project.modules.length >= MAX_MODULATORS ? `A song holds ${MAX_MODULATORS} of them` : null;
}

/**
 * Hands a part's modulator to the song, so that every part can be moved by it; the part's routes go on. It gets an id of its
 * own: copies of the part have modules of the same ids.
 */
export function withShared(project: Project, partId: string, id: string, newId: string): Project {
  if (whyNotShared(project, partId, id) !== null) return project;
  const part = project.parts.find((p) => p.id === partId)!;
  const module = part.patch.modules.find((m) => m.id === id)!;
  const routes = part.patch.routes.map((r): Route => {
    const { owner, parameter } = splitAddress(r.target);
    return {
      ...r,
      source: r.source === id ? newId : r.source,
      scaledBy: r.scaledBy === id ? newId : r.scaledBy,
      target: owner === id ? addressOf(newId, parameter) : r.target,
    };
  });
  const patch = { ...part.patch, modules: part.patch.modules.filter((m) => m !== module), routes };
  return {
    ...project,
    modules: [...project.modules, { ...module, id: newId }],
    parts: project.parts.map((p) => (p === part ? { ...p, patch } : p)),
  };
}

/** Hands a song's modulator to one part alone; the others are moved by it no more. */
export function withOwned(project: Project, partId: string, id: string): Project {
  const module = project.modules.find((m) => m.id === id);
  if (!module) return project;
  return {
    ...project,
    modules: project.modules.filter((m) => m !== module),
    parts: project.parts.map((p) =>
      p.id === partId
        ? { ...p, patch: { ...p.patch, modules: [...p.patch.modules, module] } }
        : { ...p, patch: deafTo(p.patch, id) },
    ),
  };
}

/** The amount that takes a value from one to another, in the unit of its routes, or in percent of amplitude. */
function amountBetween(row: Parameter, from: number, to: number, amplitude: boolean): number {
  if (amplitude) return (10 ** ((to - from) / 20) - 1) * 100;
  return movesInOctaves(row.move, row) ? Math.log2(to / from) : to - from;
}

/**
 * Lets a route take its target from one value to another: the one is the value at rest, from which the amount leads to the
 * other. The patch as it is where the target is no number of a module.
 */
export function withRouteSpan(patch: Patch, routeId: string, from: number, to: number): Patch {
  const route = patch.routes.find((r) => r.id === routeId);
  if (!route) return patch;
  const { owner, parameter } = splitAddress(route.target);
  const module = patch.modules.find((m) => m.id === owner);
  const row = module ? kindOf(module).rows[parameter] : undefined;
  if (!row?.move) return patch;
  const reach = route.amplitude ? 100 : row.move.reach;
  const amount = Math.max(-reach, Math.min(reach, amountBetween(row, from, to, route.amplitude)));
  const moved = withModule(patch, owner, (m) => ({ ...m, values: { ...m.values, [parameter]: from } }) as Module);
  return { ...moved, routes: moved.routes.map((r) => (r === route ? { ...r, amount, around: false } : r)) };
}

/**
 * Routes that lie in a circle: what they move leads back, by routes that are on, to what they are moved by. Each such circle
 * is closed by the value of a sub-block before.
 */
export function routesInCircles(patch: Patch): ReadonlySet<string> {
  const routes = patch.routes.filter((r) => r.on);
  // What a route moves: a module, or another route by its amount.
  const leads = new Map<string, string[]>();
  const lead = (from: string, to: string): void => void leads.set(from, [...(leads.get(from) ?? []), to]);
  for (const r of routes) {
    lead(r.source, `route ${r.id}`);
    if (r.scaledBy !== null) lead(r.scaledBy, `route ${r.id}`);
    const { owner, parameter } = splitAddress(r.target);
    lead(
      `route ${r.id}`,
      parameter === AMOUNT && !patch.modules.some((m) => m.id === owner) ? `route ${owner}` : owner,
    );
  }
  const comesBack = (start: string): boolean => {
    const seen = new Set<string>();
    const wait = [...(leads.get(start) ?? [])];
    for (let at = wait.pop(); at !== undefined; at = wait.pop()) {
      if (at === start) return true;
      if (seen.has(at)) continue;
      seen.add(at);
      wait.push(...(leads.get(at) ?? []));
    }
    return false;
  };
  return new Set(routes.filter((r) => comesBack(`route ${r.id}`)).map((r) => r.id));
}

/** Lets two modules change places in the list. */
export function withSwapped(patch: Patch, a: string, b: string): Patch {
  const [i, j] = [a, b].map((id) => patch.modules.findIndex((m) => m.id === id)) as [number, number];
  if (i === -1 || j === -1 || i === j) return patch;
  return { ...patch, modules: patch.modules.with(i, patch.modules[j]!).with(j, patch.modules[i]!) };
}
