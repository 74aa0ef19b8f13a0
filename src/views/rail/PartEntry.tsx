import { memo } from "react";
import { mixOf } from "@/core/patch/edit";
import { modulesOf } from "@/core/patch/kinds";
import { AMP } from "@/core/patch/kinds/amp";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import { whyNoSub, withCleanSub } from "@/core/patch/layers";
import { MAX_PARTS, type Part } from "@/core/patch/project";
import { formatAmount } from "@/core/patch/valueText";
import { newId } from "@/state/ids";
import { duplicatePart, editMix, movePart, removePart } from "@/state/partEdits";
import { Toggle } from "@/ui/Toggle";
import { LOCKED, menuOf, runKeyed, type MenuEntry } from "@/ui/menu";
import { WAVE_TEXT } from "@/views/score/stripList";
import { usePlace } from "@/views/studio/places";
import { useEditable, useProject, useStudio, useView, type Studio } from "@/views/studio/studio";
import { NOTES_STRIP, PART_STRIP } from "@/views/studio/viewStore";
import { useShowPart } from "./useShowPart";

export const FULL = `A project holds ${MAX_PARTS} parts`;

/** What a part sounds like, in two words. */
function soundText(part: Part): string {
  const waves = modulesOf(part.patch.modules, OSCILLATOR).map((m) => WAVE_TEXT[m.choices.wave]);
  const wave = waves.length > 0 ? waves.join(" + ") : "no source";
  return part.follows ? `${wave} layer` : part.arpeggio.on ? `${wave} arpeggio` : wave;
}

/** Its own level, and what the mix adds. */
const levelText = (part: Part): string =>
  modulesOf(part.patch.modules, AMP)
    .map((m) => formatAmount(m.values.level + (mixOf(part.patch)?.values.level ?? 0), "dB", 1))
    .join();

type ShowPart = ReturnType<typeof useShowPart>;

function openVoice(studio: Studio, id: string, show: ShowPart): void {
  show(id, PART_STRIP, "/voice");
  studio.view.setState({ address: null });
}

/** What can be done with a part. */
function partActions(studio: Studio, id: string, show: ShowPart, editable: boolean): MenuEntry[] {
  const { view, workspace } = studio;
  const { store } = workspace;
  const { project } = store.getState();
  const { parts } = project;
  const part = parts.find((p) => p.id === id);
  if (!part) return [];
  const locked = editable ? null : LOCKED;
  const full = parts.length >= MAX_PARTS ? FULL : null;
  const copy = (follows: boolean): void => {
    const copied = newId();
    if (store.edit(`${follows ? "Layer" : "Duplicate"} ${part.name}`, duplicatePart(id, copied, follows)))
      show(copied, PART_STRIP);
  };
  return [
    { text: "Its voice", run: () => openVoice(studio, id, show) },
    { text: "Its place in the mix", run: () => show(id, PART_STRIP, "/") },
    { text: "Its notes", run: () => show(id, NOTES_STRIP, "/") },
    { text: "Its arpeggio", run: () => show(id, { kind: "arpeggio" }, "/") },
    {
      text: "Rename",
      keys: "F2",
      why: locked,
      run: () => {
        show(id, PART_STRIP, "/");
        view.setState({ renaming: id });
      },
    },
    { text: "Duplicate", keys: "Ctrl D", why: locked ?? full, run: () => copy(false) },
    { text: "Layer: same pattern, own sound", why: locked ?? full, run: () => copy(true) },
    {
      text: "Clean sub: a sine under 150 Hz beside it",
      why: locked ?? whyNoSub(project, id),
      run: () => {
        const ids = { part: newId(), filter: newId() };
        if (store.edit(`Give ${part.name} a clean sub`, (p) => withCleanSub(p, id, ids))) show(ids.part, PART_STRIP);
      },
    },
    {
      text: "Move up",
      keys: "Alt ArrowUp",
      why: locked ?? (parts[0] === part ? "It is the first" : null),
      run: () => store.edit(`Move ${part.name} up`, movePart(id, -1)),
    },
    {
      text: "Move down",
      keys: "Alt ArrowDown",
      why: locked ?? (parts.at(-1) === part ? "It is the last" : null),
      run: () => store.edit(`Move ${part.name} down`, movePart(id, 1)),
    },
    {
      text: part.mix.mute ? "Let it be heard" : "Mute",
      why: locked,
      run: () =>
        store.edit(
          part.mix.mute ? `Let ${part.name} be heard` : `Mute ${part.name}`,
          editMix(id, { mute: !part.mix.mute }),
        ),
    },
    {
      text: part.mix.solo ? "End its solo" : "Solo",
      why: locked,
      run: () =>
        store.edit(
          part.mix.solo ? `End the solo of ${part.name}` : `Solo ${part.name}`,
          editMix(id, { solo: !part.mix.solo }),
        ),
    },
    {
      text: "Delete",
      keys: "Delete",
      why: locked ?? (parts.length === 1 ? "A project has one part at least" : null),
      run: () => {
        const at = parts.indexOf(part);
        const next = parts[at + 1] ?? parts[at - 1];
        if (store.edit(`Delete ${part.name}`, removePart(id)) && next && id === view.getState().partId)
          show(next.id, PART_STRIP);
      },
    },
  ];
}

/** A part in the list: opens it; where there is something else to hear, whether it is heard. It follows what it shows of its part alone. */
export const PartEntry = memo(function PartEntry({ id, several }: { id: string; several: boolean }) {
  const studio = useStudio();
  const { store } = studio.workspace;
  const editable = useEditable();
  const path = usePlace();
  const show = useShowPart();
  const current = useView((v) => v.partId === id);
  const name = useOfNamed(id, (part) => part.name);
  const sound = useOfNamed(id, soundText);
  const level = useOfNamed(id, levelText);
  const mute = useOfNamed(id, (part) => part.mix.mute);
  const solo = useOfNamed(id, (part) => part.mix.solo);
  if (name === undefined) return null;
  const actions = (): MenuEntry[] => partActions(studio, id, show, editable);
  const mix = (label: string, change: Partial<Part["mix"]>): void => void store.edit(label, editMix(id, change));
  return (
    <div className={`mx-2 mb-1.5 border bg-sheet ${current ? "border-l-4 border-ink" : "border-line"}`}>
      <button
        type="button"
        aria-pressed={current}
        onContextMenu={menuOf(name, actions)}
        onKeyDown={(e) => runKeyed(actions(), e)}
        className="w-full cursor-pointer px-2 py-1.5 text-left"
        onClick={() => (path === "/moves" ? show(id, PART_STRIP) : openVoice(studio, id, show))}
      >
        <span className="block truncate font-semibold" title={name}>
          {name}
        </span>
        <span className="flex justify-between gap-1 text-[11px] text-ink2">
          <span className="truncate">{sound}</span>
          <span className="whitespace-nowrap">{level}</span>
        </span>
      </button>
      {several && (
        <div className="flex gap-1 px-2 pb-1.5">
          <Toggle
            text="mute"
            name={`Mute ${name}`}
            on={mute === true}
            disabled={!editable}
            onChange={(on) => mix(on ? `Mute ${name}` : `Let ${name} be heard`, { mute: on })}
          />
          <Toggle
            text="solo"
            name={`Solo ${name}`}
            on={solo === true}
            disabled={!editable}
            onChange={(on) => mix(on ? `Solo ${name}` : `End the solo of ${name}`, { solo: on })}
          />
        </div>
      )}
    </div>
  );
});

/** Something of a part; undefined where it is gone. */
const useOfNamed = <T,>(id: string, select: (part: Part) => T): T | undefined =>
  useProject((s) => {
    const part = s.project.parts.find((p) => p.id === id);
    return part && select(part);
  });
