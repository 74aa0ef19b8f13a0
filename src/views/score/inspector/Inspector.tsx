import type { ReactNode } from "react";
import type { TargetId } from "@/core/patch/parameters";
import { useEditable, usePart, useView } from "@/views/studio/studio";
import { ArpeggioInspector } from "./ArpeggioInspector";
import { EnvelopeInspector, ShapeInspector } from "./ModulatorInspector";
import { NotesInspector } from "./NotesInspector";
import { CutoffInspector, LevelInspector, PitchInspector } from "./SoundInspectors";

/** The values of the selected strip. */
export function Inspector() {
  const strip = useView((v) => v.strip);
  const part = usePart();
  const editable = useEditable();
  return (
    <aside
      className="flex min-h-0 flex-col gap-3 overflow-y-auto border-l border-line bg-paper px-3 py-3"
      aria-label="Inspector"
      aria-disabled={!editable}
    >
      {contents()}
    </aside>
  );

  function contents(): ReactNode {
    if (strip === "notes") return <NotesInspector />;
    if (strip === "arpeggio") return <ArpeggioInspector />;
    if (strip.startsWith("heard:")) {
      const target = strip.slice(6) as TargetId;
      if (target === "filter.cutoff") return <CutoffInspector />;
      if (target === "osc.pitch") return <PitchInspector />;
      return <LevelInspector />;
    }
    const modulator = part.patch.modulators.find((m) => `mod:${m.id}` === strip);
    if (!modulator) return <p className="text-ink2">Choose a strip to see its values.</p>;
    return modulator.kind === "shape" ? (
      <ShapeInspector shape={modulator} />
    ) : (
      <EnvelopeInspector envelope={modulator} />
    );
  }
}

export function InspectorTitle({ title, subtitle }: { title: string; subtitle: string }) {
  return (
    <div>
      <h2 className="truncate text-[16px] leading-[20px] font-bold" title={title}>
        {title}
      </h2>
      <p className="text-[12px] text-ink2">{subtitle}</p>
    </div>
  );
}
