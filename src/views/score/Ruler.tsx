import { ZoomIn, ZoomOut } from "lucide-react";
import { useCallback, useEffect, useRef, type KeyboardEvent, type MouseEvent, type PointerEvent } from "react";
import type { Region } from "@/core/engine/sequencer";
import { barTicks, beatTicks, formatPosition, stepTicks } from "@/core/time/meter";
import { MARKS, onFrame, setText } from "@/ui/frames";
import { menuOf, type MenuEntry } from "@/ui/menu";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useProject, useSound, useStudio, useView } from "@/views/studio/studio";
import { zoomBy, zoomTo } from "@/views/studio/viewStore";
import { Playhead } from "./Playhead";
import { GUTTER, LABEL_WIDTH, STRIP_CANVAS } from "./layout";
import { gridLines, tickToX, xToTick, type Timeline } from "./timeline";

/** Where the song stands: running while it plays, else where Play will start. */
function Position({ startTick }: { startTick: number }) {
  const { session } = useStudio();
  const meter = useProject((s) => s.project.song.meter);
  const text = useRef<HTMLSpanElement>(null);
  useEffect(
    () =>
      onFrame(() => {
        if (!text.current) return;
        const now = session.snapshot();
        const step = stepTicks(meter);
        const tick = now?.playing ? Math.floor(now.loopTick / step) * step : startTick;
        setText(text.current, formatPosition(tick, meter));
      }, MARKS),
    [session, meter, startTick],
  );
  return (
    <span ref={text} className="font-semibold text-ink" data-testid="start-position" title="Where the song stands">
      {formatPosition(startTick, meter)}
    </span>
  );
}

/** Bars and beats. A press sets where Play starts; while it plays, it moves the song there. */
export function Ruler({ timeline }: { timeline: Timeline & { loop: number } }) {
  const studio = useStudio();
  const song = useProject((s) => s.project.song);
  const zoom = useView((v) => v.zoom);
  const startTick = useView((v) => v.startTick);
  const playing = useSound((s) => s.playing);
  const wanted = useView((v) => v.region);
  // A loop that was made shorter leaves a stretch behind its end alone.
  const region = wanted && wanted.to <= timeline.loop ? wanted : null;
  const click = useView((v) => v.click);
  const countBars = useView((v) => v.countBars);
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      if (region) {
        s.g.fillStyle = s.palette.line;
        const x = tickToX(t, region.from);
        s.g.fillRect(x, 0, tickToX(t, region.to) - x, s.height);
        s.g.fillStyle = s.palette.heard;
        s.g.fillRect(x, s.height - 3, tickToX(t, region.to) - x, 3);
      }
      for (const line of gridLines(t, song.meter, timeline.loop - 1)) {
        const x = tickToX(t, line.tick);
        const bar = Math.floor(line.tick / barTicks(song.meter)) + 1;
        const beat = Math.floor((line.tick % barTicks(song.meter)) / beatTicks(song.meter)) + 1;
        s.g.fillStyle = line.level === "bar" ? s.palette.ink : s.palette.line;
        s.g.fillRect(Math.round(x), line.level === "bar" ? 0 : line.level === "beat" ? 10 : 18, 1, s.height);
        const stepPx = (stepTicks(song.meter) / t.ticks) * t.width;
        if (line.level === "step" && stepPx < 46) continue;
        const beatPx = (beatTicks(song.meter) / t.ticks) * t.width;
        if (line.level === "beat" && beatPx < 26) continue;
        s.g.font = s.g.font
          .replace(/\d+px/, line.level === "bar" ? "13px" : "11px")
          .replace(/^(500|700)/, line.level === "bar" ? "700" : "500");
        s.g.fillStyle = line.level === "bar" ? s.palette.ink : s.palette.ink2;
        const text = line.level === "bar" ? String(bar) : line.level === "beat" ? `${bar}.${beat}` : formatPosition(line.tick, song.meter); // prettier-ignore
        s.g.fillText(text, x + 4, 15);
      }
    },
    [timeline, song.meter, region],
  );
  const canvas = useCanvas(paint);
  const beatsPerBar = song.meter.beats;
  const pressed = useRef<{ x: number; tick: number } | null>(null);
  const tickOf = (e: MouseEvent<HTMLElement>): number => {
    const { left, width } = e.currentTarget.getBoundingClientRect();
    return xToTick({ ...timeline, width }, e.clientX - left);
  };
  const locate = (tick: number, free: boolean): void => {
    const step = stepTicks(song.meter);
    const snapped = free ? Math.round(tick) : Math.floor(tick / step) * step;
    studio.view.setState({ startTick: Math.min(timeline.loop - 1, Math.max(0, snapped)) });
    if (playing) void studio.play();
  };
  const repeat = (next: Region | null): void => studio.view.setState({ region: next });
  /** The whole beats between two places, at least one. */
  const beatsBetween = (a: number, b: number): Region => {
    const beat = beatTicks(song.meter);
    const from = Math.max(0, Math.floor(Math.min(a, b) / beat) * beat);
    const to = Math.min(timeline.loop, Math.max(from + beat, Math.ceil(Math.max(a, b) / beat) * beat));
    return { from: Math.min(from, to - 1), to };
  };
  const onPointerMove = (e: PointerEvent<HTMLElement>): void => {
    const from = pressed.current;
    // A hand that trembles only sets the place.
    if (from && Math.abs(e.clientX - from.x) > 5) repeat(beatsBetween(from.tick, tickOf(e)));
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    if (e.key === "Escape" || e.key === "Delete") {
      if (!region) return;
      e.preventDefault();
      return repeat(null);
    }
    if (e.key === "[" || e.key === "]") {
      e.preventDefault();
      const beat = beatTicks(song.meter);
      return repeat(e.key === "[" ? beatsBetween(startTick, region && region.to > startTick ? region.to : startTick + beat) : beatsBetween(region && region.from < startTick ? region.from : 0, startTick)); // prettier-ignore
    }
    const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -beatsPerBar, PageUp: beatsPerBar }[
      e.key
    ];
    if (by === undefined || e.ctrlKey || e.altKey || e.metaKey) return;
    e.preventDefault();
    const unit = e.shiftKey ? stepTicks(song.meter) : beatTicks(song.meter);
    const next = Math.round(startTick / unit) * unit + by * unit;
    studio.view.setState({ startTick: Math.min(timeline.loop - unit, Math.max(0, next)) });
    if (playing) void studio.play();
  };
  const zoomAbout = (factor: number) => (): void => zoomBy(studio.view, factor, 0.5, timeline.loop);
  /** The beats that the chosen notes lie in; null when none is chosen. */
  const beatsOfNotes = (): Region | null => {
    const { selectedNotes } = studio.view.getState();
    const chosen = studio.part.notes.filter((n) => selectedNotes.has(n.id));
    const ends = chosen.map((n) => n.startTick + n.lengthTicks);
    return chosen.length > 0 ? beatsBetween(Math.min(...chosen.map((n) => n.startTick)), Math.max(...ends)) : null;
  };
  const entries = (ofNotes: Region | null): MenuEntry[] => [
    { text: "Loop the chosen notes", why: ofNotes ? null : "No note is chosen", run: () => repeat(ofNotes) },
    {
      text: "Loop the whole song",
      keys: "Escape",
      why: region ? null : "The whole song is looped",
      run: () => repeat(null),
    },
    { text: "Click on beats", on: click, run: () => studio.view.setState({ click: !click }) },
    ...[0, 1, 2].map((bars) => ({
      text: bars === 0 ? "No count-in" : bars === 1 ? "Count in one bar" : "Count in two bars",
      on: countBars === bars,
      run: () => studio.view.setState({ countBars: bars }),
    })),
    { text: "Play from here", run: () => void studio.play() },
    {
      text: "Play from the start",
      keys: "Home",
      run: () => {
        studio.view.setState({ startTick: 0 });
        void studio.play();
      },
    },
    { text: "Zoom in", keys: "+", run: zoomAbout(2) },
    { text: "Zoom out", keys: "−", why: zoom <= 1 ? "The whole loop is in sight" : null, run: zoomAbout(0.5) },
    {
      text: "Zoom to what is looped or chosen",
      why: region || ofNotes ? null : "Nothing is looped or chosen",
      run: () => zoomTo(studio.view, region ?? ofNotes!, timeline.loop),
    },
    { text: "Zoom to fit", keys: "0", why: zoom <= 1 ? "The whole loop is in sight" : null, run: zoomAbout(1 / zoom) },
  ];
  const menu = menuOf("Song", () => entries(beatsOfNotes()));
  return (
    <div className="relative flex h-[25px] border-b border-line bg-paper">
      <div
        className="flex shrink-0 items-center justify-between border-r border-line pr-1 pl-3 text-[11px] text-ink2"
        style={{ width: LABEL_WIDTH }}
      >
        <Position startTick={startTick} />
        <span className="flex items-center">
          <button
            type="button"
            className={`cursor-pointer rounded-[2px] px-1 text-[11px] ${click ? "bg-ink text-sheet" : "text-ink2 hover:text-ink"}`}
            aria-pressed={click}
            title={`A click on every beat${countBars > 0 ? `, and ${countBars === 1 ? "one bar" : "two bars"} before the song` : ""}. The ruler's menu counts in.`}
            onClick={() => studio.view.setState({ click: !click })}
          >
            click
          </button>
          <button
            type="button"
            className="cursor-pointer p-[3px] text-ink2 hover:text-ink disabled:opacity-40"
            aria-label="Zoom out"
            title="Zoom out (−)"
            disabled={zoom <= 1}
            onClick={zoomAbout(0.5)}
          >
            <ZoomOut size={13} />
          </button>
          <button
            type="button"
            className="cursor-pointer p-[3px] text-ink2 hover:text-ink"
            aria-label="Zoom in"
            title="Zoom in (+)"
            onClick={zoomAbout(2)}
          >
            <ZoomIn size={13} />
          </button>
        </span>
      </div>
      <div
        className="relative min-w-0 flex-1 cursor-pointer"
        style={{ marginRight: GUTTER }}
        role="slider"
        tabIndex={0}
        aria-label="Play from"
        aria-valuemin={0}
        aria-valuemax={timeline.loop}
        aria-valuenow={startTick}
        aria-valuetext={formatPosition(startTick, song.meter)}
        onPointerDown={(e) => {
          if (e.button !== 0) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          pressed.current = { x: e.clientX, tick: tickOf(e) };
          locate(tickOf(e), e.ctrlKey);
        }}
        onPointerMove={onPointerMove}
        onPointerUp={() => {
          pressed.current = null;
        }}
        onPointerCancel={() => {
          pressed.current = null;
        }}
        onDoubleClick={() => repeat(null)}
        onContextMenu={(e) => {
          // The place that was pointed at is the one that is played from; the Menu key means where it stands.
          if (e.clientX !== 0 || e.clientY !== 0) locate(tickOf(e), e.ctrlKey);
          menu(e);
        }}
        onKeyDown={onKeyDown}
        data-testid="ruler"
      >
        <canvas ref={canvas} className={STRIP_CANVAS} aria-hidden />
      </div>
      <Playhead timeline={timeline} left={LABEL_WIDTH} marker />
    </div>
  );
}
