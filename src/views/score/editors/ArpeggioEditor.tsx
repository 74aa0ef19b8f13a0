import { useCallback, useMemo } from "react";
import { partEvents } from "@/core/pattern/events";
import { noteName, usesFlats } from "@/core/pitch/note";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useSize } from "@/ui/useSize";
import { usePart, useProject } from "@/views/studio/studio";
import { LaneEditor, LaneTabs } from "../lanes/LaneEditor";
import { keyToY, paintEvents, paintGrid, pitchRange } from "../paint";
import { Playhead } from "../Playhead";
import { ORDER_TEXT } from "../stripList";
import { GUTTER, LABEL_WIDTH } from "../layout";
import type { Timeline } from "../timeline";
import { EditorFrame } from "./EditorFrame";

/** What the arpeggio plays, large enough to read every note, and under it one of the lanes that it walks through. */
export function ArpeggioEditor({ timeline }: { timeline: Timeline }) {
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const seed = useProject((s) => s.project.seed);
  const events = useMemo(() => partEvents(part, song, seed), [part, song, seed]);
  const range = useMemo(() => pitchRange(events.map((e) => e.key), 2), [events]); // prettier-ignore
  const flats = usesFlats(song.key);
  const [size, sizeRef] = useSize();
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      for (let key = range.low; key <= range.high; key++) {
        s.g.fillStyle = key % 12 === song.key.tonic ? s.palette.line : s.palette.line2;
        s.g.fillRect(0, Math.round(keyToY(range, key, s.height)), s.width, 1);
      }
      paintGrid(s, t, song.meter, Infinity);
      paintEvents(s, t, events, range, s.palette.rhythm);
    },
    [timeline, song, events, range],
  );
  const canvas = useCanvas(paint);
  const { arpeggio } = part;
  return (
    <EditorFrame
      title="Arpeggio"
      subtitle={
        arpeggio.on ? `${ORDER_TEXT[arpeggio.order]}, ${events.length} notes` : "off: the notes play as written"
      }
      tools={<LaneTabs />}
    >
      <div className="absolute inset-x-0 top-0 flex h-1/2">
        <div className="relative shrink-0 border-r border-line bg-paper" style={{ width: LABEL_WIDTH }} aria-hidden>
          {Array.from({ length: range.high - range.low + 1 }, (_, i) => range.low + i)
            .filter((key) => events.some((e) => e.key === key))
            .filter((key, i, keys) => i === 0 || ((key - keys[i - 1]!) / (range.high - range.low)) * size.height > 9)
            .map((key) => (
              <span
                key={key}
                className="absolute right-2 text-[10px] leading-none text-ink2"
                style={{ top: keyToY(range, key, size.height) - 5 }}
              >
                {noteName(key, flats)}
              </span>
            ))}
        </div>
        <div ref={sizeRef} className="relative min-w-0 flex-1" style={{ marginRight: GUTTER }}>
          <canvas
            ref={canvas}
            className="absolute inset-0 h-full w-full"
            role="img"
            aria-label={`Arpeggio: ${events.length} notes`}
          />
          <Playhead timeline={{ ...timeline, width: size.width }} left={0} />
          {events.length === 0 && (
            <p className="absolute inset-x-0 top-1/3 text-center text-[12px] text-ink2">
              Nothing is played yet. The arpeggio needs notes to work on.
            </p>
          )}
        </div>
      </div>
      <div className="absolute inset-x-0 bottom-0 h-1/2">
        <LaneEditor timeline={timeline} />
      </div>
    </EditorFrame>
  );
}
