import { useMemo, type KeyboardEvent, type MouseEvent } from "react";
import type { Route } from "@/core/patch/project";
import { sourcesOf, targetAt } from "@/core/patch/targets";
import { kindOf } from "@/core/patch/kinds";
import { withRouteSpan } from "@/core/patch/edit";
import { editPatch, editRoute } from "@/state/edits";
import { Toggle } from "@/ui/Toggle";
import { Select } from "@/ui/Select";
import { ValueRow, kindColour } from "@/ui/ValueRow";
import { useEditable, useHeard, usePart, useProject, useStudio } from "@/views/studio/studio";
import { addedTracks, modulatorTracks } from "../score/heardTracks";
import { amountValue, sourceOf } from "../score/inspector/routeHands";
import { bendText } from "../score/inspector/bend";
import { MiniCurve } from "./MiniCurve";

/** Source, what it does over the loop, amount, what scales it, bend, on or off. */
export const COLUMNS =
  "grid grid-cols-[minmax(96px,1.1fr)_minmax(90px,1.4fr)_minmax(150px,1.6fr)_minmax(70px,0.8fr)_64px_44px] items-center gap-x-3";

/** One line of the book. */
export function RouteLine({
  route,
  side,
  chosen,
  onChoose,
  onKeyDown,
}: {
  route: Route;
  side: "moved" | "moves";
  chosen: boolean;
  onChoose: (e: MouseEvent) => void;
  onKeyDown: (e: KeyboardEvent<HTMLElement>) => void;
}) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const songModules = useProject((s) => s.project.modules);
  const target = targetAt(part.patch, songModules, route.target);
  const source = sourceOf(part, songModules, route.source);
  const sources = useMemo(() => sourcesOf(part.patch, songModules), [part.patch, songModules]);
  if (!target) return null;
  const named = `${source.name} to ${target.label}`;
  const module = sources.find((s) => s.id === route.source)?.module;
  const title = side === "moved" ? source.name : target.label;
  const beside = side === "moved" ? (module ? kindOf(module).label.toLowerCase() : "from the notes") : target.role === "route" ? "an amount" : target.of;
  const change = (next: Partial<Route>, label: string, gesture?: string): void =>
    void store.edit(label, editRoute(part.id, route.id, next), gesture);
  return (
    <div
      role="listitem"
      tabIndex={0}
      data-route={route.id}
      aria-label={`${named}${chosen ? ", chosen" : ""}`}
      className={`${COLUMNS} min-h-[30px] border-t border-line2 px-3 ${route.on ? "" : "opacity-55"} ${chosen ? "bg-paper" : ""}`}
      onClick={onChoose}
      onKeyDown={onKeyDown}
    >
      <span className="min-w-0 truncate text-[12px]" title={`${title}, ${beside}`}>
        <b className="font-semibold" style={{ color: side === "moved" ? kindColour(source.kind) : undefined }}>
          {title}
        </b>{" "}
        <span className="text-ink2">{beside}</span>
      </span>
      <SourceCurve route={route} name={source.name} />
      <span className="[--row-label:0px] [--row-number:74px]">
        <ValueRow
          label={`Amount of ${named}`}
          kind={source.kind}
          disabled={!editable}
          value={amountValue(
            target,
            route,
            (amount, g) => change({ amount }, `Set ${named}`, g),
            (from, to) => store.edit(`Set the ends of ${named}`, editPatch(part.id, (p) => withRouteSpan(p, route.id, from, to))),
          )}
        />
      </span>
      <Select
        label={`What scales ${named}`}
        className="min-w-0 truncate bg-transparent text-[12px] text-ink2"
        disabled={!editable}
        value={route.scaledBy ?? ""}
        options={[{ value: "", text: "–" }, ...sources.filter((s) => s.id !== route.source).map((s) => ({ value: s.id, text: s.name }))]}
        onChange={(id) => change({ scaledBy: id === "" ? null : id }, `Scale ${named}`)}
      />
      <span className="truncate text-[12px] text-ink2">{route.reversed ? `reversed${route.curve ? `, ${bendText(route.curve)}` : ""}` : bendText(route.curve)}</span>
      <Toggle text={route.on ? "on" : "off"} name={`${named} on`} on={route.on} disabled={!editable} onChange={(on) => change({ on }, `${on ? "Switch on" : "Switch off"} ${named}`)} />
    </div>
  );
} // prettier-ignore

/** What a source does over the loop; of notes and hands, what each note has added by it. */
function SourceCurve({ route, name }: { route: Route; name: string }) {
  const { id: routeId, source: id, amount } = route;
  const part = usePart();
  const partIndex = useProject((s) => s.project.parts.indexOf(part));
  const songModules = useProject((s) => s.project.modules);
  const { heard, program } = useHeard();
  const { kind } = sourceOf(part, songModules, id);
  const own = useMemo(
    () => (heard && program ? modulatorTracks(heard, program, partIndex, id) : []),
    [heard, program, partIndex, id],
  );
  const added = useMemo(
    () => (own.length === 0 && heard && program ? (addedTracks(heard, program, partIndex, routeId)[0] ?? []) : []),
    [own, heard, program, partIndex, routeId],
  );
  const lines = useMemo(
    () => [
      {
        tracks: own,
        kind,
        range: { low: 0, high: 1 },
      },
      { tracks: added, kind, range: { low: Math.min(0, amount), high: Math.max(0, amount) } },
    ],
    [own, added, kind, amount],
  );
  if (own.length + added.length === 0) return <span className="text-[11px] text-ink2">nothing sounds</span>;
  return <MiniCurve lines={lines} label={`${name} over the loop`} height={26} />;
}
