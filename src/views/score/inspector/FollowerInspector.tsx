import { FOLLOWER, type Follower } from "@/core/patch/kinds/follower";
import { formatAmount } from "@/core/patch/valueText";
import { drumNamed } from "@/core/pattern/backing";
import { editModule } from "@/state/edits";
import { usePart, useProject, useStudio } from "@/views/studio/studio";
import { ModuleName } from "./ModuleName";
import { NotesOf } from "./Restarts";
import { MovedValues, MovesOf } from "./Routes";
import { ModuleRow, ModuleSelect, ModuleTime } from "./rows";

const { rows, times, choices } = FOLLOWER;

/** What a follower hears, and how fast it goes along. */
export function FollowerInspector({ module: m }: { module: Follower }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  // A drum has one key.
  const drum = useProject((s) => drumNamed(s.project.backing, m.data.notesOf));
  return (
    <>
      <div>
        <ModuleName module={m} />
        <p className="text-[12px] text-ink2">as loud as the {drum ? "strokes" : "notes"} that it hears</p>
      </div>
      <section>
        <h3 className="heading mb-1">Hears</h3>
        <NotesOf
          name={`Whose notes ${m.name} hears`}
          value={m.data.notesOf}
          onChange={(notesOf) =>
            store.edit(
              `Set what ${m.name} hears`,
              editModule(part.id, FOLLOWER, m.id, (old) => ({ ...old, data: { notesOf } })),
            )
          }
        />
        {!drum && (
          <>
            <ModuleRow module={m} row={rows.lowest} />
            <ModuleRow module={m} row={rows.highest} />
          </>
        )}
        <ModuleRow
          module={m}
          row={rows.held}
          text={(v) => (v >= rows.held.max ? "all of a note" : formatAmount(v, "ms", v < 20 ? 1 : 0))}
        />
        <ModuleSelect
          module={m}
          choice={choices.level}
          text={(l) => ({ velocity: "by velocity", alike: "all alike", shaped: "by their envelope" })[l]}
        />
      </section>
      <section>
        <h3 className="heading mb-1">Goes along</h3>
        <ModuleTime module={m} time={times.attack} />
        <ModuleTime module={m} time={times.release} />
        <p className="text-[11px] text-ink2">Reversed, on a level, it makes way for what it hears.</p>
      </section>
      <MovesOf source={m.id} />
      <MovedValues module={m} />
    </>
  );
}
