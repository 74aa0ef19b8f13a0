import { useCallback } from "react";
import { loopTicks } from "@/core/pattern/events";
import type { Kind } from "@/ui/ValueRow";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useProject } from "@/views/studio/studio";
import { barTicks } from "@/core/time/meter";
import { paintTracks, type Track } from "../score/paint";
import { rangeOf } from "../score/heardTracks";

interface Line {
  readonly tracks: readonly Track[];
  readonly kind: Kind;
  /** What is lowest and highest in it; its own reach where nothing is said. */
  readonly range?: { readonly low: number; readonly high: number } | null;
  /** Frequencies and ratios: octaves are alike high. */
  readonly log?: boolean;
}

/** Curves over the whole loop, each over its own reach, with a line a bar. */
export function MiniCurve({ lines, label, height }: { lines: readonly Line[]; label: string; height: number }) {
  const song = useProject((s) => s.project.song);
  const paint = useCallback(
    (s: Surface) => {
      const { g, width, palette } = s;
      const ticks = loopTicks(song);
      g.fillStyle = palette.line2;
      for (let at = 0; at <= ticks; at += barTicks(song.meter)) g.fillRect(Math.round((at / ticks) * (width - 1)), 0, 1, s.height);
      for (const { tracks, kind, log = false, range: said } of lines) {
        const range = said ?? rangeOf(tracks);
        if (!range) continue;
        const of = (v: number): number => (log ? Math.log2(Math.max(1e-9, v)) : v);
        const span = of(range.high) - of(range.low);
        const toY = (v: number): number => (span < 1e-9 ? s.height / 2 : s.height - 3 - ((of(v) - of(range.low)) / span) * (s.height - 6)); // prettier-ignore
        paintTracks(s, { fromTick: 0, ticks, width }, tracks, toY, palette[kind]);
      }
    },
    [song, lines],
  );
  return <canvas ref={useCanvas(paint)} className="block w-full" style={{ height }} role="img" aria-label={label} />;
} // prettier-ignore
