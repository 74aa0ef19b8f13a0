import { useCallback, useMemo } from "react";
import { followerAt } from "@/core/motion/follower";
import { followerProgram } from "@/core/motion/modulators";
import type { Follower } from "@/core/patch/kinds/follower";
import { loopTicks } from "@/core/pattern/events";
import { notesFor } from "@/core/pattern/starts";
import { drumNamed } from "@/core/pattern/backing";
import { formatPosition } from "@/core/time/meter";
import type { Surface } from "@/ui/useCanvas";
import { usePart, useProject } from "@/views/studio/studio";
import { paintEvents, paintGrid, pitchRange } from "../paint";
import { xToTick, type Timeline } from "../timeline";
import { EditorFrame } from "./EditorFrame";
import { GridSurface, type GridView, type Place } from "./GridSurface";

/** How much of the height the notes take. */
const NOTES_SHARE = 0.35;

/** What a follower hears and what it makes of it, over the song. */
export function FollowerEditor({ module: m, timeline }: { module: Follower; timeline: Timeline }) {
  const part = usePart();
  const project = useProject((s) => s.project);
  const { song } = project;
  const heard = useMemo(
    () =>
      notesFor(part, project)
        .played(m.data.notesOf)
        .filter((n) => n.key >= m.values.lowest && n.key <= m.values.highest),
    [part, project, m],
  );
  const end = loopTicks(song);
  const shape = useMemo(() => notesFor(part, project).levelEnvelope(m.data.notesOf), [part, project, m]);
  const follower = useMemo(() => followerProgram(m, song, end, heard, shape).follower!, [m, song, end, heard, shape]);
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      paintGrid(s, t, song.meter, Infinity);
      const notesHeight = Math.round(s.height * NOTES_SHARE);
      paintEvents({ ...s, height: notesHeight }, t, heard, pitchRange(heard.map((e) => e.key), 1), s.palette.notes);
      s.g.fillStyle = s.palette.line;
      s.g.fillRect(0, notesHeight, s.width, 1);
      const room = s.height - notesHeight - 12;
      s.g.strokeStyle = s.palette.envelope;
      s.g.lineWidth = 1.5;
      s.g.beginPath();
      for (let x = 0; x <= s.width; x++) {
        const tick = xToTick(t, x);
        if (tick < 0 || tick > end) continue;
        s.g.lineTo(x, notesHeight + 6 + (1 - followerAt(follower, Math.min(tick, end - 1) / end)) * room);
      }
      s.g.stroke();
    },
    [timeline, song, heard, follower, end],
  );
  const describe = (v: GridView, place: Place): string => {
    const tick = Math.min(end - 1, Math.max(0, xToTick(v.timeline, place.x)));
    return `${formatPosition(Math.floor(tick), song.meter)}  ${Math.round(100 * followerAt(follower, tick / end))} %`;
  };
  const drum = drumNamed(project.backing, m.data.notesOf);
  const whose = drum ? `the ${drum} of the backing` : (project.parts.find((p) => p.id === m.data.notesOf) ?? part).name;
  return (
    <EditorFrame title={m.name} subtitle={`hears ${heard.length} ${drum ? "strokes" : "notes"} of ${whose} in one pass`}>
      <GridSurface
        timeline={timeline}
        roledescription="follower"
        label={`What ${m.name} hears of ${whose}, and its level over the song`}
        testId="follower-editor"
        gutter={
          <>
            <span className="absolute top-1 right-2 text-[11px] text-ink2">notes</span>
            <span className="absolute right-2 bottom-1 text-[10px] text-ink2">silent</span>
          </>
        }
        told=""
        paint={paint}
        begin={() => null}
        describe={describe}
        onKeyDown={() => false}
      />
    </EditorFrame>
  );
} // prettier-ignore
