import { useState } from "react";
import { splitAddress, type Address } from "@/core/patch/address";
import { newRoute } from "@/core/patch/defaults";
import { MAX_ROUTES } from "@/core/patch/project";
import { sourcesOf, targetsOf } from "@/core/patch/targets";
import { editPatch } from "@/state/edits";
import { newId } from "@/state/ids";
import { Dialog, DialogButtons } from "@/ui/Dialog";
import { SelectRow } from "@/ui/Select";
import { inUse } from "@/core/patch/inUse";
import { usePart, useProject, useStudio } from "@/views/studio/studio";

/** One source onto as many values as are ticked, in one action. */
export function AddRoutes({ onClose }: { onClose: (added: readonly string[]) => void }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const songModules = useProject((s) => s.project.modules);
  const sources = sourcesOf(part.patch, songModules);
  const [source, setSource] = useState(sources[0]!.id);
  const [wanted, setWanted] = useState("");
  const [ticked, setTicked] = useState<ReadonlySet<Address>>(new Set());
  const room = MAX_ROUTES - part.patch.routes.length;
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const targets = targetsOf(part.patch, songModules)
    .filter((t) => splitAddress(t.address).owner !== source)
    .map((t) => ({ t, text: `${t.of}: ${t.label.toLowerCase()}${inUse(part.patch, t.address) ? "" : ", not in use now"}` }))
    .sort((a, b) => Number(!inUse(part.patch, a.t.address)) - Number(!inUse(part.patch, b.t.address)))
    .filter(({ text }) => words.every((w) => text.toLowerCase().includes(w)));
  const name = sources.find((s) => s.id === source)?.name ?? source;
  const add = (): void => {
    const ids = [...ticked].map((address) => ({ id: newId(), address }));
    // Each with the amount that a first try of its kind takes.
    const first = new Map(targetsOf(part.patch, songModules).map((t) => [t.address, t.move.first]));
    store.edit(
      `Move ${ids.length} values with ${name}`,
      editPatch(part.id, (p) => ({ ...p, routes: [...p.routes, ...ids.map(({ id, address }) => newRoute(id, source, address, first.get(address) ?? 0))] })),
    );
    onClose(ids.map(({ id }) => id));
  };
  return (
    <Dialog title="Move values with a source" onClose={() => onClose([])}>
      <SelectRow label="Source" value={source} options={sources.map((s) => ({ value: s.id, text: s.name }))} onChange={setSource} />
      <input className="field mt-2 w-full" aria-label="Find a value" placeholder="find a value" value={wanted} onChange={(e) => setWanted(e.currentTarget.value)} />
      <fieldset className="mt-2 max-h-[280px] overflow-y-auto border border-line px-2 py-1">
        <legend className="sr-only">Values to move</legend>
        {targets.map(({ t, text }) => (
          <label key={t.address} className="flex items-center gap-2 py-[2px] text-[12px]">
            <input
              type="checkbox"
              checked={ticked.has(t.address)}
              disabled={!ticked.has(t.address) && ticked.size >= room}
              onChange={(e) => {
                const next = new Set(ticked);
                if (e.currentTarget.checked) next.add(t.address);
                else next.delete(t.address);
                setTicked(next);
              }}
            />
            {text}
          </label>
        ))}
        {targets.length === 0 && <p className="text-ink2">No value has such a name.</p>}
      </fieldset>
      <p className="mt-1 text-[11px] text-ink2">Each begins with an amount to hear it by; set them in the book, or together.</p>
      <DialogButtons>
        <button type="button" className="chip" onClick={() => onClose([])}>
          Cancel
        </button>
        <button type="button" className="chip" data-on="true" disabled={ticked.size === 0} onClick={add}>
          {ticked.size === 0 ? "Move them" : ticked.size === 1 ? "Move 1 value" : `Move ${ticked.size} values`}
        </button>
      </DialogButtons>
    </Dialog>
  );
} // prettier-ignore
