import { menuOf, runKeyed } from "@/ui/menu";
import { Toggle } from "@/ui/Toggle";
import { withActions } from "@/views/studio/actions";
import { useEditable, useProject, useStudio } from "@/views/studio/studio";

/** The backing below the parts, or the way to one. */
export function BackingEntry({ current, onOpen }: { current: boolean; onOpen: () => void }) {
  const studio = useStudio();
  const editable = useEditable();
  const backing = useProject((s) => s.project.backing);
  if (!backing)
    return (
      <button
        type="button"
        className="mx-2 mb-1.5 cursor-pointer px-2 py-1 text-left text-[11px] text-ink2 hover:text-ink disabled:cursor-default disabled:opacity-50"
        disabled={!editable}
        title="Drums that stand in for the song: heard with it, and followed"
        onClick={() => {
          void withActions((a) => a.startBacking(studio) && onOpen());
        }}
      >
        + Add a backing
      </button>
    );
  const actions = () => withActions((a) => a.backingActions(studio, editable));
  return (
    <div className={`mx-2 mb-1.5 border bg-sheet ${current ? "border-l-4 border-ink" : "border-line"}`}>
      <button
        type="button"
        aria-pressed={current}
        onContextMenu={menuOf(backing.name, actions)}
        onKeyDown={(e) => runKeyed(actions(), e)}
        className="w-full cursor-pointer px-2 py-1.5 text-left"
        onClick={onOpen}
      >
        <span className="block truncate font-semibold">{backing.name}</span>
        <span className="block truncate text-[11px] text-ink2">stands in for the song</span>
      </button>
      <div className="flex gap-1 px-2 pb-1.5">
        <Toggle text="mute" name="Mute the backing" on={!backing.on} disabled={!editable} onChange={(mute) => void withActions((a) => a.muteBacking(studio, mute))} />
      </div>
    </div>
  ); // prettier-ignore
}
