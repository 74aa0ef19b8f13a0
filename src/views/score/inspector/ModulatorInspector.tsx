import { newEnvelope, newShape } from "@/core/patch/defaults";
import { AMP_ENVELOPE, RESTARTS, type Envelope, type Shape } from "@/core/patch/project";
import { formatSpan, isSynced, spanMs, type Span } from "@/core/time/span";
import { editModulator } from "@/state/edits";
import { Choices } from "@/ui/Choices";
import { NameField } from "@/ui/NameField";
import { RATE_RULES, TIME_RULES, spanNear } from "@/ui/values";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";
import { RESTART_TEXT } from "../stripList";
import { MovesOf } from "./Routes";
import { NumberRow, SpanRow } from "./rows";

const RESTART_TITLES = {
  song: "Runs with the song's position",
  bar: "Starts again with every bar",
  note: "Starts again with every note",
  once: "Starts with every note, goes through once and stays at its end",
} as const;

export function ShapeInspector({ shape }: { shape: Shape }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const song = useProject((s) => s.project.song);
  const set = (change: Partial<Shape>, label: string, gesture?: string): void => {
    store.edit(`${label} of ${shape.name}`, editModulator(part.id, shape.id, "shape", change), gesture);
  };
  const fallback = newShape("", "x");
  const unit = isSynced(shape.rate) ? "note" : shape.rate.unit;
  const changeUnit = (to: string): void => {
    const ms = Math.min(RATE_RULES.max, Math.max(RATE_RULES.min, spanMs(shape.rate, song)));
    const like: Span =
      to === "note" ? { unit: "note", num: 1, den: 4 } : to === "hz" ? { unit: "hz", hz: 1 } : { unit: "ms", ms: 1 };
    set({ rate: spanNear(like, ms, song, RATE_RULES) }, "Set rate unit");
  };
  return (
    <>
      <div>
        <NameField name={shape.name} disabled={!editable} onRename={(name) => set({ name }, "Rename")} />
        <p className="text-[12px] text-ink2">synced shape, {shape.points.length} points</p>
      </div>
      <section>
        <h3 className="heading mb-1">Time</h3>
        <SpanRow
          label="Rate"
          span={shape.rate}
          kind="shape"
          rules={RATE_RULES}
          fallback={fallback.rate}
          onChange={(rate, l, g) => set({ rate }, l, g)}
        />
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
        <NumberRow id="shape.phase" kind="shape" value={shape.phase} onChange={(phase, l, g) => set({ phase }, l, g)} />
        <NumberRow
          id="shape.smoothing"
          kind="shape"
          value={shape.smoothing}
          onChange={(smoothing, l, g) => set({ smoothing }, l, g)}
        />
        <Choices
          hidden
          label="Restarts"
          value={shape.restart}
          options={RESTARTS.map((r) => ({ value: r, text: RESTART_TEXT[r], title: RESTART_TITLES[r] }))}
          onChange={(restart) => set({ restart }, "Set restart")}
        />
      </section>
      <MovesOf source={shape.id} />
    </>
  );
}

export function EnvelopeInspector({ envelope }: { envelope: Envelope }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const song = useProject((s) => s.project.song);
  const set = (change: Partial<Envelope>, label: string, gesture?: string): void => {
    store.edit(`${label} of ${envelope.name}`, editModulator(part.id, envelope.id, "envelope", change), gesture);
  };
  const fallback = newEnvelope("", "x");
  const isAmp = envelope.id === AMP_ENVELOPE;
  const synced = isSynced(envelope.decay);
  const changeUnit = (to: string): void => {
    const like: Span = to === "note" ? { unit: "note", num: 1, den: 16 } : { unit: "ms", ms: 1 };
    const near = (span: Span) => spanNear(like, spanMs(span, song), song, TIME_RULES);
    set(
      { attack: near(envelope.attack), decay: near(envelope.decay), release: near(envelope.release) },
      "Set time unit",
    );
  };
  const time = (stage: "attack" | "decay" | "release", label: string) => (
    <SpanRow
      label={label}
      span={envelope[stage]}
      kind="envelope"
      rules={TIME_RULES}
      fallback={fallback[stage]}
      onChange={(s, l, g) => set({ [stage]: s }, l, g)}
    />
  );
  return (
    <>
      <div>
        <NameField name={envelope.name} disabled={!editable} onRename={(name) => set({ name }, "Rename")} />
        <p className="text-[12px] text-ink2">
          {isAmp
            ? "envelope of every note's level"
            : `envelope, starts with each note, decay ${formatSpan(envelope.decay)}`}
        </p>
      </div>
      <section>
        <h3 className="heading mb-1">Times</h3>
        {time("attack", "Attack")}
        {time("decay", "Decay")}
        <NumberRow
          id="envelope.sustain"
          kind="envelope"
          value={envelope.sustain}
          onChange={(sustain, l, g) => set({ sustain }, l, g)}
        />
        {time("release", "Release")}
        <Choices
          label="Times in"
          value={synced ? "note" : "ms"}
          options={[
            { value: "ms", text: "ms" },
            { value: "note", text: "note values" },
          ]}
          onChange={changeUnit}
        />
      </section>
      <section>
        <h3 className="heading mb-1">Curves</h3>
        {(["attackCurve", "decayCurve", "releaseCurve"] as const).map((key) => (
          <NumberRow
            key={key}
            id={`envelope.${key}`}
            kind="envelope"
            value={envelope[key]}
            onChange={(v, l, g) => set({ [key]: v }, l, g)}
          />
        ))}
      </section>
      <MovesOf source={envelope.id} />
    </>
  );
}
