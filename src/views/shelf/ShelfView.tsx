"use client";
import { useCallback, useEffect, useState } from "react";
import { useRouter } from "next/navigation";
import type { ProjectSummary } from "@/state/database";
import { FileButton } from "@/ui/FileButton";
import { NameField } from "@/ui/NameField";
import { showToast } from "@/ui/toasts";
import { useProject, useStudio } from "@/views/studio/studio";

const when = new Intl.DateTimeFormat([], { dateStyle: "medium", timeStyle: "short" });
/** Larger files are no projects. */
const LARGEST_FILE = 8_000_000;

/** The projects of this browser. */
export function ShelfView() {
  const { workspace, tell } = useStudio();
  const router = useRouter();
  const openId = useProject((s) => s.project.id);
  const openName = useProject((s) => s.project.name);
  const save = useProject((s) => s.save.kind);
  const [list, setList] = useState<readonly ProjectSummary[] | null>(null);

  const refresh = useCallback(async () => setList(await workspace.list()), [workspace]);
  useEffect(() => {
    // The list follows every save of the open project.
    if (save === "saved" || save === "failed") void workspace.list().then(setList);
  }, [workspace, save, openId, openName]);

  const goTo = async (opened: Promise<unknown>): Promise<void> => {
    if ((await opened) !== false) router.push("/");
    else await refresh();
  };
  const importFile = async (chosen: File): Promise<void> => {
    const reason =
      chosen.size > LARGEST_FILE ? "file: larger than 8 MB" : await workspace.importFile(await chosen.text());
    if (reason === null) router.push("/");
    else tell({ kind: "error", text: `"${chosen.name}" was not opened. ${reason}. What was open is as it was.` });
  };
  const remove = async (p: ProjectSummary): Promise<void> => {
    const putBack = await workspace.remove(p.id);
    await refresh();
    if (!putBack) return;
    showToast({
      kind: "info",
      text: `"${p.name}" was deleted`,
      action: { label: "Undo", run: () => void putBack().then(refresh) },
    });
  };

  return (
    <div className="h-full overflow-y-auto bg-sheet px-6 py-5">
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-4 text-[20px] font-bold">Projects</h1>
        <button type="button" className="chip" data-on="true" onClick={() => void goTo(workspace.create("Untitled"))}>
          New project
        </button>
        <FileButton
          text="Open a project file…"
          label="Project file"
          accept=".json,application/json"
          onFile={(f) => void importFile(f)}
        />
        <button type="button" className="chip" onClick={() => void goTo(workspace.openDemo())}>
          Open the demo
        </button>
      </div>
      {list === null && <p className="mt-6 text-ink2">Reading the shelf</p>}
      {list?.length === 0 && (
        <p className="mt-6 text-ink2">No projects are kept in this browser. Make a new one, or open a project file.</p>
      )}
      {list && list.length > 0 && (
        <table className="mt-5 w-full max-w-[900px] table-fixed border-collapse text-left">
          <thead>
            <tr className="border-b border-ink text-[11px] text-ink2">
              <th className="w-[46%] py-1 font-semibold">Name</th>
              <th className="w-[22%] py-1 font-semibold">Saved</th>
              <th className="py-1">
                <span className="sr-only">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {list.map((p) => (
              <tr key={p.id} className="border-b border-line">
                <td className="py-1.5 pr-4">
                  <NameField name={p.name} onRename={(name) => void workspace.rename(p.id, name).then(refresh)} />
                </td>
                <td className="py-1.5 text-ink2">
                  <time dateTime={new Date(p.savedAt).toISOString()}>{when.format(p.savedAt)}</time>
                </td>
                <td className="py-1.5">
                  <div className="flex justify-end gap-1">
                    {p.id === openId ? (
                      <span className="px-2 py-[3px] font-semibold">open</span>
                    ) : (
                      <RowButton name={p.name} text="Open" onClick={() => void goTo(workspace.open(p.id))} />
                    )}
                    <RowButton name={p.name} text="Duplicate" onClick={() => void goTo(workspace.duplicate(p.id))} />
                    <RowButton name={p.name} text="Delete" onClick={() => void remove(p)} />
                  </div>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function RowButton({ name, text, onClick }: { name: string; text: string; onClick: () => void }) {
  return (
    <button type="button" className="chip" aria-label={`${text} ${name}`} onClick={onClick}>
      {text}
    </button>
  );
}
