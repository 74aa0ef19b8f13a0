import {
  STEPS,
  STEP_FORMS,
  MAX_SEQUENCE_STEPS,
  type SequenceStep,
  type StepForm,
  type Steps,
} from "@/core/patch/kinds/steps";
import { row, wholeRow } from "@/core/patch/row";
import { editModule } from "@/state/edits";
import { SelectRow } from "@/ui/Select";
import { Toggle } from "@/ui/Toggle";
import { ValueRow } from "@/ui/ValueRow";
import { parameterValue } from "@/ui/values";
import { useEditable, usePart, useStudio, useView } from "@/views/studio/studio";
import { RESTART_TEXT, stepsText } from "../stripList";
import { ModuleName } from "./ModuleName";
import { AtJumps, ByHand, RESTART_TITLES, RestartNotes, Triggers, barsText } from "./Restarts";
import { MovedValues, MovesOf } from "./Routes";
import { useReading } from "../editors/useReading";
import { ModuleChoice, ModuleRow, ModuleTime, NumberRow } from "./rows";

const COUNT = wholeRow({ label: "Steps", unit: "", min: 1, max: MAX_SEQUENCE_STEPS, default: 16 });
const STEP_ROWS = {
  value: row({ label: "Value", unit: "%", min: 0, max: 100, default: 0, digits: 1, step: 5, fine: 1 }),
  second: row({ label: "Second row", unit: "%", min: 0, max: 100, default: 0, digits: 1, step: 5, fine: 1 }),
  glide: row({ label: "Glide", unit: "%", min: 0, max: 100, default: 0, step: 5, fine: 1, hint: "How much of the step's end glides into the next one." }),
  chance: row({ label: "Chance", unit: "%", min: 0, max: 100, default: 100, step: 5, fine: 1, hint: "How likely the step is played; else the one before goes on. Drawn from the project's seed." }),
} as const; // prettier-ignore

const FORM_TEXT: Record<StepForm, string> = {
  flat: "flat",
  rise: "rises",
  fall: "falls",
  swell: "swells late",
  drop: "drops at once",
  hill: "up and down",
  dip: "down and up",
};

/** A step sequence: its steps, how they run in time, and what it moves. */
export function StepsInspector({ module: m }: { module: Steps }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const chosen = useView((v) => v.laneSteps);
  const { steps } = m.data;
  const picked = chosen.size > 0 ? [...chosen].filter((i) => i < steps.length).sort((a, b) => a - b) : [...steps.keys()];
  const first = steps[picked[0] ?? 0]!;
  const edit = (label: string, change: (list: readonly SequenceStep[]) => readonly SequenceStep[], gesture?: string): void =>
    void store.edit(
      `${label} of ${m.name}`,
      editModule(part.id, STEPS, m.id, (old) => ({ ...old, data: { ...old.data, steps: change(old.data.steps) } })),
      gesture,
    );
  const setAll = (label: string, change: Partial<SequenceStep>, gesture?: string): void =>
    edit(label, (list) => list.map((s, i) => (chosen.size === 0 || chosen.has(i) ? { ...s, ...change } : s)), gesture);
  const which = chosen.size === 0 ? "All steps" : picked.length === 1 ? `Step ${picked[0]! + 1}` : `${picked.length} steps`;
  const { reading } = useReading(m.id);
  const differ = (key: keyof SequenceStep): boolean => picked.some((k) => steps[k]![key] !== first[key]);
  /** A value as what it makes of the first thing that it moves: an interval and its note, octaves, percent. */
  const amount = (key: "value" | "second") => {
    const { label } = STEP_ROWS[key];
    const set = (v: number, g?: string): void => setAll(`Set ${label.toLowerCase()}`, { [key]: v }, g);
    const percent = parameterValue(STEP_ROWS[key], first[key] * 100, (v, g) => set(v / 100, g));
    return (
      <ValueRow
        label={label}
        kind="rhythm"
        disabled={!editable}
        value={{
          ...percent,
          text: differ(key) ? "various" : reading.text(first[key]),
          spoken: reading.text(first[key]),
          type: (typed) => {
            const place = reading.read(typed);
            if (place === null) return percent.type(typed);
            set(Math.min(1, Math.max(0, place)));
            return null;
          },
        }}
      />
    );
  };
  const percent = (key: "glide" | "chance", scale: number) => (
    <NumberRow
      row={STEP_ROWS[key]}
      kind="rhythm"
      value={first[key] * scale}
      {...(differ(key) ? { text: () => "various" } : {})}
      onChange={(v, _l, g) => setAll(`Set ${STEP_ROWS[key].label.toLowerCase()}`, { [key]: v / scale }, g)}
    />
  );
  return (
    <>
      <div>
        <ModuleName module={m} />
        <p className="text-[12px] text-ink2">{stepsText(m)}</p>
      </div>
      <section>
        <h3 className="heading mb-1">Time</h3>
        <NumberRow
          row={COUNT}
          kind="rhythm"
          value={steps.length}
          onChange={(n, _l, g) => edit("Set length", (list) => Array.from({ length: n }, (_, i) => list[i] ?? list[i % list.length]!), g)}
        />
        <ModuleTime module={m} time={STEPS.times.rate} />
        <AtJumps module={m} />
        <ModuleChoice module={m} choice={STEPS.choices.rateOf} text={(o) => (o === "step" ? "each step" : "all of them")} shown />
        <ModuleRow module={m} row={STEPS.rows.phase} />
        <ModuleRow module={m} row={STEPS.rows.smoothing} />
        <ModuleRow module={m} row={STEPS.rows.blend} />
        <ModuleChoice module={m} choice={STEPS.choices.restart} text={(r) => RESTART_TEXT[r]} title={(r) => RESTART_TITLES[r]} />
        {m.choices.restart === "bar" && <ModuleRow module={m} row={STEPS.rows.every} text={(v) => (v === 0 ? "as it takes" : barsText(v))} />}
        {m.choices.restart === "triggers" && <Triggers shape={m} />}
        {m.choices.restart === "hand" && <ByHand module={m} />}
        <RestartNotes module={m} />
      </section>
      <section aria-label="Values of the chosen steps">
        <h3 className="heading mb-1">{which}</h3>
        {amount("value")}
        {amount("second")}
        <SelectRow
          label="Runs"
          name={`How ${which.toLowerCase()} run`}
          value={first.form}
          options={STEP_FORMS.map((f) => ({ value: f, text: FORM_TEXT[f] }))}
          onChange={(form) => setAll("Set form", { form })}
        />
        {percent("glide", 1)}
        {percent("chance", 1)}
        <div className="mt-1 flex flex-wrap gap-1">
          <Toggle text="holds on" name={`${which} hold on`} on={first.hold} disabled={!editable} onChange={(hold) => setAll(hold ? "Hold on to steps" : "Play steps", { hold })} />
          {(
            [
              ["Backward", "Turn the steps", (list) => [...list].reverse()],
              ["Upside down", "Flip the steps", (list) => list.map((s) => ({ ...s, value: 1 - s.value }))],
              ["◂ Earlier", "Move the steps", (list) => [...list.slice(1), list[0]!]],
              ["Later ▸", "Move the steps", (list) => [list.at(-1)!, ...list.slice(0, -1)]],
            ] as const satisfies readonly (readonly [string, string, (list: readonly SequenceStep[]) => readonly SequenceStep[]])[]
          ).map(([text, label, change]) => (
            <button key={text} type="button" className="chip" disabled={!editable} onClick={() => edit(label, change)}>
              {text}
            </button>
          ))}
          {reading.inKey && (
            <button
              type="button"
              className="chip"
              disabled={!editable}
              title="Brings the values to the nearest notes of the song's key"
              onClick={() => edit("Bring into the key", (list) => list.map((s, i) => (chosen.size === 0 || chosen.has(i) ? { ...s, value: reading.inKey!(s.value), second: reading.inKey!(s.second) } : s)))}
            >
              Into the key
            </button>
          )}
        </div>
      </section>
      <MovesOf source={m.id} />
      <MovedValues module={m} />
    </>
  );
} // prettier-ignore
