import { withModule } from "@/core/patch/edit";
import { kindOf, type Module } from "@/core/patch/kinds";
import { splitAddress } from "@/core/patch/address";
import type { Patch, Project, Route } from "@/core/patch/project";
import { moved } from "@/core/patch/row";
import { gainToDb } from "@/core/dsp/portableMath";

/** What is heard apart from how the project is. */
export interface Apart {
  /** A source that is heard alone. */
  readonly solo: string | null;
  /** A module as it was kept. */
  readonly kept: Module | null;
  /** A modulation at its full amount. */
  readonly full: string | null;
}

/** The value of a route's target at the whole of its amount, instead of the route. */
function atFullAmount(patch: Patch, route: Route): Patch {
  const { owner, parameter } = splitAddress(route.target);
  const held = withModule(patch, owner, (m) => {
    const row = kindOf(m).rows[parameter];
    const values: Readonly<Record<string, number>> = m.values;
    if (!row) return m;
    const rest = values[parameter]!;
    const amount = route.amplitude ? gainToDb(Math.max(1e-5, 1 + route.amount / 100)) : route.amount;
    return { ...m, values: { ...values, [parameter]: moved(row, rest, amount) } } as unknown as Module;
  });
  return { ...held, routes: held.routes.map((r) => (r.id === route.id ? { ...r, on: false } : r)) };
}

/** What is heard instead of the project while a source is heard alone, a module as it was kept, or a modulation in full. */
export class HeardApart {
  private last: ({ project: Project; partId: string; made: Project } & Apart) | null = null;

  /** The project itself where nothing is heard apart; the same object as long as nothing changes. */
  of(project: Project, partId: string, { solo, kept, full }: Apart): Project {
    const index = project.parts.findIndex((p) => p.id === partId);
    const part = project.parts[index];
    const has = (id: string | undefined): boolean => part?.patch.modules.some((m) => m.id === id) === true;
    const alone = solo !== null && has(solo) ? solo : null;
    const instead = kept && has(kept.id) ? kept : null;
    const route = part?.patch.routes.find((r) => r.id === full) ?? null;
    if (!part || (alone === null && instead === null && route === null)) return project;
    const { last } = this;
    if (
      last?.project === project &&
      last.partId === partId &&
      last.solo === alone &&
      last.kept === instead &&
      last.full === full
    )
      return last.made;
    const modules = part.patch.modules.map((m) => {
      const now = instead?.id === m.id ? instead : m;
      return alone !== null && now.id !== alone && now.on && kindOf(now).role === "source"
        ? { ...now, on: false }
        : now;
    });
    const patch = { ...part.patch, modules };
    const heard = route ? atFullAmount(patch, route) : patch;
    const made = { ...project, parts: project.parts.with(index, { ...part, patch: heard }) };
    this.last = { project, partId, solo: alone, kept: instead, full, made };
    return made;
  }
}
