import type { ReactNode } from "react";
import { LOCKED } from "@/ui/menu";
import { splitAddress } from "@/core/patch/address";
import { later } from "@/ui/later";
import { useEditable, usePart, useProject, useView } from "@/views/studio/studio";

const ArpeggioInspector = later(() => import("./ArpeggioInspector").then((m) => m.ArpeggioInspector));
const PartInspector = later(() => import("./PartInspector").then((m) => m.PartInspector));
const NotesInspector = later(() => import("./NotesInspector").then((m) => m.NotesInspector));
const ShapeInspector = later(() => import("./ShapeInspector").then((m) => m.ShapeInspector));
const EnvelopeInspector = later(() => import("./EnvelopeInspector").then((m) => m.EnvelopeInspector));
const KitInspector = later(() => import("./KitInspector").then((m) => m.KitInspector));
const GateInspector = later(() => import("./GateInspector").then((m) => m.GateInspector));
const StepsInspector = later(() => import("./StepsInspector").then((m) => m.StepsInspector));
const FollowerInspector = later(() => import("./FollowerInspector").then((m) => m.FollowerInspector));
const RandomInspector = later(() => import("./RandomInspector").then((m) => m.RandomInspector));
const MacroInspector = later(() => import("./MacroInspector").then((m) => m.MacroInspector));
const AutomationInspector = later(() => import("./AutomationInspector").then((m) => m.AutomationInspector));
const FilterInspector = later(() => import("./FilterInspector").then((m) => m.FilterInspector));
const OscillatorInspector = later(() => import("./SoundInspectors").then((m) => m.OscillatorInspector));
const SubInspector = later(() => import("./SoundInspectors").then((m) => m.SubInspector));
const NoiseInspector = later(() => import("./SoundInspectors").then((m) => m.NoiseInspector));
const RecordingInspector = later(() => import("./SoundInspectors").then((m) => m.RecordingInspector));
const AmpInspector = later(() => import("./SoundInspectors").then((m) => m.AmpInspector));

/** The values of the selected strip. */
export function Inspector() {
  const strip = useView((v) => v.strip);
  const part = usePart();
  const songModules = useProject((s) => s.project.modules);
  const backing = useProject((s) => s.project.backing);
  const editable = useEditable();
  return (
    <aside className="min-h-0 overflow-y-auto border-l border-line bg-paper px-3 py-3" aria-label="Inspector">
      {!editable && (
        <p className="mb-2 border-l-4 border-warn pl-2 text-[11px] text-ink2">{LOCKED}: the line on top says why.</p>
      )}
      <fieldset disabled={!editable} className="flex min-w-0 flex-col gap-3">
        {contents()}
      </fieldset>
    </aside>
  );

  function contents(): ReactNode {
    if (strip.kind === "backing") return backing ? <KitInspector kit={backing} /> : <NotesInspector />;
    // What another part plays is edited there.
    if (part.follows && (strip.kind === "notes" || strip.kind === "arpeggio")) return <PartInspector />;
    if (strip.kind === "notes") return <NotesInspector />;
    if (strip.kind === "arpeggio") return <ArpeggioInspector />;
    if (strip.kind === "part") return <PartInspector />;
    const id = strip.kind === "module" ? strip.id : splitAddress(strip.address).owner;
    const module = [...part.patch.modules, ...songModules].find((m) => m.id === id);
    switch (module?.kind) {
      case "filter":
        return <FilterInspector filter={module} />;
      case "oscillator":
        return <OscillatorInspector oscillator={module} />;
      case "noise":
        return <NoiseInspector noise={module} />;
      case "sub":
        return <SubInspector sub={module} />;
      case "recording":
        return <RecordingInspector recording={module} />;
      case "mix":
        return <PartInspector />;
      case "amp":
        return <AmpInspector amp={module} />;
      case "shape":
        return <ShapeInspector shape={module} />;
      case "gate":
        return <GateInspector gate={module} />;
      case "steps":
        return <StepsInspector module={module} />;
      case "random":
        return <RandomInspector module={module} />;
      case "follower":
        return <FollowerInspector module={module} />;
      case "automation":
        return <AutomationInspector module={module} />;
      case "macro":
        return <MacroInspector module={module} />;
      case "envelope":
        return <EnvelopeInspector envelope={module} />;
      default:
        return <p className="text-ink2">Choose a strip to see its values.</p>;
    }
  }
}
