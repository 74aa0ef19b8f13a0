import { useCallback } from "react";
import { modulesOf } from "@/core/patch/kinds";
import { MACRO, type Macro } from "@/core/patch/kinds/macro";
import { formatAmount } from "@/core/patch/valueText";
import { editPatch } from "@/state/edits";
import { withModule } from "@/core/patch/edit";
import { Pad } from "@/ui/Pad";
import { Select } from "@/ui/Select";
import type { Surface } from "@/ui/useCanvas";
import { useEditable, usePart, useStudio, useView } from "@/views/studio/studio";
import { EditorFrame } from "./EditorFrame";

const DOT = 13;

/** A pad whose two ways are two macros: this one across, another one up and down. */
export function MacroEditor({ module: m }: { module: Macro }) {
  const { workspace, view } = useStudio();
  const part = usePart();
  const editable = useEditable();
  const others = modulesOf(part.patch.modules, MACRO).filter((o) => o.id !== m.id);
  const partner = useView((v) => v.padPartner[m.id]);
  const other = others.find((o) => o.id === partner) ?? null;
  const x = m.values.value;
  const y = other?.values.value ?? null;
  const put = (id: string, value: number) => (patch: typeof part.patch) =>
    withModule(patch, id, (old) => (old.kind === "macro" ? { ...old, values: { ...old.values, value } } : old));
  const place = (toX: number, toY: number | null, g?: string): void =>
    void workspace.store.edit(
      other ? `Move ${m.name} and ${other.name}` : `Set value of ${m.name}`,
      editPatch(part.id, (p) => (other && toY !== null ? put(other.id, toY)(put(m.id, toX)(p)) : put(m.id, toX)(p))),
      g,
    );
  const paint = useCallback(
    ({ g, width, height, palette }: Surface) => {
      g.fillStyle = palette.line2;
      for (let i = 1; i < 4; i++) {
        g.fillRect(Math.round((width * i) / 4), 0, 1, height);
        if (y !== null) g.fillRect(0, Math.round((height * i) / 4), width, 1);
      }
      const left = (x / 100) * (width - DOT);
      g.fillStyle = palette.ink;
      if (y === null) {
        g.fillRect(left, 0, DOT, height);
        return;
      }
      const top = (1 - y / 100) * (height - DOT);
      g.fillRect(left + DOT / 2 - 0.5, 0, 1, height);
      g.fillRect(0, top + DOT / 2 - 0.5, width, 1);
      g.fillRect(left, top, DOT, DOT);
    },
    [x, y],
  );
  const told = (v: number): string => formatAmount(v, "%", 1);
  return (
    <EditorFrame
      title={m.name}
      subtitle={other ? `across: ${m.name}, ${told(x)}; up and down: ${other.name}, ${told(y!)}` : `across: ${told(x)}`}
      tools={
        <Select
          label="Macro that goes up and down"
          className="chip"
          value={other?.id ?? ""}
          options={[
            { value: "", text: others.length === 0 ? "a second macro gives a pad" : "up and down: none" },
            ...others.map((o) => ({ value: o.id, text: `up and down: ${o.name}` })),
          ]}
          onChange={(id) => view.setState((v) => ({ padPartner: { ...v.padPartner, [m.id]: id } }))}
        />
      }
    >
      <Pad
        label={`Pad: ${m.name} ${told(x)}${other ? `, ${other.name} ${told(y!)}` : ""}; arrows move`}
        editable={editable}
        x={x}
        y={y}
        dot={DOT}
        className="absolute inset-3 bg-paper"
        paint={paint}
        onMove={place}
        testId="macro-pad"
      />
    </EditorFrame>
  );
} // prettier-ignore
