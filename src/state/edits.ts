import type { ChoiceId, ChoiceOf, VoiceParameterId } from "@/core/patch/parameters";
import type { Arpeggio, Modulator, Note, Part, Patch, Project, Route, Song } from "@/core/patch/project";
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

const editPatch = (partId: string, change: (patch: Patch) => Patch): Edit =>
  editPart(partId, (part) => {
    const patch = change(part.patch);
    return patch === part.patch ? part : { ...part, patch };
  });

export const setValue = (partId: string, id: VoiceParameterId, value: number): Edit =>
  editPatch(partId, (patch) =>
    patch.values[id] === value ? patch : { ...patch, values: { ...patch.values, [id]: value } },
  );

export const setChoice = <T extends ChoiceId>(partId: string, id: T, value: ChoiceOf<T>): Edit =>
  editPatch(partId, (patch) =>
    patch.choices[id] === value ? patch : { ...patch, choices: { ...patch.choices, [id]: value } },
  );

export const addModulator = (partId: string, modulator: Modulator): Edit =>
  editPatch(partId, (patch) => ({ ...patch, modulators: [...patch.modulators, modulator] }));

/** Removes a modulator and every route from it. */
export const removeModulator = (partId: string, id: string): Edit =>
  editPatch(partId, (patch) => ({
    ...patch,
    modulators: patch.modulators.filter((m) => m.id !== id),
    routes: patch.routes.filter((r) => r.source !== id),
  }));

export const editModulator = <K extends Modulator["kind"]>(
  partId: string,
  id: string,
  kind: K,
  change: Partial<Extract<Modulator, { kind: K }>>,
): Edit =>
  editPatch(partId, (patch) => {
    const index = patch.modulators.findIndex((m) => m.id === id && m.kind === kind);
    const old = patch.modulators[index];
    return old ? { ...patch, modulators: patch.modulators.with(index, { ...old, ...change }) } : patch;
  });

export const addRoute = (partId: string, route: Route): Edit =>
  editPatch(partId, (patch) => ({ ...patch, routes: [...patch.routes, route] }));

export const editRoute = (partId: string, id: string, change: Partial<Route>): Edit =>
  editPatch(partId, (patch) => ({
    ...patch,
    routes: patch.routes.map((r) => (r.id === id ? { ...r, ...change } : r)),
  }));

export const removeRoute = (partId: string, id: string): Edit =>
  editPatch(partId, (patch) => ({ ...patch, routes: patch.routes.filter((r) => r.id !== id) }));

export const setTrim =
  (outputTrim: number): Edit =>
  (p: Project) =>
    p.outputTrim === outputTrim ? p : { ...p, outputTrim };
