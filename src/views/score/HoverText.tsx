import { useRef, type PointerEvent } from "react";
import { formatPosition, stepTicks } from "@/core/time/meter";
import { useProject } from "@/views/studio/studio";
import { xToTick, type Timeline } from "./timeline";

/** Position and value under the pointer, beside it. What is shown is written straight into the page: nothing is drawn anew. */
export function HoverText({
  timeline,
  describe,
}: {
  timeline: Timeline;
  /** What stands at a tick; null where nothing does. */
  describe: (tick: number) => string | null;
}) {
  const meter = useProject((s) => s.project.song.meter);
  const box = useRef<HTMLDivElement>(null);
  const follow = (e: PointerEvent<HTMLDivElement>): void => {
    const element = box.current;
    if (!element) return;
    const { left, width } = e.currentTarget.getBoundingClientRect();
    const x = e.clientX - left;
    const tick = Math.max(0, xToTick({ ...timeline, width }, x));
    const step = stepTicks(meter);
    const what = describe(tick);
    element.textContent = `${formatPosition(Math.floor(tick / step) * step, meter)}${what === null ? "" : `  ${what}`}`;
    element.style.visibility = "visible";
    const leftward = x > width / 2;
    element.style.left = leftward ? "auto" : `${x + 12}px`;
    element.style.right = leftward ? `${width - x + 12}px` : "auto";
  };
  return (
    <div
      className="absolute inset-0 z-30"
      onPointerMove={follow}
      onPointerLeave={() => {
        if (box.current) box.current.style.visibility = "hidden";
      }}
    >
      <div
        ref={box}
        className="pointer-events-none invisible absolute top-1 bg-ink px-1.5 py-[1px] text-[11px] whitespace-pre text-sheet"
        data-testid="strip-read-out"
      />
    </div>
  );
}
