import { useCallback, useMemo } from "react";
import { levels } from "@/core/measure/onsets";
import { RECORDING, type RecordingModule } from "@/core/patch/kinds/recording";
import { formatAmount } from "@/core/patch/valueText";
import { editModule } from "@/state/edits";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { usePart } from "@/views/studio/studio";
import { ModuleChoice, ModuleRow } from "../score/inspector/rows";
import { SourceRows } from "./OscillatorRows";
import { WhichRecording } from "./WhichRecording";
import { useRecording } from "./recordings";

/** Everything of a recording but its name and destination. */
export function RecordingRows({ module: m }: { module: RecordingModule }) {
  const part = usePart();
  const { rows, choices } = RECORDING;
  const looped = m.choices.plays === "looped";
  return (
    <div className="flex flex-col gap-1">
      <div>
        <RecordingPlot module={m} />
        <WhichRecording
          hash={m.data.recording}
          label={`Sound file of ${m.name}`}
          use={(recording) => editModule(part.id, RECORDING, m.id, (old) => ({ ...old, data: { recording } }))}
        />
        <ModuleChoice module={m} choice={choices.plays} text={(p) => p} />
        <ModuleRow module={m} row={rows.from} />
        <ModuleRow module={m} row={rows.scatter} />
        <ModuleRow module={m} row={rows.to} />
        {looped && <ModuleRow module={m} row={rows.back} />}
        {looped && <ModuleRow module={m} row={rows.seam} />}
      </div>
      <SourceRows module={m} />
      <div>
        <ModuleChoice module={m} choice={choices.keys} text={(k) => (k === "follows" ? "follows" : "stands")} />
        {m.choices.keys === "follows" && <ModuleRow module={m} row={rows.root} />}
        <ModuleRow module={m} row={rows.pitch} text={(v) => formatAmount(v, "st", v % 1 === 0 ? 0 : 2, true)} />
        <ModuleRow module={m} row={rows.fine} text={(v) => formatAmount(v, "ct", v % 1 === 0 ? 0 : 1, true)} />
      </div>
    </div>
  );
}

const COLUMNS = 256;

/** The level of the recording from left to right; what is not played is pale, and a loop's start is marked. */
function RecordingPlot({ module: m }: { module: RecordingModule }) {
  const { recording } = useRecording(m.data.recording);
  const { from, to, back } = m.values;
  const looped = m.choices.plays === "looped";
  const side = recording?.channels[0];
  const shown = useMemo(() => (side ? levels(side, COLUMNS) : null), [side]);
  const paint = useCallback(
    ({ g, width, height, palette }: Surface) => {
      if (!shown) return;
      const top = shown.reduce((t, v) => Math.max(t, v), 1e-9);
      const end = Math.max(to, from);
      shown.forEach((v, i) => {
        const at = (100 * (i + 0.5)) / COLUMNS;
        g.fillStyle = palette.ink;
        g.globalAlpha = at >= Math.min(from, looped ? back : from) && at <= end ? 1 : 0.3;
        const h = Math.max(1, (v / top) * (height - 4));
        g.fillRect((i * width) / COLUMNS, (height - h) / 2, width / COLUMNS, h);
      });
      g.globalAlpha = 1;
      g.fillStyle = palette.ink;
      g.fillRect((from / 100) * (width - 1), 0, 1, height);
      g.fillRect((to / 100) * (width - 1), 0, 1, height);
      if (!looped) return;
      g.fillRect((back / 100) * (width - 1), height / 2, 1, height / 2);
      g.fillRect((back / 100) * (width - 1), height - 1, ((to - back) / 100) * width, 1);
    },
    [shown, from, to, back, looped],
  );
  return (
    <canvas
      ref={useCanvas(paint)}
      className="my-1 block w-full bg-paper"
      style={{ height: 64 }}
      role="img"
      aria-label={`Level of ${m.name}, played from ${from.toFixed(1)} to ${to.toFixed(1)} %`}
    />
  );
}
