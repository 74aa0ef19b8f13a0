import { withEffect, withSource, withoutSound } from "@/core/patch/edit";
import { addressOfRow, modulesOf, type Module } from "@/core/patch/kinds";
import { AMP } from "@/core/patch/kinds/amp";
import { FILTER } from "@/core/patch/kinds/filter";
import { newModule } from "@/core/patch/kinds/kind";
import { NOISE } from "@/core/patch/kinds/noise";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import type { Part, Patch } from "@/core/patch/project";
import { editPatch } from "@/state/edits";
import { newId } from "@/state/ids";
import { LOCKED, type MenuEntry } from "@/ui/menu";
import type { Studio } from "@/views/studio/studio";
import { PART_STRIP } from "@/views/studio/viewStore";

/** What can be added to the sound of a part. */
const ADDED = {
  oscillator: { kind: OSCILLATOR, name: "Oscillator", insert: withSource, shown: OSCILLATOR.rows.pitch },
  noise: { kind: NOISE, name: "Noise", insert: withSource, shown: NOISE.rows.level },
  sub: { kind: OSCILLATOR, name: "Sub", insert: withSub, shown: OSCILLATOR.rows.pitch },
  filter: { kind: FILTER, name: "Filter", insert: withEffect, shown: FILTER.rows.cutoff },
} as const;
export type AddableSound = keyof typeof ADDED;
export const ADDABLE_SOUND = Object.keys(ADDED) as AddableSound[];

/** A sine an octave down, past the filters: what stays clean whatever they do. */
function withSub(patch: Patch, module: Module): Patch {
  const output = modulesOf(patch.modules, AMP)[0];
  if (module.kind !== "oscillator" || !output) return patch;
  const sub = {
    ...module,
    values: { ...module.values, octave: -1 },
    choices: { ...module.choices, wave: "sine" as const },
  };
  const added = withSource(patch, sub);
  return { ...added, cables: [...added.cables.filter((c) => c.from !== sub.id), { from: sub.id, to: output.id }] };
}

const countOf = (patch: Patch, sound: AddableSound): number => modulesOf(patch.modules, ADDED[sound].kind).length;

/** Why no more of a kind can be added; null when one can. */
export const fullOf = (patch: Patch, sound: AddableSound): string | null => {
  const { most } = ADDED[sound].kind;
  return countOf(patch, sound) >= most ? `A part holds ${most} ${ADDED[sound].kind.label.toLowerCase()}s` : null;
};

/** Adds a source or a filter to a part and brings it into view. */
export function addSound({ workspace, view }: Studio, part: Part, sound: AddableSound): void {
  const { kind, name, insert, shown } = ADDED[sound];
  const names = new Set(part.patch.modules.map((m) => m.name));
  let called: string = name;
  for (let n = 2; names.has(called); n++) called = `${name} ${n}`;
  const made: Module = newModule<typeof OSCILLATOR | typeof NOISE | typeof FILTER>(kind, newId(), called, {}) as Module;
  if (
    workspace.store.edit(
      `Add ${called}`,
      editPatch(part.id, (p) => insert(p, made)),
    )
  )
    view.setState({ strip: { kind: "heard", address: addressOfRow(made, shown) } });
}

/** What can be done with a source or a filter. */
export function soundActions({ workspace, view }: Studio, part: Part, module: Module, editable: boolean): MenuEntry[] {
  const locked = editable ? null : LOCKED;
  const { store } = workspace;
  return [
    {
      text: module.on ? "Switch off" : "Switch on",
      why: locked,
      run: () =>
        store.edit(
          `Switch ${module.name} ${module.on ? "off" : "on"}`,
          editPatch(part.id, (p) => ({ ...p, modules: p.modules.map((m) => (m.id === module.id ? { ...m, on: !m.on } : m)) })),
        ),
    },
    {
      text: "Remove",
      keys: "Delete",
      why: locked,
      run: () => {
        if (store.edit(`Remove ${module.name}`, editPatch(part.id, (p) => withoutSound(p, module.id)))) view.setState({ strip: PART_STRIP });
      },
    },
  ];
} // prettier-ignore
