import type { ReactNode } from "react";
import { splitAddress } from "@/core/patch/address";
import { useEditable, usePart, useView } from "@/views/studio/studio";
import { ArpeggioInspector } from "./ArpeggioInspector";
import { EnvelopeInspector, ShapeInspector } from "./ModulatorInspector";
import { NotesInspector } from "./NotesInspector";
import { AmpInspector, FilterInspector, OscillatorInspector } from "./SoundInspectors";

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
    if (strip.kind === "notes") return <NotesInspector />;
    if (strip.kind === "arpeggio") return <ArpeggioInspector />;
    const id = strip.kind === "module" ? strip.id : splitAddress(strip.address).owner;
    const module = part.patch.modules.find((m) => m.id === id);
    switch (module?.kind) {
      case "filter":
        return <FilterInspector filter={module} />;
      case "oscillator":
        return <OscillatorInspector oscillator={module} />;
      case "amp":
        return <AmpInspector amp={module} />;
      case "shape":
        return <ShapeInspector shape={module} />;
      case "envelope":
        return <EnvelopeInspector envelope={module} />;
      default:
        return <p className="text-ink2">Choose a strip to see its values.</p>;
    }
  }
}
