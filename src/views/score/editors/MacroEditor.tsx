import { useCallback, useState, type KeyboardEvent, type PointerEvent } from "react";
import { modulesOf } from "@/core/patch/kinds";
import { MACRO, type Macro } from "@/core/patch/kinds/macro";
import { clampToParameter } from "@/core/patch/row";
import { formatAmount } from "@/core/patch/valueText";
import { editPatch } from "@/state/edits";
import { withModule } from "@/core/patch/edit";
import { newGesture } from "@/ui/gesture";
import { Select } from "@/ui/Select";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useEditable, usePart, useStudio, useView } from "@/views/studio/studio";
import { EditorFrame } from "./EditorFrame";

const DOT = 13;

/** A pad whose two ways are two macros: this one across, another one up and down. */
export function MacroEditor({ module: m }: { module: Macro }) {
  const { workspace, view } = useStudio();
  const part = usePart();
  const editable = useEditable();
  const [gesture, setGesture] = useState<string | null>(null);
  const others = modulesOf(part.patch.modules, MACRO).filter((o) => o.id !== m.id);
  const partner = useView((v) => v.padPartner[m.id]);
  const other = others.find((o) => o.id === partner) ?? null;
  const x = m.values.value;
  const y = other?.values.value ?? null;
  const place = (nextX: number, nextY: number | null, g?: string): void => {
    const tidy = (v: number): number => clampToParameter(MACRO.rows.value, Math.round(v * 10) / 10);
    const put = (id: string, value: number) => (patch: typeof part.patch) =>
      withModule(patch, id, (old) => (old.kind === "macro" ? { ...old, values: { ...old.values, value: tidy(value) } } : old));
    workspace.store.edit(
      other ? `Move ${m.name} and ${other.name}` : `Set value of ${m.name}`,
      editPatch(part.id, (p) => (other && nextY !== null ? put(other.id, nextY)(put(m.id, nextX)(p)) : put(m.id, nextX)(p))),
      g,
    );
  };
  const drag = (e: PointerEvent<HTMLElement>, g: string): void => {
    const box = e.currentTarget.getBoundingClientRect();
    const share = (at: number, from: number, length: number): number => ((at - from - DOT / 2) / (length - DOT)) * 100;
    place(share(e.clientX, box.left, box.width), 100 - share(e.clientY, box.top, box.height), g);
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    const by = e.shiftKey ? 0.5 : 5;
    const across = { ArrowRight: by, ArrowLeft: -by }[e.key] ?? 0;
    const up = { ArrowUp: by, ArrowDown: -by }[e.key] ?? 0;
    if ((across === 0 && up === 0) || e.ctrlKey || e.altKey || e.metaKey || !editable) return;
    e.preventDefault();
    e.stopPropagation();
    place(x + across, y === null ? null : y + up);
  };
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
      <div
        role="application"
        tabIndex={0}
        aria-label={`Pad: ${m.name} ${told(x)}${other ? `, ${other.name} ${told(y!)}` : ""}; arrows move`}
        className={`absolute inset-3 touch-none border border-line bg-paper ${editable ? "cursor-crosshair" : "opacity-60"}`}
        onKeyDown={onKeyDown}
        onPointerDown={(e) => {
          if (!editable || e.button !== 0) return;
          const g = newGesture();
          e.currentTarget.focus();
          e.currentTarget.setPointerCapture(e.pointerId);
          setGesture(g);
          drag(e, g);
        }}
        onPointerMove={(e) => {
          if (gesture) drag(e, gesture);
        }}
        onPointerUp={() => setGesture(null)}
        onPointerCancel={() => setGesture(null)}
        data-testid="macro-pad"
      >
        <canvas ref={useCanvas(paint)} className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden />
      </div>
    </EditorFrame>
  );
} // prettier-ignore
