import { useCallback, useMemo, useState, type KeyboardEvent } from "react";
import { gateProgram } from "@/core/motion/modulators";
import { sharedPhase, type CompiledShape, type SongFrame } from "@/core/motion/shape";
import { splitAddress } from "@/core/patch/address";
import { GATE, type Gate } from "@/core/patch/kinds/gate";
import { newLane, PLAY, REST, TIE } from "@/core/patch/lanes";
import { gateAt } from "@/core/pattern/gate";
import { loopTicks, songFrame } from "@/core/pattern/events";
import { barTicks, formatPosition } from "@/core/time/meter";
import { editModule } from "@/state/edits";
import type { Surface } from "@/ui/useCanvas";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";
import { movedAddresses } from "../heardStrips";
import { beginStroke, stepAt, stepBox, stroke, type LaneView } from "../lanes/laneDrag";
import { paintPlay } from "../lanes/lanePaint";
import { laneValueText } from "../lanes/laneText";
import { paintGrid } from "../paint";
import { xToTick, type Timeline } from "../timeline";
import { EditorFrame } from "./EditorFrame";
import { GridSurface, type GridView, type Place } from "./GridSurface";
import { stepsOf } from "./stepGrid";

const HEIGHT_OF_STEPS = 34;

/** How far a gate is open, 0 to 1, where nothing moves it. */
const openAt = (compiled: CompiledShape, tick: number, song: SongFrame): number =>
  gateAt(compiled.gate!, sharedPhase(compiled, tick, song) * compiled.gate!.length);

/** A gate over the song: what it lets through, and under it its steps, which are pressed and painted. */
export function GateEditor({ gate, timeline }: { gate: Gate; timeline: Timeline }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const editable = useEditable();
  const isMoved = movedAddresses(part.patch).some((a) => splitAddress(a).owner === gate.id);
  const [at, setAt] = useState<number | null>(null);
  const { steps: values } = gate.data;
  const compiled = useMemo(() => gateProgram(gate, song), [gate, song]);
  const end = loopTicks(song);
  const bar = barTicks(song.meter);
  const restartTicks = gate.choices.restart === "bar" ? bar : end;
  const steps = useMemo(() => stepsOf(compiled.period, values.length, restartTicks, end), [compiled.period, values.length, restartTicks, end]); // prettier-ignore
  const indices = useMemo(() => steps.map((s) => s.count % values.length), [steps, values.length]);
  const lane = { ...newLane("play", values.length), values };
  const laneView = (v: GridView): LaneView => ({ ...v, steps, indices });
  const set = (next: readonly number[], label: string, gesture?: string): void =>
    void store.edit(`${label} of ${gate.name}`, editModule(part.id, GATE, gate.id, (m) => ({ ...m, data: { steps: next } })), gesture); // prettier-ignore
  const begin = (v: GridView, from: Place, gesture: string): ((to: Place) => void) => {
    setAt(indices[stepAt(laneView(v), from.x)] ?? null);
    let held = beginStroke(lane, "play", laneView(v), from, false, gesture);
    return (to) => {
      store.edit(`Draw steps of ${gate.name}`, editModule(part.id, GATE, gate.id, (m) => ({ ...m, data: { steps: stroke({ ...lane, values: m.data.steps }, "play", laneView(v), held, to).values } })), gesture); // prettier-ignore
      held = { ...held, last: to };
    };
  };
  const describe = (v: GridView, place: Place): string => {
    const step = steps[stepAt(laneView(v), place.x)];
    if (!step) return "";
    const tick = Math.max(0, xToTick(v.timeline, place.x));
    const open = openAt(compiled, tick, songFrame(song));
    const index = indices[step.ofPass]!;
    const where = formatPosition(Math.floor(step.tick), song.meter).replace(/\+.*/, "");
    return `${where}  step ${index + 1}: ${laneValueText("play", values[index]!)}  ${Math.round(open * 100)} %`;
  };
  const onKeyDown = (e: KeyboardEvent): boolean => {
    const n = values.length;
    const along = { ArrowRight: 1, ArrowLeft: -1, "]": 1, "[": -1 }[e.key];
    const next = { ArrowUp: PLAY, ArrowDown: REST, Delete: REST, Backspace: REST }[e.key];
    if (e.ctrlKey || e.metaKey || e.altKey) return false;
    if (along !== undefined) setAt(at === null ? (along > 0 ? 0 : n - 1) : (at + along + n) % n);
    else if (e.key === "Escape" && at !== null) setAt(null);
    else if (editable && at !== null && (next !== undefined || e.key === "Enter")) {
      const value = next ?? (values[at] === PLAY ? TIE : values[at] === TIE ? REST : PLAY);
      set(values.with(at, value), "Set a step");
    } else return false;
    return true;
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
        line.lineTo(x, 6 + (1 - openAt(compiled, Math.min(tick, end - 1e-3), frame)) * (room - 10));
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
  return (
    <EditorFrame
      title={gate.name}
      subtitle={`press a step: open, hold on, rest; drag paints it on${isMoved ? ". As it is set; its strip shows what moves do to it" : ""}`}
    >
      <GridSurface
        timeline={timeline}
        roledescription="gate editor"
        label={`Gate, ${values.length} steps. Arrows left and right choose a step, up opens it, down closes it, Enter takes the next of open, hold on and rest.`}
        testId="gate-editor"
        gutter={
          <>
            <span className="absolute top-1 right-2 text-[10px] text-ink2">open</span>
            <span className="absolute right-2 text-[10px] text-ink2" style={{ bottom: HEIGHT_OF_STEPS + 2 }}>
              closed
            </span>
            <span className="absolute right-2 bottom-2 text-[11px] text-ink2">steps</span>
          </>
        }
        told={at === null ? "" : `step ${at + 1}: ${laneValueText("play", values[at] ?? REST)}`}
        paint={paint}
        begin={begin}
        describe={describe}
        onKeyDown={onKeyDown}
      />
    </EditorFrame>
  );
}
