import { useCallback, useMemo } from "react";
import { compileCurve } from "@/core/curve/curve";
import { termValue } from "@/core/motion/terms";
import type { Address } from "@/core/patch/address";
import type { Route } from "@/core/patch/project";
import { targetAt } from "@/core/patch/targets";
import { formatAmount } from "@/core/patch/valueText";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { kindColour } from "@/ui/ValueRow";
import { useHeard, usePart, useProject } from "@/views/studio/studio";
import { modulatorTracks } from "../heardTracks";
import { sourceOf } from "../inspector/routeHands";
import { GUTTER, LABEL_WIDTH } from "../layout";
import { paintGrid, paintTracks, type Track } from "../paint";
import type { Timeline } from "../timeline";

const mapped = (track: Track, of: (v: number) => number, turned: boolean): Track => {
  const all = (list: ArrayLike<number>): number[] => Array.from(list, of);
  // What goes down where its source goes up swaps lowest and highest.
  const [low, high] = turned ? [track.high, track.low] : [track.low, track.high];
  return { ...track, low: all(low), high: all(high), last: all(track.last) };
};

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
  const { heard, program } = useHeard((h) => h);
  const source = sourceOf(part, songModules, route.source);
  const target = targetAt(part.patch, songModules, route.target);
  const scaling = route.scaledBy === null ? null : sourceOf(part, songModules, route.scaledBy).name;
  // What the source alone does not tell is not drawn, but said.
  const own = part.patch.modules.some((m) => m.id === route.source);
  const said = !own ? "each note brings its own" : route.tap > 0 ? `read ${route.tap}° ahead` : route.atStart ? "as it stands at each note's start" : null; // prettier-ignore
  const tracks = useMemo(() => {
    if (!heard || !program || said !== null) return [];
    const op = { bipolar: false, reversed: route.reversed, around: route.around, curve: route.curve && compileCurve(route.curve), scaleBipolar: false }; // prettier-ignore
    const turned = route.reversed !== route.amount < 0;
    return modulatorTracks(heard, program, partIndex, route.source).map((t) =>
      mapped(t, (v) => termValue(op, v, route.amount, 1), turned),
    );
  }, [heard, program, partIndex, route, said]);
  const unit = route.amplitude ? "%" : (target?.move.unit ?? "");
  const low = route.around ? -Math.abs(route.amount) : Math.min(0, route.amount);
  const high = route.around ? Math.abs(route.amount) : Math.max(0, route.amount);
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      paintGrid(s, t, song.meter, Infinity);
      const toY = (v: number): number => s.height - 3 - ((v - low) / (high - low || 1)) * (s.height - 6);
      s.g.fillStyle = s.palette.ink2;
      s.g.fillRect(0, Math.round(toY(0)), s.width, 1);
      paintTracks(s, t, tracks, toY, s.palette[source.kind]);
    },
    [timeline, song.meter, tracks, low, high, source.kind],
  );
  const amount = formatAmount(route.amount, unit, unit === "st" || unit === "%" ? 1 : 2, true);
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
        <canvas ref={useCanvas(paint)} className="absolute inset-0 h-full w-full" role="img" aria-label={`What ${source.name} adds: ${amount} at the most${said ? `, ${said}` : ""}`} />
        {said && <span className="absolute inset-0 grid place-items-center text-[11px] text-ink2">{said}</span>}
      </span>
    </li>
  );
} // prettier-ignore
