import { TypedValue } from "./TypedValue";
import { useValueHands, type HandledValue } from "./useValueHands";

export type Kind = "notes" | "rhythm" | "shape" | "envelope" | "heard";

export const kindColour = (kind: Kind): string => `var(--${kind})`;

export interface ValueRowProps {
  readonly label: string;
  readonly value: HandledValue;
  readonly kind?: Kind;
  /** Stretch of the scale (0 to 1) that modulation makes the value reach, in the colour of its source. */
  readonly reach?: { readonly from: number; readonly to: number; readonly kind: Kind } | null;
  readonly disabled?: boolean;
}

/** Label, bar, number with unit. */
export function ValueRow({ label, value, kind = "notes", reach, disabled = false }: ValueRowProps) {
  const hands = useValueHands(value, disabled);
  return (
    <div
      {...hands.slider}
      aria-label={label}
      className={`relative grid h-[22px] cursor-ew-resize touch-none grid-cols-[84px_1fr_78px] items-center gap-x-2 select-none ${disabled ? "pointer-events-none opacity-45" : ""}`}
    >
      <span className="truncate text-[12px]" title={label}>
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
        {reach && (
          <span
            className="absolute -inset-y-[2px] opacity-45"
            style={{
              left: `${Math.min(reach.from, reach.to) * 100}%`,
              width: `${Math.abs(reach.to - reach.from) * 100}%`,
              background: kindColour(reach.kind),
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
    </div>
  );
}

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
