import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { ChevronDown } from "lucide-react";
import { useEditable, useProject, useStudio } from "@/views/studio/studio";

/** Entries that are listed on each side of where the project stands. */
const SHOWN = 200;

/** Every edit by its name, newest first; a click steps to the state after it. */
export function HistoryList({ className }: { className: string }) {
  return (
    <Popover className="flex">
      <PopoverButton className={className} aria-label="History" title="What was done, step by step">
        <ChevronDown size={14} />
      </PopoverButton>
      <PopoverPanel
        anchor="bottom end"
        className="z-40 max-h-[60vh] w-[260px] overflow-y-auto border border-ink bg-sheet py-1 text-[12px]"
      >
        {({ close }) => <Steps onChosen={close} />}
      </PopoverPanel>
    </Popover>
  );
}

function Steps({ onChosen }: { onChosen: () => void }) {
  const { workspace } = useStudio();
  const { done, undone } = useProject((s) => s.history);
  const editable = useEditable();
  const goTo = (steps: number): void => {
    workspace.store.stepTo(steps);
    onChosen();
  };
  const ahead = undone.slice(-SHOWN);
  const behind = done.slice(-SHOWN);
  const first = done.length - behind.length;
  return (
    <ol aria-label="Steps, newest first">
      {ahead.map((e, i) => (
        <Step
          key={`u${i}`}
          text={e.label}
          state="undone"
          disabled={!editable}
          onClick={() => goTo(done.length + ahead.length - i)}
        />
      ))}
      {behind
        .map((e, i) => (
          <Step
            key={`d${first + i}`}
            text={e.label}
            state={i === behind.length - 1 ? "now" : "done"}
            disabled={!editable}
            onClick={() => goTo(first + i + 1)}
          />
        ))
        .reverse()}
      <Step
        text={first > 0 ? `${first} steps before` : "As it was opened"}
        state={done.length === 0 ? "now" : "done"}
        disabled={!editable}
        onClick={() => goTo(first)}
      />
    </ol>
  );
}

function Step({
  text,
  state,
  disabled,
  onClick,
}: {
  text: string;
  state: "done" | "now" | "undone";
  disabled: boolean;
  onClick: () => void;
}) {
  return (
    <li>
      <button
        type="button"
        className={`flex w-full cursor-pointer items-center gap-2 px-2.5 py-[3px] text-left hover:bg-paper disabled:cursor-default ${
          state === "undone" ? "text-ink2 italic" : state === "now" ? "font-semibold" : ""
        }`}
        aria-current={state === "now" ? "step" : undefined}
        disabled={disabled}
        onClick={onClick}
      >
        <span className={`h-2 w-2 shrink-0 ${state === "now" ? "bg-ink" : ""}`} aria-hidden />
        <span className="min-w-0 truncate">{text}</span>
        {state === "undone" && <span className="ml-auto text-[11px]">undone</span>}
      </button>
    </li>
  );
}
