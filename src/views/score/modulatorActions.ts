import {
  newEnvelope,
  newFollower,
  newGate,
  newMacro,
  newPluck,
  newRandom,
  newRoute,
  newShape,
  newSilent,
  newSteps,
  newVibrato,
} from "@/core/patch/defaults";
import { addressOfRow, modulesOf, type Modulator } from "@/core/patch/kinds";
import { AMP } from "@/core/patch/kinds/amp";
import { FILTER } from "@/core/patch/kinds/filter";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import { MAX_MODULATORS, MAX_ROUTES, type Part, type Route } from "@/core/patch/project";
import { clipOf, copy } from "@/state/clipboard";
import { whyNotShared, withOwned, withShared, withSwapped } from "@/core/patch/edit";
import { asShape, asSteps } from "@/core/patch/turnInto";
import { editPatch, pasteModulator, removeModule } from "@/state/edits";
import { newId } from "@/state/ids";
import { LOCKED, type MenuEntry } from "@/ui/menu";
import type { Studio } from "@/views/studio/studio";
import { NOTES_STRIP } from "@/views/studio/viewStore";
import { modulatorsOf, shapesLevel } from "./stripList";

/** What can be added: how it is made and called, and what it moves from the start. */
const ADDED = {
  shape: { make: newShape, name: "Shape", routes: () => [] },
  envelope: { make: newEnvelope, name: "Envelope", routes: () => [] },
  steps: { make: newSteps, name: "Steps", routes: () => [] },
  random: { make: newRandom, name: "Random", routes: () => [] },
  follower: { make: newFollower, name: "Follower", routes: () => [] },
  gate: { make: newGate, name: "Gate", routes: gateRoute },
  macro: { make: newMacro, name: "Macro", routes: () => [] },
  silent: { make: newSilent, name: "Silent oscillator", routes: () => [] },
  vibrato: { make: newVibrato, name: "Vibrato", routes: vibratoRoutes },
  pluck: { make: newPluck, name: "Pluck", routes: pluckRoutes },
} satisfies Record<string, { make: (id: string, name: string) => Modulator; name: string; routes: (part: Part, id: string) => Route[] }>; // prettier-ignore
export type Addable = keyof typeof ADDED;
/** Kinds whose first one has a number, too: there are usually several. */
const NUMBERED: ReadonlySet<Addable> = new Set(["shape", "envelope", "macro"]);
export const ADDABLE = Object.keys(ADDED) as Addable[];

/** A fifth of a semitone either way, on every source. */
function vibratoRoutes(part: Part, id: string): Route[] {
  return modulesOf(part.patch.modules, OSCILLATOR).map((m) => ({
    ...newRoute(newId(), id, addressOfRow(m, OSCILLATOR.rows.pitch), 0.2),
    around: true,
  }));
}

/** Three octaves of the first filter's cutoff. */
function pluckRoutes(part: Part, id: string): Route[] {
  const filter = modulesOf(part.patch.modules, FILTER)[0];
  return filter ? [newRoute(newId(), id, addressOfRow(filter, FILTER.rows.cutoff), 3)] : [];
}

/** What a new gate does: closed, it silences the part. */
export function gateRoute(part: Part, gate: string): Route[] {
  const amp = modulesOf(part.patch.modules, AMP)[0];
  if (!amp) return [];
  return [{ ...newRoute(newId(), gate, addressOfRow(amp, AMP.rows.level), -100), amplitude: true, reversed: true }];
}

/** Adds a modulator to a part and brings it into view; false when it was not to be had. */
export function addModulator({ workspace, view }: Studio, part: Part, kind: Addable): boolean {
  const id = newId();
  const { make, name, routes: routesOf } = ADDED[kind];
  const alike = modulatorsOf(part.patch).filter((m) => m.kind === kind || m.name.startsWith(name)).length;
  const made = make(id, alike === 0 && !NUMBERED.has(kind) ? name : `${name} ${alike + 1}`);
  const routes = routesOf(part, id).slice(0, MAX_ROUTES - part.patch.routes.length);
  if (!workspace.store.edit(`Add ${made.name}`, pasteModulator(part.id, made, routes, newId))) return false;
  view.setState({ strip: { kind: "module", id } });
  return true;
}

/** What can be done with a modulator; null stands for none, on which one can be pasted. */
export function modulatorActions(
  { workspace, view }: Studio,
  part: Part,
  module: Modulator | null,
  editable: boolean,
): MenuEntry[] {
  const { store } = workspace;
  const locked = editable ? null : LOCKED;
  const full = modulatorsOf(part.patch).length >= MAX_MODULATORS ? `A part holds ${MAX_MODULATORS} of them` : null;
  const routesOf = (id: string) => part.patch.routes.filter((r) => r.source === id);
  const names = new Set(modulatorsOf(part.patch).map((m) => m.name));
  const paste = (from: Modulator, routes: readonly Route[], label: string): void => {
    let name = from.name;
    for (let n = 2; names.has(name); n++) name = `${from.name.replace(/ \d+$/, "").slice(0, 76)} ${n}`;
    const id = newId();
    if (store.edit(`${label} ${name}`, pasteModulator(part.id, { ...from, id, name }, routes, newId)))
      view.setState({ strip: { kind: "module", id } });
  };
  const clip = clipOf("modulator");
  const pasteEntry: MenuEntry = {
    text: clip ? `Paste ${clip.module.name}` : "Paste",
    keys: "Ctrl V",
    why: locked ?? full ?? (clip ? null : "Nothing that moves values was copied"),
    run: () => clip && paste(clip.module, clip.routes, "Paste"),
  };
  if (!module) return [pasteEntry];
  const kept = shapesLevel(part.patch, module.id) ? "It shapes the level of every note" : null;
  const remove = (label: string): void => {
    if (store.edit(`${label} ${module.name}`, removeModule(part.id, module.id))) view.setState({ strip: NOTES_STRIP });
  };
  // The one that shapes the level stays on top.
  const movable = modulatorsOf(part.patch).filter((m) => !shapesLevel(part.patch, m.id));
  const place = movable.findIndex((m) => m.id === module.id);
  const canMove = (by: number): boolean => place !== -1 && movable[place + by] !== undefined;
  const move = (by: number): void => {
    const other = movable[place + by];
    if (other)
      store.edit(
        `Move ${module.name} ${by < 0 ? "up" : "down"}`,
        editPatch(part.id, (p) => withSwapped(p, module.id, other.id)),
      );
  };
  const keep = (): void => copy({ kind: "modulator", module, routes: routesOf(module.id) });
  return [
    {
      text: "Rename",
      keys: "F2",
      why: locked,
      run: () => view.setState({ strip: { kind: "module", id: module.id }, renaming: module.id }),
    },
    { text: "Copy", keys: "Ctrl C", run: keep },
    {
      text: "Cut",
      keys: "Ctrl X",
      why: locked ?? kept,
      run: () => {
        keep();
        remove("Cut");
      },
    },
    pasteEntry,
    {
      text: "Duplicate",
      keys: "Ctrl D",
      why: locked ?? full,
      run: () => paste(module, routesOf(module.id), "Duplicate"),
    },
    ...(module.kind === "shape"
      ? [
          {
            text: "Copy it into a step sequence",
            why: locked ?? full,
            run: () => paste(asSteps(module, module.id, `${module.name} steps`), [], "Add"),
          },
        ]
      : []),
    ...(module.kind === "steps"
      ? [
          {
            text: "Copy it into a shape",
            why: locked ?? full,
            run: () =>
              paste(asShape(module, module.id, `${module.name} shape`, store.getState().project.song), [], "Add"),
          },
        ]
      : []),
    store.getState().project.modules.includes(module)
      ? {
          text: "Keep it for this part alone",
          why: locked ?? full,
          run: () => store.edit(`Keep ${module.name} for ${part.name}`, (p) => withOwned(p, part.id, module.id)),
        }
      : {
          text: "Share it with all parts",
          why: locked ?? whyNotShared(store.getState().project, part.id, module.id),
          run: () => {
            const id = newId();
            if (store.edit(`Share ${module.name} with all parts`, (p) => withShared(p, part.id, module.id, id)))
              view.setState({ strip: { kind: "module", id } });
          },
        },
    {
      text: "Move up",
      keys: "Alt ArrowUp",
      why: locked ?? (canMove(-1) ? null : "It is the first"),
      run: () => move(-1),
    },
    {
      text: "Move down",
      keys: "Alt ArrowDown",
      why: locked ?? (canMove(1) ? null : "It is the last"),
      run: () => move(1),
    },
    { text: "Remove", keys: "Delete", why: locked ?? kept, run: () => remove("Remove") },
  ];
}
