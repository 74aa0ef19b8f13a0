import { useRef, type PointerEvent } from "react";
import { snapTo } from "@/core/curve/edit";
import { newGesture } from "../gesture";
import { fromPx, toPx, type Frame } from "./curveDrag";
import type { CurveStretch } from "./curveProps";

/**
 * Part of the cycle between two dashed lines, named at its top. Its ends are dragged by the grips under the axis, on the
 * snap, or with Shift anywhere; their values are rows of their own, so keys need no grip.
 */
export function Stretch({
  from,
  to,
  text,
  ends,
  frame,
  colour,
  snap,
  editable,
}: CurveStretch & {
  readonly frame: Frame;
  readonly colour: string;
  readonly snap: number;
  readonly editable: boolean;
}) {
  const [left, right] = [from, to].map((x) => toPx(frame, x, 0).x) as [number, number];
  const leftward = left > frame.left + frame.width * 0.75;
  const bottom = frame.top + frame.height;
  return (
    <g data-testid="stretch">
      <g pointerEvents="none">
        <rect x={left} y={frame.top} width={right - left} height={frame.height} fill={colour} opacity={0.1} />
        {[left, right].map((x, i) => (
          <line key={i} x1={x} x2={x} y1={frame.top} y2={bottom} stroke={colour} strokeDasharray="5 3" />
        ))}
        <text
          x={leftward ? left - 9 : left + 9}
          y={frame.top + 12}
          fontSize={11}
          fill="var(--ink)"
          textAnchor={leftward ? "end" : "start"}
        >
          {text}
        </text>
      </g>
      {editable && ends.map((end) => <Grip key={end.name} end={end} frame={frame} colour={colour} snap={snap} />)}
    </g>
  );
}

function Grip({ end, frame, colour, snap }: { end: CurveStretch["ends"][number]; frame: Frame; colour: string; snap: number }) {
  const gesture = useRef<string | null>(null);
  const x = toPx(frame, end.at, 0).x;
  const y = frame.top + frame.height;
  const drag = (e: PointerEvent<SVGPathElement>): void => {
    e.stopPropagation();
    if (gesture.current === null) return;
    const box = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
    const at = fromPx(frame, { x: e.clientX - box.left, y: 0 }).x;
    end.move(Math.min(1, e.shiftKey ? at : snapTo(at, snap)), gesture.current);
  };
  return (
    <path
      d={`M${x} ${y + 1}l6 8v9h-12v-9Z`}
      fill={colour}
      stroke="var(--sheet)"
      className="cursor-ew-resize"
      data-grip={end.name}
      onPointerDown={(e) => {
        e.stopPropagation();
        if (e.button !== 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        gesture.current = newGesture();
      }}
      onPointerMove={drag}
      onPointerUp={() => {
        gesture.current = null;
      }}
      onPointerCancel={() => {
        gesture.current = null;
      }}
    >
      <title>{`${end.name}: drag it; with Shift off the snap`}</title>
    </path>
  );
} // prettier-ignore
