import { automatable } from "@/core/patch/automation";
import { AUTOMATION, type Automation } from "@/core/patch/kinds/automation";
import { fromNorm, toNorm } from "@/core/patch/row";
import { editModule, editPatch, removeModule } from "@/state/edits";
import { withModule } from "@/core/patch/edit";
import { Toggle } from "@/ui/Toggle";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { NOTES_STRIP } from "@/views/studio/viewStore";
import { ModuleName } from "./ModuleName";
import { MovedBy } from "./Routes";

/** What is automated, between which values, and how it is written. */
export function AutomationInspector({ module: m }: { module: Automation }) {
  const { workspace, view } = useStudio();
  const { store } = workspace;
  const part = usePart();
  const editable = useEditable();
  const writing = useView((v) => v.writing);
  const song = useProject((s) => s.project.song);
  const found = automatable(part.patch, m.data.target, song);
  const ys = m.data.points.map((p) => p.y);
  const text = (y: number): string => (found ? found.text(fromNorm(found.row, y)) : "");
  const flat = (): void => {
    if (!found) return;
    const y = Math.min(1, Math.max(0, toNorm(found.row, found.rest)));
    store.edit(`Clear ${m.name}`, editModule(part.id, AUTOMATION, m.id, (old) => ({ ...old, data: { ...old.data, points: [0, 1].map((x) => ({ x, y, tension: 0 })) } })));
  };
  return (
    <>
      <div>
        <ModuleName module={m} />
        <p className="text-[12px] text-ink2">
          automation, {text(Math.min(...ys))} to {text(Math.max(...ys))}, {m.data.points.length} points
        </p>
      </div>
      <section>
        <div className="flex flex-wrap gap-1">
          <Toggle
            text="on"
            name={`${m.name} on`}
            on={m.on}
            disabled={!editable}
            onChange={(on) => store.edit(`Switch ${m.name} ${on ? "on" : "off"}`, editPatch(part.id, (p) => withModule(p, m.id, (old) => ({ ...old, on }))))}
          />
          <Toggle
            text="write"
            name="Write while it plays"
            on={writing}
            disabled={!editable}
            title="While it plays, what you do to an automated value is written into its automation"
            onChange={(on) => view.setState({ writing: on })}
          />
          <button type="button" className="chip" disabled={!editable} title={`Holds it at ${found ? found.text(found.rest) : "rest"} again`} onClick={flat}>
            Clear
          </button>
          <button
            type="button"
            className="chip"
            disabled={!editable}
            onClick={() => {
              if (store.edit(`Remove ${m.name}`, removeModule(part.id, m.id))) view.setState({ strip: NOTES_STRIP });
            }}
          >
            Remove
          </button>
        </div>
        <p className="mt-2 text-[11px] text-ink2">
          It stands in for {found ? found.text(found.rest) : "what is set"} at rest: what moves the value adds to it.
        </p>
      </section>
      <MovedBy target={m.data.target} />
    </>
  );
} // prettier-ignore
