import { useCallback, useMemo, type KeyboardEvent } from "react";
import { DRUMS, type Drum, type Kit } from "@/core/patch/kinds/kit";
import { kitHits } from "@/core/pattern/backing";
import { loopTicks } from "@/core/pattern/events";
import { FULL_STROKE, SOFT_STROKE, withStroke } from "@/core/pattern/grooves";
import { formatPosition } from "@/core/time/meter";
import { spanTicks } from "@/core/time/span";
import { setBackingSteps } from "@/state/backingEdits";
import type { Surface } from "@/ui/useCanvas";
import { useEditable, useProject, useStudio, useView } from "@/views/studio/studio";
import { stepAt, stepBox, type LaneView } from "../lanes/laneDrag";
import { paintGrid } from "../paint";
import { tickToX, type Timeline } from "../timeline";
import { EditorFrame } from "./EditorFrame";
import { GridSurface, type GridView, type Place } from "./GridSurface";
import { stepsOf } from "./stepGrid";

/** From top to bottom: high sounds are on top. */
const ROWS: readonly Drum[] = [...DRUMS].reverse();

/** How far a hand moves for one of velocity. */
const PX_OF_VELOCITY = 1;
const clampVelocity = (v: number): number => Math.min(127, Math.max(1, Math.round(v)));

/** The drums over the song: a row each, whose steps are pressed and painted. */
export function KitEditor({ kit, timeline }: { kit: Kit; timeline: Timeline }) {
  const { view, workspace } = useStudio();
  const { store } = workspace;
  const song = useProject((s) => s.project.song);
  const editable = useEditable();
  const chosen = useView((v) => v.stroke);
  const { steps: values } = kit.data;
  const end = loopTicks(song);
  const length = spanTicks(kit.times.step, song);
  const steps = useMemo(() => stepsOf(length * values.length, values.length, end, end), [length, values.length, end]);
  const indices = useMemo(() => steps.map((s) => s.count % values.length), [steps, values.length]);
  const hits = useMemo(() => kitHits(kit, song), [kit, song]);
  const laneView = (v: GridView): LaneView => ({ ...v, steps, indices });
  const rowAt = (v: GridView, y: number): Drum => ROWS[Math.min(ROWS.length - 1, Math.max(0, Math.floor((y / v.height) * ROWS.length)))]!; // prettier-ignore
  const set = (at: number, drum: Drum, velocity: number, gesture?: string): void =>
    void store.edit(velocity === 0 ? `Take a ${drum} away` : `Set a ${drum}`, setBackingSteps((s) => withStroke(s, at, drum, velocity)), gesture); // prettier-ignore
  const choose = (step: number, drum: Drum): void => view.setState({ stroke: { step, drum } });
  const begin = (v: GridView, from: Place, gesture: string): ((to: Place) => void) => {
    const drum = rowAt(v, from.y);
    const at = indices[stepAt(laneView(v), from.x)];
    if (at === undefined) return () => undefined;
    choose(at, drum);
    const before = values[at]![drum];
    if (from.alt && before > 0)
      return (to) => set(at, drum, clampVelocity(before + (from.y - to.y) / PX_OF_VELOCITY), gesture);
    const velocity = before > 0 ? 0 : from.fine ? SOFT_STROKE : FULL_STROKE;
    return (to) => {
      const index = indices[stepAt(laneView(v), to.x)];
      if (index !== undefined) set(index, drum, velocity, gesture);
    };
  };
  const describe = (v: GridView, place: Place): string => {
    const ofPass = stepAt(laneView(v), place.x);
    const step = steps[ofPass];
    if (!step) return "";
    const index = indices[ofPass]!;
    const drum = rowAt(v, place.y);
    const velocity = values[index]![drum];
    const where = formatPosition(Math.floor(step.tick), song.meter).replace(/\+.*/, "");
    return `${where}  step ${index + 1}  ${drum} ${velocity === 0 ? "not struck" : velocity}`;
  };
  const onKeyDown = (e: KeyboardEvent): boolean => {
    if (e.ctrlKey || e.metaKey || e.altKey) return false;
    const n = values.length;
    const { step, drum } = chosen ?? { step: e.key === "ArrowLeft" ? 0 : -1, drum: "kick" as Drum };
    const along = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
    const down = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    const at = Math.min(step, n - 1);
    if (along !== undefined) choose((at + along + n) % n, drum);
    else if (e.key === "Escape" && chosen) view.setState({ stroke: null });
    else if (!chosen) return false;
    else if (down !== undefined && e.shiftKey) {
      const velocity = values[at]![drum];
      if (editable && velocity > 0) set(at, drum, clampVelocity(velocity - down));
    } else if (down !== undefined) choose(at, ROWS[(ROWS.indexOf(drum) + down + ROWS.length) % ROWS.length]!);
    else if (editable && e.key === "Enter") set(at, drum, values[at]![drum] > 0 ? 0 : FULL_STROKE);
    else if (editable && (e.key === "Delete" || e.key === "Backspace")) set(at, drum, 0);
    else return false;
    return true;
  };
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      const v: LaneView = { timeline: t, steps, indices, height: s.height };
      const tall = s.height / ROWS.length;
      paintGrid(s, t, song.meter, Infinity);
      const round = tickToX(t, length * values.length);
      ROWS.forEach((drum, row) => {
        const floor = (row + 1) * tall - 4;
        s.g.fillStyle = s.palette.line;
        if (row > 0) s.g.fillRect(0, Math.round(row * tall), s.width, 1);
        if (tickToX(t, length) - tickToX(t, 0) >= 2)
          steps.forEach((step, i) => {
            const { x, width } = stepBox(v, step);
            if (x + width < 0 || x > s.width) return;
            const index = indices[i]!;
            if (chosen?.drum === drum && chosen.step === index) {
              s.g.fillStyle = s.palette.line2;
              s.g.fillRect(x, row * tall + 1, width, tall - 1);
            }
            // What is not struck is a mark on the floor, to be pressed.
            s.g.fillStyle = s.palette.line;
            s.g.fillRect(x + 1, floor - 2, Math.max(2, width - 3), 2);
          });
        const wide = Math.max(3, Math.min(tickToX(t, length) - tickToX(t, 0) - 3, 26));
        s.g.fillStyle = s.palette.rhythm;
        let last = -Infinity;
        for (const h of hits[drum]) {
          const x = tickToX(t, h.startTick);
          // Where there are many to a pixel, one stands for them.
          if (x + wide < 0 || x > s.width || x < last + 0.5) continue;
          last = x;
          // Rounds after the first are what the first one says.
          s.g.globalAlpha = x < round - 0.5 ? 1 : 0.55;
          const high = Math.max(3, ((tall - 10) * h.velocity) / 127);
          s.g.fillRect(x + 1, floor - high, wide, high);
        }
        s.g.globalAlpha = 1;
      });
    },
    [timeline, steps, indices, hits, song.meter, chosen, length, values.length],
  );
  const told = chosen && values[chosen.step];
  return (
    <EditorFrame
      title={kit.name}
      subtitle="press a step to strike it, or to leave it; drag paints it on, Shift softly; Alt-drag up and down sets how hard"
    >
      <GridSurface
        timeline={timeline}
        roledescription="drum editor"
        label={`${kit.name}, ${values.length} steps of three drums. Arrows choose a step and a drum, Enter strikes it or leaves it, Shift with up and down sets how hard.`}
        testId="kit-editor"
        gutter={ROWS.map((drum, row) => (
          <span
            key={drum}
            className={`absolute right-2 -translate-y-1/2 text-[12px] ${chosen?.drum === drum ? "font-semibold text-ink" : "text-ink2"}`}
            style={{ top: `${((row + 0.5) / ROWS.length) * 100}%` }}
          >
            {drum}
          </span>
        ))}
        told={chosen && told ? `step ${chosen.step + 1}, ${chosen.drum} ${told[chosen.drum] || "not struck"}` : ""}
        paint={paint}
        begin={begin}
        describe={describe}
        onKeyDown={onKeyDown}
      />
    </EditorFrame>
  );
}
