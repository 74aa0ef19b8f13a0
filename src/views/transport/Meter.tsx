import { useEffect, useRef, useState } from "react";
import { SONG_ROWS } from "@/core/patch/rows";
import { formatAmount } from "@/core/patch/valueText";
import { setTrim } from "@/state/edits";
import { READINGS, nextFrame, onFrame, setStyle, setText } from "@/ui/frames";
import { LOCKED, menuOf } from "@/ui/menu";
import { ValueField } from "@/ui/ValueRow";
import { parameterValue } from "@/ui/values";
import { useEditable, useProject, useStudio } from "@/views/studio/studio";
import { MeterBallistics, METER_FLOOR_DB } from "./meterBallistics";

/** Where "trim" puts the highest peak. */
const HEADROOM_DB = 1;

/** Output peaks with hold, headroom in dB, the clip mark and the action that trims. */
export function Meter() {
  const { session, workspace } = useStudio();
  const trim = useProject((s) => s.project.outputTrim);
  const editable = useEditable();
  const sides = useRef<HTMLDivElement>(null);
  const number = useRef<HTMLSpanElement>(null);
  const ballistics = useRef(new MeterBallistics());
  const [clipped, setClipped] = useState<number | null>(null);

  useEffect(
    () =>
      onFrame((nowMs) => {
        const peaks = session.takePeaks();
        const reading = ballistics.current.update(peaks ?? [0, 0], nowMs);
        reading.sides.forEach((side, i) => {
          const width = (db: number): string => `${Math.max(0, 100 * (1 - db / METER_FLOOR_DB))}%`;
          const [bar, mark] = sides.current?.children[i]?.children ?? [];
          if (bar instanceof HTMLElement) setStyle(bar, "width", width(side.levelDb));
          if (mark instanceof HTMLElement) setStyle(mark, "left", width(side.holdDb));
        });
        if (number.current) {
          const text = reading.highestDb <= METER_FLOOR_DB ? "silent" : formatAmount(reading.highestDb, "dB", 1);
          setText(number.current, text);
        }
        if (reading.overDb !== null) setClipped(reading.overDb);
      }, READINGS),
    [session],
  );

  // Peaks belong to the project that made them.
  const opened = useProject((s) => s.opened);
  const clear = (): void => {
    ballistics.current.reset();
    setClipped(null);
    nextFrame();
  };
  useEffect(clear, [opened]);

  const trimNow = (): void => {
    const down = (clipped ?? 0) + HEADROOM_DB;
    const p = SONG_ROWS.trim;
    workspace.store.edit("Trim output", setTrim(Math.max(p.min, Math.round((trim - down) * 10) / 10)));
    clear();
  };

  return (
    <div className="flex items-center gap-3 border-l border-line px-3">
      <ValueField
        disabled={!editable}
        label="Trim"
        name="Level trim"
        value={parameterValue(
          SONG_ROWS.trim,
          trim,
          (v, g) => workspace.store.edit("Set trim", setTrim(v), g),
          (v) => formatAmount(v, "dB", 1),
        )}
      />
      <div
        className="w-[118px] xl:w-[150px]"
        role="group"
        aria-label="Output level"
        onContextMenu={menuOf("Output level", () => [
          { text: "Reset the highest peak", run: clear },
          {
            text: clipped === null ? "Trim" : `Trim by ${formatAmount(-clipped - HEADROOM_DB, "dB", 1)}`,
            why: !editable ? LOCKED : clipped === null ? "Nothing went over full scale" : null,
            run: trimNow,
          },
        ])}
      >
        <div className="flex h-[18px] items-center justify-between gap-1 text-[11px]">
          {clipped === null ? (
            <span className="text-ink2">Output</span>
          ) : (
            <button
              type="button"
              className="chip border-warn py-0"
              title="The output went over full scale and was limited. Trim lowers it by that much."
              onClick={trimNow}
            >
              over {formatAmount(clipped, "dB", 1, true)}: trim
            </button>
          )}
          <button
            type="button"
            className="cursor-pointer font-semibold whitespace-nowrap"
            title="Highest peak. Click to reset it."
            onClick={clear}
          >
            <span ref={number} data-testid="peak">
              silent
            </span>
          </button>
        </div>
        <div ref={sides}>
          {[0, 1].map((i) => (
            <div key={i} className="relative mt-[2px] h-[6px] bg-line2">
              <div className="absolute inset-y-0 left-0 bg-envelope" style={{ width: 0 }} />
              <div className="absolute -inset-y-[2px] w-[2px] bg-ink" style={{ left: 0 }} />
            </div>
          ))}
        </div>
      </div>
    </div>
  );
}
