import { ChevronDown } from "lucide-react";
import { showMenu, type MenuEntry } from "@/ui/menu";
import { useStudio } from "@/views/studio/studio";

/** Entries that are listed on each side of where the project stands. */
const SHOWN = 200;

/** Opens the list of every edit by its name, newest first; an entry steps to the state after it. */
export function HistoryList({ className }: { className: string }) {
  const { workspace } = useStudio();
  const entries = (): MenuEntry[] => {
    const { history, readOnly } = workspace.store.getState();
    const why = readOnly ? "This project can only be heard here" : null;
    const ahead = history.undone.slice(-SHOWN);
    const behind = history.done.slice(-SHOWN);
    const first = history.done.length - behind.length;
    const goTo = (steps: number) => (): void => workspace.store.stepTo(steps);
    return [
      ...ahead.map((e, i) => ({
        text: e.label,
        keys: "undone",
        why,
        run: goTo(history.done.length + ahead.length - i),
      })),
      ...behind
        .map((e, i) => ({ text: e.label, on: i === behind.length - 1, why, run: goTo(first + i + 1) }))
        .reverse(),
      {
        text: first > 0 ? `${first} steps before` : "As it was opened",
        on: history.done.length === 0,
        why,
        run: goTo(first),
      },
    ];
  };
  return (
    <button
      type="button"
      className={className}
      aria-label="History"
      aria-haspopup="menu"
      title="What was done, step by step"
      onClick={(e) => {
        const { left, bottom } = e.currentTarget.getBoundingClientRect();
        showMenu("Steps, newest first", { x: left, y: bottom }, entries());
      }}
    >
      <ChevronDown size={14} />
    </button>
  );
}
