import { useCallback, useMemo } from "react";
import type { Address } from "@/core/patch/address";
import type { Route } from "@/core/patch/project";
import { targetAt } from "@/core/patch/targets";
import { formatAmount } from "@/core/patch/valueText";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { kindColour } from "@/ui/ValueRow";
import { useHeard, usePart, useProject } from "@/views/studio/studio";
import { addedTracks, rangeOf, valueAt } from "../heardTracks";
import { HoverText } from "../HoverText";
import { sourceOf } from "../inspector/routeHands";
import { GUTTER, LABEL_WIDTH, STRIP_CANVAS } from "../layout";
import { paintGrid, paintTracks } from "../paint";
import { tickToX, type Timeline } from "../timeline";

/** What each route adds to a value over the song, in the unit of its amount. */
export function Contributions({ address, timeline }: { address: Address; timeline: Timeline }) {
  const part = usePart();
  const routes = part.patch.routes.filter((r) => r.target === address && r.on);
  if (routes.length === 0) return <p className="px-3 py-1 text-[11px] text-ink2">No route adds to it.</p>;
  return (
    <ul aria-label="What adds to it">
      {routes.map((r) => (
        <Contribution key={r.id} route={r} timeline={timeline} />
      ))}
    </ul>
  );
}

function Contribution({ route, timeline }: { route: Route; timeline: Timeline }) {
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const songModules = useProject((s) => s.project.modules);
  const partIndex = useProject((s) => s.project.parts.indexOf(part));
  const { heard, program } = useHeard();
  const source = sourceOf(part, songModules, route.source);
  const target = targetAt(part.patch, songModules, route.target);
  const scaling = route.scaledBy === null ? null : sourceOf(part, songModules, route.scaledBy).name;
  const [left = [], right = []] = useMemo(
    () => (heard && program ? addedTracks(heard, program, partIndex, route.id) : []),
    [heard, program, partIndex, route.id],
  );
  const unit = route.amplitude ? "%" : (target?.move.unit ?? "");
  // At least as far as its amount says; a source that goes both ways, or an amount that is moved, goes further.
  const range = rangeOf([...left, ...right]) ?? { low: 0, high: 0 };
  const low = Math.min(0, route.around ? -Math.abs(route.amount) : route.amount, range.low);
  const high = Math.max(0, route.around ? Math.abs(route.amount) : route.amount, range.high);
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      paintGrid(s, t, song.meter, Infinity);
      const toY = (v: number): number => s.height - 3 - ((v - low) / (high - low || 1)) * (s.height - 6);
      s.g.fillStyle = s.palette.ink2;
      s.g.fillRect(0, Math.round(toY(0)), s.width, 1);
      for (const [name, side] of [["left", left], ["right", right]] as const) {
        paintTracks(s, t, side, toY, s.palette[source.kind]);
        const first = side[0];
        if (!first || right.length === 0) continue;
        s.g.fillStyle = s.palette.ink;
        s.g.fillText(name, Math.max(4, tickToX(t, first.firstTick) + 4), Math.max(10, toY(first.last[0]!) - 3));
      }
    },
    [timeline, song.meter, left, right, low, high, source.kind],
  );
  const told = (v: number): string => formatAmount(v, unit, unit === "st" || unit === "%" ? 1 : 2, true);
  const amount = told(route.amount);
  return (
    <li className="flex h-[34px] border-t border-line2">
      <span className="shrink-0 truncate border-r border-line px-2 pt-0.5 text-right text-[11px] leading-[14px]" style={{ width: LABEL_WIDTH }}>
        <b className="block truncate font-semibold" style={{ color: kindColour(source.kind) }}>
          {source.name}
        </b>
        <span className="block truncate text-ink2">
          {amount}
          {scaling && ` × ${scaling}`}
        </span>
      </span>
      <span className="relative min-w-0 flex-1" style={{ marginRight: GUTTER }}>
        <canvas ref={useCanvas(paint)} className={STRIP_CANVAS} role="img" aria-label={`What ${source.name} adds: from ${told(low)} to ${told(high)}`} />
        <HoverText
          timeline={timeline}
          describe={(tick) => {
            const [l, r] = [left, right].map((list) => valueAt(list, tick));
            if (l != null && r != null) return `left ${told(l)}, right ${told(r)}`;
            return l == null ? null : told(l);
          }}
        />
      </span>
    </li>
  );
} // prettier-ignore
