import { newOscillator, newPatch } from "@/core/patch/defaults";
import {
  destinationsOf,
  mixOf,
  withEffect,
  withMix,
  withModule,
  withSettingsOf,
  withSource,
  withoutSound,
} from "@/core/patch/edit";
import { addressOfRow, kindOf, modulesOf, type Module } from "@/core/patch/kinds";
import { AMP } from "@/core/patch/kinds/amp";
import { FILTER } from "@/core/patch/kinds/filter";
import { newModule } from "@/core/patch/kinds/kind";
import { NOISE } from "@/core/patch/kinds/noise";
import { OWN_TABLES } from "@/core/dsp/ownTables";
import { OSCILLATOR, type Oscillator } from "@/core/patch/kinds/oscillator";
import { SUB } from "@/core/patch/kinds/sub";
import { RECORDING, RECORDING_DATA } from "@/core/patch/kinds/recording";
import type { Part, Patch } from "@/core/patch/project";
import { clipOf, copy } from "@/state/clipboard";
import { editPatch } from "@/state/edits";
import { newId } from "@/state/ids";
import { fileStem, saveFile } from "@/ui/saveFile";
import { LOCKED, type MenuEntry } from "@/ui/menu";
import type { Studio } from "@/views/studio/studio";
import { PART_STRIP } from "@/views/studio/viewStore";
import type { AddableSound } from "./soundRoom";

/** How what can be added is made, where it goes, and which of its values is shown then. */
const ADDED = {
  oscillator: {
    make: newOscillator,
    name: "Oscillator",
    insert: withSource,
    shown: OSCILLATOR.rows.pitch,
  },
  noise: {
    make: (id: string, name: string) => newModule(NOISE, id, name, {}),
    name: "Noise",
    insert: withSource,
    shown: NOISE.rows.level,
  },
  recording: {
    make: (id: string, name: string) => newModule(RECORDING, id, name, RECORDING_DATA),
    name: "Recording",
    insert: withSource,
    shown: RECORDING.rows.pitch,
  },
  sub: {
    make: (id: string, name: string) => newModule(SUB, id, name, {}),
    name: "Sub",
    insert: withSub,
    shown: SUB.rows.pitch,
  },
  filter: {
    make: (id: string, name: string) => newModule(FILTER, id, name, {}),
    name: "Filter",
    insert: withEffect,
    shown: FILTER.rows.cutoff,
  },
} as const satisfies Record<AddableSound, unknown>;

/** Past the filters: what stays clean whatever they do. */
function withSub(patch: Patch, sub: Module): Patch {
  const output = modulesOf(patch.modules, AMP)[0];
  if (!output) return patch;
  const added = withSource(patch, sub);
  return { ...added, cables: [...added.cables.filter((c) => c.from !== sub.id), { from: sub.id, to: output.id }] };
}

function freeName(patch: Patch, name: string): string {
  const names = new Set(patch.modules.map((m) => m.name));
  let called = name;
  for (let n = 2; names.has(called); n++) called = `${name.replace(/ \d+$/, "").slice(0, 76)} ${n}`;
  return called;
}

const fullOfKind = (patch: Patch, { kind }: Module): string | null => {
  const { most, label } = kindOf({ kind });
  return patch.modules.filter((m) => m.kind === kind).length >= most
    ? `A part holds ${most} ${label.toLowerCase()}${most === 1 ? "" : "s"}`
    : null;
};

/** A copy of a source or a filter, going where that one goes. */
function withCopy(patch: Patch, module: Module, id: string, name: string): Patch {
  const made: Module = { ...module, id, name };
  return {
    ...patch,
    modules: patch.modules.toSpliced(patch.modules.indexOf(module) + 1, 0, made),
    cables: [...patch.cables, ...destinationsOf(patch, module.id).map((to) => ({ from: id, to }))],
  };
}

/** What can be done with all of a part's sound; its pattern stays. */
export function voiceActions({ workspace }: Studio, part: Part, editable: boolean): MenuEntry[] {
  const locked = editable ? null : LOCKED;
  const clip = clipOf("voice");
  const put = (label: string, patch: Patch): void =>
    void workspace.store.edit(
      label,
      // How loud the part is among the others is not the voice's.
      editPatch(part.id, (own) => withMix(patch, mixOf(own)?.values ?? {})),
    );
  return [
    { text: "Copy the whole voice", run: () => copy({ kind: "voice", patch: part.patch }) },
    {
      text: "Paste a whole voice",
      why: locked ?? (clip ? null : "No voice was copied"),
      run: () => clip && put("Paste a voice", clip.patch),
    },
    {
      text: "Make the sources equally loud",
      why:
        locked ??
        (part.patch.modules.filter((m) => m.on && kindOf(m).role === "source").length > 1
          ? null
          : "There is one source only"),
      // What measures them is loaded when it is asked for.
      run: () =>
        void import("@/core/engine/even").then(({ evenLevels }) => {
          const levels = evenLevels(
            workspace.store.getState().project,
            part.id,
            workspace.recordings.store.getState().known,
          );
          workspace.store.edit(
            "Make the sources equally loud",
            editPatch(part.id, (p) =>
              [...levels].reduce(
                (q, [id, level]) => withModule(q, id, (m) => ({ ...m, values: { ...m.values, level } }) as Module),
                p,
              ),
            ),
          );
        }),
    },
    { text: "Empty the voice, keep the pattern", why: locked, run: () => put("Empty the voice", newPatch()) },
  ];
}

/** Adds a source or a filter to a part and brings it into view. */
export function addSound({ workspace, view }: Studio, part: Part, sound: AddableSound): void {
  const { make, name, insert, shown } = ADDED[sound];
  const called = freeName(part.patch, name);
  const made: Module = make(newId(), called);
  if (
    workspace.store.edit(
      `Add ${called}`,
      editPatch(part.id, (p) => insert(p, made)),
    )
  )
    view.setState({ strip: { kind: "heard", address: addressOfRow(made, shown) }, address: addressOfRow(made, shown) });
}

const TABLE_WAVES: ReadonlySet<string> = new Set(["table", "drawn"]);

/** Hands out the table of an oscillator; what writes it is loaded when it is asked for. */
async function saveTable({ name, choices, data }: Oscillator): Promise<void> {
  const [{ tableWav }, { drawnHarmonics, ownFrames }] = await Promise.all([
    import("@/core/format/tableWav"),
    import("@/core/dsp/tables"),
  ]);
  const own = choices.wave === "table";
  const frames = own ? ownFrames(data.table) : data.drawn.map(drawnHarmonics);
  saveFile(`${fileStem(own ? OWN_TABLES[data.table].name : name)}.wav`, tableWav(frames), "audio/wav");
}

/** What can be done with a source or a filter. */
export function soundActions({ workspace, view }: Studio, part: Part, module: Module, editable: boolean): MenuEntry[] {
  const locked = editable ? null : LOCKED;
  const { store } = workspace;
  const clip = clipOf("sound");
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
    { text: "Copy", keys: "Ctrl C", run: () => copy({ kind: "sound", module }) },
    {
      text: clip ? `Paste the values of ${clip.module.name}` : "Paste",
      keys: "Ctrl V",
      why: locked ?? (clip?.module.kind === module.kind ? null : `No ${kindOf(module).label.toLowerCase()} was copied`),
      run: () => clip && store.edit(`Paste ${clip.module.name}`, editPatch(part.id, (p) => withSettingsOf(p, module.id, clip.module))),
    },
    {
      text: "Duplicate",
      keys: "Ctrl D",
      why: locked ?? fullOfKind(part.patch, module),
      run: () => store.edit(`Duplicate ${module.name}`, editPatch(part.id, (p) => withCopy(p, module, newId(), freeName(p, module.name)))),
    },
    ...(module.kind === "oscillator" && TABLE_WAVES.has(module.choices.wave)
      ? [{ text: "Save its wave table as WAV", run: () => void saveTable(module) }]
      : []),
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
