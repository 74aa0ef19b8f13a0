import { useCallback, useMemo, useState } from "react";
import type { CurvePoint } from "@/core/curve/curve";
import { SHAPE, type Shape } from "@/core/patch/kinds/shape";
import { clampToParameter } from "@/core/patch/row";
import { shapeProgram } from "@/core/motion/modulators";
import { isSharedShape, notePhase, sharedPhase } from "@/core/motion/shape";
import { songFrame } from "@/core/pattern/events";
import { startsFor } from "@/core/pattern/starts";
import { formatSpan } from "@/core/time/span";
import { clipOf, copy } from "@/state/clipboard";
import { editModule } from "@/state/edits";
import { Select } from "@/ui/Select";
import { CurveEditor } from "@/ui/curve/CurveEditor";
import { curvePath } from "@/ui/curve/curveDrag";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";
import { MenuButton } from "@/ui/menu";
import { EditorFrame } from "./EditorFrame";
import { withActions } from "@/views/studio/actions";
import { SNAPS, timeReading, type SnapName } from "./shapeAxes";
import { useReading } from "./useReading";

/** Starting points for drawing, in plain words. */
const FORMS: readonly { name: string; points: readonly CurvePoint[] }[] = [
  { name: "Rise", points: [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }] },
  { name: "Fall", points: [{ x: 0, y: 1, tension: 0 }, { x: 1, y: 0, tension: 0 }] },
  { name: "Pluck", points: [{ x: 0, y: 1, tension: 65 }, { x: 1, y: 0, tension: 0 }] },
  { name: "Hill", points: [{ x: 0, y: 0, tension: -30 }, { x: 0.25, y: 0.5, tension: 30 }, { x: 0.5, y: 1, tension: -30 }, { x: 0.75, y: 0.5, tension: 30 }, { x: 1, y: 0, tension: 0 }] },
  { name: "Valley", points: [{ x: 0, y: 1, tension: -30 }, { x: 0.25, y: 0.5, tension: 30 }, { x: 0.5, y: 0, tension: -30 }, { x: 0.75, y: 0.5, tension: 30 }, { x: 1, y: 1, tension: 0 }] },
  { name: "Gate", points: [{ x: 0, y: 1, tension: 0 }, { x: 0.5, y: 1, tension: 0 }, { x: 0.5, y: 0, tension: 0 }, { x: 1, y: 0, tension: 0 }] },
]; // prettier-ignore

const CLIPS = {
  take: () => clipOf("points")?.points ?? null,
  keep: (points: readonly CurvePoint[]) => copy({ kind: "points", points }),
};

const FORM_FRAME = { left: 2, top: 2, width: 20, height: 10 };

export function ShapeEditor({ shape }: { shape: Shape }) {
  const { workspace, session } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const { restart } = shape.choices;
  // Only what restarts with notes has to know of them.
  const parts = useProject((s) => (restart === "chord" || restart === "rest" ? s.project.parts : null));
  const backing = useProject((s) => s.project.backing);
  const editable = useEditable();
  const [snap, setSnap] = useState<SnapName>("1/16");
  const { reading, chosen, select } = useReading(shape.id);
  const time = useMemo(() => timeReading(shape.times.rate, song, SNAPS[snap]), [shape.times.rate, song, snap]);
  const set = useCallback(
    (points: readonly CurvePoint[], label: string, gesture?: string) =>
      workspace.store.edit(
        label,
        editModule(part.id, SHAPE, shape.id, (m) => ({ ...m, data: { ...m.data, points } })),
        gesture,
      ),
    [workspace, part.id, shape.id],
  );
  const stretch = useMemo(() => {
    const { held } = shapeProgram(shape, song, 0);
    if (!held) return null;
    const stands = held.from === held.to && shape.choices.whileHeld === "stands";
    const ends = (stands ? (["heldTo"] as const) : (["heldFrom", "heldTo"] as const)).map((id) => ({
      name: SHAPE.rows[id].label,
      at: shape.values[id] / 100,
      move: (at: number, gesture: string): void =>
        void workspace.store.edit(
          `Set ${SHAPE.rows[id].label.toLowerCase()}`,
          editModule(part.id, SHAPE, shape.id, (m) => ({ ...m, values: { ...m.values, [id]: clampToParameter(SHAPE.rows[id], at * 100) } })),
          gesture,
        ),
    })); // prettier-ignore
    return { ...held, text: stands ? "stands here while held" : "repeats while held", ends };
  }, [shape, song, workspace, part.id]);
  const playPhase = useMemo(() => {
    const compiled = shapeProgram(shape, song, 0, parts ? startsFor(part, { parts, song, backing }) : undefined);
    return (): number | null => {
      const now = session.snapshot();
      if (!now?.playing) return null;
      if (isSharedShape(compiled.restart)) return sharedPhase(compiled, now.loopTick, songFrame(song));
      return now.note ? notePhase(compiled, now.note.ticks, now.note.sec, now.note.offSec) : null;
    };
  }, [shape, part, parts, song, session, backing]);
  return (
    <EditorFrame
      title={shape.name}
      subtitle={`one cycle, ${formatSpan(shape.times.rate)}${chosen?.reversed ? "; reversed here: the lowest point moves the value most" : ""}`}
      tools={
        <>
          {FORMS.map((form) => (
            <button
              key={form.name}
              type="button"
              className="chip px-1"
              disabled={!editable}
              aria-label={`Draw ${form.name.toLowerCase()}`}
              title={`Start from: ${form.name.toLowerCase()}`}
              onClick={() => set(form.points, `Draw ${form.name.toLowerCase()}`)}
            >
              <svg width={24} height={14} aria-hidden>
                <path d={curvePath(form.points, FORM_FRAME, 16)} fill="none" stroke="currentColor" strokeWidth={1.5} />
              </svg>
            </button>
          ))}
          <Select
            label="Snap in time"
            className="chip"
            value={snap}
            options={(Object.keys(SNAPS) as SnapName[]).map((s) => ({
              value: s,
              text: `snap ${s === "off" || !time.snapText ? s : time.snapText(SNAPS[s])}`,
            }))}
            onChange={setSnap}
          />
          <MenuButton
            label="What can be done with the whole curve"
            text="Tools"
            entries={() =>
              withActions((a) =>
                a.curveTools(
                  shape.data.points,
                  { x: time.snap, y: reading.snap, inKey: reading.inKey },
                  editable,
                  (points, label) => set(points, label),
                ),
              )
            }
          />
          {select}
        </>
      }
    >
      <CurveEditor
        label={shape.name}
        kind="shape"
        points={shape.data.points}
        time={time}
        value={reading}
        snaps={{ x: time.snap, y: snap === "off" ? 0 : reading.snap }}
        fine={{ x: time.snap > 0 ? time.snap / 8 : 1 / 256, y: 0.005 }}
        onChange={set}
        editable={editable}
        clips={CLIPS}
        stretch={stretch}
        playPhase={playPhase}
      />
    </EditorFrame>
  );
}
