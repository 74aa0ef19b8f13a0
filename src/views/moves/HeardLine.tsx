import { useMemo } from "react";
import type { Target } from "@/core/patch/targets";
import { sourcesOf } from "@/core/patch/targets";
import { newRoute } from "@/core/patch/defaults";
import { MAX_ROUTES } from "@/core/patch/project";
import { addRoute } from "@/state/edits";
import { newId } from "@/state/ids";
import { Select } from "@/ui/Select";
import { useEditable, useHeard, usePart, useProject, useStudio } from "@/views/studio/studio";
import { rangeOf, tracksOfSides } from "../score/heardTracks";
import { SeeHeard } from "../score/inspector/Routes";
import { MiniCurve } from "./MiniCurve";
import { COLUMNS } from "./RouteLine";
import { rangeText } from "./accounts";

/** Levels below this are drawn as this: what is silent tells nothing of the rest. */
const LOWEST_DB = -48;

/** Below the double rule: what is heard of a value in the end, and the range that it reaches. */
export function HeardLine({ target, onAdded }: { target: Target; onAdded: (routeId: string) => void }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const song = useProject((s) => s.project.song);
  const songModules = useProject((s) => s.project.modules);
  const partIndex = useProject((s) => s.project.parts.indexOf(part));
  const { heard, program } = useHeard();
  const sides = useMemo(
    () => (heard && program ? tracksOfSides(heard, program, partIndex, part.patch, target.address) : []),
    [heard, program, partIndex, part.patch, target.address],
  );
  const range = useMemo(() => rangeOf(sides.flat()), [sides]);
  const { row } = target;
  const lines = useMemo(
    () => sides.map((tracks) => ({ tracks, kind: "heard" as const, log: row?.taper === "log", range: range && row?.unit === "dB" ? { ...range, low: Math.max(LOWEST_DB, range.low) } : range })),
    [sides, row, range],
  );
  const said = range && rangeText(part.patch, target, range, song);
  const add = (source: string): void => {
    const id = newId();
    if (store.edit(`Add a source to ${target.label}`, addRoute(part.id, newRoute(id, source, target.address, 0)))) onAdded(id);
  };
  return (
    <div className={`${COLUMNS} min-h-[30px] border-t-[3px] border-double border-ink2 border-b border-b-ink px-3`}>
      <b className="text-[12px] font-semibold text-heard">As heard</b>
      <MiniCurve lines={lines} label={`${target.label}, as heard: ${said?.text ?? "nothing sounds"}`} height={26} />
      <span className="text-[12px]">
        <b className="font-semibold">{said?.text ?? (heard ? "nothing sounds yet" : "")}</b>
        {said?.held && <span className="text-ink2">, held at {said.held}</span>}
      </span>
      <span className="col-span-3 flex items-center gap-3 justify-self-end">
        <SeeHeard address={target.address} text="on the grid" />
        {editable && part.patch.routes.length < MAX_ROUTES && (
          <Select
            label={`Add a source to ${target.label} of ${target.of}`}
            className="link min-w-0 bg-transparent text-[12px]"
            value=""
            options={[{ value: "", text: "+ add a source" }, ...sourcesOf(part.patch, songModules).map((s) => ({ value: s.id, text: s.name }))]}
            onChange={(id) => id !== "" && add(id)}
          />
        )}
      </span>
    </div>
  );
} // prettier-ignore
