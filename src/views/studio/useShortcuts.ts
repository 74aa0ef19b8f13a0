import { useEffect } from "react";
import { tinykeys } from "tinykeys";
import { loopTicks } from "@/core/pattern/events";
import { restartNow } from "../score/restartNow";
import type { SHORTCUTS } from "./keysAndHands";
import { useStudio } from "./studio";
import { zoomBy } from "./viewStore";

const isField = (target: Element): boolean =>
  target.matches("input:not([type=checkbox]):not([type=radio]), textarea") ||
  (target instanceof HTMLElement && target.isContentEditable);

/** Keys that a list types ahead with. */
const isLetter = (event: KeyboardEvent): boolean => event.key.length === 1 && event.key !== " " && !event.ctrlKey && !event.metaKey; // prettier-ignore

/** Whether what has the focus needs a key for itself: text that is typed, lists that are searched, dialogs. */
function keeps(target: EventTarget | null, event: KeyboardEvent): boolean {
  if (!(target instanceof Element)) return false;
  // The list that finds has no meaning in a text, and the way out of one.
  if (isField(target)) return !((event.ctrlKey || event.metaKey) && event.code === "KeyK");
  if (target.matches("select")) return isLetter(event);
  return event.code === "Space" && target.closest("[role=dialog]") !== null;
}

export function useShortcuts(): void {
  const studio = useStudio();
  useEffect(() => {
    const { view, workspace } = studio;
    const loop = (): number => loopTicks(workspace.store.getState().project.song);
    const acts: Record<(typeof SHORTCUTS)[number]["keys"], () => void> = {
      Space: () => studio.toggle(),
      Home: () => {
        view.setState({ startTick: 0 });
        void studio.play();
      },
      "$mod+KeyZ": () => studio.undo(),
      "$mod+Shift+KeyZ": () => studio.redo(),
      "$mod+KeyY": () => studio.redo(),
      KeyG: () => {
        const { partId } = view.getState();
        const part = workspace.store.getState().project.parts.find((p) => p.id === partId);
        if (part) restartNow(studio, part);
      },
      KeyT: () => document.querySelector<HTMLElement>("[data-shortcut=tap]")?.click(),
      "+": () => zoomBy(view, 2, 0.5, loop()),
      "=": () => zoomBy(view, 2, 0.5, loop()),
      "-": () => zoomBy(view, 0.5, 0.5, loop()),
      "0": () => view.setState({ zoom: 1, scrollTick: 0 }),
      KeyK: () => view.setState({ handsOpen: !view.getState().handsOpen }),
      "$mod+KeyK": () => view.setState({ commandsOpen: true }),
      "Shift+?": () => view.setState({ shortcutsOpen: true }),
    };
    const bindings = Object.fromEntries(
      Object.entries(acts).map(([keys, act]) => [
        keys,
        (event: KeyboardEvent) => {
          if (keeps(event.target, event) || event.defaultPrevented) return;
          // Space would press the button that has the focus as well.
          event.preventDefault();
          act();
        },
      ]),
    );
    // Space on a focused button clicks it on key-up; the song is what Space is for.
    const keepSpace = (event: KeyboardEvent): void => {
      if (event.code === "Space" && event.target instanceof HTMLButtonElement && !event.target.closest("[role=dialog]"))
        event.preventDefault();
    };
    // The list of commands may still be loading: what is typed meanwhile is meant for it, and for no shortcut.
    const typeAhead = (event: KeyboardEvent): void => {
      const { commandsOpen, commandText } = view.getState();
      if (!commandsOpen || document.querySelector("[role=dialog]") !== null) return;
      if (event.key.length === 1 && !event.ctrlKey && !event.metaKey)
        view.setState({ commandText: commandText + event.key });
      else if (event.key === "Escape") view.setState({ commandsOpen: false, commandText: "" });
      event.preventDefault();
      event.stopPropagation();
    };
    window.addEventListener("keydown", typeAhead, { capture: true });
    window.addEventListener("keyup", keepSpace);
    const unbind = tinykeys(window, bindings);
    return () => {
      window.removeEventListener("keydown", typeAhead, { capture: true });
      window.removeEventListener("keyup", keepSpace);
      unbind();
    };
  }, [studio]);
}
