import { useCallback, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { MAX_DRAWN_FRAMES, MAX_DRAWN_HARMONICS, type DrawnFrame, type Oscillator } from "@/core/patch/kinds/oscillator";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { Choices } from "@/ui/Choices";
import { useEditable } from "@/views/studio/studio";

type Shown = "levels" | "phases";

const HEIGHT = 72;
const SHOWN = 32;

/** Levels of 64 harmonics, or their phases from -180 to 180 degrees. */
const valuesOf = (frame: DrawnFrame, shown: Shown): number[] =>
  Array.from({ length: MAX_DRAWN_HARMONICS }, (_, i) =>
    shown === "levels" ? (frame.levels[i] ?? 0) : (((frame.phases[i] ?? 0) + 540) % 360) / 360,
  );

function withValue(frame: DrawnFrame, shown: Shown, index: number, y: number): DrawnFrame {
  const list = valuesOf(frame, shown);
  list[index] = Math.min(1, Math.max(0, y));
  const last = list.findLastIndex((v) => v > 0);
  return shown === "levels"
    ? { ...frame, levels: list.slice(0, Math.max(1, last + 1)).map((v) => Math.round(v * 1000) / 1000) }
    : { ...frame, phases: list.map((v) => Math.round(v * 360 - 180)) };
}

/** A wave that is set by its harmonics: drawn across, or chosen and set by the arrows; several make a table. */
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
  const [chosen, setChosen] = useState(0);
  const [draft, setDraft] = useState<DrawnFrame | null>(null);
  const last = useRef<number | null>(null);
  const index = Math.min(frame, drawn.length - 1);
  const current = draft ?? drawn[index]!;
  const put = (label: string, next: DrawnFrame): void => onChange(label, { drawn: drawn.with(index, next) });
  const paint = useCallback(
    ({ g, width, height, palette }: Surface) => {
      const list = valuesOf(current, shown);
      const step = width / SHOWN;
      g.fillStyle = palette.line2;
      for (const y of [0, 0.5, 1]) g.fillRect(0, Math.min(height - 1, Math.round(y * height)), width, 1);
      list.slice(0, SHOWN).forEach((v, i) => {
        g.fillStyle = i === chosen ? palette.shape : palette.ink;
        const top = shown === "levels" ? (1 - v) * height : Math.min(1 - v, 0.5) * height;
        const tall = shown === "levels" ? v * height : Math.max(2, Math.abs(v - 0.5) * height);
        g.fillRect(i * step + 1, top, Math.max(1, step - 2), tall);
      });
    },
    [current, shown, chosen],
  );
  const at = (e: PointerEvent<HTMLElement>): { i: number; y: number } => {
    const box = e.currentTarget.getBoundingClientRect();
    return {
      i: Math.min(SHOWN - 1, Math.max(0, Math.floor(((e.clientX - box.left) / box.width) * SHOWN))),
      y: 1 - (e.clientY - box.top) / box.height,
    };
  };
  const draw = (e: PointerEvent<HTMLElement>): void => {
    const { i, y } = at(e);
    setChosen(i);
    setDraft((before) => {
      let next = before ?? drawn[index]!;
      // A fast hand passes harmonics by: they are drawn on the way.
      const from = last.current ?? i;
      for (let k = Math.min(from, i); k <= Math.max(from, i); k++) next = withValue(next, shown, k, y);
      return next;
    });
    last.current = i;
  };
  const end = (): void => {
    if (draft) put("Draw harmonics", draft);
    setDraft(null);
    last.current = null;
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    const step = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
    const by = e.key === "ArrowUp" ? 1 : e.key === "ArrowDown" ? -1 : 0;
    if (e.ctrlKey || e.altKey || e.metaKey || (step === 0 && by === 0)) return;
    e.preventDefault();
    e.stopPropagation();
    if (step !== 0) setChosen((c) => Math.min(SHOWN - 1, Math.max(0, c + step)));
    else if (editable)
      put(
        "Set a harmonic",
        withValue(current, shown, chosen, valuesOf(current, shown)[chosen]! + by * (e.shiftKey ? 0.01 : 0.05)),
      );
  };
  const value = valuesOf(current, shown)[chosen]!;
  const told = shown === "levels" ? `${Math.round(value * 100)} %` : `${Math.round(value * 360 - 180)}°`;
  return (
    <div>
      <div className="flex items-center justify-between gap-1">
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
        <span className="text-[11px] text-ink2">
          harmonic {chosen + 1}: {told}
        </span>
      </div>
      <div
        role="slider"
        tabIndex={0}
        aria-label={`Harmonics of ${o.name}, ${shown}`}
        aria-valuenow={Math.round(value * 100)}
        aria-valuetext={`harmonic ${chosen + 1}, ${told}`}
        className={`touch-none border border-line bg-sheet ${editable ? "cursor-crosshair" : "opacity-60"}`}
        onKeyDown={onKeyDown}
        onPointerDown={(e) => {
          if (!editable || e.button !== 0) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          draw(e);
        }}
        onPointerMove={(e) => {
          if (last.current !== null) draw(e);
        }}
        onPointerUp={end}
        onPointerCancel={end}
      >
        <canvas ref={useCanvas(paint)} className="pointer-events-none block w-full" style={{ height: HEIGHT }} />
      </div>
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
