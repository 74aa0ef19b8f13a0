import { GATE, type Gate } from "@/core/patch/kinds/gate";
import { MAX_LANE_STEPS, newLane, PLAY } from "@/core/patch/lanes";
import { wholeRow } from "@/core/patch/row";
import { fillEvenly, mirror, shift, withLength } from "@/core/pattern/fill";
import { formatSpan } from "@/core/time/span";
import { editModule } from "@/state/edits";
import { useEditable, usePart, useStudio } from "@/views/studio/studio";
import { RESTART_TEXT } from "../stripList";
import { ModuleName } from "./ModuleName";
import { RESTART_TITLES } from "./Restarts";
import { MovedValues, MovesOf } from "./Routes";
import { ModuleChoice, ModuleRow, ModuleTime, NumberRow } from "./rows";

const STEPS = wholeRow({ label: "Steps", unit: "", min: 1, max: MAX_LANE_STEPS, default: 16 });

/** A gate: its steps, how they open and close, and what it cuts. */
export function GateInspector({ gate }: { gate: Gate }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const { steps } = gate.data;
  // What fills the play lane of an arpeggio fills a gate.
  const lane = { ...newLane("play", steps.length), values: steps };
  const set = (label: string, next: { readonly values: readonly number[] }, gesture?: string): void =>
    void store.edit(`${label} of ${gate.name}`, editModule(part.id, GATE, gate.id, (m) => ({ ...m, data: { steps: next.values } })), gesture); // prettier-ignore
  return (
    <>
      <div>
        <ModuleName module={gate} />
        <p className="text-[12px] text-ink2">
          gate, {steps.length} steps of {formatSpan(gate.times.step)}
        </p>
      </div>
      <section>
        <h3 className="heading mb-1">Steps</h3>
        <NumberRow row={STEPS} kind="rhythm" value={steps.length} onChange={(v, _l, g) => set("Set length", withLength(lane, v), g)} />
        <ModuleTime module={gate} time={GATE.times.step} />
        <ModuleRow module={gate} row={GATE.rows.swing} />
        <ModuleChoice module={gate} choice={GATE.choices.restart} text={(r) => RESTART_TEXT[r]} title={(r) => RESTART_TITLES[r]} />
        <NumberRow
          row={wholeRow({ label: "Even hits", unit: "", min: 0, max: steps.length, default: 4, hint: "Spreads so many openings over the steps as evenly as can be." })}
          kind="rhythm"
          value={steps.filter((s) => s === PLAY).length}
          onChange={(v, _l, g) => set("Spread steps", fillEvenly(lane, "play", v, 0), g)}
        />
        <div className="mt-1 flex flex-wrap gap-1">
          {(
            [
              ["All open", "Open all", { values: steps.map(() => PLAY) }],
              ["Backward", "Turn the steps", mirror(lane)],
              ["◂ Earlier", "Move the steps", shift(lane, -1)],
              ["Later ▸", "Move the steps", shift(lane, 1)],
            ] as const
          ).map(([text, label, next]) => (
            <button key={text} type="button" className="chip" disabled={!editable} onClick={() => set(label, next)}>
              {text}
            </button>
          ))}
        </div>
      </section>
      <section>
        <h3 className="heading mb-1">Opening and closing</h3>
        <ModuleRow module={gate} row={GATE.rows.attack} />
        <ModuleRow module={gate} row={GATE.rows.hold} />
        <ModuleRow module={gate} row={GATE.rows.tail} />
      </section>
      <MovesOf source={gate.id} />
      <MovedValues module={gate} />
    </>
  ); // prettier-ignore
}
