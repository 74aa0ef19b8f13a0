import { useState } from "react";
import { sourcesOf } from "@/core/patch/targets";
import { later } from "@/ui/later";
import { usePart, useProject } from "@/views/studio/studio";
import { bendOf } from "./bend";
import type { WaysProps } from "./Ways";

const Ways = later(() => import("./Ways").then((m) => m.Ways));

/** What else there is to how a route moves its target: open where something of it is in use, and made only then. */
export function RouteWays(props: WaysProps) {
  const { route } = props;
  const part = usePart();
  const songModules = useProject((s) => s.project.modules);
  const bent = bendOf(route.curve);
  const scaling = sourcesOf(part.patch, songModules).find((s) => s.id === route.scaledBy);
  const told = [
    route.around && "around rest",
    route.tap > 0 && `${route.tap}° ahead`,
    route.atStart && "at the start",
    route.amplitude && "of amplitude",
    bent !== 0 && "bent",
    scaling && `scaled by ${scaling.name}`,
  ].filter((t) => typeof t === "string");
  const [open, setOpen] = useState(told.length > 0);
  return (
    <details className="mt-1" open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="flex cursor-pointer justify-between gap-2 text-[11px] text-ink2">
        <span>How</span>
        <span className="truncate">{told.join(", ") || "from rest"}</span>
      </summary>
      {open && <Ways {...props} />}
    </details>
  );
}
