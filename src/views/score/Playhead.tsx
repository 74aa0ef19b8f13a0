import { useEffect, useRef } from "react";
import { onFrame, setStyle } from "@/ui/frames";
import { kindColour, type Kind } from "@/ui/ValueRow";
import { useStudio, useView } from "@/views/studio/studio";
import { valueAt } from "./heardTracks";
import type { Track } from "./paint";
import { tickToX, type Timeline } from "./timeline";

/** The line at which the song stands: running while it plays, else where Play will start. */
export function Playhead({ timeline, left, marker = false }: { timeline: Timeline; left: number; marker?: boolean }) {
  const { session, view } = useStudio();
  const startTick = useView((v) => v.startTick);
  const line = useRef<HTMLDivElement>(null);
  useEffect(
    () =>
      onFrame(() => {
        const element = line.current;
        if (!element) return;
        const snapshot = session.snapshot();
        const playing = snapshot?.playing === true;
        const tick = playing ? snapshot.loopTick : view.getState().startTick;
        const x = tickToX(timeline, tick);
        const text = String(Math.round(tick));
        setStyle(element, "transform", `translateX(${left + x}px)`);
        setStyle(element, "visibility", x >= 0 && x <= timeline.width ? "visible" : "hidden");
        setStyle(element, "opacity", playing ? "1" : "0.45");
        if (element.dataset["tick"] !== text) element.dataset["tick"] = text;
      }),
    [session, view, timeline, left, startTick],
  );
  return (
    <div
      ref={line}
      className="pointer-events-none absolute inset-y-0 left-0 z-10 w-0"
      data-testid={marker ? "playhead" : undefined}
    >
      <div className="absolute inset-y-0 -left-px w-[2px] bg-heard" />
      {marker && (
        <div className="absolute bottom-0 -left-[5px] h-0 w-0 border-x-[5px] border-t-[8px] border-x-transparent border-t-heard" />
      )}
    </div>
  );
}

/** A dot that rides on a strip's curve while it plays. `toY` gives 0 at the top to 1 at the bottom. */
export function PlayDot({
  timeline,
  tracks,
  toY,
  kind,
}: {
  timeline: Timeline;
  tracks: readonly Track[];
  toY: (value: number) => number;
  kind: Kind;
}) {
  const { session } = useStudio();
  const dot = useRef<HTMLDivElement>(null);
  // Asked for in every frame, the height would have the page laid out again and again.
  const height = useRef(0);
  useEffect(() => {
    const strip = dot.current!.parentElement!;
    const sizes = new ResizeObserver(() => {
      height.current = strip.clientHeight;
    });
    sizes.observe(strip);
    return () => sizes.disconnect();
  }, []);
  useEffect(
    () =>
      onFrame(() => {
        const element = dot.current;
        if (!element) return;
        const snapshot = session.snapshot();
        const value = snapshot?.playing ? valueAt(tracks, snapshot.loopTick) : null;
        setStyle(element, "visibility", value === null ? "hidden" : "visible");
        if (value === null || !snapshot) return;
        const y = height.current - 3 - (1 - toY(value)) * (height.current - 8);
        setStyle(element, "transform", `translate(${tickToX(timeline, snapshot.loopTick)}px, ${y}px)`);
      }),
    [session, tracks, timeline, toY],
  );
  return (
    <div ref={dot} className="pointer-events-none invisible absolute top-0 left-0 z-20 h-0 w-0">
      <div
        className="absolute -top-[4px] -left-[4px] h-[8px] w-[8px] rounded-full border border-sheet"
        style={{ background: kindColour(kind) }}
      />
    </div>
  );
}
