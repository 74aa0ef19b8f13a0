import type { useValueHands } from "./useValueHands";

type Hands = ReturnType<typeof useValueHands>;

/** The number of a value, or the field in which it is being typed. */
export function TypedValue({
  hands,
  text,
  label,
  className,
}: {
  hands: Hands;
  text: string;
  label: string;
  className: string;
}) {
  if (hands.typing === null) return <span className={className}>{text}</span>;
  return (
    <input
      autoFocus
      aria-label={`${label}, typed`}
      aria-invalid={hands.refused}
      title={hands.refused ? "This can't be read as a value" : undefined}
      className={`${className} w-full rounded-[2px] border bg-sheet px-1 outline-none ${hands.refused ? "border-warn" : "border-shape"}`}
      value={hands.typing}
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => hands.setTyping(e.currentTarget.value)}
      onBlur={() => hands.finish(null)}
      onPointerDown={(e) => e.stopPropagation()}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") hands.finish(e.currentTarget.value);
        if (e.key === "Escape") hands.finish(null);
      }}
    />
  );
}
