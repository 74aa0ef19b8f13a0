import { newArpeggio } from "@/core/patch/defaults";
import { ARP_ORDERS, type Arpeggio } from "@/core/patch/project";
import { ARPEGGIO_ROWS } from "@/core/patch/rows";
import { NOTE_VALUES, noteValueName } from "@/core/time/noteValue";
import { editArpeggio } from "@/state/edits";
import { Choices } from "@/ui/Choices";
import { Toggle } from "@/ui/Toggle";
import { RATE_RULES } from "@/ui/values";
import { useEditable, usePart, useStudio } from "@/views/studio/studio";
import { ORDER_TEXT } from "../stripList";
import { InspectorTitle } from "./InspectorTitle";
import { NumberRow, SpanRow } from "./rows";

export function ArpeggioInspector() {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const { arpeggio } = part;
  const set = (change: Partial<Arpeggio>, label: string, gesture?: string): void =>
    void store.edit(`${label} of the arpeggio`, editArpeggio(part.id, change), gesture);
  return (
    <>
      <InspectorTitle title="Arpeggio" subtitle="plays held notes one after another" />
      <div>
        <Toggle
          text="on"
          name="Arpeggio on"
          on={arpeggio.on}
          disabled={!editable}
          onChange={(on) =>
            store.edit(on ? "Switch the arpeggio on" : "Switch the arpeggio off", editArpeggio(part.id, { on }))
          }
        />
      </div>
      <section>
        <h3 className="heading mb-1">Order</h3>
        <Choices
          hidden
          label="Order"
          value={arpeggio.order}
          options={ARP_ORDERS.map((o) => ({ value: o, text: ORDER_TEXT[o] }))}
          onChange={(order) => set({ order }, "Set order")}
        />
        <NumberRow
          row={ARPEGGIO_ROWS.octaves}
          kind="rhythm"
          value={arpeggio.octaves}
          onChange={(octaves, l, g) => set({ octaves }, l, g)}
        />
        <NumberRow
          row={ARPEGGIO_ROWS.length}
          kind="rhythm"
          value={arpeggio.length}
          text={(v) => `${v} step${v === 1 ? "" : "s"}`}
          onChange={(length, l, g) => set({ length }, l, g)}
        />
      </section>
      <section>
        <h3 className="heading mb-1">Time</h3>
        <SpanRow
          label="Rate"
          kind="rhythm"
          span={{ unit: "note", ...arpeggio.rate }}
          rules={RATE_RULES}
          fallback={{ unit: "note", ...newArpeggio().rate }}
          onChange={(span, l, g) => {
            // Rates are note values: one typed or stepped past them takes the longest.
            if (span.unit === "note") set({ rate: { num: span.num, den: span.den } }, l, g);
            else set({ rate: NOTE_VALUES[0]! }, l, g);
          }}
        />
        <NumberRow
          row={ARPEGGIO_ROWS.gate}
          kind="rhythm"
          value={arpeggio.gate}
          onChange={(gate, l, g) => set({ gate }, l, g)}
        />
        <Choices
          label="Swing"
          value={arpeggio.swingFrom}
          options={[
            { value: "song", text: "the song's" },
            { value: "own", text: `own, on ${noteValueName(arpeggio.rate)}` },
          ]}
          onChange={(swingFrom) => set({ swingFrom }, "Set swing")}
        />
        <NumberRow
          row={ARPEGGIO_ROWS.swing}
          kind="rhythm"
          value={arpeggio.swing}
          disabled={arpeggio.swingFrom === "song"}
          onChange={(swing, l, g) => set({ swing }, l, g)}
        />
      </section>
    </>
  );
}
