import { Plus, Trash2 } from "lucide-react";
import { Fragment, memo, useLayoutEffect, useMemo, useRef, useState } from "react";
import { MAX_MODULATORS } from "@/core/patch/project";
import { removeModule } from "@/state/edits";
import { kindColour } from "@/ui/ValueRow";
import { menuOf, runKeyed, type Asked } from "@/ui/menu";
import { useEditable, useOfPart, usePart, useProject, useSound, useStudio, useView } from "@/views/studio/studio";
import { NOTES_STRIP, askStrip, askedStrips, sameStrip } from "@/views/studio/viewStore";
import { AddSounds } from "./AddSounds";
import { allModulators, modulatorsOf, keptStrips, shapesLevel, soundPath, stripsOf, type StripInfo } from "./stripList";
import { withActions } from "@/views/studio/actions";
import type { Addable } from "./modulatorActions";
import { Playhead } from "./Playhead";
import { type Timeline } from "./timeline";

import { GUTTER, LABEL_WIDTH } from "./layout";
import { StripCanvas } from "./StripCanvases";

export const Strips = memo(function Strips({ timeline }: { timeline: Timeline }) {
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const modules = useProject((s) => s.project.modules);
  const backing = useProject((s) => s.project.backing);
  const [drawn, setDrawn] = useState<readonly StripInfo[]>([]);
  const asked = useView((v) => askedStrips(v, part.id));
  const strips = useMemo(
    () => keptStrips(drawn, stripsOf(part, { modules, song, backing }, asked)),
    [drawn, part, modules, song, backing, asked],
  );
  if (strips.length !== drawn.length || strips.some((s, i) => s !== drawn[i])) setDrawn(strips);
  return (
    <div className="relative min-h-0 overflow-x-hidden overflow-y-auto">
      <SoundPath />
      <div className="relative">
        <div role="list" id="score-strips" aria-label="Strips of the score">
          {strips.map((strip) => (
            <Strip key={stripKey(strip)} strip={strip} timeline={timeline} />
          ))}
        </div>
        <Playhead timeline={timeline} left={LABEL_WIDTH} />
      </div>
      <AddStrip />
    </div>
  );
});

/** What the sound goes through, source to output: the way to the values of each. */
function SoundPath() {
  const studio = useStudio();
  const { view } = studio;
  const patch = useOfPart((part) => part.patch);
  const strip = useView((v) => v.strip);
  const path = useMemo(() => soundPath(patch), [patch]);
  const editable = useEditable();
  return (
    <div className="flex h-[28px] items-center border-b border-line bg-paper" role="group" aria-label="Sound">
      <span className="shrink-0 pl-3 text-[12px] font-semibold" style={{ width: LABEL_WIDTH + 4 }}>
        Sound
      </span>
      {path.map(({ module, address, text }, i) => (
        <Fragment key={module.id}>
          {i > 0 && (
            <span className="px-1 text-ink2" aria-hidden>
              {patch.cables.some((c) => c.from === path[i - 1]!.module.id && c.to === module.id) ? "→" : "+"}
            </span>
          )}
          <button
            type="button"
            className="chip flex min-w-0 gap-1"
            title={`Values of ${module.name}${module.on ? "" : ", which is off"}`}
            style={module.on ? undefined : { opacity: 0.5 }}
            onContextMenu={
              module.kind === "amp"
                ? undefined
                : menuOf(module.name, () => withActions((a) => a.soundActions(studio, studio.part, module, editable)))
            }
            onKeyDown={(e) => {
              if (module.kind !== "amp")
                runKeyed(
                  withActions((a) => a.soundActions(studio, studio.part, module, editable)),
                  e,
                );
            }}
            aria-pressed={strip.kind === "heard" && strip.address === address}
            onClick={() => view.setState({ strip: { kind: "heard", address } })}
          >
            <b className="shrink-0 font-semibold">{module.name}</b>{" "}
            <span className="hidden min-w-0 truncate xl:block">{text}</span>
          </button>
        </Fragment>
      ))}
      <span className="ml-auto flex shrink-0 gap-3 pr-3">
        <AddSounds />
      </span>
    </div>
  );
}

const stripKey = ({ id }: StripInfo): string =>
  id.kind === "module" ? `module ${id.id}` : id.kind === "heard" ? `heard ${id.address}` : id.kind;

const Strip = memo(function Strip({ strip, timeline }: { strip: StripInfo; timeline: Timeline }) {
  const studio = useStudio();
  const { view, workspace } = studio;
  const selected = useView((v) => sameStrip(v.strip, strip.id));
  const editable = useEditable();
  const { id } = strip;
  const remove = (): void => {
    if (id.kind === "module") workspace.store.edit(`Remove ${strip.title}`, removeModule(studio.part.id, id.id));
    else if (id.kind === "heard") askStrip(view, studio.part.id, id.address, false);
    view.setState({ strip: NOTES_STRIP });
  };
  const select = (): void => view.setState({ strip: id });
  const box = useRef<HTMLDivElement>(null);
  // A strip that was chosen elsewhere comes into sight as it appears; later, edits give it another object of the same name.
  const [appeared] = useState(id);
  useLayoutEffect(() => {
    if (sameStrip(view.getState().strip, appeared)) box.current?.scrollIntoView({ block: "nearest" });
  }, [view, appeared]);
  const actions = (): Asked => {
    const { part } = studio;
    if (id.kind === "backing") return withActions((a) => a.backingActions(studio, editable));
    const known = allModulators(part.patch, workspace.store.getState().project.modules);
    const module = id.kind === "module" ? (known.find((m) => m.id === id.id) ?? null) : null;
    return withActions((a) => a.modulatorActions(studio, part, module, editable));
  };
  return (
    <div
      ref={box}
      className="group relative flex border-b border-line"
      role="listitem"
      style={{ height: strip.height }}
      onContextMenu={menuOf(strip.title, actions)}
    >
      <button
        type="button"
        aria-pressed={selected}
        className={`relative flex shrink-0 cursor-pointer border-r border-line px-2 pt-1 text-left ${strip.flat ? "gap-2" : "flex-col"} ${selected ? "bg-sheet" : "bg-paper"}`}
        style={{
          width: LABEL_WIDTH,
          borderLeft: selected ? `4px solid ${kindColour(strip.kind)}` : "4px solid transparent",
        }}
        onClick={select}
        onKeyDown={(e) => runKeyed(actions(), e)}
      >
        <span
          className={`truncate text-[12px] font-semibold ${strip.flat ? "" : "w-full"}`}
          title={strip.title}
          style={{ color: strip.kind === "heard" ? "var(--heard)" : undefined }}
        >
          {strip.title}
        </span>
        <span
          className={`line-clamp-2 text-[11px] text-ink2 ${strip.flat ? "shrink-0 leading-[18px]" : "w-full leading-[13px]"}`}
          title={strip.subtitle}
        >
          {strip.subtitle}
        </span>
      </button>
      {strip.removable && (editable || id.kind === "heard") && (
        <button
          type="button"
          className="absolute top-1 z-10 cursor-pointer bg-paper p-[2px] text-ink2 opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
          style={{ left: LABEL_WIDTH - 20 }}
          aria-label={`Remove ${strip.title}`}
          title={`Remove ${strip.title}`}
          onClick={remove}
        >
          <Trash2 size={13} />
        </button>
      )}
      <div className="relative min-w-0 flex-1 bg-sheet" style={{ marginRight: GUTTER }} onPointerDown={select}>
        <StripCanvas strip={strip} timeline={timeline} />
      </div>
    </div>
  );
});

/** What to do next in a project that has just begun; gone when it is done. */
function NextStep() {
  const silent = useSound((s) => s.state === "idle");
  const editable = useEditable();
  const next = useOfPart(({ notes, arpeggio, patch }) => {
    if (notes.length === 0) return null;
    if (silent) return "Next: Space plays it";
    const idle = modulatorsOf(patch).find(
      (m) => !shapesLevel(patch, m.id) && !patch.routes.some((r) => r.source === m.id),
    );
    if (idle) return `Next: choose on the right what ${idle.name} moves`;
    return !arpeggio.on && modulatorsOf(patch).length === 1
      ? "Next: switch the arpeggio on, or add a shape that moves the sound"
      : null;
  });
  const text = editable ? next : null;
  return text && <span className="ml-auto truncate text-[11px] text-ink2">{text}</span>;
}

const ADD_TITLES: Record<Addable, string> = {
  shape: "A drawn curve that runs in time",
  envelope: "Rises and falls with each note",
  steps: "A sequence of values, a step each",
  random: "Values drawn by chance, alike in every render",
  follower: "The level of notes, of this part or another one",
  gate: "Steps that open and close",
  macro: "One value for the hand that moves many",
  silent: "Turns eight octaves below the key that plays, and moves what you route it to",
  vibrato: "A shape that moves the pitch of every oscillator",
  pluck: "An envelope that moves the filter's cutoff",
};

/** What is added, where it is called otherwise than its kind. */
const ADD_TEXT: Partial<Record<Addable, string>> = { steps: "step sequence", silent: "silent oscillator" };

const AddStrip = memo(function AddStrip() {
  const studio = useStudio();
  const editable = useEditable();
  const full = useOfPart((part) => modulatorsOf(part.patch).length >= MAX_MODULATORS);
  const backed = useProject((s) => s.project.backing !== null);
  return (
    <div className="flex flex-wrap items-center gap-x-2.5 gap-y-0.5 bg-paper px-3 py-1.5 text-[11px] text-ink2">
      <span aria-hidden>Add</span>
      {!backed && (
        <button
          type="button"
          className="flex cursor-pointer items-center gap-1 text-[11px] text-ink2 hover:text-ink disabled:cursor-default disabled:opacity-50"
          disabled={!editable}
          aria-label="Add a backing"
          title="Drums that stand in for the song: heard with it, and followed"
          onClick={() => void withActions((a) => a.startBacking(studio))}
        >
          <Plus size={12} /> backing
        </button>
      )}
      {(Object.keys(ADD_TITLES) as Addable[]).map((kind) => (
        <button
          key={kind}
          type="button"
          className="flex cursor-pointer items-center gap-1 text-[11px] text-ink2 hover:text-ink disabled:cursor-default disabled:opacity-50"
          disabled={!editable || full}
          aria-label={`Add ${kind === "envelope" ? "an" : "a"} ${ADD_TEXT[kind] ?? kind}`}
          title={full ? `A part holds ${MAX_MODULATORS} of them` : ADD_TITLES[kind]}
          onClick={() => void withActions((a) => a.addModulator(studio, studio.part, kind))}
        >
          <Plus size={12} /> {kind === "silent" ? ADD_TEXT[kind] : kind}
        </button>
      ))}
      <NextStep />
    </div>
  );
});
