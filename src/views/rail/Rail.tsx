import { useShallow } from "zustand/react/shallow";
import { MAX_PARTS } from "@/core/patch/project";
import { newId } from "@/state/ids";
import { addPart } from "@/state/partEdits";
import { PlaceLink, VIEWS, goTo, usePlace } from "@/views/studio/places";
import { useEditable, useProject, useStudio, useView } from "@/views/studio/studio";
import { BACKING_STRIP, PART_STRIP } from "@/views/studio/viewStore";
import { BackingEntry } from "./BackingEntry";
import { FULL } from "./full";
import { PartEntry } from "./PartEntry";
import { useShowPart } from "./useShowPart";

/** Views and parts. Drawn anew when parts come or go: each entry follows its part by itself. */
export function Rail() {
  const { view, workspace } = useStudio();
  const editable = useEditable();
  const hands = useView((v) => v.handsOpen);
  const path = usePlace();
  const ids = useProject(useShallow((s) => s.project.parts.map((p) => p.id)));
  const full = ids.length >= MAX_PARTS;
  const backed = useProject((s) => s.project.backing !== null);
  const atBacking = useView((v) => v.strip.kind === "backing") && path === "/";
  const show = useShowPart();
  const openBacking = (): void => {
    view.setState({ strip: BACKING_STRIP });
    goTo("/");
  };
  return (
    <nav
      className="flex min-h-0 flex-col overflow-y-auto border-r border-line bg-paper pt-2"
      aria-label="Views and parts"
    >
      {VIEWS.map((v) => (
        <PlaceLink
          key={v.href}
          href={v.href}
          aria-current={path === v.href ? "page" : undefined}
          className={`border-l-4 py-[7px] pl-4 text-[13px] font-semibold ${path === v.href ? "border-ink bg-sheet text-ink" : "border-transparent text-ink2 hover:text-ink"}`}
        >
          {v.text}
        </PlaceLink>
      ))}
      <h2 className="px-3 pt-5 pb-1 text-[11px] font-semibold text-ink2">{ids.length === 1 ? "Part" : "Parts"}</h2>
      {ids.map((id) => (
        <PartEntry key={id} id={id} several={ids.length > 1 || backed} />
      ))}
      <button
        type="button"
        className="mx-2 mb-1.5 cursor-pointer px-2 py-1 text-left text-[11px] text-ink2 hover:text-ink disabled:cursor-default disabled:opacity-50"
        disabled={!editable || full}
        title={full ? FULL : undefined}
        onClick={() => {
          const id = newId();
          if (workspace.store.edit("Add a part", addPart(id))) show(id, PART_STRIP);
        }}
      >
        + Add a part
      </button>
      <BackingEntry current={atBacking} onOpen={openBacking} />
      <button
        type="button"
        aria-pressed={hands}
        title="Keys to play and record by hand (K)"
        className={`mt-auto cursor-pointer border-l-4 px-3 py-1.5 text-left text-[12px] font-semibold ${hands ? "border-ink bg-sheet text-ink" : "border-transparent text-ink2 hover:text-ink"}`}
        onClick={() => view.setState({ handsOpen: !hands })}
      >
        Play by hand
      </button>
      <button
        type="button"
        className="cursor-pointer px-4 py-3 text-left text-[11px] text-ink2 hover:text-ink"
        onClick={() => view.setState({ shortcutsOpen: true })}
      >
        Keys and hands (?)
      </button>
    </nav>
  );
}
