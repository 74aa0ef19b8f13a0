import { useState } from "react";
import { MAX_KEPT, type LaneId, type StepLane } from "@/core/patch/lanes";
import { partSeed, stepsOfPart } from "@/core/pattern/events";
import { drawnInBar, dropTake, keepTake, writeTake } from "@/core/pattern/lane";
import { NameField } from "@/ui/NameField";
import { Select } from "@/ui/Select";
import { Toggle } from "@/ui/Toggle";
import { useEditable, usePart, useProject } from "@/views/studio/studio";

/** What chance drew in a bar, kept by name: played instead of new draws, stepped back to, or written into the lane. */
export function LaneTakes({
  id,
  lane,
  edit,
}: {
  id: LaneId;
  lane: StepLane;
  edit: (label: string, change: (lane: StepLane) => StepLane) => void;
}) {
  const part = usePart();
  const editable = useEditable();
  const seed = useProject((s) => s.project.seed);
  const song = useProject((s) => s.project.song);
  const [bar, setBar] = useState(0);
  const full = lane.kept.length >= MAX_KEPT;
  const at = Math.min(bar, song.loopBars - 1);
  const keep = (): void =>
    edit("Keep a take", (l) => keepTake(l, `Bar ${at + 1}${l.take > 0 ? `, take ${l.take}` : ""}`, drawnInBar(l, id, partSeed(seed, part), stepsOfPart(part, song), at)));
  return (
    <>
      <h4 className="mt-2 text-[11px] font-semibold text-ink2">Kept takes</h4>
      <div className="flex items-center gap-1 py-[2px]">
        <button
          type="button"
          className="chip"
          disabled={!editable || full}
          title={full ? `A lane keeps ${MAX_KEPT} takes` : "Keeps what chance drew in a bar, and plays it in every bar"}
          onClick={keep}
        >
          Keep
        </button>
        <Select
          label="Bar to keep"
          value={String(at)}
          options={Array.from({ length: song.loopBars }, (_, b) => ({ value: String(b), text: `bar ${b + 1}` }))}
          onChange={(b) => setBar(Number(b))}
        />
      </div>
      <ul>
        {lane.kept.map((take, i) => (
          <li key={i} className="flex items-center gap-1 py-px">
            <Toggle
              text="locked"
              name={`Locked to ${take.name}`}
              title="Plays this take instead of new draws"
              on={lane.locked === i}
              disabled={!editable}
              onChange={(on) => edit(on ? `Lock to ${take.name}` : "Draw anew", (l) => ({ ...l, locked: on ? i : null }))}
            />
            <span className="min-w-0 flex-1">
              <NameField
                small
                name={take.name}
                disabled={!editable}
                onRename={(name) => edit("Rename a take", (l) => ({ ...l, kept: l.kept.map((k, n) => (n === i ? { ...k, name } : k)) }))}
              />
            </span>
            <button type="button" className="chip px-1.5" title="Writes it into the lane as plain values" disabled={!editable} onClick={() => edit(`Write ${take.name}`, (l) => writeTake(l, i))}>
              write
            </button>
            <button type="button" className="chip px-1.5" aria-label={`Leave out ${take.name}`} disabled={!editable} onClick={() => edit(`Leave out ${take.name}`, (l) => dropTake(l, i))}>
              ×
            </button>
          </li>
        ))}
      </ul>
    </>
  );
} // prettier-ignore
