import { useCallback, useState } from "react";
import { OWN_TABLE_IDS } from "@/core/dsp/ownTableIds";
import { OWN_TABLES } from "@/core/dsp/ownTables";
import { framesShown } from "@/core/dsp/waveShape";
import { harmonicsAt, ownFrames } from "@/core/dsp/tables";
import { row, wholeRow } from "@/core/patch/row";
import { OSCILLATOR, type Corner, type Oscillator } from "@/core/patch/kinds/oscillator";
import { editModule } from "@/state/edits";
import { Choices } from "@/ui/Choices";
import { SelectRow } from "@/ui/Select";
import { Pad } from "@/ui/Pad";
import type { Surface } from "@/ui/useCanvas";
import { useEditable, usePart, useStudio } from "@/views/studio/studio";
import { ModuleRow, NumberRow } from "../score/inspector/rows";
import { useMovedWave } from "./useMovedWave";

/** As they lie in the document: low left, low right, high left, high right. */
const NAMES = ["low left", "low right", "high left", "high right"] as const;

const CORNER_ROWS = {
  place: row({ label: "Read at", unit: "%", min: 0, max: 100, default: 0, digits: 1 }),
  harmonic: wholeRow({ label: "Harmonic", unit: "", min: 1, max: 16, default: 1, hint: "2 is an octave up, 3 a fifth more." }),
  level: row({ label: "Level", unit: "%", min: 0, max: 100, default: 100 }),
  phase: row({ label: "Phase", unit: "°", min: 0, max: 360, default: 0, step: 15, fine: 1 }),
} as const; // prettier-ignore

/** Four waves at the corners of a square and the place between them, which is moved by hand or by routes. */
export function CornerPad({
  oscillator: o,
  onChange,
}: {
  oscillator: Oscillator;
  onChange: (label: string, data: Partial<Oscillator["data"]>) => void;
}) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const moved = useMovedWave(o);
  const [chosen, setChosen] = useState(0);
  const { rows } = OSCILLATOR;
  const { position, upward } = o.values;
  const { corners } = o.data;
  const corner = corners[chosen]!;
  const paint = useCallback(
    ({ g, width, height, palette }: Surface) => {
      corners.forEach((c, i) => {
        const [cycle] = framesShown([harmonicsAt(ownFrames(c.table), c.place)], 1);
        const left = i % 2 === 0 ? 6 : width - 66;
        const top = i < 2 ? height - 34 : 6;
        g.strokeStyle = i === chosen ? palette.shape : palette.ink2;
        g.lineWidth = 1.2;
        g.beginPath();
        for (let x = 0; x <= 60; x++) {
          const k = Math.round((x / 60) * (cycle!.length - 1) * c.harmonic) % cycle!.length;
          g.lineTo(left + x, top + 14 - cycle![k]! * 12 * c.level);
        }
        g.stroke();
      });
      const dot = (x: number, y: number, colour: string): void => {
        g.fillStyle = colour;
        g.fillRect((x / 100) * (width - 8), (1 - y / 100) * (height - 8), 8, 8);
      };
      dot(position, upward, palette.ink);
      if (moved) dot(moved.position ?? position, moved.upward ?? upward, palette.heard);
    },
    [corners, chosen, position, upward, moved],
  );
  const place = (x: number, y: number | null, g?: string): void =>
    void store.edit(
      "Move between four waves",
      editModule(part.id, OSCILLATOR, o.id, (m) => ({ ...m, values: { ...m.values, position: x, upward: y ?? m.values.upward } })),
      g,
    ); // prettier-ignore
  const set = (label: string, change: Partial<Corner>): void => onChange(label, { corners: corners.with(chosen, { ...corner, ...change }) });
  return (
    <div>
      <Pad
        label={`Four waves of ${o.name}: ${Math.round(position)} % across, ${Math.round(upward)} % up; arrows move`}
        editable={editable}
        x={position}
        y={upward}
        dot={8}
        className="h-[120px] bg-sheet"
        paint={paint}
        onMove={place}
      />
      <ModuleRow module={o} row={rows.position} />
      <ModuleRow module={o} row={rows.upward} />
      <Choices
        label="Corner"
        hidden
        value={NAMES[chosen]!}
        options={NAMES.map((n) => ({ value: n, text: n }))}
        onChange={(n) => setChosen(NAMES.indexOf(n))}
      />
      <SelectRow
        label="Table"
        name={`Table of the corner ${NAMES[chosen]}`}
        value={corner.table}
        options={OWN_TABLE_IDS.map((id) => ({ value: id, text: OWN_TABLES[id].name }))}
        onChange={(table) => set(`Choose ${OWN_TABLES[table].name}`, { table })}
      />
      <NumberRow row={CORNER_ROWS.place} value={corner.place} kind="notes" onChange={(v, label) => set(label, { place: v })} />
      <NumberRow row={CORNER_ROWS.harmonic} value={corner.harmonic} kind="notes" onChange={(v, label) => set(label, { harmonic: v })} />
      <NumberRow row={CORNER_ROWS.level} value={corner.level * 100} kind="notes" onChange={(v, label) => set(label, { level: v / 100 })} />
      <NumberRow row={CORNER_ROWS.phase} value={corner.phase} kind="notes" onChange={(v, label) => set(label, { phase: v })} />
    </div>
  );
} // prettier-ignore
