import { mixOf } from "@/core/patch/edit";
import { MIX } from "@/core/patch/kinds/mix";
import { PART_ROWS } from "@/core/patch/rows";
import type { Follow } from "@/core/patch/project";
import { NOTE_VALUES, noteValueName } from "@/core/time/noteValue";
import { editMix, followPart, ownPattern } from "@/state/partEdits";
import { SelectRow } from "@/ui/Select";
import { Toggle } from "@/ui/Toggle";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";
import { MovedValues } from "./Routes";
import { ModuleRow, NumberRow } from "./rows";

export const panText = (v: number): string => (v === 0 ? "middle" : `${Math.abs(v)} % ${v < 0 ? "left" : "right"}`);

/** How loud a part is among the others, and where, and what moves that. */
export function MixSection() {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const { mix } = part;
  const mixer = mixOf(part.patch);
  return (
    <section>
      <h3 className="heading mb-1 flex items-center justify-between">
        Among the parts
        <span className="flex gap-1">
          <Toggle text="mute" name={`Mute ${part.name}`} on={mix.mute} disabled={!editable} onChange={(mute) => store.edit(mute ? `Mute ${part.name}` : `Let ${part.name} be heard`, editMix(part.id, { mute }))} />
          <Toggle text="solo" name={`Solo ${part.name}`} title="Only parts that are soloed are heard" on={mix.solo} disabled={!editable} onChange={(solo) => store.edit(solo ? `Solo ${part.name}` : `End the solo of ${part.name}`, editMix(part.id, { solo }))} />
        </span>
      </h3>
      {mixer && (
        <>
          <ModuleRow module={mixer} row={MIX.rows.level} />
          <ModuleRow module={mixer} row={MIX.rows.pan} text={panText} />
          <MovedValues module={mixer} />
        </>
      )}
    </section>
  );
} // prettier-ignore

/** Which pattern a part plays: its own, or that of another one, transposed and later. */
export function FollowSection() {
  const { store } = useStudio().workspace;
  const part = usePart();
  const parts = useProject((s) => s.project.parts);
  const editable = useEditable();
  const { follows } = part;
  const others = parts.filter((p) => p.id !== part.id && !p.follows);
  const set = (label: string, next: Follow | null, gesture?: string): void =>
    void store.edit(label, followPart(part.id, next), gesture);
  if (parts.length === 1) return null;
  return (
    <section>
      <h3 className="heading mb-1">Pattern</h3>
      <SelectRow
        label="Plays"
        name="Pattern that is played"
        value={follows?.part ?? ""}
        options={[{ value: "", text: "its own" }, ...others.map((p) => ({ value: p.id, text: `that of ${p.name}` }))]}
        onChange={(id) =>
          id
            ? set(`Follow ${parts.find((p) => p.id === id)?.name ?? ""}`, { semitones: 0, later: null, linked: false, ...follows, part: id })
            : set("Play its own pattern", null)
        }
      />
      {follows && (
        <>
          <NumberRow row={PART_ROWS.semitones} kind="notes" value={follows.semitones} onChange={(semitones, l, g) => set(l, { ...follows, semitones }, g)} />
          <SelectRow
            label="Later by"
            name="How much later it starts"
            value={follows.later ? noteValueName(follows.later) : ""}
            options={[{ value: "", text: "nothing" }, ...NOTE_VALUES.map((v) => ({ value: noteValueName(v), text: noteValueName(v) }))]}
            onChange={(name) => set("Set start", { ...follows, later: NOTE_VALUES.find((v) => noteValueName(v) === name) ?? null })}
          />
          <div className="py-[3px]">
            <Toggle
              text="linked: its envelope and way of playing, too"
              name="Linked"
              on={follows.linked}
              disabled={!editable}
              title="The level's envelope, glides and bends are those of that part, as long as this is on"
              onChange={(linked) => set(linked ? "Link to the part that is followed" : "Unlink", { ...follows, linked })}
            />
          </div>
          <button type="button" className="chip mt-1" disabled={!editable} title="Copies the pattern here, so that it can be changed" onClick={() => store.edit("Make the pattern its own", ownPattern(part.id))}>
            Make it its own
          </button>
        </>
      )}
    </section>
  );
} // prettier-ignore
