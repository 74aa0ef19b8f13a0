import { withModule, withoutModule, withoutRoutes, withoutSongModule } from "@/core/patch/edit";
import type { KindName, Module, Modulator } from "@/core/patch/kinds";
import type { LaneId, StepLane } from "@/core/patch/lanes";
import {
  MAX_NOTES,
  MAX_ROUTES,
  type Arpeggio,
  type Note,
  type Part,
  type Patch,
  type Project,
  type Route,
  type Song,
} from "@/core/patch/project";
import { loopTicks, notesOf } from "@/core/pattern/events";
import { targetAt } from "@/core/patch/targets";
import type { Edit } from "./projectStore";

/** Builders of pure edits. Each leaves the project as it is when nothing changes. */

export const editSong =
  (change: Partial<Song>): Edit =>
  (p) => ({ ...p, song: { ...p.song, ...change } });

export const editPart =
  (partId: string, change: (part: Part) => Part): Edit =>
  (p) => {
    const index = p.parts.findIndex((q) => q.id === partId);
    const part = p.parts[index];
    const next = part && change(part);
    return !next || next === part ? p : { ...p, parts: p.parts.with(index, next) };
  };

export const editNotes = (partId: string, change: (notes: readonly Note[]) => readonly Note[]): Edit =>
  editPart(partId, (part) => {
    const notes = change(part.notes);
    return notes === part.notes ? part : { ...part, notes };
  });

export const editArpeggio = (partId: string, change: Partial<Arpeggio>): Edit =>
  editPart(partId, (part) => ({ ...part, arpeggio: { ...part.arpeggio, ...change } }));

/** Makes the loop as long as so many bars; the notes of every part are repeated to fill it. `newId` names the copies. */
export const lengthenLoop =
  (bars: number, newId: () => string): Edit =>
  (p) => {
    const song = { ...p.song, loopBars: bars };
    const [before, after] = [loopTicks(p.song), loopTicks(song)];
    const filled = (notes: readonly Note[]): readonly Note[] => {
      const inside = notes.filter((n) => n.startTick < before);
      const copies = Array.from({ length: Math.ceil(after / before) - 1 }, (_, k) =>
        inside.map((n) => ({ ...n, id: newId(), startTick: n.startTick + (k + 1) * before })),
      ).flat();
      return [...inside, ...copies.filter((n) => n.startTick < after)].slice(0, MAX_NOTES);
    };
    return { ...p, song, parts: p.parts.map((part) => ({ ...part, notes: filled(part.notes) })) };
  };

/** Writes what a part's arpeggio plays as notes of its own, and switches it off. `newId` names the notes. */
export const freezeArpeggio =
  (partId: string, newId: () => string): Edit =>
  (p) =>
    editPart(partId, (part) => ({
      ...part,
      notes: notesOf(part, p.song, p.seed, newId),
      noteChord: null,
      arpeggio: { ...part.arpeggio, on: false },
    }))(p);

/** Changes a lane of a part's arpeggio; `change` gets undefined where there is none yet. */
export const editLane = (partId: string, id: LaneId, change: (lane: StepLane | undefined) => StepLane): Edit =>
  editPart(partId, (part) => {
    const { lanes } = part.arpeggio;
    const changed = change(lanes[id]);
    // Who draws values wants to hear them, and not a take that was kept.
    const drawn =
      changed.values !== lanes[id]?.values && changed.locked !== null && changed.locked === lanes[id]?.locked;
    const lane = drawn ? { ...changed, locked: null } : changed;
    return lane === lanes[id] ? part : { ...part, arpeggio: { ...part.arpeggio, lanes: { ...lanes, [id]: lane } } };
  });

export const editPatch = (partId: string, change: (patch: Patch) => Patch): Edit =>
  editPart(partId, (part) => {
    const patch = change(part.patch);
    return patch === part.patch ? part : { ...part, patch };
  });

/** Changes a module of a part, the backing, or a module of the song where the part has none of that id. */
const editAnyModule =
  (partId: string, id: string, change: (module: Module) => Module): Edit =>
  (p) => {
    if (p.backing?.id === id) {
      const backing = change(p.backing);
      return backing === p.backing || backing.kind !== "kit" ? p : { ...p, backing };
    }
    const shared = p.modules.find((m) => m.id === id);
    if (!shared || p.parts.find((q) => q.id === partId)?.patch.modules.some((m) => m.id === id))
      return editPatch(partId, (patch) => withModule(patch, id, change))(p);
    const changed = change(shared);
    return changed === shared ? p : { ...p, modules: p.modules.map((m) => (m === shared ? changed : m)) };
  };

/** Changes one module of a patch, or of the song; `change` gets it as its kind. */
export const editModule = <K extends KindName>(
  partId: string,
  kind: { readonly kind: K },
  id: string,
  change: (module: Extract<Module, { kind: K }>) => Extract<Module, { kind: K }>,
): Edit => editAnyModule(partId, id, (m) => (m.kind === kind.kind ? change(m as Extract<Module, { kind: K }>) : m));

/** Sets one field of a module's values, choices or times. */
export const setField = (
  partId: string,
  id: string,
  field: "values" | "choices" | "times",
  key: string,
  value: unknown,
): Edit =>
  editAnyModule(partId, id, (m) => {
    const fields: Readonly<Record<string, unknown>> = m[field];
    return fields[key] === value ? m : { ...m, [field]: { ...fields, [key]: value } };
  });

export const renameModule = (partId: string, id: string, name: string): Edit =>
  editAnyModule(partId, id, (m) => (m.name === name ? m : { ...m, name }));

/** Removes a module of a part, or of the song, and every route from it and to it. */
export const removeModule =
  (partId: string, id: string): Edit =>
  (p) =>
    withoutSongModule(editPatch(partId, (patch) => withoutModule(patch, id))(p), id);

export const addRoute = (partId: string, route: Route): Edit =>
  editPatch(partId, (patch) => ({ ...patch, routes: [...patch.routes, route] }));

export const editRoute = (partId: string, id: string, change: Partial<Route>): Edit =>
  editPatch(partId, (patch) => ({
    ...patch,
    routes: patch.routes.map((r) => (r.id === id ? { ...r, ...change } : r)),
  }));

export const removeRoute = (partId: string, id: string): Edit =>
  editPatch(partId, (patch) => withoutRoutes(patch, (r) => r.id === id));

export const setTrim =
  (outputTrim: number): Edit =>
  (p: Project) =>
    p.outputTrim === outputTrim ? p : { ...p, outputTrim };

/**
 * Adds a modulator under an id of its own, with those of its routes whose targets the part has. `newId` names
 * the routes.
 */
export const pasteModulator = (
  partId: string,
  module: Modulator,
  routes: readonly Route[],
  newId: () => string,
): Edit => {
  return (p) =>
    editPatch(partId, (patch) => ({
      ...patch,
      modules: [...patch.modules, module],
      routes: [
        ...patch.routes,
        ...routes
          .filter((r) => targetAt(patch, p.modules, r.target) !== null)
          .slice(0, MAX_ROUTES - patch.routes.length)
          .map((r) => ({ ...r, id: newId(), source: module.id, scaledBy: null })),
      ],
    }))(p);
};
