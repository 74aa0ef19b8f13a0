import { useEffect, useRef, useState } from "react";
import { splitAddress, type Address } from "@/core/patch/address";
import { newRoute } from "@/core/patch/defaults";
import { addressOfRow, kindOf, type Module } from "@/core/patch/kinds";
import { MAX_ROUTES } from "@/core/patch/project";
import { inUse } from "@/core/patch/inUse";
import { sourcesOf, targetAt, targetsOf, type Target } from "@/core/patch/targets";
import { formatAmount } from "@/core/patch/valueText";
import { useStore } from "zustand";
import { clipboard } from "@/state/clipboard";
import { addRoute } from "@/state/edits";
import { newId } from "@/state/ids";
import { Select } from "@/ui/Select";
import { PlaceLink, usePlace } from "@/views/studio/places";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { askStrip, sameStrip } from "@/views/studio/viewStore";
import { heardValue } from "../heardTracks";
import { heardAddresses, movedAddresses } from "../heardStrips";
import { RouteCard } from "./RouteCard";
import { sourceOf } from "./routeHands";

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

/** Under which heading targets are listed. */
const GROUPS: Record<Target["role"], string> = {
  source: "Sources",
  effect: "Filters",
  output: "Level and place",
  mix: "Among the parts",
  modulator: "What moves values",
  rule: "Playing",
  automation: "Automation",
  backing: "Backing",
  route: "Amounts of modulations",
};

/** A target among others: with the name of what it belongs to where several have one of its kind. */
const targetText = (t: Target, all: readonly Target[]): string =>
  t.role === "route" || t.role === "modulator" || all.filter((o) => o.label === t.label).length > 1
    ? `${t.of}: ${t.label.toLowerCase()}`
    : t.label;

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
            // What moves itself goes round in circles: not where one begins.
            .filter((t) => splitAddress(t.address).owner !== source)
            .map((t, _, all) => ({
              value: t.address,
              text: targetText(t, all),
              // What would not be heard as things stand comes last.
              group: inUse(part.patch, t.address) ? GROUPS[t.role] : NOT_IN_USE,
            }))
            .sort((a, b) => Number(a.group === NOT_IN_USE) - Number(b.group === NOT_IN_USE))}
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

const NOT_IN_USE = "Not in use now";

/** What moves the values of a module: those of `always`, all that are moved, and the one that has, or had last, the focus. */
export function MovedValues({ module, always = [] }: { module: Module; always?: readonly object[] }) {
  const part = usePart();
  const focused = useView((v) => v.address);
  const { rows, times } = kindOf(module);
  const movable = [...Object.values(rows), ...Object.values(times)].filter((row) => row.move !== null);
  const addresses = new Set([...always, ...movable].map((row) => addressOfRow(module, row)));
  const first = new Set(always.map((row) => addressOfRow(module, row)));
  return [...addresses]
    .filter((a) => first.has(a) || a === focused || part.patch.routes.some((r) => r.target === a))
    .map((address) => <MovedBy key={address} target={address} />);
}

/** Everything that moves one value. */
export function MovedBy({ target }: { target: Address }) {
  const part = usePart();
  const editable = useEditable();
  const { add, fresh } = useAdd();
  const { view } = useStudio();
  const asked = useView((v) => v.moving === target);
  const section = useRef<HTMLElement>(null);
  const onAsked = (): void => {
    section.current?.scrollIntoView({ block: "start" });
    view.setState({ moving: null });
  };
  const routes = part.patch.routes.filter((r) => r.target === target);
  const songModules = useProject((s) => s.project.modules);
  return (
    <section ref={section}>
      <h3 className="heading mb-1.5">
        {targetAt(part.patch, songModules, target)?.label}:{" "}
        {routes.length === 0 ? "moved by nothing" : `moved by ${routes.length}`}
      </h3>
      <ul className="flex flex-col gap-1.5">
        {routes.map((r) => (
          <RouteCard key={r.id} route={r} show="source" fresh={r.id === fresh} />
        ))}
      </ul>
      <SeeHeard address={target} text="See it on the grid, as heard" className="mt-1.5" />
      {editable && part.patch.routes.length < MAX_ROUTES && (
        <Adder
          text="Add a source"
          asked={asked}
          onAsked={onAsked}
          options={sourcesOf(part.patch, songModules).map((s) => ({ value: s.id, text: s.name }))}
          onAdd={(s) => add(s, target)}
        />
      )}
    </section>
  );
}

/** The way to the curve of a value that something moves, as a strip of the score; nothing where that is in view. */
export function SeeHeard({ address, text, className = "" }: { address: Address; text: string; className?: string }) {
  const { view } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const path = usePlace();
  const shown = useView((v) => path === "/" && sameStrip(v.strip, { kind: "heard", address }));
  const usual = heardAddresses(part.patch).includes(address);
  const moved = usual || movedAddresses(part.patch).includes(address);
  if (shown || !moved || !heardValue(part.patch, address, song)) return null;
  return (
    <PlaceLink
      href="/"
      className={`link inline-block text-[12px] ${className}`}
      onClick={() => {
        if (!usual) askStrip(view, part.id, address, true);
        view.setState({ strip: { kind: "heard", address } });
      }}
    >
      {text}
    </PlaceLink>
  );
}

function Adder({
  text,
  options,
  asked = false,
  onAsked,
  onAdd,
}: {
  text: string;
  options: { value: string; text: string; group?: string }[];
  /** Whether it is to take the focus; `onAsked` says that it has. */
  asked?: boolean;
  onAsked?: () => void;
  onAdd: (value: string) => void;
}) {
  const [value, setValue] = useState("");
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!asked) return;
    box.current?.querySelector("select")?.focus();
    onAsked?.();
  }, [asked, onAsked]);
  // What was chosen may be gone meanwhile.
  const chosen = options.some((o) => o.value === value) ? value : "";
  const add = (): void => {
    if (chosen) onAdd(chosen);
    setValue("");
  };
  return (
    <div
      ref={box}
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
