import { memo, useEffect, useMemo, useRef, type DragEvent } from "react";
import { later } from "@/ui/later";
import { useSize } from "@/ui/useSize";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { clampScroll, zoomBy } from "@/views/studio/viewStore";
import { ownPattern } from "@/state/partEdits";
import { Clicking } from "./Clicking";
import { EditorFrame } from "./editors/EditorFrame";
import { Inspector } from "./inspector/Inspector";
import { heardValue } from "./heardTracks";
import { Overview } from "./Overview";
import { Ruler } from "./Ruler";
import { GUTTER, LABEL_WIDTH } from "./layout";
import { Strips } from "./Strips";
import { useTimeline } from "./useTimeline";
import type { Timeline } from "./timeline";

const EnvelopeEditor = later(() => import("./editors/EnvelopeEditor").then((m) => m.EnvelopeEditor));
const NoteEditor = later(() => import("./editors/NoteEditor").then((m) => m.NoteEditor));
const StepsEditor = later(() => import("./editors/StepsEditor").then((m) => m.StepsEditor));
const FollowerEditor = later(() => import("./editors/FollowerEditor").then((m) => m.FollowerEditor));
const RandomEditor = later(() => import("./editors/RandomEditor").then((m) => m.RandomEditor));
const MacroEditor = later(() => import("./editors/MacroEditor").then((m) => m.MacroEditor));
const AutomationEditor = later(() => import("./editors/AutomationEditor").then((m) => m.AutomationEditor));
const KitEditor = later(() => import("./editors/KitEditor").then((m) => m.KitEditor));
const GateEditor = later(() => import("./editors/GateEditor").then((m) => m.GateEditor));
const ShapeEditor = later(() => import("./editors/ShapeEditor").then((m) => m.ShapeEditor));
const ArpeggioEditor = later(() => import("./editors/ArpeggioEditor").then((m) => m.ArpeggioEditor));
const Importing = later(() => import("./import/Importing").then((m) => m.Importing));
const HeardEditor = later(() => import("./editors/HeardEditor").then((m) => m.HeardEditor));

/** The grid: strips stacked over the loop, the editor of the selected one below, its values on the right. */
export function ScoreView() {
  const [size, sizeRef] = useSize();
  const live = useTimeline(Math.max(1, size.width - LABEL_WIDTH - GUTTER));
  const { fromTick, ticks, width, loop } = live;
  const timeline = useMemo(() => ({ fromTick, ticks, width, loop }), [fromTick, ticks, width, loop]);
  const { view } = useStudio();
  const editable = useEditable();
  const importing = useView((v) => v.importing);
  const hasFile = (e: DragEvent): boolean => editable && e.dataTransfer.types.includes("Files");
  return (
    <div
      className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_256px] xl:grid-cols-[minmax(0,1fr)_276px]"
      onDragOver={(e) => {
        if (!hasFile(e)) return;
        e.preventDefault();
        e.dataTransfer.dropEffect = "copy";
      }}
      onDrop={(e) => {
        const [file] = e.dataTransfer.files;
        if (!hasFile(e) || !file) return;
        e.preventDefault();
        view.setState({ importing: file });
      }}
    >
      <Clicking />
      {importing && <Importing key={importing.name + String(importing.lastModified)} file={importing} />}
      <div ref={sizeRef} className="grid min-h-0 min-w-0 grid-rows-[auto_fit-content(61%)_auto_minmax(0,1fr)]">
        {size.width > 1 && (
          <>
            <Ruler timeline={timeline} />
            <WheelArea timeline={timeline}>
              <Strips timeline={timeline} />
            </WheelArea>
            <Overview timeline={timeline} />
            <Editor timeline={timeline} />
          </>
        )}
      </div>
      <Inspector />
    </div>
  );
}

const Editor = memo(function Editor({ timeline }: { timeline: Timeline }) {
  const strip = useView((v) => v.strip);
  const part = usePart();
  const opened = useProject((s) => s.opened);
  const songModules = useProject((s) => s.project.modules);
  const song = useProject((s) => s.project.song);
  const backing = useProject((s) => s.project.backing);
  if (strip.kind === "backing" && backing) return <KitEditor key={opened} kit={backing} timeline={timeline} />;
  const ofPattern = strip.kind === "arpeggio" || strip.kind === "notes" || strip.kind === "part";
  if (part.follows && ofPattern) return <FollowedPattern />;
  if (strip.kind === "arpeggio") return <ArpeggioEditor timeline={timeline} />;
  if (strip.kind === "heard" && heardValue(part.patch, strip.address, song))
    return <HeardEditor address={strip.address} timeline={timeline} />;
  const module =
    strip.kind === "module" ? [...part.patch.modules, ...songModules].find((m) => m.id === strip.id) : undefined;
  if (module?.kind === "shape") return <ShapeEditor key={`${opened}-${module.id}`} shape={module} />;
  if (module?.kind === "gate") return <GateEditor key={`${opened}-${module.id}`} gate={module} timeline={timeline} />;
  if (module?.kind === "steps")
    return <StepsEditor key={`${opened}-${module.id}`} module={module} timeline={timeline} />;
  if (module?.kind === "random") return <RandomEditor key={`${opened}-${module.id}`} module={module} />;
  if (module?.kind === "follower")
    return <FollowerEditor key={`${opened}-${module.id}`} module={module} timeline={timeline} />;
  if (module?.kind === "automation") return <AutomationEditor key={`${opened}-${module.id}`} module={module} />;
  if (module?.kind === "macro") return <MacroEditor key={`${opened}-${module.id}`} module={module} />;
  if (module?.kind === "envelope") return <EnvelopeEditor key={`${opened}-${module.id}`} envelope={module} />;
  return <NoteEditor key={`${opened}-${part.id}`} timeline={timeline} />;
});

/** In place of an editor where a part plays another one's pattern. */
function FollowedPattern() {
  const { view, workspace } = useStudio();
  const part = usePart();
  const editable = useEditable();
  const other = useProject((s) => s.project.parts.find((p) => p.id === part.follows?.part));
  if (!other) return null;
  return (
    <EditorFrame title="Pattern" subtitle={`that of ${other.name}`}>
      <div className="absolute inset-0 grid place-content-center justify-items-center gap-2 text-[12px]">
        <p className="text-ink2">
          {part.name} plays the notes and the arpeggio of {other.name}.
        </p>
        <div className="flex gap-1">
          <button type="button" className="chip" onClick={() => view.setState({ partId: other.id, selectedNotes: new Set(), laneSteps: new Set() })}>
            Open {other.name}
          </button>
          <button type="button" className="chip" disabled={!editable} onClick={() => workspace.store.edit("Make the pattern its own", ownPattern(part.id))}>
            Make it its own
          </button>
        </div>
      </div>
    </EditorFrame>
  ); // prettier-ignore
}

/** Ctrl and wheel zooms at the pointer; Shift and wheel, or a sideways wheel, scrolls in time. */
function WheelArea({ timeline, children }: { timeline: Timeline & { loop: number }; children: React.ReactNode }) {
  const { view } = useStudio();
  const area = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const element = area.current;
    if (!element) return;
    const onWheel = (e: WheelEvent): void => {
      const { left } = element.getBoundingClientRect();
      const anchor = Math.min(1, Math.max(0, (e.clientX - left - LABEL_WIDTH) / timeline.width));
      if (e.ctrlKey || e.metaKey) {
        e.preventDefault();
        zoomBy(view, 2 ** (-e.deltaY / 240), anchor, timeline.loop);
        return;
      }
      const sideways = e.shiftKey ? e.deltaY || e.deltaX : e.deltaX;
      if (sideways === 0) return;
      e.preventDefault();
      const { zoom, scrollTick } = view.getState();
      view.setState({
        scrollTick: clampScroll(scrollTick + (sideways / timeline.width) * timeline.ticks, zoom, timeline.loop),
      });
    };
    // A passive listener could not keep the page from zooming.
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => element.removeEventListener("wheel", onWheel);
  }, [view, timeline]);
  return (
    <div ref={area} className="grid min-h-0">
      {children}
    </div>
  );
}
