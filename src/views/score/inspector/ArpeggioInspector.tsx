import { newArpeggio } from "@/core/patch/defaults";
import { ARP_ORDERS, ARP_RESTARTS, MAX_NOTES, type ArpOrder, type Arpeggio } from "@/core/patch/project";
import { ARPEGGIO_ROWS, SONG_ROWS } from "@/core/patch/rows";
import { arpeggioRepeatBars } from "@/core/pattern/arpeggioRepeat";
import { partEvents } from "@/core/pattern/events";
import { NOTE_VALUES, noteValueName } from "@/core/time/noteValue";
import { editArpeggio, freezeArpeggio, lengthenLoop } from "@/state/edits";
import { newId } from "@/state/ids";
import { Choices } from "@/ui/Choices";
import { SelectRow } from "@/ui/Select";
import { Toggle } from "@/ui/Toggle";
import { RATE_RULES } from "@/ui/values";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";
import { LaneInspector } from "../lanes/LaneInspector";
import { ORDER_TEXT } from "../stripList";
import { InspectorTitle } from "./InspectorTitle";
import { NumberRow, SpanRow } from "./rows";

const TURNING: readonly ArpOrder[] = ["upDown", "downUp"];

const MAX_BARS = SONG_ROWS.loopBars.max;

const RESTART_TEXT: Record<Arpeggio["restart"], string> = {
  loop: "with the loop",
  bar: "with each bar",
  chord: "when notes are added",
};

export function ArpeggioInspector() {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const { arpeggio } = part;
  const { song, seed } = useProject((s) => s.project);
  const repeatBars = arpeggioRepeatBars(arpeggio, song);
  const tooMany = partEvents(part, song, seed).length > MAX_NOTES;
  const set = (change: Partial<Arpeggio>, label: string, gesture?: string): void =>
    void store.edit(`${label} of the arpeggio`, editArpeggio(part.id, change), gesture);
  return (
    <>
      <InspectorTitle title="Arpeggio" subtitle="plays held notes one after another" />
      <div className="flex flex-wrap gap-1">
        <Toggle
          text="on"
          name="Arpeggio on"
          on={arpeggio.on}
          disabled={!editable}
          onChange={(on) =>
            store.edit(on ? "Switch the arpeggio on" : "Switch the arpeggio off", editArpeggio(part.id, { on }))
          }
        />
        <Toggle
          text="latch"
          title="Holds a chord until the next one is played"
          on={arpeggio.latch}
          disabled={!editable}
          onChange={(latch) => set({ latch }, latch ? "Switch the latch on" : "Switch the latch off")}
        />
        <button
          type="button"
          className="chip px-1.5 py-0"
          disabled={!editable || !arpeggio.on || tooMany}
          title={
            tooMany
              ? `It plays more than the ${MAX_NOTES} notes that a part holds`
              : arpeggio.on
                ? "Writes what it plays as notes, and switches it off"
                : "It is off: the notes play as written"
          }
          onClick={() => store.edit("Freeze the arpeggio to notes", freezeArpeggio(part.id, newId))}
        >
          to notes
        </button>
      </div>
      <section>
        <h3 className="heading mb-1">Order</h3>
        <SelectRow
          label="Order"
          value={arpeggio.order}
          options={ARP_ORDERS.map((o) => ({ value: o, text: ORDER_TEXT[o] }))}
          onChange={(order) => set({ order }, "Set order")}
        />
        {TURNING.includes(arpeggio.order) && (
          <Choices
            label="At the ends"
            value={arpeggio.repeatEnds ? "twice" : "once"}
            options={[
              { value: "once", text: "once" },
              { value: "twice", text: "twice" },
            ]}
            onChange={(v) => set({ repeatEnds: v === "twice" }, "Set turning notes")}
          />
        )}
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
        <SelectRow
          label="Starts again"
          value={arpeggio.restart}
          options={ARP_RESTARTS.map((r) => ({ value: r, text: RESTART_TEXT[r] }))}
          onChange={(restart) => set({ restart }, "Set restart")}
        />
        {repeatBars > song.loopBars && (
          <div className="flex items-center justify-between gap-2 py-[2px]">
            <span className="text-[11px] text-ink2">
              {repeatBars === MAX_BARS ? "Goes on changing" : `Comes round after ${repeatBars} bars`}
            </span>
            <button
              type="button"
              className="chip px-1.5 py-0"
              disabled={!editable}
              title={`Makes the loop ${repeatBars} bars long, with the notes of every part repeated, so that all of it is drawn and heard`}
              onClick={() => store.edit(`Loop ${repeatBars} bars`, lengthenLoop(repeatBars, newId))}
            >
              loop {repeatBars} bars
            </button>
          </div>
        )}
        {arpeggio.lanes.transpose?.on && (
          <Choices
            label="Transposes in"
            value={arpeggio.transposeIn}
            options={[
              { value: "semitones", text: "semitones" },
              { value: "degrees", text: "the key" },
            ]}
            onChange={(transposeIn) => set({ transposeIn }, "Set transposing")}
          />
        )}
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
          disabled={arpeggio.lanes.gate?.on === true}
          {...(arpeggio.lanes.gate?.on && { text: () => "from its lane" })}
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
      <LaneInspector />
    </>
  );
}
