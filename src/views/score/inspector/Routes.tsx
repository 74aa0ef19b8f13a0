import { X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Address } from "@/core/patch/address";
import { newRoute } from "@/core/patch/defaults";
import type { Module } from "@/core/patch/kinds";
import { MAX_ROUTES, type Part, type Route } from "@/core/patch/project";
import { clampToParameter, moved, toNorm, type Parameter } from "@/core/patch/row";
import { AMPLITUDE_REACH, sourcesOf, targetAt, targetsOf, type Target } from "@/core/patch/targets";
import { formatAmount, formatValue, howToWrite, parseAmount } from "@/core/patch/valueText";
import { useStore } from "zustand";
import { clipboard, copy } from "@/state/clipboard";
import { addRoute, editRoute, removeRoute } from "@/state/edits";
import { newId } from "@/state/ids";
import { LOCKED, menuOf, runKeyed, type MenuEntry } from "@/ui/menu";
import { Select } from "@/ui/Select";
import { Toggle } from "@/ui/Toggle";
import { ValueRow, kindColour, type Kind } from "@/ui/ValueRow";
import type { HandledValue } from "@/ui/useValueHands";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";
import { colourOf } from "./rows";

/** The name of a route's source, and the colour of its kind. */
function sourceOf(part: Part, songModules: readonly Module[], id: string): { name: string; kind: Kind } {
  const source = sourcesOf(part.patch, songModules).find((s) => s.id === id);
  return { name: source?.name ?? id, kind: source?.module ? colourOf(source.module) : "notes" };
}

const IN_AMPLITUDE = { unit: "%", reach: AMPLITUDE_REACH } as const;

/** A value at rest with the whole of a route's amount; half of an amplitude is 6.02 dB less (20 log 2). */
function atFull(row: Parameter, rest: number, { amount, amplitude }: Route): number {
  if (!amplitude) return moved(row, rest, amount);
  return clampToParameter(row, amount <= -100 ? row.min : rest + 20 * Math.log10(1 + amount / 100));
}

/** An amount for the hands: both ways from the middle, in the target's unit. */
function amountValue(
  target: Target,
  { amount, amplitude }: Route,
  set: (amount: number, gesture?: string) => void,
): HandledValue {
  const { unit, reach } = amplitude ? IN_AMPLITUDE : target.move;
  const small = unit === "oct" || unit === "st";
  const digits = unit === "oct" ? 2 : 1;
  const tidy = (v: number): number => Number(Math.min(reach, Math.max(-reach, v)).toFixed(digits === 2 ? 3 : 2));
  return {
    norm: (amount / reach + 1) / 2,
    text: formatAmount(amount, unit, unit === "st" && amount % 1 === 0 ? 0 : digits, true),
    origin: 0.5,
    now: amount,
    min: -reach,
    max: reach,
    spoken: formatAmount(amount, unit, digits, true),
    // Semitones are drawn whole; a fine drag leaves them.
    setNorm: (norm, g, fine) => {
      const amount = (norm * 2 - 1) * reach;
      set(tidy(unit === "st" && !fine ? Math.round(amount) : amount), g);
    },
    step: (direction, size, g) => {
      const by = unit === "oct" ? 1 / 12 : 1;
      set(tidy(amount + direction * (size === "fine" ? by / (small ? 12 : 10) : size === "page" ? by * 10 : by)), g);
    },
    type: (text) => {
      const read = parseAmount(text, unit);
      if (read === null) return howToWrite(unit);
      set(tidy(read));
      return null;
    },
    reset: () => set(0),
  };
}

/** What the target does at full amount, in words: "at rest 420 Hz, reaches 2.2 kHz". */
function reachText({ row, rest, move }: Target, route: Route): string {
  // A pitch at rest is the note's own, and a time has no row: only the way is told.
  if (!row || rest === null || move.unit === "st")
    return route.amount === 0 ? "moves nothing yet" : `up to ${formatAmount(route.amount, move.unit, 1, true)}`;
  const full = atFull(row, rest, route);
  const verb = route.amount < 0 ? "falls to" : "reaches";
  return `at rest ${formatValue(row, rest)}, ${verb} ${formatValue(row, full)}`;
}

/** One modulation: what moves what, by how much, and whether it is on. */
function RouteCard({
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
    if (fresh) card.current?.querySelector<HTMLElement>("[role=slider]")?.focus();
  }, [fresh]);
  const target = targetAt(part.patch, songModules, route.target);
  const source = sourceOf(part, songModules, route.source);
  if (!target) return null;
  const { row, rest } = target;
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
      className={`border border-line bg-sheet px-2 pt-1.5 pb-2 ${route.on ? "" : "opacity-60"}`}
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
        value={amountValue(target, route, (amount, g) =>
          change({ amount }, `Set ${source.name} to ${target.label}`, g),
        )}
      />
      {row && rest !== null && target.move.unit !== "st" && (
        <ReachBar from={toNorm(row, rest)} to={toNorm(row, atFull(row, rest, route))} kind={source.kind} />
      )}
      <div className="text-[11px] text-ink2">{reachText(target, route)}</div>
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

const useAdd = () => {
  const { store } = useStudio().workspace;
  const part = usePart();
  const songModules = useProject((s) => s.project.modules);
  const [fresh, setFresh] = useState<string | null>(null);
  /** A new modulation moves nothing until its amount, which gets the focus, is set. */
  const add = (source: string, address: Address): void => {
    const target = targetAt(part.patch, songModules, address);
    if (!target) return;
    const name = `Add ${sourceOf(part, songModules, source).name} to ${target.label}`;
    const id = newId();
    if (store.edit(name, addRoute(part.id, newRoute(id, source, address, 0)))) setFresh(id);
  };
  return { add, fresh };
};

/** What routes are offered for: the sound itself. Values of modulators and of routes are moved by files only, so far. */
const offered = (t: Target): boolean => t.role === "source" || t.role === "effect" || t.role === "output";

/** A target among others: with the name of what it belongs to where several have one of its kind. */
const targetText = (t: Target, all: readonly Target[]): string =>
  all.filter((o) => o.label === t.label).length > 1 ? `${t.of}: ${t.label.toLowerCase()}` : t.label;

/** Everything that one source moves. */
export function MovesOf({ source }: { source: string }) {
  const part = usePart();
  const editable = useEditable();
  const { add, fresh } = useAdd();
  const songModules = useProject((s) => s.project.modules);
  const routes = part.patch.routes.filter((r) => r.source === source);
  return (
    <section>
      <h3 className="heading mb-1.5">
        {routes.length === 0 ? "Moves nothing yet" : `Moves ${routes.length} value${routes.length === 1 ? "" : "s"}`}
      </h3>
      <ul className="flex flex-col gap-1.5">
        {routes.map((r) => (
          <RouteCard key={r.id} route={r} show="target" fresh={r.id === fresh} />
        ))}
      </ul>
      {editable && <PasteRoute source={source} />}
      {editable && part.patch.routes.length < MAX_ROUTES && (
        <Adder
          text="Add a target"
          options={targetsOf(part.patch, songModules)
            .filter(offered)
            .map((t, _, all) => ({ value: t.address, text: targetText(t, all) }))}
          onAdd={(address) => add(source, address as Address)}
        />
      )}
    </section>
  );
}

/** Offers the modulation that was copied, from this source. */
function PasteRoute({ source }: { source: string }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const songModules = useProject((s) => s.project.modules);
  const clip = useStore(clipboard, (c) => c.clip);
  const target = clip?.kind === "route" ? targetAt(part.patch, songModules, clip.route.target) : null;
  if (clip?.kind !== "route" || !target || part.patch.routes.length >= MAX_ROUTES) return null;
  const route = { ...clip.route, id: newId(), source, scaledBy: null };
  return (
    <button
      type="button"
      className="link mt-1.5 mr-3"
      onClick={() => store.edit(`Paste ${sourceOf(part, songModules, source).name} to ${target.label}`, addRoute(part.id, route))} // prettier-ignore
    >
      Paste {target.label.toLowerCase()} {formatAmount(route.amount, route.amplitude ? "%" : target.move.unit, 1, true)}
    </button>
  );
}

/** Everything that moves one value. */
export function MovedBy({ target }: { target: Address }) {
  const part = usePart();
  const editable = useEditable();
  const { add, fresh } = useAdd();
  const routes = part.patch.routes.filter((r) => r.target === target);
  const songModules = useProject((s) => s.project.modules);
  return (
    <section>
      <h3 className="heading mb-1.5">
        {targetAt(part.patch, songModules, target)?.label}:{" "}
        {routes.length === 0 ? "moved by nothing" : `moved by ${routes.length}`}
      </h3>
      <ul className="flex flex-col gap-1.5">
        {routes.map((r) => (
          <RouteCard key={r.id} route={r} show="source" fresh={r.id === fresh} />
        ))}
      </ul>
      {editable && part.patch.routes.length < MAX_ROUTES && (
        <Adder
          text="Add a source"
          options={sourcesOf(part.patch, songModules).map((s) => ({ value: s.id, text: s.name }))}
          onAdd={(s) => add(s, target)}
        />
      )}
    </section>
  );
}

function Adder({
  text,
  options,
  onAdd,
}: {
  text: string;
  options: { value: string; text: string }[];
  onAdd: (value: string) => void;
}) {
  const [value, setValue] = useState("");
  // What was chosen may be gone meanwhile.
  const chosen = options.some((o) => o.value === value) ? value : "";
  const add = (): void => {
    if (chosen) onAdd(chosen);
    setValue("");
  };
  return (
    <div
      className="mt-1.5 flex items-center gap-1"
      onKeyDown={(e) => {
        if (e.key !== "Enter" || !(e.target instanceof HTMLSelectElement) || !chosen) return;
        e.preventDefault();
        add();
      }}
    >
      <Select
        label={text}
        className="link min-w-0 bg-transparent"
        value={chosen}
        options={[{ value: "", text: `${text}…` }, ...options]}
        onChange={setValue}
      />
      {chosen && (
        <button type="button" className="chip" onClick={add}>
          Add
        </button>
      )}
    </div>
  );
}
