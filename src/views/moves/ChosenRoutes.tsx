import { useMemo, useRef } from "react";
import type { Route } from "@/core/patch/project";
import { row } from "@/core/patch/row";
import { AMPLITUDE_REACH, sourcesOf, targetAt } from "@/core/patch/targets";
import { withoutRoutes } from "@/core/patch/edit";
import { editPatch } from "@/state/edits";
import { SelectRow } from "@/ui/Select";
import { useEditable, useHeard, usePart, useProject, useStudio } from "@/views/studio/studio";
import { modulatorTracks, valueTracks } from "../score/heardTracks";
import { RouteCard } from "../score/inspector/RouteCard";
import { sourceOf } from "../score/inspector/routeHands";
import { NumberRow } from "../score/inspector/rows";
import { MiniCurve } from "./MiniCurve";

const TIMES = row({ label: "All amounts", unit: "%", min: -200, max: 200, default: 100, step: 5, fine: 1, hint: "Of what they were when they were chosen: 50 % halves them, -100 % turns them round." }); // prettier-ignore

/** What is chosen in the book: one route with all there is to it, or several, changed together. */
export function ChosenRoutes({ routes }: { routes: readonly Route[] }) {
  if (routes.length === 0)
    return <p className="text-ink2">Choose a line to see all of it; with Ctrl or Shift several, to change them together.</p>;
  const [only] = routes;
  return routes.length === 1 && only ? <OneRoute route={only} /> : <Several key={routes.map((r) => r.id).join()} routes={routes} />;
} // prettier-ignore

function OneRoute({ route }: { route: Route }) {
  const part = usePart();
  const songModules = useProject((s) => s.project.modules);
  const partIndex = useProject((s) => s.project.parts.indexOf(part));
  const { heard, program } = useHeard();
  const { name, kind } = sourceOf(part, songModules, route.source);
  const target = targetAt(part.patch, songModules, route.target);
  const lines = useMemo(() => {
    if (!heard || !program) return [];
    return [
      {
        tracks: valueTracks(heard, program, partIndex, route.target),
        kind: "heard" as const,
        log: target?.row?.taper === "log",
      },
      { tracks: modulatorTracks(heard, program, partIndex, route.source), kind, range: { low: 0, high: 1 } },
    ];
  }, [heard, program, partIndex, route.target, route.source, kind, target?.row]);
  return (
    <>
      <div>
        <h2 className="truncate text-[15px] font-bold">
          {name} to {target?.label.toLowerCase()}
        </h2>
        <p className="text-[12px] text-ink2">{target?.of}</p>
      </div>
      <ul>
        <RouteCard route={route} show="target" fresh={false} />
      </ul>
      <section>
        <h3 className="heading mb-1">What it does, and what is heard</h3>
        <div className="border border-line bg-sheet">
          <MiniCurve lines={lines} label={`${name}, and ${target?.label ?? ""} as heard`} height={92} />
        </div>
      </section>
    </>
  );
}

function Several({ routes }: { routes: readonly Route[] }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const songModules = useProject((s) => s.project.modules);
  const ids = new Set(routes.map((r) => r.id));
  // What they were when they were chosen.
  const began = useRef(new Map(routes.map((r) => [r.id, r.amount])));
  const first = routes[0]!;
  const times = began.current.get(first.id) ? Math.round((100 * first.amount) / began.current.get(first.id)!) : 100;
  const reachOf = (r: Route): number => (r.amplitude ? AMPLITUDE_REACH : (targetAt(part.patch, songModules, r.target)?.move.reach ?? 0));
  const edit = (label: string, change: (r: Route) => Partial<Route>, gesture?: string): void =>
    void store.edit(
      label,
      editPatch(part.id, (p) => ({ ...p, routes: p.routes.map((r) => (ids.has(r.id) ? { ...r, ...change(r) } : r)) })),
      gesture,
    );
  const sources = sourcesOf(part.patch, songModules);
  const scaled = routes.every((r) => r.scaledBy === first.scaledBy) ? (first.scaledBy ?? "") : "various";
  return (
    <>
      <h2 className="text-[15px] font-bold">{routes.length} routes</h2>
      <section>
        <NumberRow
          row={TIMES}
          kind="notes"
          value={Math.max(-200, Math.min(200, times))}
          onChange={(v, _l, g) =>
            edit(`Set ${routes.length} amounts`, (r) => {
              const reach = reachOf(r);
              return { amount: Number(Math.max(-reach, Math.min(reach, ((began.current.get(r.id) ?? r.amount) * v) / 100)).toFixed(3)) };
            }, g)
          }
        />
        <SelectRow
          label="Scaled by"
          name="What scales the chosen routes"
          value={scaled}
          options={[
            ...(scaled === "various" ? [{ value: "various", text: "various" }] : []),
            { value: "", text: "nothing" },
            ...sources.filter((s) => routes.every((r) => r.source !== s.id)).map((s) => ({ value: s.id, text: s.name })),
          ]}
          onChange={(id) => id !== "various" && edit(`Scale ${routes.length} routes`, () => ({ scaledBy: id === "" ? null : id }))}
        />
        <div className="mt-1 flex flex-wrap gap-1">
          <button type="button" className="chip" disabled={!editable} onClick={() => edit(`Switch on ${routes.length} routes`, () => ({ on: true }))}>
            all on
          </button>
          <button type="button" className="chip" disabled={!editable} onClick={() => edit(`Switch off ${routes.length} routes`, () => ({ on: false }))}>
            all off
          </button>
          <button type="button" className="chip" disabled={!editable} onClick={() => edit(`Reverse ${routes.length} routes`, (r) => ({ reversed: !r.reversed }))}>
            reverse
          </button>
          <button
            type="button"
            className="chip"
            disabled={!editable}
            onClick={() => store.edit(`Remove ${routes.length} routes`, editPatch(part.id, (p) => withoutRoutes(p, (r) => ids.has(r.id))))}
          >
            remove
          </button>
        </div>
      </section>
    </>
  );
} // prettier-ignore
