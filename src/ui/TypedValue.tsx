import type { useValueHands } from "./useValueHands";

type Hands = ReturnType<typeof useValueHands>;

/** The number of a value, or the field in which it is being typed. */
export function TypedValue({
  hands,
  text,
  label,
  className,
  colour,
}: {
  hands: Hands;
  text: string;
  label: string;
  className: string;
  /** Of its line, where it has one. */
  colour?: string | undefined;
}) {
  if (hands.typing === null)
    return (
      <span className={className} style={colour ? { borderColor: colour } : undefined}>
        {text}
      </span>
    );
  return (
    <span className="relative block">
      <input
        autoFocus
        // As wide as the number was, not as wide as browsers make fields.
        size={1}
        aria-label={`${label}, typed`}
        aria-invalid={hands.refused !== null}
        className={`${className} w-full rounded-[2px] border bg-sheet px-1 outline-none ${hands.refused === null ? "border-shape" : "border-warn"}`}
        value={hands.typing}
        // What a digit has opened is written on; what Enter has opened is written over.
        onFocus={(e) => {
          const { length } = e.currentTarget.value;
          e.currentTarget.setSelectionRange(hands.typing === text ? 0 : length, length);
        }}
        onChange={(e) => hands.setTyping(e.currentTarget.value)}
        onBlur={(e) => hands.leave(e.currentTarget.value)}
        onPointerDown={(e) => e.stopPropagation()}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") {
            hands.finish(e.currentTarget.value);
            e.currentTarget.select();
          }
          if (e.key === "Escape") hands.finish(null);
        }}
      />
      {hands.refused !== null && (
        <span
          role="alert"
          className="absolute top-full right-0 z-30 mt-1 block w-[200px] border border-warn bg-sheet px-2 py-1 text-left text-[11px] leading-[14px] font-normal whitespace-normal text-ink"
        >
          {hands.refused}
        </span>
      )}
    </span>
  );
}
