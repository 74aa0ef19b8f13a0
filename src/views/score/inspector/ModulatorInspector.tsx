import { useCallback } from "react";
import { automationOf } from "@/core/patch/automation";
import { addressOfRow, kindOf, type Module, type Modulator } from "@/core/patch/kinds";
import type { Automation } from "@/core/patch/kinds/automation";
import { ENVELOPE, type Envelope } from "@/core/patch/kinds/envelope";
import { STEPS, type Steps } from "@/core/patch/kinds/steps";
import { AT_JUMPS, SHAPE, type Shape } from "@/core/patch/kinds/shape";
import { isSharedShape } from "@/core/motion/shape";
import { adjusted } from "@/core/patch/kinds/kind";
import type { Part } from "@/core/patch/project";
import { targetAt } from "@/core/patch/targets";
import { triggersOf } from "@/core/pattern/fromRhythm";
import { formatSpan, isSynced, spanMs, type Span, type TimeBase } from "@/core/time/span";
import { editModule, renameModule } from "@/state/edits";
import type { Note } from "@/state/workspace";
import { Choices } from "@/ui/Choices";
import { NameField } from "@/ui/NameField";
import { Toggle } from "@/ui/Toggle";
import { SelectRow } from "@/ui/Select";
import { RATE_RULES, TIME_RULES, spanNear } from "@/ui/values";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { restartNow } from "../restartNow";
import { RESTART_TEXT, shapesLevel } from "../stripList";
import { MovesOf } from "./Routes";
import { ModuleChoice, ModuleRow, ModuleTime } from "./rows";

export const RESTART_TITLES = {
  song: "Runs with the song's position",
  bar: "Starts again with every bar",
  chord: "Starts again with each chord or note as it is written: what an arpeggio makes of it counts once",
  rest: "Starts again with the first note after a rest",
  note: "Starts again with every note",
  once: "Starts with every note, goes through once and stays at its end",
  triggers: "Goes through once at each trigger: take them from notes, or from a file",
  hand: "Starts again where you say so while it plays (G); that is kept, and heard in every pass",
} as const;

export function ModuleName({ module }: { module: Modulator | Automation }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const asked = useView((v) => v.renaming === module.id);
  const { view } = useStudio();
  const onAsked = useCallback(() => view.setState({ renaming: null }), [view]);
  const clicking = useView((v) => v.clicking === module.id);
  return (
    <div className="flex items-center gap-1">
      <div className="min-w-0 flex-1">
        <NameField
          name={module.name}
          disabled={!editable}
          asked={asked && editable}
          onAsked={onAsked}
          onRename={(name) => store.edit(`Rename of ${module.name}`, renameModule(part.id, module.id, name))}
        />
      </div>
      {module.kind !== "automation" && (
        <Toggle
          text="clicks"
          name={`Peaks of ${module.name} as clicks`}
          on={clicking}
          title="Lets its peaks click softly while the song plays, to feel its rhythm: not part of the project"
          onChange={(on) => view.setState({ clicking: on ? module.id : null })}
        />
      )}
    </div>
  );
}

/** Says so when a length is another one in its new unit; a hundredth of it is not heard. */
function tellRounded(tell: (note: Note) => void, pairs: readonly (readonly [Span, Span])[], base: TimeBase): void {
  const changed = pairs.filter(
    ([was, is]) => Math.abs(spanMs(was, base) - spanMs(is, base)) > 0.01 * spanMs(was, base),
  );
  if (changed.length === 0) return;
  const texts = changed.map(([was, is]) => `${formatSpan(was)} became ${formatSpan(is)}`);
  tell({ kind: "info", text: `Rounded: ${texts.join(", ")}` });
}

export function ShapeInspector({ shape }: { shape: Shape }) {
  const { workspace, tell } = useStudio();
  const { store } = workspace;
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const songModules = useProject((s) => s.project.modules);
  const { rate } = shape.times;
  const unit = isSynced(rate) ? "note" : rate.unit;
  const changeUnit = (to: string): void => {
    const ms = Math.min(RATE_RULES.max, Math.max(RATE_RULES.min, spanMs(rate, song)));
    const like: Span =
      to === "note" ? { unit: "note", num: 1, den: 4 } : to === "hz" ? { unit: "hz", hz: 1 } : { unit: "ms", ms: 1 };
    const near = spanNear(like, ms, song, RATE_RULES);
    tellRounded(tell, [[rate, near]], song);
    store.edit(
      `Set rate unit of ${shape.name}`,
      editModule(part.id, SHAPE, shape.id, (m) => ({ ...m, times: { ...m.times, rate: near } })),
    );
  };
  return (
    <>
      <div>
        <ModuleName module={shape} />
        <p className="text-[12px] text-ink2">synced shape, {shape.data.points.length} points</p>
      </div>
      <section>
        <h3 className="heading mb-1">Time</h3>
        <ModuleTime module={shape} time={SHAPE.times.rate} />
        <Choices
          label="Rate in"
          value={unit}
          options={[
            { value: "note", text: "note values" },
            { value: "hz", text: "Hz" },
            { value: "ms", text: "ms" },
          ]}
          onChange={changeUnit}
        />
        <AtJumps module={shape} />
        <ModuleRow module={shape} row={SHAPE.rows.phase} />
        <ModuleRow module={shape} row={SHAPE.rows.smoothing} />
        <ModuleChoice
          module={shape}
          choice={SHAPE.choices.restart}
          text={(r) => RESTART_TEXT[r]}
          title={(r) => RESTART_TITLES[r]}
        />
        {shape.choices.restart === "bar" && <ModuleRow module={shape} row={SHAPE.rows.every} text={barsText} />}
        {shape.choices.restart === "triggers" && <Triggers shape={shape} />}
        {shape.choices.restart === "hand" && <ByHand module={shape} />}
        <RestartNotes module={shape} />
        {isSharedShape(shape.choices.restart) && shape.choices.restart !== "triggers" && (
          <ModuleChoice module={shape} choice={SHAPE.choices.goes} text={(g) => GOES_TEXT[g]} shown />
        )}
        {shape.choices.restart !== "song" && <ModuleTime module={shape} time={SHAPE.times.fadeIn} />}
        {!isSharedShape(shape.choices.restart) && (
          <>
            <ModuleRow module={shape} row={SHAPE.rows.keyFollow} />
            <ModuleRow module={shape} row={SHAPE.rows.scatter} />
          </>
        )}
        {shape.choices.restart === "once" && <WhileHeld shape={shape} />}
        {(shape.values.sides > 0 || movesSides(part, songModules, shape.id)) && (
          <ModuleRow module={shape} row={SHAPE.rows.sides} />
        )}
      </section>
      <MovesOf source={shape.id} />
    </>
  );
}

/** Whether something moves a value that has two sides. */
const movesSides = (part: Part, songModules: readonly Module[], source: string): boolean =>
  part.patch.routes.some((r) => r.source === source && !r.amplitude && targetAt(part.patch, songModules, r.target)?.move.sides); // prettier-ignore

const HELD_TEXT = { runs: "runs on", stands: "stands", loops: "repeats" } as const;

/** What a shape that goes through once with its note does while that is held. */
function WhileHeld({ shape }: { shape: Shape }) {
  const { whileHeld } = shape.choices;
  return (
    <>
      <ModuleChoice module={shape} choice={SHAPE.choices.whileHeld} text={(h) => HELD_TEXT[h]} shown />
      {whileHeld === "loops" && <ModuleRow module={shape} row={SHAPE.rows.heldFrom} />}
      {whileHeld !== "runs" && <ModuleRow module={shape} row={SHAPE.rows.heldTo} />}
    </>
  );
}

/** Where a hand restarted something: now, and clearing it. */
export function ByHand({ module }: { module: Shape | Steps }) {
  const studio = useStudio();
  const { store } = studio.workspace;
  const part = usePart();
  const editable = useEditable();
  const { length } = module.data.triggers;
  const clear =
    module.kind === "shape"
      ? editModule(part.id, SHAPE, module.id, (m) => adjusted(m, { data: { triggers: [] } }))
      : editModule(part.id, STEPS, module.id, (m) => adjusted(m, { data: { triggers: [] } }));
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
        onClick={() => store.edit(`Clear restarts of ${module.name}`, clear)}
      >
        Clear
      </button>
    </div>
  );
}

/** What a modulator does where its rate jumps: asked where that is automated. */
export function AtJumps({ module }: { module: Shape | Steps }) {
  const part = usePart();
  const { times } = kindOf(module);
  if (!isSharedShape(module.choices.restart) || !automationOf(part.patch, addressOfRow(module, times["rate"]!)))
    return null;
  return (
    <ModuleChoice module={module} choice={AT_JUMPS} text={(j) => (j === "goesOn" ? "goes on" : "starts again")} shown />
  );
}

const GOES_TEXT = { round: "round and round", once: "once" } as const;

/** Whose notes restart a modulator that restarts with notes. */
export function RestartNotes({ module }: { module: Shape | Steps }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const parts = useProject((s) => s.project.parts);
  const { restart } = module.choices;
  if ((restart !== "chord" && restart !== "rest") || parts.length < 2) return null;
  const set = (notesOf: string | null): void => {
    const edit =
      module.kind === "shape"
        ? editModule(part.id, SHAPE, module.id, (m) => adjusted(m, { data: { notesOf } }))
        : editModule(part.id, STEPS, module.id, (m) => adjusted(m, { data: { notesOf } }));
    store.edit(`Set whose notes restart ${module.name}`, edit);
  };
  return <NotesOf name={`Whose notes restart ${module.name}`} value={module.data.notesOf} onChange={set} />;
}

/** A choice of a part whose notes are heard: null is the part itself. */
export function NotesOf({
  name,
  value,
  onChange,
}: {
  name: string;
  value: string | null;
  onChange: (part: string | null) => void;
}) {
  const part = usePart();
  const parts = useProject((s) => s.project.parts);
  const others = parts.filter((p) => p.id !== part.id);
  return (
    <SelectRow
      label="Notes of"
      name={name}
      value={others.some((p) => p.id === value) ? value! : ""}
      options={[{ value: "", text: "this part" }, ...others.map((p) => ({ value: p.id, text: p.name }))]}
      onChange={(id) => onChange(id === "" ? null : id)}
    />
  );
}

/** How often something restarts with the bar. */
export const barsText = (bars: number): string => (bars === 1 ? "bar" : `${bars} bars`);

/** Where a shape or an envelope is triggered, and how it comes by that. */
export function Triggers({ shape }: { shape: Shape | Steps | Envelope }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const selected = useView((v) => v.selectedNotes);
  const { triggers } = shape.data;
  const chosen = part.notes.filter((n) => selected.has(n.id));
  const from = chosen.length > 0 ? chosen : part.notes;
  const set = (label: string, ticks: readonly number[]): void =>
    void store.edit(
      `${label} of ${shape.name}`,
      shape.kind === "shape"
        ? editModule(part.id, SHAPE, shape.id, (m) => ({ ...m, data: { ...m.data, triggers: ticks } }))
        : shape.kind === "steps"
          ? editModule(part.id, STEPS, shape.id, (m) => ({ ...m, data: { ...m.data, triggers: ticks } }))
          : editModule(part.id, ENVELOPE, shape.id, (m) => ({ ...m, data: { triggers: ticks } })),
    );
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

const STARTS_TEXT: Record<Envelope["choices"]["restart"], string> = {
  note: "each note",
  song: "with the song",
  bar: "each bar",
  triggers: "at triggers",
};
const STARTS_TITLES: Record<Envelope["choices"]["restart"], string> = {
  note: "Each note has its own, and lets it go",
  song: "All notes share it; it starts with the loop",
  bar: "All notes share it; it starts with each bar",
  triggers: "All notes share it; it starts at each trigger",
};
const LOOP_TEXT: Record<Envelope["choices"]["loop"], string> = {
  none: "nothing",
  decay: "its decay",
  all: "all of it",
};

export function EnvelopeInspector({ envelope }: { envelope: Envelope }) {
  const { workspace, tell } = useStudio();
  const { store } = workspace;
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const { delay, attack, hold, decay, release } = envelope.times;
  const changeUnit = (to: string): void => {
    const like: Span = to === "note" ? { unit: "note", num: 1, den: 16 } : { unit: "ms", ms: 1 };
    const near = (span: Span) => spanNear(like, spanMs(span, song), song, TIME_RULES);
    // No time at all stays none: a note value has a shortest one.
    const delayNear = (span: Span) => (spanMs(span, song) === 0 ? span : near(span));
    tellRounded(tell, [delay, attack, hold, decay, release].map((span) => [span, near(span)]), song); // prettier-ignore
    store.edit(
      `Set time unit of ${envelope.name}`,
      editModule(part.id, ENVELOPE, envelope.id, (m) => ({
        ...m,
        times: {
          delay: delayNear(delay),
          attack: near(attack),
          hold: delayNear(hold),
          decay: near(decay),
          release: near(release),
        },
      })),
    );
  };
  return (
    <>
      <div>
        <ModuleName module={envelope} />
        <p className="text-[12px] text-ink2">
          {shapesLevel(part.patch, envelope.id)
            ? "envelope of every note's level"
            : `envelope, starts ${envelope.choices.restart === "note" ? "with each note" : STARTS_TEXT[envelope.choices.restart]}, decay ${formatSpan(decay)}`}
        </p>
      </div>
      <section>
        <h3 className="heading mb-1">Times</h3>
        <ModuleTime module={envelope} time={ENVELOPE.times.delay} />
        <ModuleTime module={envelope} time={ENVELOPE.times.attack} />
        <ModuleTime module={envelope} time={ENVELOPE.times.hold} />
        <ModuleTime module={envelope} time={ENVELOPE.times.decay} />
        <ModuleRow module={envelope} row={ENVELOPE.rows.sustain} />
        <ModuleTime module={envelope} time={ENVELOPE.times.release} />
        <Choices
          label="Times in"
          value={isSynced(decay) ? "note" : "ms"}
          options={[
            { value: "ms", text: "ms" },
            { value: "note", text: "note values" },
          ]}
          onChange={changeUnit}
        />
        {!shapesLevel(part.patch, envelope.id) && (
          <>
            <ModuleChoice
              module={envelope}
              choice={ENVELOPE.choices.restart}
              text={(r) => STARTS_TEXT[r]}
              title={(r) => STARTS_TITLES[r]}
              shown
            />
            {envelope.choices.restart === "triggers" && <Triggers shape={envelope} />}
          </>
        )}
        <ModuleChoice module={envelope} choice={ENVELOPE.choices.loop} text={(l) => LOOP_TEXT[l]} shown />
      </section>
      <section>
        <h3 className="heading mb-1">Curves</h3>
        <ModuleRow module={envelope} row={ENVELOPE.rows.attackCurve} />
        <ModuleRow module={envelope} row={ENVELOPE.rows.decayCurve} />
        <ModuleRow module={envelope} row={ENVELOPE.rows.releaseCurve} />
      </section>
      <MovesOf source={envelope.id} />
    </>
  );
}
