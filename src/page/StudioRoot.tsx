import { useEffect, useState, type ReactNode } from "react";
import { useStore } from "zustand";
import { MIDDLE_C_OCTAVES, nameMiddleC } from "@/core/pitch/note";
import { projectFiles } from "@/state/projectFiles";
import { keptMiddleC, keptTheme } from "@/state/remember";
import { ErrorBoundary } from "@/ui/ErrorBoundary";
import { SIGNS, alsoAhead, later, loadAhead, type Later } from "@/ui/later";
import { MenuHost } from "@/ui/menu";
import { Toasts, showToast } from "@/ui/toasts";
import { Banner } from "@/views/studio/Banner";
import { Footer } from "@/views/studio/Footer";
import { keepView } from "@/views/studio/keptView";
import { placeNow, usePlace, type Place } from "@/views/studio/places";
import { Studio, StudioContext, useView } from "@/views/studio/studio";
import { useSaveAsFile } from "@/views/studio/useSaveAsFile";
import { useShortcuts } from "@/views/studio/useShortcuts";
import { Rail } from "@/views/rail/Rail";
import { TopBar } from "@/views/transport/TopBar";

// What was made can be saved when the server has gone.
alsoAhead(projectFiles);

const LeaveDialog = later(() => import("@/views/studio/LeaveDialog").then((m) => m.LeaveDialog));
const HandPanel = later(() => import("@/views/hands/HandPanel").then((m) => m.HandPanel));
const Commands = later(() => import("@/views/studio/Commands").then((m) => m.Commands));
const Shortcuts = later(() => import("@/views/studio/Shortcuts").then((m) => m.Shortcuts));

const VIEW_OF: Record<Place, Later> = {
  "/": later(() => import("@/views/score/ScoreView").then((m) => m.ScoreView)),
  "/voice": later(() => import("@/views/voice/VoiceView").then((m) => m.VoiceView)),
  "/moves": later(() => import("@/views/moves/MovesView").then((m) => m.MovesView)),
  "/shelf": later(() => import("@/views/shelf/ShelfView").then((m) => m.ShelfView)),
  "/send": later(() => import("@/views/send/SendView").then((m) => m.SendView)),
};

/** One studio a page. */
let studio: Studio | null = null;

/** What the page shows: the project, once it is open, in the view of its address. */
export function StudioRoot() {
  studio ??= new Studio(showToast);
  const [ready, setReady] = useState(false);
  useEffect(() => {
    const { workspace } = studio!;
    const kept = MIDDLE_C_OCTAVES.find((o) => String(o) === keptMiddleC.get());
    if (kept) studio!.view.setState({ middleC: kept });
    // A script that does not come is asked for again when the view is drawn, and told of there.
    const shown = VIEW_OF[placeNow()].load().catch(() => undefined);
    void Promise.allSettled([workspace.start(), shown]).then(() => {
      studio!.begin();
      setReady(true);
    });
    const save = (): void => void workspace.saver.flush();
    // What could not be saved is not left without a question.
    const hold = (e: BeforeUnloadEvent): void => {
      if (workspace.saver.isAtRisk() && workspace.store.getState().save.kind === "failed") e.preventDefault();
    };
    for (const sign of SIGNS) document.addEventListener(sign, loadAhead, { once: true, passive: true });
    document.addEventListener("visibilitychange", save);
    const leave = (): void => {
      save();
      keepView(workspace.store.getState().project, studio!.view.getState());
    };
    window.addEventListener("pagehide", leave);
    window.addEventListener("beforeunload", hold);
    return () => {
      for (const sign of SIGNS) document.removeEventListener(sign, loadAhead);
      document.removeEventListener("visibilitychange", save);
      window.removeEventListener("pagehide", leave);
      window.removeEventListener("beforeunload", hold);
    };
  }, []);
  if (!ready) return <p className="grid h-screen place-items-center text-ink2">Opening your project</p>;
  return (
    <StudioContext value={studio}>
      <Frame />
    </StudioContext>
  );
}

function Frame() {
  const place = usePlace();
  const View = VIEW_OF[place];
  useTheme();
  useShortcuts();
  const middleC = useMiddleC();
  const listing = useView((v) => v.shortcutsOpen);
  const playing = useView((v) => v.handsOpen);
  const finding = useView((v) => v.commandsOpen);
  const asking = useStore(studio!.workspace.question, (q) => q.asked !== null);
  return (
    <div
      key={middleC}
      className="grid h-screen grid-cols-[minmax(0,1fr)] grid-rows-[auto_auto_minmax(0,1fr)_auto_auto]"
    >
      <Guarded what="The top bar">
        <TopBar />
      </Guarded>
      <Banner />
      <div className="grid min-h-0 grid-cols-[128px_minmax(0,1fr)] xl:grid-cols-[152px_minmax(0,1fr)]">
        <Guarded what="The rail">
          <Rail />
        </Guarded>
        <main className="min-h-0 min-w-0">
          <Guarded key={place} what="This view">
            <View />
          </Guarded>
        </main>
      </div>
      {playing ? (
        <Guarded what="The keys">
          <HandPanel />
        </Guarded>
      ) : (
        <span hidden />
      )}
      <Guarded what="The foot line">
        <Footer />
      </Guarded>
      {listing && <Shortcuts />}
      {finding && <Commands />}
      {asking && <LeaveDialog />}
      <MenuHost />
      <Toasts />
    </div>
  );
}

/** A failure of one view leaves the others alone, and the work can still be saved. */
function Guarded({ what, children }: { what: string; children: ReactNode }) {
  const saveAsFile = useSaveAsFile();
  return (
    <ErrorBoundary
      what={what}
      actions={
        <>
          <button type="button" className="chip" onClick={() => studio!.undo()}>
            Undo
          </button>
          <button type="button" className="chip" onClick={() => void saveAsFile()}>
            Save as a file
          </button>
        </>
      }
    >
      {children}
    </ErrorBoundary>
  );
}

/** Names of notes as middle C is called: everything is drawn anew when that changes. Kept for the next visit. */
function useMiddleC(): number {
  const middleC = useView((v) => v.middleC);
  nameMiddleC(middleC);
  useEffect(() => keptMiddleC.set(String(middleC)), [middleC]);
  return middleC;
}

/** Day, night or the system's: kept for the next visit. */
function useTheme(): void {
  const theme = useView((v) => v.theme);
  useEffect(() => {
    const kept = keptTheme.get();
    if (kept === "day" || kept === "night") studio!.view.setState({ theme: kept });
  }, []);
  useEffect(() => {
    const dark = window.matchMedia("(prefers-color-scheme: dark)");
    const apply = (): void => {
      document.documentElement.dataset["theme"] = theme === "system" ? (dark.matches ? "night" : "day") : theme;
    };
    apply();
    if (theme !== "system") keptTheme.set(theme);
    dark.addEventListener("change", apply);
    return () => dark.removeEventListener("change", apply);
  }, [theme]);
}
