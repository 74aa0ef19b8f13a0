import { useCallback, useEffect, useState } from "react";
import { useStore } from "zustand";
import type { ProjectSummary } from "@/state/records";
import { keepSafely, storageRoom, type StorageRoom } from "@/state/storageRoom";
import type { Damaged } from "@/state/workspace";
import { FileButton } from "@/ui/FileButton";
import { menuOf } from "@/ui/menu";
import { NameField } from "@/ui/NameField";
import { fileStem, saveFile } from "@/ui/saveFile";
import { showToast } from "@/ui/toasts";
import { goTo } from "@/views/studio/places";
import { useProject, useStudio } from "@/views/studio/studio";

const when = new Intl.DateTimeFormat([], { dateStyle: "medium", timeStyle: "short" });
/** Larger files are no projects. */
const LARGEST_FILE = 8_000_000;

/** The projects of this browser. */
export function ShelfView() {
  const { workspace, tell } = useStudio();
  const openId = useProject((s) => s.project.id);
  const openName = useProject((s) => s.project.name);
  const save = useProject((s) => s.save.kind);
  const [list, setList] = useState<readonly ProjectSummary[] | null>(null);

  const [unread, setUnread] = useState<string | null>(null);
  const damaged = useStore(workspace.damaged, (d) => d.list);

  const refresh = useCallback(
    () =>
      workspace.list().then(
        (found) => {
          setList(found);
          setUnread(null);
        },
        (error: unknown) => setUnread(error instanceof Error ? error.message : String(error)),
      ),
    [workspace],
  );
  useEffect(() => {
    // The list follows every save of the open project.
    if (save === "saved" || save === "failed") void refresh();
  }, [refresh, save, openId, openName]);

  const seeOpened = async (opened: Promise<unknown>): Promise<void> => {
    if ((await opened) !== false) goTo("/");
    else await refresh();
  };
  const importFile = async (chosen: File): Promise<void> => {
    const result =
      chosen.size > LARGEST_FILE
        ? { reason: "file: larger than 8 MB" }
        : await workspace.importFile(await chosen.text());
    if ("opened" in result) return seeOpened(Promise.resolve(result.opened));
    tell({ kind: "error", text: `"${chosen.name}" was not opened. ${result.reason}. What was open is as it was.` });
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
        <button
          type="button"
          className="chip"
          data-on="true"
          onClick={() => void seeOpened(workspace.create("Untitled"))}
        >
          New project
        </button>
        <FileButton
          text="Open a project file…"
          label="Project file"
          accept=".json,application/json"
          onFile={(f) => void importFile(f)}
        />
        <button type="button" className="chip" onClick={() => void seeOpened(workspace.openDemo())}>
          Open the demo
        </button>
      </div>
      {unread !== null && (
        <p className="mt-6" role="alert">
          The shelf could not be read: {unread}.{" "}
          <button type="button" className="chip ml-2" onClick={() => void refresh()}>
            Try again
          </button>
        </p>
      )}
      {list === null && unread === null && <p className="mt-6 text-ink2">Reading the shelf</p>}
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
              <tr
                key={p.id}
                className="border-b border-line align-top"
                onContextMenu={menuOf(p.name, () => [
                  {
                    text: "Open",
                    why: p.id === openId ? "It is open" : null,
                    run: () => void seeOpened(workspace.open(p.id)),
                  },
                  { text: "Duplicate", run: () => void seeOpened(workspace.duplicate(p.id)) },
                  { text: "Delete", run: () => void remove(p) },
                ])}
              >
                <td className="py-1.5 pr-4">
                  <NameField name={p.name} onRename={(name) => void workspace.rename(p.id, name).then(refresh)} />
                  {damaged
                    .filter((d) => d.id === p.id)
                    .map((d) => (
                      <DamagedNote key={d.id} name={p.name} damaged={d} seeOpened={seeOpened} />
                    ))}
                </td>
                <td className="py-1.5 text-ink2">
                  {p.savedAt > 0 ? (
                    <time dateTime={new Date(p.savedAt).toISOString()}>{when.format(p.savedAt)}</time>
                  ) : (
                    "unknown"
                  )}
                </td>
                <td className="py-1.5">
                  <div className="flex justify-end gap-1">
                    {p.id === openId ? (
                      <span className="px-2 py-[3px] font-semibold">open</span>
                    ) : (
                      <RowButton name={p.name} text="Open" onClick={() => void seeOpened(workspace.open(p.id))} />
                    )}
                    <RowButton
                      name={p.name}
                      text="Duplicate"
                      onClick={() => void seeOpened(workspace.duplicate(p.id))}
                    />
                    <RowButton name={p.name} text="Delete" onClick={() => void remove(p)} />
                  </div>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Room list={list} />
    </div>
  );
}

/** What can be done about a project that cannot be read. */
function DamagedNote({
  name,
  damaged,
  seeOpened,
}: {
  name: string;
  damaged: Damaged;
  seeOpened: (opened: Promise<boolean>) => Promise<void>;
}) {
  const { workspace } = useStudio();
  const { id, problem, goodAt } = damaged;
  const save = async (): Promise<void> => {
    saveFile(`${fileStem(name)} as stored.json`, await workspace.recordText(id), "application/json");
  };
  return (
    <div className="mt-1 flex flex-wrap items-center gap-1 border-l-4 border-warn pl-2">
      <p className="w-full break-words text-ink2">It cannot be read: {problem}.</p>
      {goodAt !== null && (
        <button type="button" className="chip" onClick={() => void seeOpened(workspace.openLastGood(id))}>
          Open its state of {when.format(goodAt)}
        </button>
      )}
      <button type="button" className="chip" onClick={() => void save()}>
        Save what is stored as a file
      </button>
    </div>
  );
}

const inMegabytes = (bytes: number): string =>
  bytes < 1_000_000
    ? "less than 1 MB"
    : `${new Intl.NumberFormat([], { maximumFractionDigits: 0 }).format(bytes / 1e6)} MB`;

/** How much of the browser's room is used, and whether the browser may clear it. */
function Room({ list }: { list: readonly ProjectSummary[] | null }) {
  const [room, setRoom] = useState<StorageRoom | null>(null);
  useEffect(() => {
    // It is asked again whenever the list changes.
    if (list) void storageRoom().then(setRoom);
  }, [list]);
  if (!room) return null;
  return (
    <p className="mt-4 text-ink2">
      Of the {inMegabytes(room.quota)} that this browser offers, {inMegabytes(room.used)}{" "}
      {room.used < 2_000_000 ? "is" : "are"} used.{" "}
      {room.safe ? (
        "It keeps them until you delete them."
      ) : (
        <>
          It may clear them when its disk runs full.{" "}
          <button type="button" className="chip ml-1" onClick={() => void keepSafely().then(storageRoom).then(setRoom)}>
            Ask it to keep them
          </button>
        </>
      )}
    </p>
  );
}

function RowButton({ name, text, onClick }: { name: string; text: string; onClick: () => void }) {
  return (
    <button type="button" className="chip" aria-label={`${text} ${name}`} onClick={onClick}>
      {text}
    </button>
  );
}
