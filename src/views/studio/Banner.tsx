import { useProject, useStudio } from "./studio";

/** Why this tab may not edit, and how it may. */
export function Banner() {
  const { workspace } = useStudio();
  const readOnly = useProject((s) => s.readOnly);
  if (!readOnly) return <div />;
  const why =
    readOnly === "other-tab"
      ? "This project is open in another tab, so here it can only be heard."
      : "Another tab has taken this project over, so here it can only be heard.";
  return (
    <div className="flex items-center gap-3 border-b border-warn bg-paper px-4 py-2" role="status">
      <span className="h-2 w-2 shrink-0 bg-warn" aria-hidden />
      <span>{why}</span>
      <button type="button" className="chip" onClick={() => void workspace.takeOver()}>
        Edit it here
      </button>
    </div>
  );
}
