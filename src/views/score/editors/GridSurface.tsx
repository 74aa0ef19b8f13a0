import { useState, type KeyboardEvent, type PointerEvent, type ReactNode } from "react";
import { newGesture } from "@/ui/gesture";
import { useReadOut } from "@/ui/ReadOut";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useSize } from "@/ui/useSize";
import { useEditable } from "@/views/studio/studio";
import { GUTTER, LABEL_WIDTH } from "../layout";
import { Playhead } from "../Playhead";
import type { Timeline } from "../timeline";

export interface Place {
  readonly x: number;
  readonly y: number;
  /** With Shift, and with Alt. */
  readonly fine: boolean;
  readonly alt: boolean;
}

/** What is drawn over the song's grid, with the hand: `width` and `height` are those of the drawn part. */
export interface GridView {
  readonly timeline: Timeline;
  readonly height: number;
}

/**
 * The surface of an editor whose time is the song's: it takes the focus, follows a stroke of the pointer, tells what is under
 * it and draws the playhead. A stroke begins with `begin`, which gives what each move of it does; null for none.
 */
export function GridSurface({
  timeline,
  roledescription,
  label,
  testId,
  gutter,
  told,
  paint,
  begin,
  describe,
  onKeyDown,
}: {
  timeline: Timeline;
  roledescription: string;
  label: string;
  testId: string;
  /** What stands left of it. */
  gutter: ReactNode;
  /** What is chosen, for those who don't see it. */
  told: string;
  paint: (s: Surface) => void;
  begin: (view: GridView, place: Place, gesture: string) => ((to: Place) => void) | null;
  describe: (view: GridView, place: Place) => string;
  onKeyDown: (e: KeyboardEvent) => boolean;
}) {
  const editable = useEditable();
  const [size, sizeRef] = useSize();
  const [move, setMove] = useState<((to: Place) => void) | null>(null);
  const canvas = useCanvas(paint);
  const view: GridView = { timeline: { ...timeline, width: size.width }, height: size.height };
  const readOut = useReadOut((place: Place) => describe(view, place));
  const local = (e: PointerEvent<HTMLElement>): Place => {
    const box = e.currentTarget.getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top, fine: e.shiftKey, alt: e.altKey };
  };
  return (
    <div className="absolute inset-0 flex">
      <div className="relative shrink-0 border-r border-line bg-paper" style={{ width: LABEL_WIDTH }} aria-hidden>
        {gutter}
      </div>
      <div
        ref={sizeRef}
        className="relative min-w-0 flex-1 cursor-pointer touch-none"
        style={{ marginRight: GUTTER }}
        tabIndex={0}
        role="application"
        aria-roledescription={roledescription}
        aria-label={label}
        onPointerDown={(e) => {
          if (e.button !== 0) return;
          e.currentTarget.focus();
          if (!editable) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          const place = local(e);
          const stroke = begin(view, place, newGesture());
          stroke?.(place);
          setMove(() => stroke);
        }}
        onPointerMove={(e) => {
          const place = local(e);
          readOut.point(place);
          move?.(place);
        }}
        onPointerUp={() => setMove(null)}
        onPointerCancel={() => setMove(null)}
        onPointerLeave={() => readOut.point(null)}
        onKeyDown={(e) => {
          if (!onKeyDown(e)) return;
          e.preventDefault();
          e.stopPropagation();
        }}
        data-testid={testId}
      >
        <canvas ref={canvas} className="absolute inset-0 h-full w-full" aria-hidden />
        <Playhead timeline={view.timeline} left={0} />
        {readOut.element}
        <span className="sr-only" aria-live="polite">
          {told}
        </span>
      </div>
    </div>
  );
}
