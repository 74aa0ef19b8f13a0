import { useState } from "react";

/** A name that becomes a field when it is clicked. An empty name is not taken. */
export function NameField({
  name,
  onRename,
  disabled,
}: {
  name: string;
  onRename: (name: string) => void;
  disabled?: boolean;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const finish = (): void => {
    const clean = typed?.trim() ?? "";
    if (clean && clean !== name) onRename(clean.slice(0, 80));
    setTyped(null);
  };
  if (typed === null) {
    return (
      <button
        type="button"
        disabled={disabled}
        className="block w-full cursor-text truncate text-left text-[16px] leading-[20px] font-bold"
        title="Click to rename"
        onClick={() => setTyped(name)}
      >
        {name}
      </button>
    );
  }
  return (
    <input
      autoFocus
      aria-label="Name"
      maxLength={80}
      className="w-full rounded-[2px] border border-shape bg-sheet px-1 text-[16px] leading-[18px] font-bold outline-none"
      value={typed}
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => setTyped(e.currentTarget.value)}
      onBlur={finish}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") finish();
        if (e.key === "Escape") setTyped(null);
      }}
    />
  );
}
