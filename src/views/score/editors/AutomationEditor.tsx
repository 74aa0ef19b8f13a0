import { useCallback, useMemo, useState } from "react";
import type { CurvePoint } from "@/core/curve/curve";
import { automatable } from "@/core/patch/automation";
import { AUTOMATION, type Automation } from "@/core/patch/kinds/automation";
import { loopTicks } from "@/core/pattern/events";
import { clipOf, copy } from "@/state/clipboard";
import { editModule } from "@/state/edits";
import { Select } from "@/ui/Select";
import { Toggle } from "@/ui/Toggle";
import { CurveEditor } from "@/ui/curve/CurveEditor";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { MenuButton } from "@/ui/menu";
import { EditorFrame } from "./EditorFrame";
import { withActions } from "@/views/studio/actions";
import { PERCENT, SNAPS, automatedReading, timeReading, type SnapName } from "./shapeAxes";

const CLIPS = {
  take: () => clipOf("points")?.points ?? null,
  keep: (points: readonly CurvePoint[]) => copy({ kind: "points", points }),
};

/** Break points of a value over the whole loop, on the value's own scale. */
export function AutomationEditor({ module: m }: { module: Automation }) {
  const { workspace, session, view } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const editable = useEditable();
  const writing = useView((v) => v.writing);
  const [snap, setSnap] = useState<SnapName>("1/8");
  const { modules } = part.patch;
  const { target } = m.data;
  const reading = useMemo(() => {
    const found = automatable({ modules }, target, song);
    return found ? automatedReading(found) : PERCENT;
  }, [modules, target, song]);
  const time = useMemo(() => timeReading({ unit: "bars", bars: song.loopBars }, song, SNAPS[snap]), [song, snap]);
  const set = useCallback(
    (points: readonly CurvePoint[], label: string, gesture?: string) =>
      workspace.store.edit(label, editModule(part.id, AUTOMATION, m.id, (old) => ({ ...old, data: { ...old.data, points } })), gesture),
    [workspace, part.id, m.id],
  );
  const playPhase = useCallback((): number | null => {
    const now = session.snapshot();
    return now?.playing ? now.loopTick / loopTicks(song) : null;
  }, [session, song]);
  return (
    <EditorFrame
      title={m.name}
      subtitle="over the whole loop; two points above each other are a jump"
      tools={
        <>
          <Toggle
            text="write"
            name="Write what hands do while it plays"
            on={writing}
            disabled={!editable}
            title="While it plays, what you do to an automated value is written here"
            onChange={(on) => view.setState({ writing: on })}
          />
          <MenuButton
            label="What can be done with the whole curve"
            text="Tools"
            entries={() => withActions((a) => a.curveTools(m.data.points, { x: time.snap, y: reading.snap, inKey: reading.inKey }, editable, (points, label) => set(points, label)))}
          />
          <Select
            label="Snap in time"
            className="chip"
            value={snap}
            options={(Object.keys(SNAPS) as SnapName[]).map((s) => ({ value: s, text: `snap ${s}` }))}
            onChange={setSnap}
          />
        </>
      }
    >
      <CurveEditor
        label={m.name}
        kind="notes"
        points={m.data.points}
        time={time}
        value={reading}
        snaps={{ x: time.snap, y: snap === "off" ? 0 : reading.snap }}
        fine={{ x: time.snap > 0 ? time.snap / 8 : 1 / 256, y: 0.005 }}
        onChange={set}
        editable={editable}
        clips={CLIPS}
        playPhase={playPhase}
      />
    </EditorFrame>
  );
} // prettier-ignore
