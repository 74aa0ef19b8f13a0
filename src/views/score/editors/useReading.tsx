import { useState, type ReactNode } from "react";
import type { Route } from "@/core/patch/project";
import { targetAt } from "@/core/patch/targets";
import { Select } from "@/ui/Select";
import { usePart, useProject } from "@/views/studio/studio";
import { PERCENT, routeReading, type ValueReading } from "./shapeAxes";

/**
 * What a modulator's values are read as: percent, or what one of its routes makes of them, a pitch before others. With the
 * list that chooses it.
 */
export function useReading(source: string): { reading: ValueReading; chosen: Route | undefined; select: ReactNode } {
  const part = usePart();
  const key = useProject((s) => s.project.song.key);
  const songModules = useProject((s) => s.project.modules);
  const [readAs, setReadAs] = useState<string>("");
  const routes = part.patch.routes.filter((r) => r.source === source);
  const targetOf = (address: (typeof routes)[number]["target"]) => targetAt(part.patch, songModules, address);
  const chosen =
    routes.find((r) => r.id === readAs) ??
    (readAs === "percent" ? undefined : (routes.find((r) => targetOf(r.target)?.move.unit === "st") ?? routes[0]));
  const target = chosen ? targetOf(chosen.target) : null;
  return {
    reading: chosen && target ? routeReading(chosen, target, key) : PERCENT,
    chosen,
    select: (
      <Select
        label="Read values as"
        className="chip"
        value={chosen?.id ?? "percent"}
        options={[
          { value: "percent", text: "values in percent" },
          ...routes.map((r) => ({
            value: r.id,
            text: `values for ${targetOf(r.target)?.label.toLowerCase() ?? r.target}`,
          })),
        ]}
        onChange={setReadAs}
      />
    ),
  };
}
