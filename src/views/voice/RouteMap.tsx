import { useEffect, useMemo, useRef } from "react";
import { gainToDb } from "@/core/dsp/portableMath";
import { isSource } from "@/core/engine/program";
import { READINGS, onFrame, setStyle } from "@/ui/frames";
import { destinationsOf, possibleDestinations, withCable } from "@/core/patch/edit";
import { kindOf, modulesOf, type Module } from "@/core/patch/kinds";
import { AMP } from "@/core/patch/kinds/amp";
import { FILTER } from "@/core/patch/kinds/filter";
import { editPatch } from "@/state/edits";
import { useEditable, useHeard, usePart, useStudio } from "@/views/studio/studio";
import { FILTER_TEXT } from "../score/stripList";

/** Levels below this are not seen. */
const FLOOR_DB = -48;

/** How loud a source is now, before filters and amp. */
function SourceLevel({ place, name }: { place: number; name: string }) {
  const { session } = useStudio();
  const bar = useRef<HTMLSpanElement>(null);
  useEffect(
    () =>
      onFrame(() => {
        const db = gainToDb(session.sourceLevel(place));
        if (bar.current)
          setStyle(bar.current, "width", `${Math.round(Math.max(0, Math.min(1, 1 - db / FLOOR_DB)) * 100)}%`);
      }, READINGS),
    [session, place],
  );
  return (
    <span className="absolute right-2 bottom-0 left-0 h-[3px] bg-line2" role="img" aria-label={`How loud ${name} is`}>
      <span ref={bar} className="absolute inset-y-0 left-0 bg-heard" data-level={place} />
    </span>
  );
}

/**
 * Which source goes through what: a line each, with a knot where it ends. Knots are set and taken away by a click, or by
 * Enter where they have the focus. Sources that are off are thin, filters that are off are named so.
 */
export function RouteMap() {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const { patch } = part;
  const sources = patch.modules.filter((m) => kindOf(m).role === "source");
  const filters = modulesOf(patch.modules, FILTER);
  const amp = modulesOf(patch.modules, AMP)[0]!;
  const columns: Module[] = [...filters, amp];
  const rows: Module[] = [...sources, ...filters];
  const { program } = useHeard();
  const places = useMemo(() => {
    const sounding = program?.parts.find((p) => p.id === part.id)?.sound.modules.filter(isSource) ?? [];
    return new Map(sounding.map((m, i) => [m.id, i]));
  }, [program, part.id]);
  const about = (m: Module): string => {
    if (m.kind === "filter") return m.on ? FILTER_TEXT[m.choices.type] : "off: sound passes through";
    return m.kind === "amp" ? "to the part's level" : "";
  };
  return (
    <section aria-label="Route map" className="overflow-x-auto border-b border-line bg-sheet px-3 pt-2 pb-2">
      <table className="w-full max-w-[860px] border-collapse text-[12px]">
        <thead>
          <tr>
            <th scope="col" className="w-[116px] text-left text-[11px] font-normal text-ink2">
              goes to
            </th>
            {columns.map((c) => (
              <th key={c.id} scope="col" className="px-1 text-center leading-[14px]">
                <span className="block truncate font-semibold">{c.name}</span>
                <span className="block truncate text-[10px] font-normal text-ink2">{about(c)}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((m) => {
            const to = destinationsOf(patch, m.id);
            const possible = new Set(possibleDestinations(patch, m.id).map((p) => p.id));
            const last = columns.findLastIndex((c) => to.includes(c.id));
            return (
              <tr key={m.id} className="h-[19px]">
                <th scope="row" className={`relative truncate pr-2 text-left font-semibold ${m.on ? "" : "text-ink2"}`}>
                  {m.name}
                  {!m.on && <span className="font-normal"> (off)</span>}
                  {places.has(m.id) && <SourceLevel place={places.get(m.id)!} name={m.name} />}
                </th>
                {columns.map((c, i) => {
                  const on = to.includes(c.id);
                  const can = possible.has(c.id);
                  const only = on && to.length === 1;
                  return (
                    <td key={c.id} className="relative p-0 text-center">
                      <span
                        aria-hidden
                        className={`absolute top-1/2 left-0 ${i < last ? "right-0" : i === last ? "right-1/2" : "hidden"} ${m.on ? "h-[2px] -translate-y-px bg-ink" : "border-t border-dashed border-ink2"}`}
                      />
                      {can && (
                        <button
                          type="button"
                          role="checkbox"
                          aria-checked={on}
                          aria-label={`${m.name} goes to ${c.name}`}
                          disabled={!editable || only}
                          title={only ? "Sound that goes nowhere is not heard: choose another one first" : `${m.name} ${on ? "goes" : "does not go"} to ${c.name}${c.kind === "filter" && !c.on ? ", which is off" : ""}`}
                          className={`relative mx-auto block h-[13px] w-[13px] cursor-pointer rounded-full border-2 disabled:cursor-default ${on ? "border-ink bg-ink" : "border-line bg-sheet hover:border-ink2"} ${on && c.kind === "filter" && !c.on ? "!border-warn !bg-warn" : ""}`}
                          onClick={() =>
                            store.edit(`${on ? "Don't send" : "Send"} ${m.name} to ${c.name}`, editPatch(part.id, (p) => withCable(p, m.id, c.id, !on)))
                          }
                        />
                      )}
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
} // prettier-ignore
