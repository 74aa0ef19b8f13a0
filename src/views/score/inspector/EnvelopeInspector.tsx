import { addressOf } from "@/core/patch/address";
import { ENVELOPE, type Envelope } from "@/core/patch/kinds/envelope";
import { formatSpan, isSynced, spanMs, type Span } from "@/core/time/span";
import { editModule } from "@/state/edits";
import { Choices } from "@/ui/Choices";
import { TIME_RULES, spanNear } from "@/ui/values";
import { usePart, useProject, useStudio } from "@/views/studio/studio";
import { movedAddresses } from "../heardStrips";
import { RESTART_TEXT, restartText, shapesLevel } from "../stripList";
import { ModuleName } from "./ModuleName";
import { ByHand, RestartNotes, Triggers, barsText } from "./Restarts";
import { tellRounded } from "./rounded";
import { MovedValues, MovesOf } from "./Routes";
import { ModuleChoice, ModuleRow, ModuleTime } from "./rows";

const STARTS_TITLES: Record<Envelope["choices"]["restart"], string> = {
  note: "Each note has its own, and lets it go",
  song: "All notes share it; it starts with the loop",
  bar: "All notes share it; it starts with the bar",
  triggers: "All notes share it; it starts at each trigger",
  chord:
    "All notes share it; it starts with each chord or note as it is written: what an arpeggio makes of it counts once",
  rest: "All notes share it; it starts with the first note after a rest",
  hand: "All notes share it; it starts where you say so while it plays (G)",
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
  const shared = envelope.choices.restart !== "note" && !shapesLevel(part.patch, envelope.id);
  return (
    <>
      <div>
        <ModuleName module={envelope} />
        <p className="text-[12px] text-ink2">
          {shapesLevel(part.patch, envelope.id)
            ? "envelope of every note's level"
            : `envelope, starts ${envelope.choices.restart === "note" ? "with each note" : restartText(envelope)}, decay ${formatSpan(decay)}`}
        </p>
      </div>
      <section>
        <h3 className="heading mb-1">Times</h3>
        <ModuleTime module={envelope} time={ENVELOPE.times.delay} />
        <ModuleTime module={envelope} time={ENVELOPE.times.attack} />
        <ModuleTime module={envelope} time={ENVELOPE.times.hold} />
        <ModuleTime module={envelope} time={ENVELOPE.times.decay} />
        <ModuleRow module={envelope} row={ENVELOPE.rows.sustain} />
        {!shared && <ModuleTime module={envelope} time={ENVELOPE.times.release} />}
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
              text={(r) => RESTART_TEXT[r]}
              title={(r) => STARTS_TITLES[r]}
              shown
            />
            {envelope.choices.restart === "bar" && (
              <ModuleRow module={envelope} row={ENVELOPE.rows.every} text={barsText} />
            )}
            {envelope.choices.restart === "triggers" && <Triggers shape={envelope} />}
            {envelope.choices.restart === "hand" && <ByHand module={envelope} />}
            <RestartNotes module={envelope} />
          </>
        )}
        <ModuleChoice module={envelope} choice={ENVELOPE.choices.loop} text={(l) => LOOP_TEXT[l]} shown />
        {movedAddresses(part.patch).some((a) =>
          Object.keys(ENVELOPE.times).some((t) => a === addressOf(envelope.id, t)),
        ) && (
          <ModuleChoice
            module={envelope}
            choice={ENVELOPE.choices.movedTimes}
            text={(o) => (o === "anywhere" ? "anywhere" : "on sixteenths")}
            title={(o) =>
              o === "anywhere"
                ? "Times go wherever they are moved"
                : "Times that are moved come to whole sixteenths: a quarter of a quarter, a half, three quarters"
            }
            shown
          />
        )}
      </section>
      <section>
        <h3 className="heading mb-1">Curves</h3>
        <ModuleRow module={envelope} row={ENVELOPE.rows.attackCurve} />
        <ModuleRow module={envelope} row={ENVELOPE.rows.decayCurve} />
        {!shared && <ModuleRow module={envelope} row={ENVELOPE.rows.releaseCurve} />}
      </section>
      <MovesOf source={envelope.id} />
      <MovedValues module={envelope} />
    </>
  );
}
