import { useCallback, useRef, useState, type KeyboardEvent, type PointerEvent, type ReactNode } from "react";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useEditable } from "@/views/studio/studio";

const HEIGHT = 72;

/** Values of 0 to 1 beside each other: drawn across, or chosen and set by the arrows. */
export function Bars({
  label,
  values,
  around = false,
  told,
  head,
  onDraw,
  onSet,
}: {
  label: string;
  values: readonly number[];
  /** Drawn from the middle up and down, not from below. */
  around?: boolean;
  /** What a bar and its value are called. */
  told: (index: number, value: number) => string;
  /** What stands left of that. */
  head: ReactNode;
  /** A stroke across several; a step of one. */
  onDraw: (values: readonly number[]) => void;
  onSet: (values: readonly number[]) => void;
}) {
  const editable = useEditable();
  const [at, setAt] = useState(0);
  const [draft, setDraft] = useState<readonly number[] | null>(null);
  const last = useRef<number | null>(null);
  const list = draft ?? values;
  const chosen = Math.min(at, list.length - 1);
  const paint = useCallback(
    ({ g, width, height, palette }: Surface) => {
      const step = width / list.length;
      g.fillStyle = palette.line2;
      for (const y of [0, 0.5, 1]) g.fillRect(0, Math.min(height - 1, Math.round(y * height)), width, 1);
      list.forEach((v, i) => {
        g.fillStyle = i === chosen ? palette.shape : palette.ink;
        const top = around ? Math.min(1 - v, 0.5) * height : (1 - v) * height;
        const tall = around ? Math.max(2, Math.abs(v - 0.5) * height) : v * height;
        g.fillRect(i * step + 1, top, Math.max(1, step - 2), tall);
      });
    },
    [list, around, chosen],
  );
  const held = (v: number): number => Math.min(1, Math.max(0, v));
  const draw = (e: PointerEvent<HTMLElement>): void => {
    const box = e.currentTarget.getBoundingClientRect();
    const i = Math.min(list.length - 1, Math.max(0, Math.floor(((e.clientX - box.left) / box.width) * list.length)));
    const y = held(1 - (e.clientY - box.top) / box.height);
    setAt(i);
    // A fast hand passes bars by: they are drawn on the way.
    const from = last.current ?? i;
    setDraft((before) => (before ?? values).map((v, k) => (k >= Math.min(from, i) && k <= Math.max(from, i) ? y : v)));
    last.current = i;
  };
  const end = (): void => {
    if (draft) onDraw(draft);
    setDraft(null);
    last.current = null;
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    const step = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
    const by = e.key === "ArrowUp" ? 1 : e.key === "ArrowDown" ? -1 : 0;
    if (e.ctrlKey || e.altKey || e.metaKey || (step === 0 && by === 0)) return;
    e.preventDefault();
    e.stopPropagation();
    if (step !== 0) setAt(Math.min(list.length - 1, Math.max(0, chosen + step)));
    else if (editable) onSet(values.with(chosen, held(values[chosen]! + by * (e.shiftKey ? 0.01 : 0.05))));
  };
  const text = told(chosen, list[chosen]!);
  return (
    <div>
      <div className="flex items-center justify-between gap-1">
        {head}
        <span className="text-[11px] text-ink2">{text}</span>
      </div>
      <div
        role="slider"
        tabIndex={0}
        aria-label={label}
        aria-valuenow={Math.round(list[chosen]! * 100)}
        aria-valuetext={text}
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
    </div>
  );
}
