import { useCallback, useMemo, useState, type KeyboardEvent, type PointerEvent } from "react";
import { curveAt } from "@/core/curve/curve";
import { gateProgram } from "@/core/motion/compile";
import { sharedPhase } from "@/core/motion/shape";
import { GATE, type Gate } from "@/core/patch/kinds/gate";
import { newLane, PLAY, REST, TIE } from "@/core/patch/lanes";
import type { Step } from "@/core/pattern/arpeggio";
import { loopTicks, songFrame } from "@/core/pattern/events";
import { barTicks, formatPosition } from "@/core/time/meter";
import { editModule } from "@/state/edits";
import { newGesture } from "@/ui/gesture";
import { useReadOut } from "@/ui/ReadOut";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useSize } from "@/ui/useSize";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";
import { beginStroke, stepAt, stepBox, stroke, type LaneView, type Stroke } from "../lanes/laneDrag";
import { paintPlay } from "../lanes/lanePaint";
import { laneValueText } from "../lanes/laneText";
import { paintGrid } from "../paint";
import { Playhead } from "../Playhead";
import { GUTTER, LABEL_WIDTH } from "../layout";
import { xToTick, type Timeline } from "../timeline";
import { EditorFrame } from "./EditorFrame";

/** The steps of a gate over the loop, begun anew with each bar or running on. */
function stepsOf(period: number, count: number, restartTicks: number, end: number): Step[] {
  const steps: Step[] = [];
  const length = period / count;
  for (let from = 0; from < end; from += restartTicks)
    for (let i = 0; from + i * length < Math.min(end, from + restartTicks) - 1e-6; i++) {
      const tick = from + i * length;
      steps.push({ tick, end: Math.min(tick + length, from + restartTicks), count: i, ofPass: steps.length, bar: 0 });
    }
  return steps;
}

const HEIGHT_OF_STEPS = 34;

/** A gate over the song: what it lets through, and under it its steps, which are pressed and painted. */
export function GateEditor({ gate, timeline }: { gate: Gate; timeline: Timeline }) {
  const { workspace } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const editable = useEditable();
  const [size, sizeRef] = useSize();
  const [drag, setDrag] = useState<Stroke | null>(null);
  const [at, setAt] = useState<number | null>(null);
  const readOut = useReadOut();
  const { steps: values } = gate.data;
  const compiled = useMemo(() => gateProgram(gate, song), [gate, song]);
  const end = loopTicks(song);
  const bar = barTicks(song.meter);
  const restartTicks = gate.choices.restart === "bar" ? bar : end;
  const steps = useMemo(() => stepsOf(compiled.period, values.length, restartTicks, end), [compiled.period, values.length, restartTicks, end]); // prettier-ignore
  const indices = useMemo(() => steps.map((s) => s.count % values.length), [steps, values.length]);
  const lane = { ...newLane("play", values.length), values };
  const view: LaneView = { timeline: { ...timeline, width: size.width }, steps, indices, height: size.height };
  const set = (next: readonly number[], label: string, gesture?: string): void =>
    void workspace.store.edit(`${label} of ${gate.name}`, editModule(part.id, GATE, gate.id, (m) => ({ ...m, data: { steps: next } })), gesture); // prettier-ignore
  const local = (e: PointerEvent<HTMLElement>): { x: number; y: number } => {
    const box = e.currentTarget.getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  };
  const take = (s: Stroke, place: { x: number; y: number }): void => {
    const next = stroke(lane, "play", view, s, place);
    if (next !== lane) set(next.values, "Draw steps", s.gesture);
    setDrag({ ...s, last: place });
  };
  const describe = (step: Step, x: number): string => {
    const tick = Math.max(0, xToTick(view.timeline, x));
    const open = curveAt(compiled.curve, sharedPhase(compiled, tick, songFrame(song)));
    const index = indices[step.ofPass]!;
    const where = formatPosition(Math.floor(step.tick), song.meter).replace(/\+.*/, "");
    return `${where}  step ${index + 1}: ${laneValueText("play", values[index]!)}  ${Math.round(open * 100)} %`;
  };
  const onPointerDown = (e: PointerEvent<HTMLElement>): void => {
    if (e.button !== 0) return;
    e.currentTarget.focus();
    if (!editable) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    const place = local(e);
    setAt(indices[stepAt(view, place.x)] ?? null);
    take(beginStroke(lane, "play", view, place, false, newGesture()), place);
  };
  const onPointerMove = (e: PointerEvent<HTMLElement>): void => {
    const place = local(e);
    const step = steps[stepAt(view, place.x)];
    readOut.show(step ? describe(step, place.x) : "");
    if (drag) take(drag, place);
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    const n = values.length;
    const along = { ArrowRight: 1, ArrowLeft: -1, "]": 1, "[": -1 }[e.key];
    const next = { ArrowUp: PLAY, ArrowDown: REST, Delete: REST, Backspace: REST }[e.key];
    let handled = true;
    if (e.ctrlKey || e.metaKey || e.altKey) handled = false;
    else if (along !== undefined) setAt(at === null ? (along > 0 ? 0 : n - 1) : (at + along + n) % n);
    else if (e.key === "Escape" && at !== null) setAt(null);
    else if (editable && at !== null && (next !== undefined || e.key === "Enter")) {
      const value = next ?? (values[at] === PLAY ? TIE : values[at] === TIE ? REST : PLAY);
      set(values.with(at, value), "Set a step");
    } else handled = false;
    if (!handled) return;
    e.preventDefault();
    e.stopPropagation();
  };
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      const v: LaneView = { timeline: t, steps, indices, height: s.height };
      paintGrid(s, t, song.meter, Infinity);
      const room = s.height - HEIGHT_OF_STEPS;
      const line = new Path2D();
      const frame = songFrame(song);
      for (let x = 0; x <= s.width; x++) {
        const tick = xToTick(t, x);
        if (tick < 0 || tick > end) continue;
        const y =
          6 + (1 - curveAt(compiled.curve, sharedPhase(compiled, Math.min(tick, end - 1e-3), frame))) * (room - 10);
        line.lineTo(x, y);
      }
      s.g.strokeStyle = s.palette.rhythm;
      s.g.lineWidth = 1.5;
      s.g.stroke(line);
      s.g.fillStyle = s.palette.line;
      s.g.fillRect(0, room, s.width, 1);
      steps.forEach((step, i) => {
        const { x, width } = stepBox(v, step);
        if (x + width < 0 || x > s.width) return;
        const index = indices[i]!;
        if (index === at) {
          s.g.fillStyle = s.palette.line2;
          s.g.fillRect(x, room, width, HEIGHT_OF_STEPS);
        }
        s.g.globalAlpha = i < values.length ? 1 : 0.55;
        paintPlay(s, x, Math.max(2, width - 2), values[index]!, room + 6, HEIGHT_OF_STEPS - 12);
        s.g.globalAlpha = 1;
      });
    },
    [timeline, steps, indices, song, compiled, end, at, values],
  );
  const canvas = useCanvas(paint);
  return (
    <EditorFrame title={gate.name} subtitle="press a step: open, hold on, rest; drag paints it on">
      <div className="absolute inset-0 flex">
        <div className="relative shrink-0 border-r border-line bg-paper" style={{ width: LABEL_WIDTH }} aria-hidden>
          <span className="absolute top-1 right-2 text-[10px] text-ink2">open</span>
          <span className="absolute right-2 text-[10px] text-ink2" style={{ bottom: HEIGHT_OF_STEPS + 2 }}>
            closed
          </span>
          <span className="absolute right-2 bottom-2 text-[11px] text-ink2">steps</span>
        </div>
        <div
          ref={sizeRef}
          className="relative min-w-0 flex-1 cursor-pointer touch-none"
          style={{ marginRight: GUTTER }}
          tabIndex={0}
          role="application"
          aria-roledescription="gate editor"
          aria-label={`Gate, ${values.length} steps. Arrows left and right choose a step, up opens it, down closes it, Enter takes the next of open, hold on and rest.`}
          onPointerDown={onPointerDown}
          onPointerMove={onPointerMove}
          onPointerUp={() => setDrag(null)}
          onPointerCancel={() => setDrag(null)}
          onPointerLeave={() => readOut.show("")}
          onKeyDown={onKeyDown}
          data-testid="gate-editor"
        >
          <canvas ref={canvas} className="absolute inset-0 h-full w-full" aria-hidden />
          <Playhead timeline={view.timeline} left={0} />
          {readOut.element}
          <span className="sr-only" aria-live="polite">
            {at === null ? "" : `step ${at + 1}: ${laneValueText("play", values[at] ?? REST)}`}
          </span>
        </div>
      </div>
    </EditorFrame>
  );
}
