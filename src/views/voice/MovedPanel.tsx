import { targetAt } from "@/core/patch/targets";
import { formatValue } from "@/core/patch/valueText";
import { describeHz, usesFlats } from "@/core/pitch/note";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { FollowSection, MixSection } from "../score/inspector/MixSection";
import { MovedBy } from "../score/inspector/Routes";

/** Everything that moves the value that has, or had last, the focus. */
export function MovedPanel() {
  const { view } = useStudio();
  const part = usePart();
  const editable = useEditable();
  const songModules = useProject((s) => s.project.modules);
  const key = useProject((s) => s.project.song.key);
  const address = useView((v) => v.address);
  const found = address && targetAt(part.patch, songModules, address);
  // The part's own values stay in sight, with what moves them below.
  const target = found && found.role !== "mix" ? found : null;
  return (
    <aside className="min-h-0 overflow-y-auto border-l border-line bg-paper px-3 py-3 [grid-area:side]" aria-label="What moves it">
      {target ? (
        <fieldset disabled={!editable} className="flex min-w-0 flex-col gap-3">
          <button type="button" className="link self-start text-[12px]" onClick={() => view.setState({ address: null })}>
            {part.name}: level and pattern
          </button>
          <div>
            <h2 className="truncate text-[14px] font-bold" title={`${target.of}, ${target.label.toLowerCase()}`}>
              {target.of}, {target.label.toLowerCase()}
            </h2>
            {target.row && target.rest !== null && (
              <p className="text-[12px] text-ink2">
                at rest {formatValue(target.row, target.rest)}
                {target.row.unit === "Hz" && `, ${describeHz(target.rest, usesFlats(key))}`}
              </p>
            )}
          </div>
          <MovedBy target={target.address} />
        </fieldset>
      ) : (
        <fieldset disabled={!editable} className="flex min-w-0 flex-col gap-3">
          <p className="text-ink2">
            Choose a value, by a click or with Tab, to see what moves it and to move it with something.
          </p>
          <MixSection />
          <FollowSection />
        </fieldset>
      )}
    </aside>
  );
} // prettier-ignore
