import { DRUMS, KIT, MAX_KIT_STEPS, type Kit } from "@/core/patch/kinds/kit";
import { wholeRow } from "@/core/patch/row";
import { GROOVES, cleared, spread, turned, withSteps, withStroke } from "@/core/pattern/grooves";
import { formatSpan } from "@/core/time/span";
import { setBackingSteps } from "@/state/backingEdits";
import { Toggle } from "@/ui/Toggle";
import { useEditable, useStudio, useView } from "@/views/studio/studio";
import { dropBacking, muteBacking } from "../backingActions";
import { ModuleRow, ModuleTime, NumberRow } from "./rows";

const { rows, times } = KIT;
const STEPS = wholeRow({ label: "Steps", unit: "", min: 1, max: MAX_KIT_STEPS, default: 16 });
const VELOCITY = wholeRow({ label: "Velocity", unit: "", min: 0, max: 127, default: 110, hint: "How hard the chosen step is struck: 0 is not at all." }); // prettier-ignore

/** The drums that stand in for the song: their steps, and how they sound. */
export function KitInspector({ kit }: { kit: Kit }) {
  const studio = useStudio();
  const { view, workspace } = studio;
  const { store } = workspace;
  const editable = useEditable();
  const chosen = useView((v) => v.stroke);
  const { steps } = kit.data;
  const drum = chosen?.drum ?? "kick";
  const at = chosen && steps[chosen.step] ? chosen.step : null;
  const set = (label: string, change: Parameters<typeof setBackingSteps>[0], gesture?: string): void =>
    void store.edit(`${label} of the backing`, setBackingSteps(change), gesture);
  return (
    <>
      <div>
        <p className="text-[15px] font-bold">{kit.name}</p>
        <div className="flex items-center justify-between gap-2">
          <p className="min-w-0 truncate text-[12px] text-ink2">
            {steps.length} steps of {formatSpan(kit.times.step)}
          </p>
          <span className="flex gap-1">
            <Toggle
              text="heard"
              name="Backing heard"
              on={kit.on}
              disabled={!editable}
              title="Off, it is silent; what follows it does so all the same"
              onChange={(on) => muteBacking(studio, !on)}
            />
            <button
              type="button"
              className="chip px-1.5 py-0"
              disabled={!editable}
              title="Removes the backing; what followed it follows its own notes again"
              onClick={() => dropBacking(studio)}
            >
              remove
            </button>
          </span>
        </div>
        <p className="mt-1 text-[11px] text-ink2">
          It stands in for the song, in the song’s swing: followers and restarts can listen to its drums. Files have it where you ask for it.
        </p>
      </div>
      <section>
        <h3 className="heading mb-1">Rhythm</h3>
        <div className="mb-1 flex flex-wrap gap-1">
          {GROOVES.map((g) => (
            <button key={g.name} type="button" className="chip" disabled={!editable} onClick={() => set("Set the rhythm", () => g.steps)}>
              {g.name}
            </button>
          ))}
          <button type="button" className="chip" disabled={!editable} onClick={() => set("Clear the strokes", (s) => cleared(s))}>
            Clear
          </button>
        </div>
        <NumberRow row={STEPS} kind="rhythm" value={steps.length} onChange={(v, l, g) => set(l, (s) => withSteps(s, v), g)} />
        <ModuleTime module={kit} time={times.step} />
      </section>
      <section>
        <h3 className="heading mb-1">{at === null ? `The ${drum}` : `The ${drum}, step ${at + 1}`}</h3>
        <div className="mb-1 flex gap-1" role="group" aria-label="Drum">
          {DRUMS.map((d) => (
            <Toggle key={d} text={d} name={`Choose the ${d}`} on={d === drum} onChange={() => view.setState({ stroke: { step: at ?? 0, drum: d } })} />
          ))}
        </div>
        {at !== null && (
          <NumberRow row={VELOCITY} kind="rhythm" value={steps[at]![drum]} onChange={(v, l, g) => set(`${l} of a ${drum}`, (s) => withStroke(s, at, drum, v), g)} />
        )}
        <NumberRow
          row={wholeRow({ label: "Even hits", unit: "", min: 0, max: steps.length, default: 4, hint: "Spreads so many strokes over the steps as evenly as can be." })}
          kind="rhythm"
          value={steps.filter((s) => s[drum] > 0).length}
          onChange={(v, _l, g) => set(`Spread the ${drum}s`, (s) => spread(s, drum, v), g)}
        />
        <div className="mt-1 flex flex-wrap gap-1">
          <button type="button" className="chip" disabled={!editable} onClick={() => set("Move the strokes", (s) => turned(s, -1))}>
            ◂ Earlier
          </button>
          <button type="button" className="chip" disabled={!editable} onClick={() => set("Move the strokes", (s) => turned(s, 1))}>
            Later ▸
          </button>
          <button type="button" className="chip" disabled={!editable} onClick={() => set(`Clear the ${drum}s`, (s) => cleared(s, drum))}>
            No {drum}
          </button>
        </div>
      </section>
      <section>
        <h3 className="heading mb-1">Sound</h3>
        <ModuleRow module={kit} row={rows.level} />
        <ModuleRow module={kit} row={rows.kickLevel} />
        <ModuleRow module={kit} row={rows.kickPitch} />
        <ModuleRow module={kit} row={rows.kickDecay} />
        <ModuleRow module={kit} row={rows.clapLevel} />
        <ModuleRow module={kit} row={rows.clapDecay} />
        <ModuleRow module={kit} row={rows.hatLevel} />
        <ModuleRow module={kit} row={rows.hatDecay} />
      </section>
    </>
  ); // prettier-ignore
}
