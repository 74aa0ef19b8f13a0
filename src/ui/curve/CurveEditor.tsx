import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent, type RefObject } from "react";
import { compileCurve, curveAt } from "@/core/curve/curve";
import { addPoint, copyPoints, movePoints, pastePoints, removePoints, setTension } from "@/core/curve/edit";
import { MARKS, onFrame, setStyle } from "../frames";
import { LOCKED, menuOf, type MenuEntry } from "../menu";
import { newGesture } from "../gesture";
import { later } from "../later";
import { useSize } from "../useSize";
import { kindColour } from "../ValueRow";
import { PointFields } from "./PointFields";
import type { AxisMark, CurveEditorProps } from "./curveProps";
import { curvePath, fromPx, hitTest, middleOf, move, press, release, toPx, type CurveEdit, type Frame, type Keys, type Points, type Selection } from "./curveDrag"; // prettier-ignore

const Stretch = later(() => import("./Stretch").then((m) => m.Stretch));

const CURSORS = { point: "move", middle: "ns-resize", ground: "crosshair" } as const;
/** Two presses within this time are a double-click. */
const DOUBLE_MS = 500;
const MARGIN = { left: 56, right: 56, top: 14, bottom: 24 };
const keysOf = (e: { ctrlKey: boolean; metaKey: boolean; altKey: boolean; shiftKey: boolean }): Keys => ({
  ctrl: e.ctrlKey || e.metaKey,
  alt: e.altKey,
  shift: e.shiftKey,
});

/** A curve of points with bent segments, edited by mouse and keyboard. */
export function CurveEditor(props: CurveEditorProps) {
  const { points, snaps, onChange, editable, kind } = props;
  const [size, sizeRef] = useSize();
  const frame: Frame = {
    left: MARGIN.left,
    top: MARGIN.top,
    width: Math.max(10, size.width - MARGIN.left - MARGIN.right),
    height: Math.max(10, size.height - MARGIN.top - MARGIN.bottom),
  };
  const [selection, setSelection] = useState<Selection>(new Set());
  const [edit, setEdit] = useState<CurveEdit | null>(null);
  const hover = useRef<(at: Place | null) => void>(() => undefined);
  const last = useRef({ at: -Infinity, x: 0, y: 0 });
  const colour = kindColour(kind);
  const chosen: Selection = new Set([...selection].filter((i) => i < points.length));

  const local = (e: PointerEvent<SVGSVGElement>): { x: number; y: number } => {
    const box = e.currentTarget.getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  };
  const take = (next: CurveEdit, gesture: string): void => {
    setEdit(next.drag.kind === "idle" ? null : next);
    setSelection(next.selection);
    if (next.label !== null && next.points !== points) onChange(next.points, next.label, gesture);
  };
  const onPointerDown = (e: PointerEvent<SVGSVGElement>): void => {
    if (e.button !== 0) return;
    e.currentTarget.focus();
    if (!editable) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    const gesture = newGesture();
    // The second press of a double-click belongs to the point that the first one added.
    const at = local(e);
    const double =
      e.timeStamp - last.current.at < DOUBLE_MS && Math.hypot(at.x - last.current.x, at.y - last.current.y) < 6;
    last.current = { at: e.timeStamp, ...at };
    if (double && hitTest(points, frame, at).kind === "ground") return;
    take(press(points, chosen, frame, local(e), keysOf(e), gesture), gesture);
  };
  const onPointerMove = (e: PointerEvent<SVGSVGElement>): void => {
    const at = local(e);
    hover.current(fromPx(frame, at));
    // The cursor tells move, bend and draw apart.
    if (editable && !edit) e.currentTarget.style.cursor = CURSORS[hitTest(points, frame, at).kind];
    if (edit && edit.drag.kind !== "idle")
      take(move({ ...edit, points }, frame, at, keysOf(e), snaps), edit.drag.gesture);
  };
  const onPointerUp = (): void => {
    if (edit && edit.drag.kind !== "idle") take(release({ ...edit, points }, frame, snaps), edit.drag.gesture);
  };

  const change = (next: Points, label: string): void => {
    if (next !== points) onChange(next, label, newGesture());
  };
  const remove = (): void => {
    change(removePoints(points, chosen), chosen.size > 1 ? "Delete points" : "Delete a point");
    setSelection(new Set());
  };
  const paste = (copied: Points, at: number, label: string): void => {
    const pasted = pastePoints(points, copied, at);
    if (!pasted) return;
    change(pasted.points, label);
    setSelection(pasted.indices);
  };
  /** Right of what is chosen, one snap on. */
  const behind = (): number => (chosen.size > 0 ? points[Math.max(...chosen)]!.x : 0) + (snaps.x || props.fine.x);
  const none = chosen.size === 0 ? "No point is chosen" : null;
  const locked = editable ? null : LOCKED;
  const actions: readonly (MenuEntry & { key: string })[] = [
    { key: "c", text: "Copy", keys: "Ctrl C", why: none, run: () => props.clips.keep(copyPoints(points, chosen)) },
    {
      key: "x",
      text: "Cut",
      keys: "Ctrl X",
      why: locked ?? none,
      run: () => {
        props.clips.keep(copyPoints(points, chosen));
        remove();
      },
    },
    {
      key: "v",
      text: "Paste",
      keys: "Ctrl V",
      why: locked ?? (props.clips.take() ? null : "No points were copied"),
      run: () => paste(props.clips.take() ?? [], behind(), "Paste points"),
    },
    {
      key: "d",
      text: "Duplicate",
      keys: "Ctrl D",
      why: locked ?? none,
      run: () => paste(copyPoints(points, chosen), behind(), "Duplicate points"),
    },
    { key: "a", text: "Select all", keys: "Ctrl A", run: () => setSelection(new Set(points.map((_, i) => i))) },
    { key: "Delete", text: "Delete", keys: "Delete", why: locked ?? none, run: remove },
  ];
  const onKeyDown = (e: KeyboardEvent): void => {
    const first = Math.min(...chosen);
    const done = (): void => {
      e.preventDefault();
      e.stopPropagation();
    };
    if ((e.key === "[" || e.key === "]") && points.length > 0) {
      const from = chosen.size === 0 ? (e.key === "]" ? -1 : points.length) : first;
      setSelection(new Set([Math.min(points.length - 1, Math.max(0, from + (e.key === "]" ? 1 : -1)))]));
      return done();
    }
    if (e.key === "Escape") {
      setSelection(new Set());
      return done();
    }
    if ((e.ctrlKey || e.metaKey) && !e.shiftKey && !e.altKey) {
      const action = actions.find((a) => a.key === e.key.toLowerCase());
      if (!action) return;
      if (!action.why) action.run();
      return done();
    }
    if (!editable || chosen.size === 0) return;
    const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    if (arrow) {
      const [dx, dy] = arrow as [number, number];
      if (e.altKey) change(setTension(points, first, (points[first]?.tension ?? 0) + 5 * (dx + dy)), "Bend a segment");
      else {
        const by = e.shiftKey ? props.fine : { x: snaps.x || props.fine.x, y: snaps.y || props.fine.y };
        change(movePoints(points, chosen, dx * by.x, dy * by.y), chosen.size > 1 ? "Move points" : "Move a point");
      }
      return done();
    }
    if (e.key === "Delete" || e.key === "Backspace") {
      remove();
      return done();
    }
    if (e.key === "Enter") {
      const a = points[first];
      const b = points[first + 1];
      const added = a && b ? addPoint(points, (a.x + b.x) / 2, (a.y + b.y) / 2) : null;
      if (added) {
        change(added.points, "Add a point");
        setSelection(new Set([added.index]));
      }
      return done();
    }
  };

  const describe = ({ x, y }: { x: number; y: number }): string => `${props.time.text(x)}  ${props.value.text(y)}`;
  const dragged = edit?.drag.kind === "move" ? points[edit.drag.grabbed] : undefined;
  return (
    <div className="absolute inset-0 flex flex-col">
      <PointFields {...props} chosen={chosen} />
      <div ref={sizeRef} className="relative min-h-0 flex-1">
        <svg
          width={size.width}
          height={size.height}
          tabIndex={0}
          role="application"
          aria-roledescription="curve editor"
          aria-label={`${props.label}: ${points.length} points. [ and ] choose a point, arrows move it, Alt and arrows bend, Enter adds, Delete removes.`}
          className="touch-none select-none"
          onPointerDown={onPointerDown}
          onPointerMove={onPointerMove}
          onPointerUp={onPointerUp}
          onPointerCancel={() => setEdit(null)}
          onPointerLeave={() => hover.current(null)}
          onKeyDown={onKeyDown}
          onContextMenu={menuOf(`Points of ${props.label}`, () => actions)}
        >
          <Grid
            frame={frame}
            xMarks={props.time.marks}
            yMarks={props.value.marks}
            gripped={editable ? (props.stretch?.ends.map((end) => end.at) ?? []) : []}
          />
          <CurveShape points={points} frame={frame} colour={colour} />
          {points.map((p, i) => {
            const middle = middleOf(points, i);
            const m = middle && toPx(frame, middle.x, middle.y);
            const at = toPx(frame, p.x, p.y);
            return (
              <g key={i}>
                {m && <path d={`M${m.x - 4} ${m.y}h8M${m.x} ${m.y - 4}v8`} stroke={colour} strokeWidth={1.2} />}
                <rect
                  x={at.x - 5}
                  y={at.y - 5}
                  width={10}
                  height={10}
                  fill={chosen.has(i) ? colour : "var(--sheet)"}
                  stroke={colour}
                  strokeWidth={2}
                  data-point={i}
                />
              </g>
            );
          })}
          {props.stretch && (
            <Stretch {...props.stretch} frame={frame} colour={colour} snap={snaps.x} editable={editable} />
          )}
          {edit?.drag.kind === "ground" && edit.drag.marquee && <Marquee a={edit.drag.start} b={edit.drag.to} />}
        </svg>
        <PhaseMark points={points} frame={frame} playPhase={props.playPhase} />
        <Hover
          bind={hover}
          dragged={dragged}
          chosen={chosen.size === 1 ? points[first(chosen)] : undefined}
          frame={frame}
          describe={describe}
        />
        <span className="sr-only" aria-live="polite">
          {chosen.size === 1 ? describe(points[first(chosen)]!) : chosen.size > 1 ? `${chosen.size} points` : ""}
        </span>
      </div>
    </div>
  );
}

const first = (selection: Selection): number => Math.min(...selection);

function Grid({
  frame,
  xMarks,
  yMarks,
  gripped,
}: {
  frame: Frame;
  xMarks: readonly AxisMark[];
  yMarks: readonly AxisMark[];
  /** Where grips lie under the axis: names make way. */
  gripped: readonly number[];
}) {
  const right = frame.left + frame.width;
  const bottom = frame.top + frame.height;
  return (
    <g fontSize={11} fill="var(--ink2)" aria-hidden>
      {yMarks.map((m) => {
        const y = frame.top + (1 - m.at) * frame.height;
        return (
          <g key={`y${m.at} ${m.bare ?? false}`}>
            <line
              x1={m.bare ? right : frame.left}
              x2={m.bare ? right + 5 : right}
              y1={y}
              y2={y}
              stroke={m.bare ? "var(--ink2)" : m.strong ? "var(--line)" : "var(--line2)"}
            />
            {m.text && (
              <text x={frame.left - 9} y={y + 4} textAnchor="end" fill={m.strong ? "var(--ink)" : "var(--ink2)"}>
                {m.text}
              </text>
            )}
            {m.far && (
              <text x={right + 9} y={y + 4}>
                {m.far}
              </text>
            )}
          </g>
        );
      })}
      {xMarks.map((m) => {
        const x = frame.left + m.at * frame.width;
        return (
          <g key={`x${m.at}`}>
            <line x1={x} x2={x} y1={frame.top} y2={bottom} stroke={m.strong ? "var(--line)" : "var(--line2)"} />
            {m.text && (
              <text x={x + (gripped.some((at) => Math.abs(at - m.at) * frame.width < 8) ? 9 : 2)} y={bottom + 15}>
                {m.text}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

function CurveShape({ points, frame, colour }: { points: Points; frame: Frame; colour: string }) {
  const path = curvePath(points, frame);
  const bottom = frame.top + frame.height;
  return (
    <>
      <path d={`${path}L${frame.left + frame.width} ${bottom}L${frame.left} ${bottom}Z`} fill={colour} opacity={0.12} />
      <path d={path} fill="none" stroke={colour} strokeWidth={2.2} strokeLinejoin="round" data-curve />
    </>
  );
}

function Marquee({ a, b }: { a: { x: number; y: number }; b: { x: number; y: number } }) {
  return (
    <rect
      x={Math.min(a.x, b.x)}
      y={Math.min(a.y, b.y)}
      width={Math.abs(a.x - b.x)}
      height={Math.abs(a.y - b.y)}
      fill="var(--ink)"
      fillOpacity={0.06}
      stroke="var(--ink)"
      strokeDasharray="3 3"
    />
  );
}

interface Place {
  readonly x: number;
  readonly y: number;
}

/** The read-out follows what is dragged, else the pointer, else the chosen point; hovering draws it alone anew. */
function Hover({
  bind,
  dragged,
  chosen,
  frame,
  describe,
}: {
  bind: RefObject<(at: Place | null) => void>;
  dragged: Place | undefined;
  chosen: Place | undefined;
  frame: Frame;
  describe: (at: Place) => string;
}) {
  const [hover, setHover] = useState<Place | null>(null);
  useEffect(() => {
    bind.current = setHover;
  }, [bind]);
  const at = dragged ?? hover ?? chosen;
  return at && <ReadOut frame={frame} at={at} text={describe(at)} />;
}

/** Position, value and note at the pointer, beside it and inside the frame. */
function ReadOut({ frame, at, text }: { frame: Frame; at: { x: number; y: number }; text: string }) {
  const p = toPx(frame, at.x, at.y);
  const leftward = p.x > frame.left + frame.width / 2;
  return (
    <div
      className="pointer-events-none absolute z-20 bg-ink px-2 py-1 text-[11px] whitespace-nowrap text-sheet"
      style={{
        top: Math.max(2, Math.min(p.y - 30, frame.top + frame.height - 24)),
        ...(leftward ? { right: `calc(100% - ${p.x - 14}px)` } : { left: p.x + 14 }),
      }}
      data-testid="read-out"
    >
      {text}
    </div>
  );
}

/** Where the shape stands. A layer of its own: in the drawing it would have the whole of it painted with each step. */
function PhaseMark({ points, frame, playPhase }: { points: Points; frame: Frame; playPhase: () => number | null }) {
  const mark = useRef<HTMLDivElement>(null);
  const dot = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const curve = compileCurve(points);
    return onFrame(() => {
      const phase = playPhase();
      if (!mark.current || !dot.current) return;
      setStyle(mark.current, "visibility", phase === null ? "hidden" : "visible");
      if (phase === null) return;
      const at = toPx(frame, phase, curveAt(curve, phase));
      setStyle(mark.current, "transform", `translateX(${at.x}px)`);
      setStyle(dot.current, "transform", `translateY(${at.y}px)`);
    }, MARKS);
  }, [points, frame, playPhase]);
  return (
    <div ref={mark} className="pointer-events-none invisible absolute top-0 left-0 will-change-transform">
      <div
        className="absolute -left-px w-[2px] bg-heard"
        style={{ top: frame.top, height: frame.height }}
        data-testid="phase"
      />
      <div ref={dot} className="absolute top-0 left-0">
        <div className="absolute -top-[5px] -left-[5px] h-[10px] w-[10px] rounded-full bg-heard" />
      </div>
    </div>
  );
}
