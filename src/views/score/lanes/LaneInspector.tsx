import { useState } from "react";
import { LANES, LANE_DIRECTIONS, LANE_IDS, MAX_LANE_STEPS, newLane, type LaneId, type LaneKind, type StepLane } from "@/core/patch/lanes"; // prettier-ignore
import { row, wholeRow, type Parameter } from "@/core/patch/row";
import { partSeed } from "@/core/pattern/events";
import { accentEvery, copyOf, fillEvenly, hitsOf, mirror, ramp, randomFill, setRanges, setSteps, shift, withLength } from "@/core/pattern/fill"; // prettier-ignore
import { editLane } from "@/state/edits";
import { Select, SelectRow } from "@/ui/Select";
import { Toggle } from "@/ui/Toggle";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { NumberRow } from "../inspector/rows";
import { LaneTakes } from "./LaneTakes";
import { DIRECTION_TEXT, laneValueText } from "./laneText";

const STEPS = wholeRow({ label: "Steps", unit: "", min: 1, max: MAX_LANE_STEPS, default: 16, hint: "Its own length: 12 against 16 come together after 48." }); // prettier-ignore
const TAKE = wholeRow({ label: "Take", unit: "", min: 0, max: 0xffff, default: 0, hint: "Which draw of chance is played: step on for another, back for the one before." }); // prettier-ignore
const ROTATION = wholeRow({ label: "Turned by", unit: "", min: 0, max: MAX_LANE_STEPS - 1, default: 0 });

const FRESH_BARS = [0, 1, 2, 4, 8, 16];
const freshText = (bars: number): string =>
  bars === 0 ? "at each step" : bars === 1 ? "each bar" : `every ${bars} bars`;

/** The lane that is drawn: its length, how it is walked, what chance does, and tools that fill it. */
export function LaneInspector() {
  const { store } = useStudio().workspace;
  const part = usePart();
  const seed = useProject((s) => s.project.seed);
  const editable = useEditable();
  const id = useView((v) => v.lane);
  const chosen = useView((v) => v.laneSteps);
  const [rotation, setRotation] = useState(0);
  const kind: LaneKind = LANES[id];
  const name = kind.row.label.toLowerCase();
  const known = part.arpeggio.lanes[id];
  const lane = known ?? newLane(id, STEPS.default);
  const edit = (label: string, change: (lane: StepLane) => StepLane, gesture?: string): void =>
    void store.edit(`${label} of the ${name} lane`, editLane(part.id, id, (l) => change(l ?? newLane(id, STEPS.default))), gesture); // prettier-ignore
  const fill = (label: string, change: (lane: StepLane) => StepLane) => (): void =>
    edit(label, (l) => ({ ...change(l), on: true }));
  const hits = hitsOf(lane, id);
  const spread = (count: number, by: number, gesture?: string): void => {
    setRotation(by);
    edit("Spread hits", (l) => ({ ...fillEvenly(l, id, count, by), on: true }), gesture);
  };
  const steps = chosen.size > 0 ? chosen : new Set(lane.values.keys());
  const [first] = [...steps].sort((a, b) => a - b);
  const rangeRow: Parameter = row({
    label: "Chance ±",
    unit: kind.row.unit,
    min: 0,
    max: kind.row.max - kind.row.min,
    default: 0,
    whole: kind.row.whole,
    step: kind.row.step,
    fine: kind.row.fine,
    hint: "How far chance may take the value of a step, either way.",
  });
  const moved = lane.ranges.some((r) => r > 0) || lane.direction === "random";
  const others = LANE_IDS.filter((other) => other !== id && part.arpeggio.lanes[other]);
  return (
    <section>
      <h3 className="heading mb-1 flex items-center justify-between">
        {kind.row.label} lane
        <Toggle
          text="on"
          name={`${kind.row.label} lane on`}
          on={known?.on ?? false}
          disabled={!editable}
          onChange={(on) => edit(on ? "Switch on" : "Switch off", (l) => ({ ...l, on }))}
        />
      </h3>
      <NumberRow
        row={STEPS}
        kind="rhythm"
        value={lane.values.length}
        onChange={(v, _l, g) => edit("Set length", (l) => withLength(l, v), g)}
      />
      <SelectRow
        label="Walked"
        name="Direction of the lane"
        value={lane.direction}
        options={LANE_DIRECTIONS.map((d) => ({ value: d, text: DIRECTION_TEXT[d] }))}
        onChange={(direction) => edit("Set direction", (l) => ({ ...l, direction }))}
      />
      <NumberRow
        row={{ ...kind.row, label: chosen.size === 0 ? "All steps" : chosen.size === 1 ? `Step ${first! + 1}` : `${chosen.size} steps` }} // prettier-ignore
        kind="rhythm"
        value={lane.values[first ?? 0] ?? kind.row.default}
        text={(v) => laneValueText(id, v)}
        onChange={(v, _l, g) => edit("Set values", (l) => setSteps(l, id, steps, v), g)}
      />
      <NumberRow
        row={rangeRow}
        kind="rhythm"
        value={lane.ranges[first ?? 0] ?? 0}
        onChange={(v, _l, g) => edit("Set ranges", (l) => setRanges(l, id, steps, v), g)}
      />
      {moved && (
        <>
          <SelectRow
            label="Drawn anew"
            value={String(lane.freshBars)}
            options={[...new Set([...FRESH_BARS, lane.freshBars])].map((b) => ({ value: String(b), text: freshText(b) }))} // prettier-ignore
            onChange={(v) => edit("Set how often it is drawn", (l) => ({ ...l, freshBars: Number(v) }))}
          />
          <NumberRow
            row={TAKE}
            kind="rhythm"
            value={lane.take}
            onChange={(take, _l, g) => edit("Choose a take", (l) => ({ ...l, take }), g)}
          />
        </>
      )}
      {(moved || lane.kept.length > 0) && (
        <LaneTakes id={id} lane={lane} edit={(label, change) => edit(label, change)} />
      )}
      <h4 className="mt-2 text-[11px] font-semibold text-ink2">Fill</h4>
      <NumberRow
        row={wholeRow({ label: "Even hits", unit: "", min: 0, max: lane.values.length, default: 4, hint: "Spreads so many hits over the steps as evenly as can be." })} // prettier-ignore
        kind="rhythm"
        value={hits}
        onChange={(count, _l, g) => spread(count, rotation, g)}
      />
      <NumberRow row={ROTATION} kind="rhythm" value={rotation} onChange={(by, _l, g) => spread(hits, by, g)} />
      <div className="mt-1 flex flex-wrap gap-1">
        {(
          [
            ["Accent each 4th", "Accent", (l) => accentEvery(l, id, 4)],
            ["Ramp up", "Ramp", (l) => ramp(l, id, kind.row.min, kind.row.max)],
            ["Ramp down", "Ramp", (l) => ramp(l, id, kind.row.max, kind.row.min)],
            ["Backward", "Turn the steps", mirror],
            ["◂ Earlier", "Move the steps", (l) => shift(l, -1)],
            ["Later ▸", "Move the steps", (l) => shift(l, 1)],
            ["Random", "Draw values", (l) => randomFill(l, id, drawSeed(seed, part.id, l))],
          ] as const satisfies readonly (readonly [string, string, (l: StepLane) => StepLane])[]
        ).map(([text, label, change]) => (
          <button key={text} type="button" className="chip" disabled={!editable} onClick={fill(label, change)}>
            {text}
          </button>
        ))}
        {others.length > 0 && (
          <Select
            label="Copy from another lane"
            className="chip"
            value=""
            options={[
              { value: "", text: "Copy from…" },
              ...others.map((o) => ({ value: o, text: LANES[o].row.label })),
            ]}
            onChange={(other: LaneId | "") => {
              const from = other && part.arpeggio.lanes[other];
              if (from) fill("Copy values", (l) => copyOf(l, id, from, other))();
            }}
          />
        )}
      </div>
    </section>
  );
}

/** Another seed for other values: each press of "Random" draws from what is there. */
const drawSeed = (seed: number, partId: string, lane: StepLane): number =>
  partSeed(seed, { id: `${partId} ${lane.values.join()}` });
