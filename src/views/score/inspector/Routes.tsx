import { X } from "lucide-react";
import { TARGET_IDS, moved, parameter, toNorm, type Parameter, type TargetId } from "@/core/patch/parameters";
import { formatAmount, formatValue, parseAmount } from "@/core/patch/valueText";
import { MAX_ROUTES, type Part, type Route } from "@/core/patch/project";
import { addRoute, editRoute, removeRoute } from "@/state/edits";
import { Select } from "@/ui/Select";
import { ValueRow, kindColour, type Kind } from "@/ui/ValueRow";
import type { HandledValue } from "@/ui/useValueHands";
import { useEditable, usePart, useStudio } from "@/views/studio/studio";

/** The name of a route's source, and the colour of its kind. */
function sourceOf(part: Part, source: string): { name: string; kind: Kind } {
  if (source === "velocity" || source === "key")
    return { name: source === "velocity" ? "Velocity" : "Key", kind: "notes" };
  const modulator = part.patch.modulators.find((m) => m.id === source);
  return { name: modulator?.name ?? source, kind: modulator?.kind ?? "shape" };
}

/** An amount for the hands: both ways from the middle, in the target's unit. */
function amountValue(p: Parameter, amount: number, set: (amount: number, gesture?: string) => void): HandledValue {
  const { unit, reach } = p.move!;
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
    setNorm: (norm, g) => set(tidy(unit === "st" ? Math.round((norm * 2 - 1) * reach) : (norm * 2 - 1) * reach), g),
    step: (direction, size, g) => {
      const by = unit === "oct" ? 1 / 12 : 1;
      set(tidy(amount + direction * (size === "fine" ? by / (small ? 12 : 10) : size === "page" ? by * 10 : by)), g);
    },
    type: (text) => {
      const read = parseAmount(text, unit);
      if (read !== null) set(tidy(read));
      return read !== null;
    },
    reset: () => set(0),
  };
}

/** What the target does at full amount, in words: "at rest 420 Hz, reaches 2.2 kHz". */
function reachText(p: Parameter, rest: number, route: Route): string {
  if (p.id === "osc.pitch")
    return route.amount === 0 ? "moves nothing yet" : `up to ${formatAmount(route.amount, "st", 1, true)}`;
  const full = moved(p, rest, route.amount);
  const verb = route.amount < 0 ? "falls to" : "reaches";
  return `at rest ${formatValue(p, rest)}, ${verb} ${formatValue(p, full)}`;
}

/** One modulation: what moves what, by how much, and whether it is on. */
function RouteCard({ route, show }: { route: Route; show: "source" | "target" }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const p = parameter(route.target);
  const source = sourceOf(part, route.source);
  const name = show === "target" ? p.label : source.name;
  const rest = part.patch.values[route.target];
  const change = (next: Partial<Route>, label: string, gesture?: string): void =>
    void store.edit(label, editRoute(part.id, route.id, next), gesture);
  return (
    <li
      className={`border border-line bg-sheet px-2 pt-1.5 pb-2 ${route.on ? "" : "opacity-60"}`}
      aria-label={`${source.name} to ${p.label}`}
    >
      <div className="flex items-center justify-between gap-1">
        <span
          className="truncate font-semibold"
          style={{ color: show === "source" ? kindColour(source.kind) : undefined }}
        >
          {name}
        </span>
        <span className="flex gap-1">
          <button
            type="button"
            className="chip px-1 py-0"
            aria-pressed={route.on}
            disabled={!editable}
            onClick={() =>
              change({ on: !route.on }, `${route.on ? "Switch off" : "Switch on"} ${source.name} to ${p.label}`)
            }
          >
            on
          </button>
          <button
            type="button"
            className="chip px-1 py-0"
            aria-pressed={route.reversed}
            disabled={!editable}
            title="Full amount where the source is lowest"
            onClick={() => change({ reversed: !route.reversed }, `Reverse ${source.name} to ${p.label}`)}
          >
            reversed
          </button>
          <button
            type="button"
            className="cursor-pointer text-ink2 hover:text-ink"
            disabled={!editable}
            aria-label={`Remove ${source.name} to ${p.label}`}
            title="Remove"
            onClick={() => store.edit(`Remove ${source.name} to ${p.label}`, removeRoute(part.id, route.id))}
          >
            <X size={13} />
          </button>
        </span>
      </div>
      <ValueRow
        label="Amount"
        kind={source.kind}
        disabled={!editable}
        value={amountValue(p, route.amount, (amount, g) => change({ amount }, `Set ${source.name} to ${p.label}`, g))}
      />
      {p.id !== "osc.pitch" && (
        <ReachBar from={toNorm(p, rest)} to={toNorm(p, moved(p, rest, route.amount))} kind={source.kind} />
      )}
      <div className="text-[11px] text-ink2">{reachText(p, rest, route)}</div>
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
  return (source: string, target: TargetId): void => {
    const amount = { "osc.pitch": 12, "amp.level": -12, "filter.cutoff": 2, "filter.resonance": 20, "amp.pan": 50 }[
      target
    ];
    const name = `Add ${sourceOf(part, source).name} to ${parameter(target).label}`;
    store.edit(name, addRoute(part.id, { id: crypto.randomUUID(), source, target, amount, on: true, reversed: false }));
  };
};

/** Everything that one source moves. */
export function MovesOf({ source }: { source: string }) {
  const part = usePart();
  const editable = useEditable();
  const add = useAdd();
  const routes = part.patch.routes.filter((r) => r.source === source);
  return (
    <section>
      <h3 className="heading mb-1.5">
        {routes.length === 0 ? "Moves nothing yet" : `Moves ${routes.length} value${routes.length === 1 ? "" : "s"}`}
      </h3>
      <ul className="flex flex-col gap-1.5">
        {routes.map((r) => (
          <RouteCard key={r.id} route={r} show="target" />
        ))}
      </ul>
      {editable && part.patch.routes.length < MAX_ROUTES && (
        <Adder
          text="Add a target"
          options={TARGET_IDS.map((t) => ({ value: t, text: parameter(t).label }))}
          onAdd={(t) => add(source, t as TargetId)}
        />
      )}
    </section>
  );
}

/** Everything that moves one value. */
export function MovedBy({ target }: { target: TargetId }) {
  const part = usePart();
  const editable = useEditable();
  const add = useAdd();
  const routes = part.patch.routes.filter((r) => r.target === target);
  const sources = [...part.patch.modulators.map((m) => m.id), "velocity", "key"];
  return (
    <section>
      <h3 className="heading mb-1.5">
        {parameter(target).label}: {routes.length === 0 ? "moved by nothing" : `moved by ${routes.length}`}
      </h3>
      <ul className="flex flex-col gap-1.5">
        {routes.map((r) => (
          <RouteCard key={r.id} route={r} show="source" />
        ))}
      </ul>
      {editable && part.patch.routes.length < MAX_ROUTES && (
        <Adder
          text="Add a source"
          options={sources.map((s) => ({ value: s, text: sourceOf(part, s).name }))}
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
  return (
    <Select
      label={text}
      className="link mt-1.5 bg-transparent"
      value=""
      options={[{ value: "", text: `${text}…` }, ...options]}
      onChange={(v) => {
        if (v) onAdd(v);
      }}
    />
  );
}
