import { destinationsOf, possibleDestinations, withCable } from "@/core/patch/edit";
import type { Module } from "@/core/patch/kinds";
import { editPatch, renameModule } from "@/state/edits";
import { NameField } from "@/ui/NameField";
import { Toggle } from "@/ui/Toggle";
import { useEditable, usePart, useStudio } from "@/views/studio/studio";
import { soundActions } from "../soundActions";

/** The name of a source or a filter, whether it is on, where its sound goes, and the way to be rid of it. */
export function SoundHead({ module, subtitle }: { module: Module; subtitle: string }) {
  const studio = useStudio();
  const { store } = studio.workspace;
  const part = usePart();
  const editable = useEditable();
  const goesTo = destinationsOf(part.patch, module.id);
  const possible = possibleDestinations(part.patch, module.id);
  const actions = soundActions(studio, part, module, editable);
  const onOff = actions.at(0);
  const remove = actions.at(-1);
  const name = (id: string): string => part.patch.modules.find((m) => m.id === id)?.name ?? id;
  return (
    <div>
      <NameField
        name={module.name}
        disabled={!editable}
        onRename={(to) => store.edit(`Rename ${module.name}`, renameModule(part.id, module.id, to))}
      />
      <div className="flex items-center justify-between gap-2">
        <p className="min-w-0 truncate text-[12px] text-ink2">{subtitle}</p>
        <span className="flex gap-1">
          <Toggle text="on" name={`${module.name} on`} on={module.on} disabled={!editable} onChange={() => onOff!.run()} />
          <button type="button" className="chip px-1.5 py-0" disabled={!editable} title={`Removes ${module.name}`} onClick={() => remove!.run()}>
            remove
          </button>
        </span>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1" role="group" aria-label={`Where ${module.name} goes`}>
        <span className="mr-1 text-[12px]">Goes to</span>
        {possible.map((m) => {
          const on = goesTo.includes(m.id);
          return (
            <Toggle
              key={m.id}
              text={m.name}
              name={`${module.name} goes to ${m.name}`}
              on={on}
              disabled={!editable || (on && goesTo.length === 1)}
              {...(on && goesTo.length === 1 ? { title: "Sound that goes nowhere is not heard: choose another one first" } : {})}
              onChange={(now) =>
                store.edit(`${now ? "Send" : "Don't send"} ${module.name} to ${name(m.id)}`, editPatch(part.id, (p) => withCable(p, module.id, m.id, now)))
              }
            />
          );
        })}
      </div>
    </div>
  ); // prettier-ignore
}
