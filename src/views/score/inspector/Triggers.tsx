import { triggersOf } from "@/core/pattern/fromRhythm";
import { useEditable, usePart, useStudio, useView } from "@/views/studio/studio";
import { restartNow } from "../restartNow";
import { editRestarts, type Restarting } from "../restarting";

/** Where a shape or an envelope is triggered, and how it comes by that. */
export function Triggers({ shape }: { shape: Restarting }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const selected = useView((v) => v.selectedNotes);
  const { triggers } = shape.data;
  const chosen = part.notes.filter((n) => selected.has(n.id));
  const from = chosen.length > 0 ? chosen : part.notes;
  const set = (label: string, ticks: readonly number[]): void =>
    void store.edit(`${label} of ${shape.name}`, editRestarts(part.id, shape, { triggers: ticks }));
  return (
    <div className="mt-1 flex flex-wrap items-center gap-1">
      <span className="mr-1 text-[11px] text-ink2">{triggers.length === 1 ? "1 trigger" : `${triggers.length} triggers`}</span>
      <button
        type="button"
        className="chip"
        disabled={!editable || from.length === 0}
        title={chosen.length > 0 ? "Where the chosen notes start" : "Where the notes of the part start"}
        onClick={() => set("Take triggers", triggersOf(from.map((n) => n.startTick)))}
      >
        {chosen.length > 0 ? "From chosen notes" : "From the notes"}
      </button>
      <button type="button" className="chip" disabled={!editable || triggers.length === 0} onClick={() => set("Clear triggers", [])}>
        Clear
      </button>
    </div>
  ); // prettier-ignore
}

/** Where a hand restarted something: now, and clearing it. */
export function ByHand({ module }: { module: Restarting }) {
  const studio = useStudio();
  const { store } = studio.workspace;
  const part = usePart();
  const editable = useEditable();
  const { length } = module.data.triggers;
  return (
    <div className="mt-1 flex flex-wrap items-center gap-1">
      <span className="mr-1 text-[11px] text-ink2">
        {length === 0 ? "runs with the song so far" : length === 1 ? "1 restart" : `${length} restarts`}
      </span>
      <button
        type="button"
        className="chip"
        disabled={!editable}
        title="At the place that is heard, or where Play starts (G)"
        onClick={() => restartNow(studio, part)}
      >
        Restart now
      </button>
      <button
        type="button"
        className="chip"
        disabled={!editable || length === 0}
        onClick={() => store.edit(`Clear restarts of ${module.name}`, editRestarts(part.id, module, { triggers: [] }))}
      >
        Clear
      </button>
    </div>
  );
}
