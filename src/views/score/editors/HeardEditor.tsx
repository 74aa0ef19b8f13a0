import { useCallback, useMemo } from "react";
import type { Address } from "@/core/patch/address";
import { spreadOf } from "@/core/measure/spread";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { Toggle } from "@/ui/Toggle";
import { useSize } from "@/ui/useSize";
import { useHeard, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { tracksOfSides, heardScale, heardValue, onScale, ownTracks, rangeOf } from "../heardTracks";
import { Playhead } from "../Playhead";
import { heardTitle, moversOf } from "../heardStrips";
import { GUTTER, LABEL_WIDTH } from "../layout";
import { HeardCanvas } from "../HeardCanvas";
import type { Timeline } from "../timeline";
import { Contributions } from "./Contributions";
import { EditorFrame } from "./EditorFrame";

/** An as-heard curve, large, and beside it how often which value falls. */
export function HeardEditor({ address, timeline }: { address: Address; timeline: Timeline }) {
  const part = usePart();
  const songModules = useProject((s) => s.project.modules);
  const [size, sizeRef] = useSize();
  const { view } = useStudio();
  const apart = useView((v) => v.addsOpen);
  return (
    <EditorFrame
      tools={
        <Toggle
          text="what adds to it"
          title="What each route adds, below the curve"
          on={apart}
          onChange={(addsOpen) => view.setState({ addsOpen })}
        />
      }
      title={`${heardTitle(part.patch, address)}, as heard`}
      subtitle={`${moversOf(part, songModules, address)}; the newest note is strong, the others faint`}
    >
      <div className="absolute inset-0 flex flex-col">
        <div className="relative flex min-h-[72px] flex-1">
          <div className="relative shrink-0 border-r border-line bg-paper" style={{ width: LABEL_WIDTH }}>
            <HowOften address={address} />
          </div>
          <div ref={sizeRef} className="relative min-w-0 flex-1" style={{ marginRight: GUTTER }}>
            <HeardCanvas address={address} timeline={timeline} large />
            <Playhead timeline={{ ...timeline, width: size.width }} left={0} />
          </div>
        </div>
        {apart && (
          <div className="max-h-[60%] overflow-y-auto border-t border-line">
            <Contributions address={address} timeline={timeline} />
          </div>
        )}
      </div>
    </EditorFrame>
  );
}

const BINS = 32;

/** How often which value falls, of both sides where they are apart, on the scale of the curve beside it: over time as bars, at the starts of notes as marks. */
function HowOften({ address }: { address: Address }) {
  const part = usePart();
  const partIndex = useProject((s) => s.project.parts.indexOf(part));
  const song = useProject((s) => s.project.song);
  const { heard, program } = useHeard();
  const spread = useMemo(() => {
    const value = heardValue(part.patch, address, song);
    const tracks = value && heard && program ? ownTracks(value, tracksOfSides(heard, program, partIndex, part.patch, address).flat()) : [];
    const range = rangeOf(tracks);
    if (!value || !range) return null;
    const scale = heardScale(value, range);
    const runs = tracks.map((t) => Array.from({ length: t.strongUntil }, (_, i) => t.last[i]!));
    return spreadOf(runs, (v) => onScale(scale, v), BINS);
  }, [part.patch, song, address, heard, program, partIndex]);
  const paint = useCallback(
    ({ g, width, height, palette }: Surface) => {
      if (!spread) return;
      const most = Math.max(...spread.overTime, ...spread.atStarts);
      const step = (height - 8) / BINS;
      const y = (i: number): number => height - 3 - (i + 1) * step;
      spread.overTime.forEach((share, i) => {
        const w = (share / most) * (width - 14);
        g.fillStyle = palette.heard;
        g.globalAlpha = 0.35;
        g.fillRect(width - w - 3, y(i), w, Math.max(1, step - 1));
        g.globalAlpha = 1;
        const start = (spread.atStarts[i]! / most) * (width - 14);
        g.fillStyle = palette.ink;
        if (start > 0) g.fillRect(width - start - 3, y(i), 2, Math.max(2, step - 1));
      });
      g.fillStyle = palette.ink2;
      g.fillText("how often;", 6, 13);
      g.fillText("marks: at starts", 6, 26);
    },
    [spread],
  );
  return <canvas ref={useCanvas(paint)} className="absolute inset-0 h-full w-full" role="img" aria-label="How often which value is heard: over time, and at the starts of notes" />;
} // prettier-ignore
