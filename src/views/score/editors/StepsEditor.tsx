import { useCallback, useEffect, useMemo, useState, type KeyboardEvent } from "react";
import { barsOf, sequenceProgram } from "@/core/motion/modulators";
import { sequenceAt } from "@/core/motion/sequence";
import { STEPS, type SequenceStep, type Steps } from "@/core/patch/kinds/steps";
import { loopTicks, partSeed, songFrame } from "@/core/pattern/events";
import { hash32, hashText } from "@/core/pattern/chance";
import { barTicks, formatPosition } from "@/core/time/meter";
import { editModule } from "@/state/edits";
import { Choices } from "@/ui/Choices";
import { Toggle } from "@/ui/Toggle";
import type { Surface } from "@/ui/useCanvas";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { stepAt, stepBox, type LaneView } from "../lanes/laneDrag";
import { paintGrid } from "../paint";
import { xToTick, type Timeline } from "../timeline";
import { EditorFrame } from "./EditorFrame";
import { GridSurface, type GridView, type Place } from "./GridSurface";
import { stepsOf } from "./stepGrid";
import { useReading } from "./useReading";

const ROOM = 6;
/** The row in which steps are chosen. */
const CHOOSER = 22;

type Row = "value" | "second";

/** A step sequence over the song: its values are drawn across, its steps chosen in the row below. */
export function StepsEditor({ module: m, timeline }: { module: Steps; timeline: Timeline }) {
  const { workspace, view } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const seed = useProject((s) => s.project.seed);
  const editable = useEditable();
  const chosen = useView((v) => v.laneSteps);
  const [row, setRow] = useState<Row>("value");
  const [snapping, setSnapping] = useState(true);
  const { reading, select } = useReading(m.id);
  const { steps } = m.data;
  useEffect(() => view.setState({ laneSteps: new Set() }), [view, m.id]);
  const compiled = useMemo(
    () => sequenceProgram(m, song, hash32(partSeed(seed, part), hashText(m.id))),
    [m, song, seed, part],
  );
  const frame = songFrame(song);
  const end = loopTicks(song);
  const period = compiled.synced ? compiled.period : compiled.period * frame.ticksPerSec;
  const restartTicks = m.choices.restart === "bar" ? Math.min(end, barTicks(song.meter) * barsOf(m, song)) : end;
  const grid = useMemo(() => stepsOf(period, steps.length, restartTicks, end), [period, steps.length, restartTicks, end]);
  const indices = useMemo(() => grid.map((s) => s.count % steps.length), [grid, steps.length]);
  const laneView = (v: GridView): LaneView => ({ ...v, steps: grid, indices });
  const choose = (list: Iterable<number>): void => view.setState({ laneSteps: new Set(list) });
  const set = (change: (step: SequenceStep, index: number) => SequenceStep, label: string, gesture?: string): void =>
    void workspace.store.edit(
      `${label} of ${m.name}`,
      editModule(part.id, STEPS, m.id, (old) => ({ ...old, data: { ...old.data, steps: old.data.steps.map(change) } })),
      gesture,
    );
  const snapped = (y: number, fine: boolean): number => {
    const held = Math.min(1, Math.max(0, y));
    return snapping && !fine ? Math.min(1, Math.round(held / reading.snap) * reading.snap) : held;
  };
  const valueOf = (v: GridView, y: number): number => 1 - (y - ROOM) / Math.max(1, v.height - CHOOSER - 2 * ROOM);

  const begin = (v: GridView, from: Place, gesture: string): ((to: Place) => void) | null => {
    const first = stepAt(laneView(v), from.x);
    if (first === -1) return null;
    if (from.y > v.height - CHOOSER) {
      return (to) => {
        const last = stepAt(laneView(v), to.x);
        const [a, b] = [first, last === -1 ? first : last].sort((x, y) => x - y) as [number, number];
        choose(indices.slice(a, b + 1));
      };
    }
    let last = from;
    return (to) => {
      const a = stepAt(laneView(v), last.x);
      const b = stepAt(laneView(v), to.x);
      if (a === -1 || b === -1) return;
      // Every step that is crossed takes the value of the line between.
      const drawn = new Map<number, number>();
      for (let i = Math.min(a, b); i <= Math.max(a, b); i++) {
        const { x, width } = stepBox(laneView(v), grid[i]!);
        const share = to.x === last.x ? 1 : Math.min(1, Math.max(0, (x + width / 2 - last.x) / (to.x - last.x)));
        const y = i === b ? to.y : last.y + (to.y - last.y) * share;
        drawn.set(indices[i]!, snapped(valueOf(v, y), to.fine));
      }
      last = to;
      set((s, i) => (drawn.has(i) ? { ...s, [row]: drawn.get(i)! } : s), "Draw steps", gesture);
    };
  };
  const describe = (v: GridView, place: Place): string => {
    const at = grid[stepAt(laneView(v), place.x)];
    if (!at) return "";
    const index = at.count % steps.length;
    const where = formatPosition(Math.floor(at.tick), song.meter).replace(/\+.*/, "");
    return `${where}  step ${index + 1}: ${reading.text(steps[index]![row])}`;
  };
  const cursor = chosen.size > 0 ? Math.max(...chosen) : null;
  const onKeyDown = (e: KeyboardEvent): boolean => {
    if (e.ctrlKey || e.metaKey || e.altKey) return false;
    const along = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
    const up = { ArrowUp: 1, ArrowDown: -1, PageUp: 4, PageDown: -4 }[e.key];
    if (along !== undefined) {
      const next = cursor === null ? (along > 0 ? 0 : steps.length - 1) : (cursor + along + steps.length) % steps.length;
      choose(e.shiftKey && cursor !== null ? [...chosen, next] : [next]);
      return true;
    }
    if (e.key === "Escape" && chosen.size > 0) {
      choose([]);
      return true;
    }
    if (!editable || chosen.size === 0) return false;
    if (up !== undefined) {
      const by = up * (e.shiftKey ? 0.01 : reading.snap);
      set((s, i) => (chosen.has(i) ? { ...s, [row]: Math.min(1, Math.max(0, s[row] + by)) } : s), "Move steps");
      return true;
    }
    if (e.key === "Delete" || e.key === "Backspace") {
      set((s, i) => (chosen.has(i) ? { ...s, [row]: 0 } : s), "Clear steps");
      return true;
    }
    if (e.key.toLowerCase() !== "h") return false;
    const all = [...chosen].every((i) => steps[i]?.hold);
    set((s, i) => (chosen.has(i) ? { ...s, hold: !all } : s), all ? "Play steps" : "Hold on to steps");
    return true;
  };
  const paint = useCallback(
    (s: Surface) => {
      const { g, palette, width, height } = s;
      const t = { ...timeline, width };
      const v: LaneView = { timeline: t, steps: grid, indices, height };
      paintGrid(s, t, song.meter, Infinity);
      const floor = height - CHOOSER - ROOM;
      const room = floor - ROOM;
      g.fillStyle = palette.line2;
      for (const mark of reading.marks) if (!mark.bare) g.fillRect(0, Math.round(floor - mark.at * room), width, 1);
      grid.forEach((at, i) => {
        const { x, width: w } = stepBox(v, at);
        if (x + w < 0 || x > width) return;
        const step = steps[indices[i]!]!;
        const picked = chosen.has(indices[i]!);
        const top = floor - step[row] * room;
        g.fillStyle = palette.rhythm;
        g.globalAlpha = (step.hold ? 0.06 : step.chance < 100 ? 0.14 : 0.26) * (i < steps.length ? 1 : 0.6);
        g.fillRect(x, top, Math.max(1, w - 1), floor - top);
        g.globalAlpha = i < steps.length ? 1 : 0.5;
        g.fillRect(x, Math.round(top) - 1, Math.max(1, w - 1), 2);
        g.globalAlpha = 1;
        if (picked) {
          g.fillStyle = palette.ink;
          g.fillRect(x, height - CHOOSER, Math.max(1, w - 1), CHOOSER);
        }
        const number = String(indices[i]! + 1);
        const said = step.hold ? "hold" : step.chance < 100 ? `${Math.round(step.chance)}%` : number;
        const text = [said, number].find((one) => g.measureText(one).width < w - 1);
        if (text === undefined) return;
        g.fillStyle = picked ? palette.sheet : palette.ink2;
        g.fillText(text, x + (w - g.measureText(text).width) / 2, height - 7);
      });
      g.fillStyle = palette.line;
      g.fillRect(0, height - CHOOSER, width, 1);
      // What it gives, with forms, glides and chance, as it runs with the song.
      const line = new Path2D();
      for (let x = 0; x <= width; x += 0.5) {
        const tick = xToTick(t, x);
        if (tick < 0 || tick >= end) continue;
        const from = Math.floor(tick / restartTicks) * restartTicks;
        const value = sequenceAt(compiled.sequence!, Math.max(0, compiled.phase + (tick - from) / period), m.values.blend / 100, from);
        line.lineTo(x, floor - value * room);
      }
      g.strokeStyle = palette.rhythm;
      g.lineWidth = 1.5;
      g.stroke(line);
    },
    [timeline, grid, indices, song.meter, reading.marks, steps, chosen, row, end, compiled, period, restartTicks, m.values.blend],
  );
  return (
    <EditorFrame
      title={m.name}
      subtitle="drag across: values; the row below chooses steps"
      tools={
        <>
          <Choices
            label="Row that is drawn"
            hidden
            value={row}
            options={[
              { value: "value", text: "first row" },
              { value: "second", text: "second row" },
            ]}
            onChange={(r) => setRow(r)}
          />
          <Toggle text="snap" name="Snap values" on={snapping} title="Values fall on the ruled lines, or half-way between; with Shift they don't" onChange={setSnapping} />
          {select}
        </>
      }
    >
      <GridSurface
        timeline={timeline}
        roledescription="step editor"
        label={`${m.name}, ${steps.length} steps. Arrows left and right choose a step, with Shift more of them; up and down move their values, H lets them hold on, Delete clears them.`}
        testId="steps-editor"
        gutter={<Axis marks={reading.marks} />}
        told={cursor === null ? "" : `step ${cursor + 1}: ${reading.text(steps[cursor]?.[row] ?? 0)}`}
        paint={paint}
        begin={begin}
        describe={describe}
        onKeyDown={onKeyDown}
      />
    </EditorFrame>
  );
} // prettier-ignore

/** The ruled values, left of the steps: what a value is, and what it becomes. */
function Axis({ marks }: { marks: ReturnType<typeof useReading>["reading"]["marks"] }) {
  const place = (at: number) => ({ bottom: `calc(${CHOOSER + ROOM}px + (100% - ${CHOOSER + 2 * ROOM}px) * ${at} - 6px)` });
  return (
    <>
      {marks.map((mark, i) => (
        <span key={i} className="absolute inset-x-1 flex h-[12px] justify-between text-[10px] leading-[12px] text-ink2" style={place(mark.at)}>
          <span>{mark.far}</span>
          <span>{mark.strong || marks.length <= 13 ? mark.text : ""}</span>
        </span>
      ))}
      <span className="absolute right-2 bottom-1 text-[10px] text-ink2">choose</span>
    </>
  );
} // prettier-ignore
