import { useEffect, useState } from "react";

/** A name that becomes a field when it is clicked. An empty name is not taken. */
export function NameField({
  name,
  onRename,
  disabled,
  small = false,
  asked = false,
  onAsked,
}: {
  name: string;
  onRename: (name: string) => void;
  disabled?: boolean;
  small?: boolean;
  /** Opens the field by itself; `onAsked` is told, so that it is not asked again. */
  asked?: boolean;
  onAsked?: () => void;
}) {
  const type = small ? "text-[12px] leading-[16px] font-medium" : "text-[16px] leading-[20px] font-bold";
  const [typed, setTyped] = useState<string | null>(null);
  useEffect(() => {
    if (!asked) return;
    setTyped(name);
    onAsked?.();
  }, [asked, name, onAsked]);
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
        className={`block w-full truncate text-left ${type} ${disabled ? "" : "cursor-text hover:underline"}`}
        title={disabled ? name : `${name} (click to rename)`}
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
      className={`w-full rounded-[2px] border border-shape bg-sheet px-1 outline-none ${type}`}
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
