import { editPart } from "@/state/edits";
import { NameField } from "@/ui/NameField";
import { useEditable, usePart, usePattern, useStudio, useView } from "@/views/studio/studio";
import { NOTES_STRIP, type StripId } from "@/views/studio/viewStore";
import { FollowSection, MixSection } from "./MixSection";
import { PlayingSection } from "./PlayingSection";
import { arpText, modulatorText, modulatorsOf, soundPath } from "../stripList";

/** A part as a whole: its name, and the way to everything that it is made of. */
export function PartInspector() {
  const { workspace, view } = useStudio();
  const part = usePart();
  const { notes, arpeggio } = usePattern();
  const editable = useEditable();
  const renaming = useView((v) => v.renaming === part.id);
  return (
    <>
      <div>
        <NameField
          name={part.name}
          disabled={!editable}
          asked={renaming}
          onAsked={() => view.setState({ renaming: null })}
          onRename={(name) =>
            workspace.store.edit(
              "Rename part",
              editPart(part.id, (p) => ({ ...p, name })),
            )
          }
        />
        <p className="text-[12px] text-ink2">part, {notes.length === 1 ? "1 note" : `${notes.length} notes`}</p>
      </div>
      <section>
        <h3 className="heading mb-1.5">Sound</h3>
        {soundPath(part.patch).map(({ module, address, text }) => (
          <Way key={module.id} name={module.name} text={text} to={{ kind: "heard", address }} />
        ))}
      </section>
      <MixSection />
      <FollowSection />
      <PlayingSection />
      <section>
        <h3 className="heading mb-1.5">Rhythm and motion</h3>
        <Way name="Notes" text={`${notes.length}`} to={NOTES_STRIP} />
        <Way name="Arpeggio" text={arpText(arpeggio)} to={{ kind: "arpeggio" }} />
        {modulatorsOf(part.patch).map((m) => (
          <Way key={m.id} name={m.name} text={modulatorText(part.patch, m)} to={{ kind: "module", id: m.id }} />
        ))}
      </section>
    </>
  );
}

function Way({ name, text, to }: { name: string; text: string; to: StripId }) {
  const { view } = useStudio();
  return (
    <button
      type="button"
      className="flex w-full cursor-pointer items-baseline justify-between gap-2 py-[3px] text-left hover:underline"
      onClick={() => view.setState({ strip: to })}
    >
      <span className="truncate font-semibold">{name}</span>
      <span className="truncate text-[11px] text-ink2">{text}</span>
    </button>
  );
}
