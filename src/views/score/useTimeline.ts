import { loopTicks } from "@/core/pattern/events";
import { useProject, useView } from "@/views/studio/studio";
import { clampScroll } from "@/views/studio/viewStore";
import type { Timeline } from "./timeline";

/** The stretch of the loop that is in sight, drawn over `width` pixels. */
export function useTimeline(width: number): Timeline & { readonly loop: number } {
  const loop = useProject((s) => loopTicks(s.project.song));
  const zoom = useView((v) => v.zoom);
  const scroll = useView((v) => v.scrollTick);
  return { fromTick: clampScroll(scroll, zoom, loop), ticks: loop / zoom, width, loop };
}
