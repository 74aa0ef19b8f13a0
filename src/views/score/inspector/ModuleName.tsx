import { useCallback } from "react";
import type { Modulator } from "@/core/patch/kinds";
import type { Automation } from "@/core/patch/kinds/automation";
import { renameModule } from "@/state/edits";
import { NameField } from "@/ui/NameField";
import { Toggle } from "@/ui/Toggle";
import { useEditable, usePart, useStudio, useView } from "@/views/studio/studio";

/** The name of what moves values, to be typed anew, and whether its peaks click. */
export function ModuleName({ module }: { module: Modulator | Automation }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const asked = useView((v) => v.renaming === module.id);
  const { view } = useStudio();
  const onAsked = useCallback(() => view.setState({ renaming: null }), [view]);
  const clicking = useView((v) => v.clicking === module.id);
  return (
    <div className="flex items-center gap-1">
      <div className="min-w-0 flex-1">
        <NameField
          name={module.name}
          disabled={!editable}
          asked={asked && editable}
          onAsked={onAsked}
          onRename={(name) => store.edit(`Rename of ${module.name}`, renameModule(part.id, module.id, name))}
        />
      </div>
      {module.kind !== "automation" && (
        <Toggle
          text="clicks"
          name={`Peaks of ${module.name} as clicks`}
          on={clicking}
          title="Lets its peaks click softly while the song plays, to feel its rhythm: not part of the project"
          onChange={(on) => view.setState({ clicking: on ? module.id : null })}
        />
      )}
    </div>
  );
}
