import { useCallback, useMemo } from "react";
import { framesShown, waveShape } from "@/core/dsp/waveShape";
import { drawnHarmonics, ownFrames, weightedAt } from "@/core/dsp/tables";
import type { Oscillator } from "@/core/patch/kinds/oscillator";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { BEND_TEXT, tableText } from "./oscillatorText";
import { WAVE_TEXT } from "../score/stripList";
import { useCycles } from "./recordings";
import { useMovedWave } from "./useMovedWave";

const HEIGHT = 64;
const FRAMES_SHOWN = 16;

function drawCycle(
  { g }: Surface,
  cycle: Float64Array,
  left: number,
  top: number,
  width: number,
  height: number,
): void {
  g.beginPath();
  for (let x = 0; x <= width; x++) {
    const y = cycle[Math.min(cycle.length - 1, Math.round((x / width) * (cycle.length - 1)))]!;
    g.lineTo(left + x, top + height / 2 - (Math.max(-1.15, Math.min(1.15, y)) * height) / 2.4);
  }
  g.stroke();
}

/**
 * One cycle of the wave as it is bent, and as it sounds while it plays; of a table all of its frames, one behind the other. It
 * stays in sight while what bends it is scrolled to.
 */
export function WavePlot({ oscillator: o }: { oscillator: Oscillator }) {
  const { position, weighting } = o.values;
  const { wave } = o.choices;
  const moved = useMovedWave(o);
  const cycles = useCycles(o);
  const still = useMemo(() => waveShape(o, {}, cycles), [o, cycles]);
  const heard = useMemo(() => (moved ? waveShape(o, moved, cycles) : null), [o, moved, cycles]);
  const frames = useMemo(() => {
    if (wave === "table") return framesShown(ownFrames(o.data.table), FRAMES_SHOWN);
    if (wave === "harmonics") return framesShown([0, 25, 50, 75, 100].map((a) => weightedAt(o.data.weights, a)), FRAMES_SHOWN);
    if (wave === "cycles") return cycles && cycles.length > 1 ? framesShown(cycles, FRAMES_SHOWN) : null;
    return wave === "drawn" && o.data.drawn.length > 1 ? framesShown(o.data.drawn.map(drawnHarmonics), FRAMES_SHOWN) : null;
  }, [wave, o.data.table, o.data.drawn, o.data.weights, cycles]);
  const place = wave === "harmonics" ? (moved?.weighting ?? weighting) : (moved?.position ?? position);
  const paint = useCallback(
    (s: Surface) => {
      const { g, width, height, palette } = s;
      const room = frames ? width * 0.55 : width;
      g.fillStyle = palette.line2;
      g.fillRect(0, Math.round(height / 2), room - 4, 1);
      g.lineWidth = 1.5;
      g.strokeStyle = palette.ink;
      g.globalAlpha = heard ? 0.4 : 1;
      drawCycle(s, still, 2, 0, room - 8, height);
      g.globalAlpha = 1;
      if (heard) {
        g.strokeStyle = palette.heard;
        drawCycle(s, heard, 2, 0, room - 8, height);
      }
      if (!frames) return;
      // From the first frame in front to the last one behind; the one that is read stands out.
      const read = Math.round((place / 100) * (frames.length - 1));
      const step = (height - 22) / Math.max(1, frames.length - 1);
      const slant = 14 / Math.max(1, frames.length - 1);
      for (let i = frames.length - 1; i >= 0; i--) {
        g.lineWidth = i === read ? 1.6 : 0.7;
        g.strokeStyle = i === read ? (moved ? palette.heard : palette.ink) : palette.ink2;
        g.globalAlpha = i === read ? 1 : 0.45;
        drawCycle(s, frames[i]!, room + 4 + i * slant, height - 22 - i * step, width - room - 22, 20);
      }
      g.globalAlpha = 1;
    },
    [still, heard, frames, place, moved],
  );
  const { bend1: first, bend2: second } = o.choices;
  const bends = [first, second].filter((b) => b !== "none").map((b) => BEND_TEXT[b]);
  return (
    <canvas
      ref={useCanvas(paint)}
      className="sticky top-0 z-10 my-1 block w-full bg-paper"
      style={{ height: HEIGHT }}
      role="img"
      aria-label={`Wave of ${o.name}: ${wave === "table" ? tableText(o) : WAVE_TEXT[wave]}${bends.length > 0 ? `, ${bends.join(", ")}` : ""}`}
    />
  );
} // prettier-ignore
