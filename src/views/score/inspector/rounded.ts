import { formatSpan, spanMs, type Span, type TimeBase } from "@/core/time/span";
import type { Note } from "@/state/workspace";

/** Says so when a length is another one in its new unit; a hundredth of it is not heard. */
export function tellRounded(
  tell: (note: Note) => void,
  pairs: readonly (readonly [Span, Span])[],
  base: TimeBase,
): void {
  const changed = pairs.filter(
    ([was, is]) => Math.abs(spanMs(was, base) - spanMs(is, base)) > 0.01 * spanMs(was, base),
  );
  if (changed.length === 0) return;
  const texts = changed.map(([was, is]) => `${formatSpan(was)} became ${formatSpan(is)}`);
  tell({ kind: "info", text: `Rounded: ${texts.join(", ")}` });
}
