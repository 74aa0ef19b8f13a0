import { memo, useEffect, useLayoutEffect, useRef } from "react";
import type { Project } from "@/core/patch/project";
import { loopTicks, songFrame } from "@/core/pattern/events";
import { EVERY, MARKS, onFrame, setStyle } from "@/ui/frames";
import { kindColour, type Kind } from "@/ui/ValueRow";
import { useProject, useStudio, useView } from "@/views/studio/studio";
import { valueAt } from "./heardTracks";
import type { Track } from "./paint";
import { tickToX, type Timeline } from "./timeline";

const msPerTickOf = (s: { readonly project: Project }): number => 1000 / songFrame(s.project.song).ticksPerSec;

/** How far the line may run beside the sound, in ms and on the average, before it is set right. */
const BESIDE_MS = 4;
/** What one frame adds to that average: the clock of the sound steps by blocks, and that is no reason to jump. */
const AVERAGING = 0.1;
/** Further off than this, the song has jumped. */
const JUMP_MS = 60;

/**
 * The line at which the song stands: running while it plays, else where Play will start. It runs as an animation of the
 * browser's, which needs nothing of the page; moved by the page, it had the whole of it composed anew in every frame.
 */
export const Playhead = memo(function Playhead({
  timeline,
  left,
  marker = false,
}: {
  timeline: Timeline;
  left: number;
  marker?: boolean;
}) {
  const { session, view } = useStudio();
  const startTick = useView((v) => v.startTick);
  const loop = useProject((s) => loopTicks(s.project.song));
  const msPerTick = useProject(msPerTickOf);
  const line = useRef<HTMLDivElement>(null);
  const { fromTick, ticks, width } = timeline;
  useLayoutEffect(() => {
    const element = line.current!;
    const placed = (tick: number): string => `translateX(${left + tickToX({ fromTick, ticks, width }, tick)}px)`;
    const lastMs = loop * msPerTick;
    let run: Animation | null = null;
    let beside = 0;
    const follow = (tick: number): void => {
      run ??= element.animate([{ transform: placed(0) }, { transform: placed(loop) }], { duration: lastMs, iterations: Infinity }); // prettier-ignore
      const ahead = Number(run.currentTime) - tick * msPerTick;
      // Of two that turn at nearly the same moment, one is a pass ahead for a frame.
      const off = ahead - lastMs * Math.round(ahead / lastMs);
      beside += (off - beside) * AVERAGING;
      if (Math.abs(off) < JUMP_MS && Math.abs(beside) < BESIDE_MS) return;
      run.currentTime = tick * msPerTick;
      beside = 0;
    };
    const draw = (): void => {
      const snapshot = session.snapshot();
      const playing = snapshot?.playing === true;
      const tick = playing ? snapshot.loopTick : view.getState().startTick;
      if (playing) follow(tick);
      else {
        run?.cancel();
        run = null;
        setStyle(element, "transform", placed(tick));
      }
      const inSight = tick >= fromTick && tick <= fromTick + ticks;
      setStyle(element, "visibility", inSight ? "visible" : "hidden");
      setStyle(element, "opacity", playing ? "1" : "0.45");
      const text = String(Math.round(tick));
      if (marker && element.dataset["tick"] !== text) element.dataset["tick"] = text;
    };
    // At once: a line that was redrawn would else stand elsewhere for a frame.
    draw();
    const end = onFrame(draw);
    return () => {
      end();
      run?.cancel();
    };
  }, [session, view, fromTick, ticks, width, left, startTick, loop, msPerTick, marker]);
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
});

/** A mark is seen a frame after it is written, and for two. */
const LEAD_MS = 20;
/** Where the song runs faster than this, in px a second, a dot is moved in every frame: it would be seen to jump. */
const FAST = 180;

/** A dot that rides on a strip's curve while it plays. `toY` gives 0 at the top to 1 at the bottom. */
export const PlayDot = memo(function PlayDot({
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
  const loop = useProject((s) => loopTicks(s.project.song));
  const msPerTick = useProject(msPerTickOf);
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
  const { fromTick, ticks, width } = timeline;
  const pxPerSec = (1000 * width) / (ticks * msPerTick);
  useEffect(() => {
    return onFrame(
      () => {
        const element = dot.current;
        if (!element) return;
        const snapshot = session.snapshot();
        const tick = Math.min(loop - 1, (snapshot?.loopTick ?? 0) + LEAD_MS / msPerTick);
        const value = snapshot?.playing ? valueAt(tracks, tick) : null;
        setStyle(element, "visibility", value === null ? "hidden" : "visible");
        if (value === null) return;
        const x = tickToX({ fromTick, ticks, width }, tick);
        const y = height.current - 3 - (1 - toY(value)) * (height.current - 8);
        setStyle(element, "transform", `translate(${x}px, ${y}px)`);
      },
      pxPerSec > FAST ? EVERY : MARKS,
    );
  }, [session, tracks, fromTick, ticks, width, toY, loop, msPerTick, pxPerSec]);
  return (
    <div ref={dot} className="pointer-events-none invisible absolute top-0 left-0 z-20 h-0 w-0">
      <div
        className="absolute -top-[4px] -left-[4px] h-[8px] w-[8px] rounded-full border border-sheet"
        style={{ background: kindColour(kind) }}
      />
    </div>
  );
});
