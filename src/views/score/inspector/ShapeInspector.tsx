import type { Module } from "@/core/patch/kinds";
import { SHAPE, type Shape } from "@/core/patch/kinds/shape";
import type { Part } from "@/core/patch/project";
import { targetAt } from "@/core/patch/targets";
import { isSharedShape } from "@/core/motion/shape";
import { isSynced, spanMs, type Span } from "@/core/time/span";
import { editModule } from "@/state/edits";
import { Choices } from "@/ui/Choices";
import { RATE_RULES, spanNear } from "@/ui/values";
import { usePart, useProject, useStudio } from "@/views/studio/studio";
import { RESTART_TEXT } from "../stripList";
import { ModuleName } from "./ModuleName";
import { AtJumps, ByHand, RESTART_TITLES, RestartNotes, Triggers, barsText } from "./Restarts";
import { tellRounded } from "./rounded";
import { MovedValues, MovesOf } from "./Routes";
import { ModuleChoice, ModuleRow, ModuleTime } from "./rows";

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
      <MovedValues module={shape} />
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

const GOES_TEXT = { round: "round and round", once: "once" } as const;
