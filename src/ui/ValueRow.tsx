import { memo, useId } from "react";
import { TypedValue } from "./TypedValue";
import { useStableValue, useValueHands, type HandledValue } from "./useValueHands";

export type Kind = "notes" | "rhythm" | "shape" | "envelope" | "heard";

export const kindColour = (kind: Kind): string => `var(--${kind})`;

export interface ValueRowProps {
  readonly label: string;
  readonly value: HandledValue;
  readonly kind?: Kind;
  /** Stretch of the scale (0 to 1) that modulation makes the value reach, in the colour of its source. */
  readonly reach?: { readonly from: number; readonly to: number; readonly kind: Kind } | null;
  readonly disabled?: boolean;
  /** What the value does; told on hover and focus. */
  readonly hint?: string | undefined;
}

/** Label, bar, number with unit. Drawn anew when what it shows changes, not with every edit around it. */
export function ValueRow({ value, reach, ...rest }: ValueRowProps) {
  const { from, to, kind } = reach ?? { from: 0, to: 0, kind: null };
  return <RowView {...rest} value={useStableValue(value)} from={from} to={to} reachKind={kind} />;
}

const RowView = memo(function RowView({
  label,
  value,
  kind = "notes",
  disabled = false,
  hint,
  from,
  to,
  reachKind,
}: Omit<ValueRowProps, "reach"> & { from: number; to: number; reachKind: Kind | null }) {
  const hands = useValueHands(value, disabled);
  const hintId = useId();
  return (
    <div
      {...hands.slider}
      aria-label={label}
      aria-describedby={hint ? hintId : undefined}
      className={`group relative grid h-[22px] cursor-ew-resize touch-none grid-cols-[var(--row-label,84px)_1fr_minmax(var(--row-number,78px),max-content)] items-center gap-x-2 select-none ${disabled ? "pointer-events-none opacity-45" : ""}`}
    >
      <span className="truncate text-[12px]" title={hint ? undefined : label}>
        {label}
      </span>
      <span aria-hidden className="relative block h-[8px] bg-line2">
        <span
          className="absolute inset-y-0"
          style={{
            left: `${Math.min(value.origin, value.norm) * 100}%`,
            width: `${Math.abs(value.norm - value.origin) * 100}%`,
            background: kindColour(kind),
          }}
        />
        {value.origin > 0 && (
          <span className="absolute -inset-y-[2px] w-px bg-ink2" style={{ left: `${value.origin * 100}%` }} />
        )}
        {reachKind && (
          <span
            className="absolute -inset-y-[2px] opacity-45"
            style={{
              left: `${Math.min(from, to) * 100}%`,
              width: `${Math.abs(to - from) * 100}%`,
              background: kindColour(reachKind),
            }}
          />
        )}
      </span>
      <TypedValue
        hands={hands}
        text={value.text}
        label={label}
        className="text-right text-[12px] font-semibold whitespace-nowrap"
      />
      {hint && (
        <span
          id={hintId}
          role="tooltip"
          className="pointer-events-none invisible absolute top-full left-0 z-30 w-full border border-ink2 bg-sheet px-2 py-1 text-[11px] leading-[14px] whitespace-normal opacity-0 transition-opacity delay-500 group-hover:visible group-hover:opacity-100 group-focus-visible:visible group-focus-visible:opacity-100"
        >
          {hint}
        </span>
      )}
    </div>
  );
});

/** A value of the top bar: label above, number below. */
export function ValueField({
  label,
  value,
  name,
  disabled = false,
}: {
  label: string;
  value: HandledValue;
  name?: string;
  disabled?: boolean;
}) {
  const hands = useValueHands(value, disabled, true);
  return (
    <div {...hands.slider} aria-label={name ?? label} className="cursor-move touch-none select-none">
      <div className="text-[11px] whitespace-nowrap text-ink2">{label}</div>
      <TypedValue
        hands={hands}
        text={value.text}
        label={label}
        className="block text-[16px] leading-[20px] font-semibold whitespace-nowrap"
      />
    </div>
  );
}

/** A value in a line of text: label and number side by side. */
export function InlineValue({
  label,
  value,
  kind = "notes",
  disabled = false,
}: {
  label: string;
  value: HandledValue;
  kind?: Kind;
  disabled?: boolean;
}) {
  const hands = useValueHands(value, disabled);
  return (
    <div
      {...hands.slider}
      aria-label={label}
      className={`flex touch-none items-center gap-1.5 select-none ${disabled ? "" : "cursor-ew-resize"}`}
    >
      <span className="text-ink2">{label}</span>
      <TypedValue
        hands={hands}
        text={value.text}
        label={label}
        className={`min-w-[64px] border-b font-semibold whitespace-nowrap ${disabled ? "border-transparent" : ""}`}
        colour={disabled ? undefined : kindColour(kind)}
      />
    </div>
  );
}
