import { kindOf, type Module } from "@/core/patch/kinds";
import type { Project } from "@/core/patch/project";

/** What is heard instead of the project while a source is heard alone, or a module as it was kept. */
export class HeardApart {
  private last: { project: Project; partId: string; solo: string | null; kept: Module | null; made: Project } | null =
    null;

  /** The project itself where nothing is heard apart; the same object as long as nothing changes. */
  of(project: Project, partId: string, solo: string | null, kept: Module | null): Project {
    const index = project.parts.findIndex((p) => p.id === partId);
    const part = project.parts[index];
    const has = (id: string | undefined): boolean => part?.patch.modules.some((m) => m.id === id) === true;
    const alone = solo !== null && has(solo) ? solo : null;
    const instead = kept && has(kept.id) ? kept : null;
    if (!part || (alone === null && instead === null)) return project;
    const { last } = this;
    if (last?.project === project && last.partId === partId && last.solo === alone && last.kept === instead)
      return last.made;
    const modules = part.patch.modules.map((m) => {
      const now = instead?.id === m.id ? instead : m;
      return alone !== null && now.id !== alone && now.on && kindOf(now).role === "source"
        ? { ...now, on: false }
        : now;
    });
    const made = { ...project, parts: project.parts.with(index, { ...part, patch: { ...part.patch, modules } }) };
    this.last = { project, partId, solo: alone, kept: instead, made };
    return made;
  }
}
