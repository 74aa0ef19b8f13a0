import type { Address } from "@/core/patch/address";
import { automatable, automationOf } from "@/core/patch/automation";
import type { TimeRow } from "@/core/patch/kinds/kind";
import type { Part, Route } from "@/core/patch/project";
import { fromNorm, moved, toNorm, type Parameter } from "@/core/patch/row";
import { spanMs, type Span, type TimeBase } from "@/core/time/span";
import type { ValueRowProps } from "@/ui/ValueRow";
import { spanNorm } from "@/ui/values";
import { colourOf } from "../stripList";

type Reach = NonNullable<ValueRowProps["reach"]> | null;

/**
 * How far the routes of a value take it together at full amount, in the colour of the first one's source; or, without any,
 * its automation. Places on the bar of the row: of an amount that is added, and of a place of the automation.
 */
function reachOf(part: Part, address: Address, ofAmount: (amount: number) => number, ofLine: (y: number) => number): Reach {
  const routes = part.patch.routes.filter((r) => r.on && r.target === address && !r.amplitude);
  const between = (ends: readonly number[], kind: NonNullable<Reach>["kind"]): Reach => ({
    from: Math.min(...ends),
    to: Math.max(...ends),
    kind,
  });
  const automation = automationOf(part.patch, address);
  if (automation?.on && routes.length === 0) return between(automation.data.points.map((p) => ofLine(p.y)), "heard");
  if (routes.length === 0) return null;
  const sum = (pick: (r: Route) => number): number => routes.reduce((all, r) => all + pick(r), 0);
  const low = sum((r) => (r.around ? -Math.abs(r.amount) : Math.min(0, r.amount)));
  const high = sum((r) => (r.around ? Math.abs(r.amount) : Math.max(0, r.amount)));
  const source = part.patch.modules.find((m) => m.id === routes[0]!.source);
  return between([ofAmount(low), ofAmount(high)], source ? colourOf(source) : "notes");
} // prettier-ignore

/** Of a number that a person sets. */
export const valueReach = (part: Part, row: Parameter, address: Address, rest: number): Reach =>
  row.move &&
  reachOf(
    part,
    address,
    (amount) => toNorm(row, moved(row, rest, amount)),
    (y) => y,
  );

/** Of a time or rate, which is moved by octaves. */
export function timeReach(part: Part, time: TimeRow, address: Address, span: Span, song: TimeBase): Reach {
  if (!time.move) return null;
  const ms = spanMs(span, song);
  // A rate that goes up makes its length shorter.
  const bar = (octaves: number): number => spanNorm(ms * 2 ** (time.hz ? -octaves : octaves));
  const scale = automatable(part.patch, address, song);
  return reachOf(part, address, bar, (y) => (scale ? bar(Math.log2(fromNorm(scale.row, y) / scale.rest)) : 0));
}
