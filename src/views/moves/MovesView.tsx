import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type MouseEvent } from "react";
import { MAX_ROUTES } from "@/core/patch/project";
import { withoutRoutes } from "@/core/patch/edit";
import { editPatch } from "@/state/edits";
import { Choices } from "@/ui/Choices";
import { Select } from "@/ui/Select";
import { useEditable, usePart, useProject, useStudio } from "@/views/studio/studio";
import { AddRoutes } from "./AddRoutes";
import { ChosenRoutes } from "./ChosenRoutes";
import { HeardLine } from "./HeardLine";
import { COLUMNS, RouteLine } from "./RouteLine";
import { accountsOf, restText, type Account, type Order, type Side } from "./accounts";

const ORDER_TEXT: Record<Order, string> = { sound: "in the order of the sound", name: "by name", count: "most routes first" }; // prettier-ignore

/** An account book of everything that moves: by what is moved, or by what moves it. */
export function MovesView() {
  const { view, workspace } = useStudio();
  const part = usePart();
  const editable = useEditable();
  const songModules = useProject((s) => s.project.modules);
  const [side, setSide] = useState<Side>("moved");
  const [order, setOrder] = useState<Order>("sound");
  const [wanted, setWanted] = useState("");
  const [adding, setAdding] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    view.setState({ movesOpen: true });
    return () => view.setState({ movesOpen: false, fullRoute: null });
  }, [view]);
  const { patch } = part;
  const accounts = useMemo(() => accountsOf(patch, songModules, side, order, wanted), [patch, songModules, side, order, wanted]); // prettier-ignore
  const lines = accounts.flatMap((a) => a.routes);
  const picked = lines.filter((r) => chosen.has(r.id));
  const choose = (id: string, e: Pick<MouseEvent, "ctrlKey" | "metaKey" | "shiftKey">): void => {
    if (e.ctrlKey || e.metaKey) {
      const next = new Set(chosen);
      if (!next.delete(id)) next.add(id);
      return setChosen(next);
    }
    const last = lines.findIndex((r) => chosen.has(r.id));
    const at = lines.findIndex((r) => r.id === id);
    if (!e.shiftKey || last === -1) return setChosen(new Set([id]));
    setChosen(new Set(lines.slice(Math.min(last, at), Math.max(last, at) + 1).map((r) => r.id)));
  };
  const onKeyDown = (id: string, e: KeyboardEvent<HTMLElement>): void => {
    // Keys on a value or a list are theirs.
    if (e.target !== e.currentTarget || e.altKey) return;
    const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    const at = lines.findIndex((r) => r.id === id);
    if (by !== undefined) {
      const next = lines[Math.min(lines.length - 1, Math.max(0, at + by))]!;
      list.current?.querySelector<HTMLElement>(`[data-route="${next.id}"]`)?.focus();
      choose(next.id, e.shiftKey ? { ...KEYED, ctrlKey: !chosen.has(next.id) } : KEYED);
    } else if (e.key === "Enter") {
      choose(id, e);
      e.currentTarget.querySelector<HTMLElement>("[role=slider]")?.focus();
    } else if (e.key === "Escape") setChosen(new Set());
    else if ((e.key === "Delete" || e.key === "Backspace") && editable) {
      const gone = chosen.has(id) ? chosen : new Set([id]);
      workspace.store.edit(gone.size === 1 ? "Remove a route" : `Remove ${gone.size} routes`, editPatch(part.id, (p) => withoutRoutes(p, (r) => gone.has(r.id)))); // prettier-ignore
    } else if (e.key.toLowerCase() === "a" && (e.ctrlKey || e.metaKey)) setChosen(new Set(lines.map((r) => r.id)));
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const values = new Set(patch.routes.map((r) => r.target)).size;
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_232px] xl:grid-cols-[minmax(0,1fr)_276px]">
      <div className="grid min-h-0 grid-rows-[auto_auto_minmax(0,1fr)]">
        <header className="flex flex-wrap items-center gap-2 border-b border-line bg-paper px-3 py-1.5">
          <h1 className="max-w-[220px] truncate text-[14px] font-bold" title={`Moves of ${part.name}`}>
            Moves of {part.name}
          </h1>
          <span className="text-[12px] text-ink2">
            {plural(patch.routes.length, "route")} onto {plural(values, "value")}
          </span>
          <span className="ml-auto" />
          <Choices
            label="Book"
            hidden
            value={side}
            options={[
              { value: "moved", text: "by what is moved" },
              { value: "moves", text: "by what moves it" },
            ]}
            onChange={setSide}
          />
          <Select
            label="Order of the book"
            className="chip"
            value={order}
            options={(Object.keys(ORDER_TEXT) as Order[]).map((o) => ({ value: o, text: ORDER_TEXT[o] }))}
            onChange={setOrder}
          />
          <input
            className="field w-[150px]"
            aria-label="Find a source or a value"
            placeholder="find a source or a value"
            value={wanted}
            onChange={(e) => setWanted(e.currentTarget.value)}
          />
          <button
            type="button"
            className="chip"
            data-on="true"
            disabled={!editable || patch.routes.length >= MAX_ROUTES}
            title={patch.routes.length >= MAX_ROUTES ? `A part holds ${MAX_ROUTES} routes` : "One source onto one value, or many"}
            onClick={() => setAdding(true)}
          >
            Add routes
          </button>
        </header>
        <div className={`${COLUMNS} border-b border-line bg-paper px-3 py-1 text-[11px] text-ink2`} aria-hidden>
          <span>{side === "moved" ? "source" : "value"}</span>
          <span>over the loop</span>
          <span>amount, in the value’s unit</span>
          <span>scaled by</span>
          <span>bend</span>
          <span />
        </div>
        <div ref={list} className="min-h-0 overflow-y-auto bg-sheet" role="group" aria-label={`Moves of ${part.name}`}>
          {accounts.map((account) => (
            <section key={account.id} aria-label={`${account.title}${account.of ? `, ${account.of}` : ""}`} className={side === "moves" ? "border-b border-ink" : ""}>
              <AccountHead account={account} />
              <div role="list" aria-label={`Routes of ${account.title}`}>
              {account.routes.map((r) => (
                <RouteLine key={r.id} route={r} side={side} chosen={chosen.has(r.id)} onChoose={(e) => choose(r.id, e)} onKeyDown={(e) => onKeyDown(r.id, e)} />
              ))}
              </div>
              {account.target && <HeardLine target={account.target} onAdded={(id) => setChosen(new Set([id]))} />}
            </section>
          ))}
          {accounts.length === 0 && (
            <p className="p-4 text-ink2">
              {patch.routes.length === 0 ? "Nothing moves yet: add a route, or a shape on the score." : "No source and no value has such a name."}
            </p>
          )}
        </div>
      </div>
      <aside className="min-h-0 overflow-y-auto border-l border-line bg-paper px-3 py-3" aria-label="Chosen routes">
        <fieldset disabled={!editable} className="flex min-w-0 flex-col gap-3">
          <ChosenRoutes routes={picked} />
        </fieldset>
      </aside>
      {adding && (
        <AddRoutes
          onClose={(added) => {
            setAdding(false);
            if (added.length > 0) setChosen(new Set(added));
          }}
        />
      )}
    </div>
  );
} // prettier-ignore

const KEYED = { ctrlKey: false, metaKey: false, shiftKey: false };
const plural = (count: number, one: string): string => `${count} ${one}${count === 1 ? "" : "s"}`;

function AccountHead({ account: { title, of, target } }: { account: Account }) {
  const part = usePart();
  const rest = target ? restText(part.patch, target) : "";
  return (
    <h2 className="flex items-baseline gap-2 px-3 pt-2 pb-1">
      <span className="min-w-0 truncate text-[14px] font-bold" title={title}>{title}</span>
      <span className="min-w-0 truncate text-[12px] font-normal text-ink2">{of}</span>
      {rest && (
        <span className="ml-auto shrink-0 text-[12px] font-normal text-ink2">
          at rest <b className="font-semibold text-ink">{rest}</b>
        </span>
      )}
    </h2>
  );
} // prettier-ignore
