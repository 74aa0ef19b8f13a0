import { useState } from "react";
import { MAX_DRAWN_FRAMES, MAX_DRAWN_HARMONICS, type DrawnFrame, type Oscillator } from "@/core/patch/kinds/oscillator";
import { Choices } from "@/ui/Choices";
import { useEditable } from "@/views/studio/studio";
import { Bars } from "./Bars";

type Shown = "levels" | "phases";

const SHOWN = 32;

/** Levels of 64 harmonics, or their phases from -180 to 180 degrees. */
const valuesOf = (frame: DrawnFrame, shown: Shown): number[] =>
  Array.from({ length: MAX_DRAWN_HARMONICS }, (_, i) =>
    shown === "levels" ? (frame.levels[i] ?? 0) : (((frame.phases[i] ?? 0) + 540) % 360) / 360,
  );

/** A frame whose first harmonics have these values. */
function withValues(frame: DrawnFrame, shown: Shown, values: readonly number[]): DrawnFrame {
  const list = valuesOf(frame, shown).map((v, i) => values[i] ?? v);
  const last = list.findLastIndex((v) => v > 0);
  return shown === "levels"
    ? { ...frame, levels: list.slice(0, Math.max(1, last + 1)).map((v) => Math.round(v * 1000) / 1000) }
    : { ...frame, phases: list.map((v) => Math.round(v * 360 - 180)) };
}

/** A wave that is set by its harmonics; several make a table. */
export function DrawnWave({
  oscillator: o,
  onChange,
}: {
  oscillator: Oscillator;
  onChange: (label: string, data: Partial<Oscillator["data"]>) => void;
}) {
  const editable = useEditable();
  const { drawn } = o.data;
  const [shown, setShown] = useState<Shown>("levels");
  const [frame, setFrame] = useState(0);
  const index = Math.min(frame, drawn.length - 1);
  const put = (label: string, values: readonly number[]): void =>
    onChange(label, { drawn: drawn.with(index, withValues(drawn[index]!, shown, values)) });
  return (
    <div>
      <Bars
        label={`Harmonics of ${o.name}, ${shown}`}
        values={valuesOf(drawn[index]!, shown).slice(0, SHOWN)}
        around={shown === "phases"}
        told={(i, v) =>
          `harmonic ${i + 1}: ${shown === "levels" ? `${Math.round(v * 100)} %` : `${Math.round(v * 360 - 180)}°`}`
        }
        head={
          <Choices
            label="What is drawn"
            hidden
            value={shown}
            options={[
              { value: "levels", text: "levels" },
              { value: "phases", text: "phases" },
            ]}
            onChange={setShown}
          />
        }
        onDraw={(values) => put("Draw harmonics", values)}
        onSet={(values) => put("Set a harmonic", values)}
      />
      <div className="mt-1 flex flex-wrap items-center gap-1" role="group" aria-label={`Frames of ${o.name}`}>
        {drawn.map((_, i) => (
          <button
            key={i}
            type="button"
            className="chip px-1.5 py-0"
            aria-pressed={i === index}
            aria-label={`Frame ${i + 1}`}
            onClick={() => setFrame(i)}
          >
            {i + 1}
          </button>
        ))}
        <button
          type="button"
          className="chip px-1.5 py-0"
          disabled={!editable || drawn.length >= MAX_DRAWN_FRAMES}
          title="Another frame, from this one: the position then moves through them"
          onClick={() => {
            onChange("Add a frame", { drawn: drawn.toSpliced(index + 1, 0, drawn[index]!) });
            setFrame(index + 1);
          }}
        >
          + frame
        </button>
        <button
          type="button"
          className="chip px-1.5 py-0"
          disabled={!editable || drawn.length === 1}
          onClick={() => {
            onChange("Remove a frame", { drawn: drawn.toSpliced(index, 1) });
            setFrame(Math.max(0, index - 1));
          }}
        >
          remove
        </button>
      </div>
    </div>
  );
}
