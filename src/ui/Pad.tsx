import { useState, type KeyboardEvent, type PointerEvent } from "react";
import { newGesture } from "./gesture";
import { useCanvas, type Surface } from "./useCanvas";

/** A surface whose two ways are two values of 0 to 100: dragged, or moved with the arrows (Shift for fine). */
export function Pad({
  label,
  editable,
  x,
  y,
  dot,
  className,
  paint,
  onMove,
  testId,
}: {
  label: string;
  editable: boolean;
  x: number;
  /** Null where only the way across is a value. */
  y: number | null;
  /** Pixels of what is drawn at the place: its middle goes from end to end. */
  dot: number;
  className: string;
  paint: (s: Surface) => void;
  onMove: (x: number, y: number | null, gesture?: string) => void;
  testId?: string;
}) {
  const [gesture, setGesture] = useState<string | null>(null);
  const tidy = (v: number): number => Math.min(100, Math.max(0, Math.round(v * 10) / 10));
  const move = (toX: number, toY: number | null, g?: string): void => onMove(tidy(toX), toY === null ? null : tidy(toY), g);
  const drag = (e: PointerEvent<HTMLElement>, g: string): void => {
    const box = e.currentTarget.getBoundingClientRect();
    const share = (at: number, from: number, length: number): number => ((at - from - dot / 2) / (length - dot)) * 100;
    move(share(e.clientX, box.left, box.width), y === null ? null : 100 - share(e.clientY, box.top, box.height), g);
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    const by = e.shiftKey ? 0.5 : 5;
    const across = { ArrowRight: by, ArrowLeft: -by }[e.key] ?? 0;
    const up = { ArrowUp: by, ArrowDown: -by }[e.key] ?? 0;
    if ((across === 0 && up === 0) || e.ctrlKey || e.altKey || e.metaKey || !editable) return;
    e.preventDefault();
    e.stopPropagation();
    move(x + across, y === null ? null : y + up);
  };
  return (
    <div
      role="application"
      tabIndex={0}
      aria-label={label}
      className={`touch-none border border-line ${editable ? "cursor-crosshair" : "opacity-60"} ${className}`}
      onKeyDown={onKeyDown}
      onPointerDown={(e) => {
        if (!editable || e.button !== 0) return;
        const g = newGesture();
        e.currentTarget.focus();
        e.currentTarget.setPointerCapture(e.pointerId);
        setGesture(g);
        drag(e, g);
      }}
      onPointerMove={(e) => {
        if (gesture) drag(e, gesture);
      }}
      onPointerUp={() => setGesture(null)}
      onPointerCancel={() => setGesture(null)}
      data-testid={testId}
    >
      <canvas ref={useCanvas(paint)} className="pointer-events-none block h-full w-full" aria-hidden />
    </div>
  );
} // prettier-ignore
