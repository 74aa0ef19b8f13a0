import { X } from "lucide-react";
import { useEffect, useRef } from "react";
import { routesInCircles, withRouteSpan } from "@/core/patch/edit";
import type { Route } from "@/core/patch/project";
import { toNorm } from "@/core/patch/row";
import { targetAt } from "@/core/patch/targets";
import { formatValue } from "@/core/patch/valueText";
import { copy } from "@/state/clipboard";
import { addRoute, editPatch, editRoute, removeRoute } from "@/state/edits";
import { newId } from "@/state/ids";
import { LOCKED, menuOf, runKeyed, type MenuEntry } from "@/ui/menu";
import { Toggle } from "@/ui/Toggle";
import { ValueRow, kindColour, type Kind } from "@/ui/ValueRow";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";
import { RouteWays } from "./RouteWays";
import { amountValue, atFull, reachText, sourceOf } from "./routeHands";

/** One modulation: what moves what, by how much, and whether it is on. */
export function RouteCard({
  route,
  show,
  fresh,
}: {
  route: Route;
  show: "source" | "target";
  /** Just added: its amount is what the hand wants next. */
  fresh: boolean;
}) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const songModules = useProject((s) => s.project.modules);
  const card = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (!fresh) return;
    card.current?.scrollIntoView({ block: "nearest" });
    card.current?.querySelector<HTMLElement>("[role=slider]")?.focus();
  }, [fresh]);
  const target = targetAt(part.patch, songModules, route.target);
  const source = sourceOf(part, songModules, route.source);
  if (!target) return null;
  const { row, rest } = target;
  const circles = routesInCircles(part.patch);
  const name = show === "target" ? target.label : source.name;
  const change = (next: Partial<Route>, label: string, gesture?: string): void =>
    void store.edit(label, editRoute(part.id, route.id, next), gesture);
  const locked = editable ? null : LOCKED;
  const named = `${source.name} to ${target.label}`;
  const remove = (label: string): void => void store.edit(`${label} ${named}`, removeRoute(part.id, route.id));
  const actions: MenuEntry[] = [
    { text: "Copy", keys: "Ctrl C", run: () => copy({ kind: "route", route }) },
    {
      text: "Cut",
      keys: "Ctrl X",
      why: locked,
      run: () => {
        copy({ kind: "route", route });
        remove("Cut");
      },
    },
    {
      text: "Duplicate",
      keys: "Ctrl D",
      why: locked,
      run: () => store.edit(`Duplicate ${named}`, addRoute(part.id, { ...route, id: newId() })),
    },
    {
      text: route.on ? "Switch off" : "Switch on",
      keys: "",
      why: locked,
      run: () => change({ on: !route.on }, `${route.on ? "Switch off" : "Switch on"} ${named}`),
    },
    ...(row && rest !== null
      ? [
          {
            text: `From ${formatValue(row, rest)} to the top`,
            why: locked,
            run: () =>
              store.edit(
                `Set the ends of ${named}`,
                editPatch(part.id, (p) => withRouteSpan(p, route.id, rest, row.max)),
              ),
          },
          {
            text: "Over the whole range",
            why: locked,
            run: () =>
              store.edit(
                `Set the ends of ${named}`,
                editPatch(part.id, (p) => withRouteSpan(p, route.id, row.min, row.max)),
              ),
          },
        ]
      : []),
    { text: "Remove", keys: "Delete", why: locked, run: () => remove("Remove") },
  ];
  return (
    <li
      ref={card}
      tabIndex={-1}
      onContextMenu={menuOf(named, () => actions)}
      onKeyDown={(e) => {
        // Delete and Backspace on a value are the value's.
        if (e.key.startsWith("Delete") || e.key === "Backspace") {
          if (e.target instanceof Element && e.target.closest("[role=slider]")) return;
        }
        runKeyed(actions, e);
      }}
      className={`border border-line bg-sheet px-2 pt-1.5 pb-2 [--row-label:56px] [--row-number:68px] ${route.on ? "" : "opacity-60"}`}
      aria-label={`${source.name} to ${target.label}`}
    >
      <div className="flex items-center justify-between gap-1">
        <span
          className="truncate font-semibold"
          style={{ color: show === "source" ? kindColour(source.kind) : undefined }}
        >
          {name}
        </span>
        <span className="flex gap-1">
          <Toggle
            text="on"
            on={route.on}
            disabled={!editable}
            onChange={(on) => change({ on }, `${on ? "Switch on" : "Switch off"} ${source.name} to ${target.label}`)}
          />
          <Toggle
            text="reversed"
            on={route.reversed}
            disabled={!editable}
            title="Full amount where the source is lowest"
            onChange={(reversed) => change({ reversed }, `Reverse ${source.name} to ${target.label}`)}
          />
          <button
            type="button"
            className="cursor-pointer text-ink2 hover:text-ink"
            disabled={!editable}
            aria-label={`Remove ${source.name} to ${target.label}`}
            title="Remove"
            onClick={() => store.edit(`Remove ${source.name} to ${target.label}`, removeRoute(part.id, route.id))}
          >
            <X size={13} />
          </button>
        </span>
      </div>
      <ValueRow
        label="Amount"
        kind={source.kind}
        disabled={!editable}
        value={amountValue(
          target,
          route,
          (amount, g) => change({ amount }, `Set ${source.name} to ${target.label}`, g),
          (from, to) =>
            store.edit(
              `Set the ends of ${named}`,
              editPatch(part.id, (p) => withRouteSpan(p, route.id, from, to)),
            ),
        )}
      />
      {row && rest !== null && target.move.unit !== "st" && (
        <ReachBar from={toNorm(row, rest)} to={toNorm(row, atFull(row, rest, route))} kind={source.kind} />
      )}
      <div className="text-[11px] text-ink2">{reachText(target, route)}</div>
      {circles.has(route.id) && (
        <div className="flex items-center gap-1 text-[11px] text-ink2">
          <span className="h-2 w-2 shrink-0 bg-warn" aria-hidden />
          moves in a circle: it hears itself a sub-block later
        </div>
      )}
      <RouteWays route={route} target={target} named={named} change={change} />
    </li>
  );
}

/** From the resting value (a tick) to where the amount takes it. */
function ReachBar({ from, to, kind }: { from: number; to: number; kind: Kind }) {
  return (
    <div className="relative my-1 h-[8px] bg-line2" aria-hidden>
      <div
        className="absolute inset-y-0"
        style={{
          left: `${Math.min(from, to) * 100}%`,
          width: `${Math.abs(to - from) * 100}%`,
          background: kindColour(kind),
        }}
      />
      <div className="absolute -inset-y-[2px] w-[2px] bg-ink" style={{ left: `${from * 100}%` }} />
    </div>
  );
}
