import type { ReactNode } from "react";
import type { Module } from "@/core/patch/kinds";
import { kindOf } from "@/core/patch/kinds";
import { renameModule } from "@/state/edits";
import { NameField } from "@/ui/NameField";
import { Toggle } from "@/ui/Toggle";
import { MenuButton, menuOf, runKeyed } from "@/ui/menu";
import { useEditable, usePart, useStudio, useView } from "@/views/studio/studio";
import { soundActions } from "../score/soundActions";

/** A module's place in the view: its name, whether it is on, and what can be done with it, over its values. */
export function SoundColumn({ module, told, children }: { module: Module; told: string; children: ReactNode }) {
  const studio = useStudio();
  const { store } = studio.workspace;
  const part = usePart();
  const editable = useEditable();
  const solo = useView((v) => v.soloSource === module.id);
  const kept = useView((v) => v.kept[module.id]);
  const comparing = useView((v) => v.comparing === module.id);
  // What was copied counts when the menu opens.
  const actions = () => soundActions(studio, part, module, editable);
  const [onOff] = actions();
  const source = kindOf(module).role === "source";
  return (
    <section
      aria-label={module.name}
      data-module={module.id}
      className={`@container flex min-h-0 min-w-0 flex-col border-r border-line ${module.on ? "" : "bg-paper"}`}
      onContextMenu={menuOf(module.name, actions)}
      onKeyDown={(e) => {
        // Keys on a value or a list are theirs.
        if (e.target instanceof Element && e.target.closest("[role=slider], select, input, summary, [role=application]")) return;
        runKeyed(actions(), e);
      }}
    >
      <header className="flex items-center gap-1 px-2.5 pt-1.5 @max-[200px]:flex-wrap">
        <div className="min-w-0 flex-1 @max-[200px]:basis-full">
          <NameField
            name={module.name}
            disabled={!editable}
            onRename={(to) => store.edit(`Rename ${module.name}`, renameModule(part.id, module.id, to))}
          />
        </div>
        <Toggle text="on" name={`${module.name} on`} on={module.on} disabled={!editable} onChange={() => onOff!.run()} />
        {source && (
          <Toggle
            text="alone"
            name={`Hear ${module.name} alone`}
            on={solo}
            title="Hears this source alone, while it is on: not part of the project"
            onChange={(on) => studio.view.setState({ soloSource: on ? module.id : null })}
          />
        )}
        <MenuButton label={`What can be done with ${module.name}`} text="…" entries={actions} />
      </header>
      <p className="flex items-center justify-between gap-1 px-2.5 text-[11px] text-ink2">
        <span className="truncate">{told}</span>
        <span className="flex gap-1">
          <button
            type="button"
            className="cursor-pointer underline disabled:cursor-default disabled:no-underline"
            title="Keeps how it is now, to be compared with"
            onClick={() => studio.view.setState((v) => ({ kept: { ...v.kept, [module.id]: module } }))}
          >
            keep
          </button>
          {kept && kept !== module && (
            <button
              type="button"
              aria-pressed={comparing}
              className={`cursor-pointer px-1 ${comparing ? "bg-heard text-sheet" : "underline"}`}
              title="Hold, by mouse or Enter, to hear it as it was kept"
              onPointerDown={() => studio.view.setState({ comparing: module.id })}
              onPointerUp={() => studio.view.setState({ comparing: null })}
              onPointerLeave={() => studio.view.setState({ comparing: null })}
              onKeyDown={(e) => {
                if (e.key !== "Enter") return;
                e.preventDefault();
                e.stopPropagation();
                if (!e.repeat) studio.view.setState({ comparing: module.id });
              }}
              onKeyUp={() => studio.view.setState({ comparing: null })}
              onBlur={() => studio.view.setState({ comparing: null })}
            >
              as kept
            </button>
          )}
        </span>
      </p>
      <fieldset disabled={!editable} className="min-h-0 min-w-0 flex-1 scroll-pt-18 overflow-y-auto px-2.5 pb-2 [--row-label:76px] [--row-number:66px] @max-[200px]:[--row-label:62px] @max-[200px]:[--row-number:36px]">
        {children}
      </fieldset>
    </section>
  );
} // prettier-ignore
