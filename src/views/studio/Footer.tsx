import { memo, useEffect, useMemo, useRef } from "react";
import { MAX_EVENTS } from "@/core/pattern/arpeggio";
import { isCut, partEvents, patternRepeatBars } from "@/core/pattern/events";
import { cyclesOf } from "@/core/motion/cycles";
import { repeatReport } from "@/core/time/repeat";
import { READINGS, onFrame, setText } from "@/ui/frames";
import { cutText, slideText } from "@/views/score/stripList";
import { usePart, usePattern, useProject, useStudio } from "./studio";

/** What repeats, what drifts, and what the engine does. */
export function Footer() {
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const seed = useProject((s) => s.project.seed);
  const { modules } = part.patch;
  const shared = useProject((s) => s.project.modules);
  const pattern = usePattern();
  const events = partEvents(pattern, song, seed);
  const repeatBars = useMemo(() => patternRepeatBars(events, song), [events, song]);
  const cut = isCut(pattern, song, seed);
  const report = useMemo(
    () => repeatReport(cyclesOf([...modules, ...shared], song), repeatBars, song.meter, song.loopBars),
    [modules, shared, song, repeatBars],
  );
  return (
    <footer className="flex h-[24px] items-center gap-5 border-t border-line bg-paper px-3 text-[11px] whitespace-nowrap text-ink2">
      <span>
        {part.name} repeats every{" "}
        <b className="text-ink">
          {report.repeatBars} bar{report.repeatBars === 1 ? "" : "s"}
        </b>
      </span>
      {cut && (
        <span className="flex min-w-0 items-center gap-1.5 truncate text-ink">
          <span className="h-2 w-2 shrink-0 bg-warn" aria-hidden />
          The arpeggio plays more than {MAX_EVENTS.toLocaleString("en")} notes and stops there: use fewer octaves, a
          longer rate or a shorter loop
        </span>
      )}
      {report.drifts.length === 0 ? (
        <span>Nothing drifts off the grid</span>
      ) : (
        report.drifts.map((d) => (
          <span key={d.name} className="flex min-w-0 items-center gap-1.5 truncate text-ink">
            <span className="h-2 w-2 shrink-0 bg-warn" aria-hidden />
            {d.name} does not fit {cutText(d, song)}:{" "}
            {slideText(d, song) ?? `its last cycle is cut at ${Math.round(d.leftover * 100)} %`}
          </span>
        ))
      )}
      <EngineReading />
    </footer>
  );
}

const EngineReading = memo(function EngineReading() {
  const { session } = useStudio();
  const text = useRef<HTMLSpanElement>(null);
  useEffect(
    () =>
      onFrame(() => {
        if (!text.current) return;
        const now = session.snapshot();
        const rate = `${session.sampleRate / 1000} kHz`;
        const next = now
          ? `engine ${Math.round(now.load * 100)} %, ${now.voices} voice${now.voices === 1 ? "" : "s"}, ${rate}`
          : "the sound starts with Play";
        setText(text.current, next);
      }, READINGS),
    [session],
  );
  return <span ref={text} className="ml-auto" data-testid="engine" />;
});
