import type { KeyboardEvent } from "react";

/** One of a few: a radio group of chips, walked with the arrows. */
export function Choices<T extends string>({
  label,
  options,
  value,
  onChange,
  hidden,
}: {
  label: string;
  options: readonly { readonly value: T; readonly text: string; readonly title?: string }[];
  value: T;
  onChange: (value: T) => void;
  /** Leaves the label to screen readers. */
  hidden?: boolean;
}) {
  const onKeyDown = (e: KeyboardEvent<HTMLDivElement>): void => {
    const by =
      e.key === "ArrowRight" || e.key === "ArrowDown" ? 1 : e.key === "ArrowLeft" || e.key === "ArrowUp" ? -1 : 0;
    if (by === 0 || e.ctrlKey || e.altKey || e.metaKey) return;
    e.preventDefault();
    e.stopPropagation();
    const at = options.findIndex((o) => o.value === value);
    const to = (at + by + options.length) % options.length;
    onChange(options[to]!.value);
    e.currentTarget.querySelectorAll("button")[to]?.focus();
  };
  return (
    <div
      className="flex flex-wrap items-center gap-1 py-[3px]"
      role="radiogroup"
      aria-label={label}
      onKeyDown={onKeyDown}
    >
      {!hidden && <span className="mr-1 w-[var(--row-label,84px)] text-[12px]">{label}</span>}
      {options.map((o) => (
        <button
          key={o.value}
          type="button"
          role="radio"
          aria-checked={o.value === value}
          tabIndex={o.value === value ? 0 : -1}
          title={o.title}
          className="chip"
          onClick={() => onChange(o.value)}
        >
          {o.text}
        </button>
      ))}
    </div>
  );
}
