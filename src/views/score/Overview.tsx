import { useCallback, useRef, type KeyboardEvent, type PointerEvent } from "react";
import { barTicks, formatPosition } from "@/core/time/meter";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { clampScroll } from "@/views/studio/viewStore";
import { paintEvents, pitchRange } from "./paint";
import { GUTTER, LABEL_WIDTH } from "./layout";
import { tickToX, type Timeline } from "./timeline";

/** The whole loop in small with the stretch that is in sight, which can be dragged; there only while zoomed in. */
export function Overview({ timeline }: { timeline: Timeline & { loop: number } }) {
  const zoom = useView((v) => v.zoom);
  return zoom <= 1 ? <div /> : <Bar timeline={timeline} />;
}

function Bar({ timeline }: { timeline: Timeline & { loop: number } }) {
  const { view } = useStudio();
  const { notes } = usePart();
  const meter = useProject((s) => s.project.song.meter);
  const { loop, fromTick, ticks } = timeline;
  const grab = useRef(0);
  const paint = useCallback(
    (s: Surface) => {
      const t = { fromTick: 0, ticks: loop, width: s.width };
      s.g.fillStyle = s.palette.line;
      for (let tick = 0; tick < loop; tick += barTicks(meter))
        s.g.fillRect(Math.round(tickToX(t, tick)), 0, 1, s.height);
      const events = notes.map((n) => ({
        onTick: n.startTick,
        offTick: n.startTick + n.lengthTicks,
        key: n.key,
        velocity: n.velocity,
      }));
      paintEvents(s, t, events, pitchRange(events.map((e) => e.key), 1), s.palette.ink2); // prettier-ignore
    },
    [loop, meter, notes],
  );
  const canvas = useCanvas(paint);
  const scrollTo = (tick: number): void => view.setState((v) => ({ scrollTick: clampScroll(tick, v.zoom, loop) }));
  const tickAt = (e: PointerEvent<HTMLElement>): number => {
    const { left, width } = e.currentTarget.getBoundingClientRect();
    return ((e.clientX - left) / width) * loop;
  };
  const press = (e: PointerEvent<HTMLElement>): void => {
    if (e.button !== 0) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    const at = tickAt(e);
    // A press beside the stretch brings its middle there.
    grab.current = at >= fromTick && at <= fromTick + ticks ? at - fromTick : ticks / 2;
    scrollTo(at - grab.current);
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    const by = { ArrowLeft: -ticks / 8, ArrowRight: ticks / 8, PageUp: -ticks, PageDown: ticks }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    e.stopPropagation();
    scrollTo(fromTick + by);
  };
  return (
    <div className="flex border-t border-line bg-paper">
      <button
        type="button"
        className="shrink-0 cursor-pointer pl-3 text-left text-[11px] text-ink2 hover:text-ink"
        style={{ width: LABEL_WIDTH }}
        title="Show the whole loop (0)"
        onClick={() => view.setState({ zoom: 1, scrollTick: 0 })}
      >
        Whole loop
      </button>
      <div
        className="relative h-[18px] min-w-0 flex-1 cursor-grab touch-none bg-sheet"
        style={{ marginRight: GUTTER }}
        role="scrollbar"
        aria-label="Scroll in time"
        aria-orientation="horizontal"
        aria-controls="score-strips"
        aria-valuemin={0}
        aria-valuemax={Math.round(loop - ticks)}
        aria-valuenow={Math.round(fromTick)}
        aria-valuetext={`from ${formatPosition(fromTick, meter)}`}
        tabIndex={0}
        onPointerDown={press}
        onPointerMove={(e) => e.buttons === 1 && scrollTo(tickAt(e) - grab.current)}
        onKeyDown={onKeyDown}
      >
        <canvas ref={canvas} className="absolute inset-0 h-full w-full" aria-hidden />
        <div
          className="absolute inset-y-0 border border-ink bg-ink/10"
          style={{ left: `${(fromTick / loop) * 100}%`, width: `${(ticks / loop) * 100}%` }}
        />
      </div>
    </div>
  );
}
