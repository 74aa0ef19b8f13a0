import { useEffect, useMemo, useRef, useState, type PointerEvent } from "react";
import { sharedEnvelopeProgram } from "@/core/motion/modulators";
import { restartTick } from "@/core/motion/shape";
import { ENVELOPE, type Envelope } from "@/core/patch/kinds/envelope";
import { formatAmount } from "@/core/patch/valueText";
import { songFrame } from "@/core/pattern/events";
import { startsFor } from "@/core/pattern/starts";
import { formatSpan } from "@/core/time/span";
import { editModule } from "@/state/edits";
import { MARKS, onFrame, setStyle } from "@/ui/frames";
import { newGesture } from "@/ui/gesture";
import { MAGNET } from "@/ui/curve/curveDrag";
import { useSize } from "@/ui/useSize";
import { TIME_RULES, spanNear } from "@/ui/values";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";
import { EditorFrame } from "./EditorFrame";
import { shapesLevel } from "../stripList";
import { drawnEnvelope, drawnTimeMs, sharedTimeMs, viewOf, type EnvelopeView } from "./envelopeView";

type Stage = "attack" | "decay" | "release";
type Grip = { readonly kind: "end"; readonly stage: Stage } | { readonly kind: "bend"; readonly stage: Stage };

/** What a drag changes. */
interface Change {
  readonly values?: Partial<Envelope["values"]>;
  readonly times?: Partial<Envelope["times"]>;
}

interface Drag {
  readonly grip: Grip;
  readonly gesture: string;
  readonly view: EnvelopeView;
  readonly start: { x: number; y: number };
  readonly origin: Envelope;
  axis: "x" | "y" | null;
}

const MARGIN = { left: 56, right: 24, top: 16, bottom: 26 };
const CURVE_OF = { attack: "attackCurve", decay: "decayCurve", release: "releaseCurve" } as const;
const STAGES = ["attack", "decay", "release"] as const;
/** What all notes share is not let go. */
const SHARED_STAGES = ["attack", "decay"] as const;
const STAGE_TEXT = { attack: "Attack", decay: "Decay", release: "Release" } as const;

export function EnvelopeEditor({ envelope }: { envelope: Envelope }) {
  const { workspace, session } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const editable = useEditable();
  const [size, sizeRef] = useSize();
  const [drag, setDrag] = useState<Drag | null>(null);
  // The scale stands still while a stage is dragged; the picture would run away from the hand otherwise.
  const { restart, loop } = envelope.choices;
  const shared = restart !== "note" && !shapesLevel(part.patch, envelope.id);
  const stages = shared ? SHARED_STAGES : STAGES;
  const view = useMemo(() => drag?.view ?? viewOf(envelope, song, shared), [drag, envelope, song, shared]);
  const now = useMemo(
    () => ({ ...viewOf(envelope, song, shared), totalMs: view.totalMs, holdMs: view.holdMs }),
    [envelope, song, view, shared],
  );
  // Only what starts with notes has to know of them.
  const parts = useProject((s) => (restart === "chord" || restart === "rest" ? s.project.parts : null));
  const backing = useProject((s) => s.project.backing);
  const secSince = useMemo(() => {
    if (!shared) return null;
    const compiled = sharedEnvelopeProgram(
      envelope,
      song,
      parts ? startsFor(part, { parts, song, backing }) : undefined,
    );
    const frame = songFrame(song);
    return (tick: number): number => (tick - restartTick(compiled, tick, frame)) / frame.ticksPerSec;
  }, [shared, envelope, part, parts, song, backing]);
  const value = useMemo(() => drawnEnvelope(envelope, now), [envelope, now]);
  const width = Math.max(10, size.width - MARGIN.left - MARGIN.right);
  const height = Math.max(10, size.height - MARGIN.top - MARGIN.bottom);
  const toX = (ms: number): number => MARGIN.left + (ms / view.totalMs) * width;
  const toY = (v: number): number => MARGIN.top + (1 - v) * height;

  const topMs = now.delayMs + now.attackMs;
  const flatMs = topMs + now.fullMs + now.decayMs;
  const ends: Record<Stage, { ms: number; y: number }> = {
    attack: { ms: topMs, y: 1 },
    decay: { ms: flatMs, y: envelope.values.sustain / 100 },
    release: { ms: flatMs + now.holdMs + now.releaseMs, y: 0 },
  };
  const starts: Record<Stage, number> = {
    attack: now.delayMs,
    decay: topMs + now.fullMs,
    release: flatMs + now.holdMs,
  };
  const middles = stages.map((stage) => ({
    stage,
    ms: (starts[stage] + ends[stage].ms) / 2,
  }));

  const change = (next: Change, label: string, gesture: string): void => {
    workspace.store.edit(
      `${label} of ${envelope.name}`,
      editModule(part.id, ENVELOPE, envelope.id, (m) => ({
        ...m,
        values: { ...m.values, ...next.values },
        times: { ...m.times, ...next.times },
      })),
      gesture,
    );
  };
  const grab = (grip: Grip) => (e: PointerEvent<SVGElement>) => {
    if (!editable || e.button !== 0) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    e.stopPropagation();
    setDrag({ grip, gesture: newGesture(), view, start: { x: e.clientX, y: e.clientY }, origin: envelope, axis: null });
  };
  const follow = (e: PointerEvent<SVGElement>): void => {
    if (!drag) return;
    const dx = e.clientX - drag.start.x;
    const dy = e.clientY - drag.start.y;
    if (drag.grip.kind === "bend") return change(bentBy(drag, dy, height), "Bend", drag.gesture);
    if (drag.axis === null && Math.hypot(dx, dy) < 3) return;
    const axis = drag.axis ?? (drag.grip.stage === "decay" && Math.abs(dy) > Math.abs(dx) ? "y" : "x");
    if (drag.axis === null) setDrag({ ...drag, axis });
    const { stage } = drag.grip;
    const one = e.ctrlKey || e.metaKey;
    let next: Change = { times: { [stage]: drag.origin.times[stage] } };
    if (one ? axis === "x" : Math.abs(dx) > MAGNET) {
      const from = { attack: drag.view.attackMs, decay: drag.view.decayMs, release: drag.view.releaseMs }[stage];
      const ms = Math.max(0, from + (dx / width) * drag.view.totalMs);
      next = { times: { [stage]: spanNear(drag.origin.times[stage], ms, song, TIME_RULES) } };
    }
    if (stage === "decay") {
      const moved = one ? axis === "y" : Math.abs(dy) > MAGNET;
      const sustain = drag.origin.values.sustain - (moved ? (dy / height) * 100 : 0);
      next = { ...next, values: { sustain: Math.min(100, Math.max(0, Math.round(sustain))) } };
    }
    change(next, "Drag", drag.gesture);
  };

  const path = Array.from({ length: Math.ceil(width / 2) + 1 }, (_, i) => {
    const ms = Math.min(ends.release.ms, (i / (width / 2)) * view.totalMs);
    return `${i === 0 ? "M" : "L"}${toX(ms).toFixed(1)} ${toY(value(ms)).toFixed(1)}`;
  }).join("");

  const dot = useRef<HTMLDivElement>(null);
  useEffect(
    () =>
      onFrame(() => {
        const snapshot = session.snapshot();
        if (!dot.current) return;
        const note = snapshot?.playing ? snapshot.note : null;
        const since = secSince && snapshot?.playing ? secSince(snapshot.loopTick) : null;
        const ms =
          since !== null ? sharedTimeMs(now, loop, since) : note ? drawnTimeMs(now, note.sec, note.offSec) : NaN;
        setStyle(dot.current, "visibility", Number.isFinite(ms) ? "visible" : "hidden");
        if (!Number.isFinite(ms)) return;
        const x = MARGIN.left + (ms / now.totalMs) * width;
        setStyle(dot.current, "transform", `translate(${x}px, ${MARGIN.top + (1 - value(ms)) * height}px)`);
      }, MARKS),
    [session, now, value, width, height, secSince, loop],
  );

  const textOf = (stage: Stage): string =>
    `${STAGE_TEXT[stage]} ${formatSpan(envelope.times[stage])}${stage === "decay" ? `, sustain ${formatAmount(envelope.values.sustain, "%", 0)}` : ""}`;
  const active = drag?.grip;
  return (
    <EditorFrame title={envelope.name} subtitle="drag the squares for times and sustain, the marks for curves">
      <div ref={sizeRef} className="absolute inset-0">
        <svg
          width={size.width}
          height={size.height}
          className="touch-none select-none"
          role="img"
          aria-label={`${envelope.name}: ${stages.map(textOf).join(", ")}`}
        >
          {[0, 25, 50, 75, 100].map((v) => (
            <g key={v} fontSize={11} fill="var(--ink2)">
              <line
                x1={MARGIN.left}
                x2={MARGIN.left + width}
                y1={toY(v / 100)}
                y2={toY(v / 100)}
                stroke="var(--line2)"
              />
              <text x={MARGIN.left - 8} y={toY(v / 100) + 4} textAnchor="end">
                {v} %
              </text>
            </g>
          ))}
          {stages.map((stage) => (
            <g key={stage} fontSize={11} fill="var(--ink2)">
              <line
                x1={toX(ends[stage].ms)}
                x2={toX(ends[stage].ms)}
                y1={MARGIN.top}
                y2={MARGIN.top + height}
                stroke="var(--line)"
              />
              {toX(ends[stage].ms) - toX(starts[stage]) > 40 && (
                <text
                  x={(toX(starts[stage]) + toX(ends[stage].ms)) / 2}
                  y={MARGIN.top + height + 16}
                  textAnchor="middle"
                >
                  {STAGE_TEXT[stage].toLowerCase()} {formatSpan(envelope.times[stage])}
                </text>
              )}
            </g>
          ))}
          <path d={`${path}L${MARGIN.left} ${toY(0)}Z`} fill="var(--envelope)" opacity={0.14} />
          <path d={path} fill="none" stroke="var(--envelope)" strokeWidth={2.2} data-curve />
          {middles.map(({ stage, ms }) => (
            <g
              key={stage}
              className="cursor-ns-resize"
              onPointerDown={grab({ kind: "bend", stage })}
              onPointerMove={follow}
              onPointerUp={() => setDrag(null)}
              onPointerCancel={() => setDrag(null)}
              data-grip={`bend-${stage}`}
            >
              <rect x={toX(ms) - 9} y={toY(value(ms)) - 9} width={18} height={18} fill="transparent" />
              <path
                d={`M${toX(ms) - 4} ${toY(value(ms))}h8M${toX(ms)} ${toY(value(ms)) - 4}v8`}
                stroke="var(--envelope)"
                strokeWidth={1.3}
              />
            </g>
          ))}
          {stages.map((stage) => (
            <rect
              key={stage}
              x={toX(ends[stage].ms) - 5}
              y={toY(ends[stage].y) - 5}
              width={10}
              height={10}
              fill={active?.kind === "end" && active.stage === stage ? "var(--envelope)" : "var(--sheet)"}
              stroke="var(--envelope)"
              strokeWidth={2}
              className={editable ? "cursor-move" : ""}
              onPointerDown={grab({ kind: "end", stage })}
              onPointerMove={follow}
              onPointerUp={() => setDrag(null)}
              onPointerCancel={() => setDrag(null)}
              data-grip={stage}
            />
          ))}
        </svg>
        <div ref={dot} className="pointer-events-none invisible absolute top-0 left-0 will-change-transform">
          <div className="absolute -top-[5px] -left-[5px] h-[10px] w-[10px] rounded-full bg-heard" />
        </div>
        {active && (
          <div
            className="pointer-events-none absolute top-2 left-1/2 bg-ink px-2 py-1 text-[11px] text-sheet"
            data-testid="read-out"
          >
            {active.kind === "bend"
              ? `${STAGE_TEXT[active.stage]} curve ${formatAmount(envelope.values[CURVE_OF[active.stage]], "%", 0, true)}`
              : textOf(active.stage)}
          </div>
        )}
      </div>
    </EditorFrame>
  );
}

/** A bend follows the hand: upwards bows the curve up. */
function bentBy(drag: Drag, dy: number, height: number): Change {
  const key = CURVE_OF[drag.grip.stage];
  const up = drag.grip.stage === "attack" ? -1 : 1;
  const bent = Math.round(drag.origin.values[key] + up * (dy / height) * 220);
  return { values: { [key]: Math.min(100, Math.max(-100, bent)) } };
}
