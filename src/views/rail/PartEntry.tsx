import { memo } from "react";
import { mixOf } from "@/core/patch/edit";
import { modulesOf } from "@/core/patch/kinds";
import { AMP } from "@/core/patch/kinds/amp";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import type { Part } from "@/core/patch/project";
import { formatAmount } from "@/core/patch/valueText";
import { editMix } from "@/state/partEdits";
import { Toggle } from "@/ui/Toggle";
import { menuOf, runKeyed } from "@/ui/menu";
import { WAVE_TEXT } from "@/views/score/stripList";
import { withActions } from "@/views/studio/actions";
import { usePlace } from "@/views/studio/places";
import { useEditable, useProject, useStudio, useView } from "@/views/studio/studio";
import { PART_STRIP } from "@/views/studio/viewStore";
import { openVoice, useShowPart } from "./useShowPart";

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
  const actions = () => withActions((a) => a.partActions(studio, id, show, editable));
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
