import { useEffect } from "react";
import { tinykeys } from "tinykeys";
import { loopTicks } from "@/core/pattern/events";
import { useStudio } from "./studio";
import { zoomBy } from "./viewStore";

export interface Shortcut {
  readonly keys: string;
  readonly shown: string;
  readonly what: string;
}

/** Everywhere; the list that "?" opens reads this table. */
export const SHORTCUTS = [
  { keys: "Space", shown: "Space", what: "Play or stop" },
  { keys: "Home", shown: "Home", what: "Play from the start of the loop" },
  { keys: "$mod+KeyZ", shown: "Ctrl Z", what: "Undo" },
  { keys: "$mod+Shift+KeyZ", shown: "Ctrl Shift Z", what: "Redo" },
  { keys: "$mod+KeyY", shown: "Ctrl Y", what: "Redo" },
  { keys: "KeyT", shown: "T", what: "Tap the tempo" },
  { keys: "+", shown: "+", what: "Zoom in" },
  { keys: "=", shown: "=", what: "Zoom in" },
  { keys: "-", shown: "−", what: "Zoom out" },
  { keys: "Shift+?", shown: "?", what: "This list" },
] as const satisfies readonly Shortcut[];

/** The hands of values and editors, for the list. */
export const HANDS: readonly Omit<Shortcut, "keys">[] = [
  { shown: "Drag, Shift drag", what: "Change a value, finely" },
  { shown: "Double-click, Enter", what: 'Type a value: "1.2k", "A3", "1/8T", "-6dB", "250ms"' },
  { shown: "Arrows, Shift arrows", what: "A step, a fine step" },
  { shown: "Page keys", what: "Ten steps" },
  { shown: "Backspace", what: "A value's default" },
  { shown: "Click, drag", what: "Add a point or note; move it along the first axis moved" },
  { shown: "Ctrl drag", what: "Move it both ways" },
  { shown: "Alt drag, or the middle mark", what: "Bend a segment" },
  { shown: "[ and ]", what: "Choose the point or note before or after" },
  { shown: "Alt arrows", what: "Bend; stretch a note or set its velocity" },
  { shown: "Delete", what: "Remove what is chosen" },
  { shown: "Ctrl wheel, Shift wheel", what: "Zoom, scroll in time" },
];

const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.matches("input:not([type=checkbox]):not([type=radio]), textarea, select") || target.isContentEditable);

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
      KeyT: () => document.querySelector<HTMLElement>("[data-shortcut=tap]")?.click(),
      "+": () => zoomBy(view, 2, 0.5, loop()),
      "=": () => zoomBy(view, 2, 0.5, loop()),
      "-": () => zoomBy(view, 0.5, 0.5, loop()),
      "Shift+?": () => view.setState({ shortcutsOpen: true }),
    };
    const bindings = Object.fromEntries(
      Object.entries(acts).map(([keys, act]) => [
        keys,
        (event: KeyboardEvent) => {
          if (typing(event.target) || event.defaultPrevented) return;
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
    window.addEventListener("keyup", keepSpace);
    const unbind = tinykeys(window, bindings);
    return () => {
      window.removeEventListener("keyup", keepSpace);
      unbind();
    };
  }, [studio]);
}
