import { useCallback, useMemo } from "react";
import type { CurvePoint } from "@/core/curve/curve";
import { compileDraws, drawnAt } from "@/core/motion/drawn";
import { RANDOM, type Random } from "@/core/patch/kinds/random";
import { formatAmount, parseAmount } from "@/core/patch/valueText";
import { editModule } from "@/state/edits";
import { clipOf, copy } from "@/state/clipboard";
import { CurveEditor } from "@/ui/curve/CurveEditor";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useEditable, usePart, useStudio } from "@/views/studio/studio";
import { EditorFrame } from "./EditorFrame";
import { PERCENT } from "./shapeAxes";
import { useReading } from "./useReading";

const CHANCE = {
  ...PERCENT,
  text: (x: number) => `${formatAmount(x * 100, "%", 0)} of the draws`,
  read: (text: string) => {
    const percent = parseAmount(text, "%");
    return percent === null ? null : percent / 100;
  },
};
const CLIPS = {
  take: () => clipOf("points")?.points ?? null,
  keep: (points: readonly CurvePoint[]) => copy({ kind: "points", points }),
};
/** Draws that a picture of likelihood is made of, and its bars. */
const DRAWS = 60_000;
const BARS = 40;
const NO_PHASE = (): null => null;

/** How likely which value is: drawn as a curve over all draws, or counted. */
export function RandomEditor({ module: m }: { module: Random }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const editable = useEditable();
  const { reading, select } = useReading(m.id);
  const set = useCallback(
    (points: readonly CurvePoint[], label: string, gesture?: string) =>
      store.edit(label, editModule(part.id, RANDOM, m.id, (old) => ({ ...old, data: { ...old.data, points } })), gesture),
    [store, part.id, m.id],
  );
  const drawn = m.choices.likely === "drawn";
  return (
    <EditorFrame
      title={m.name}
      subtitle={drawn ? "from left to right: all draws, the lowest values first; right: how often which value comes" : "how often which value comes"}
      tools={select}
    >
      <div className="absolute inset-0 flex">
        {drawn && (
          <div className="relative min-w-0 flex-[2]">
            <CurveEditor
              label={m.name}
              kind="shape"
              points={m.data.points}
              time={CHANCE}
              value={reading}
              snaps={{ x: 0.05, y: reading.snap }}
              fine={{ x: 0.01, y: 0.005 }}
              onChange={set}
              editable={editable}
              clips={CLIPS}
              playPhase={NO_PHASE}
            />
          </div>
        )}
        <div className="relative min-w-0 flex-1 border-l border-line">
          <Likelihood module={m} text={reading.text} />
        </div>
      </div>
    </EditorFrame>
  );
} // prettier-ignore

/** How often which value comes, counted over many draws: values from bottom to top. */
function Likelihood({ module: m, text }: { module: Random; text: (y: number) => string }) {
  const counts = useMemo(() => {
    const draws = compileDraws({ ...m, choices: { ...m.choices, moves: "held" } }, 1, 0);
    const bars = new Uint32Array(BARS);
    for (let i = 0; i < DRAWS; i++) bars[Math.min(BARS - 1, Math.floor(drawnAt(draws, i, 0) * BARS))]!++;
    return bars;
  }, [m]);
  const paint = useCallback(
    ({ g, width, height, palette }: Surface) => {
      const most = Math.max(...counts);
      const step = (height - 12) / BARS;
      counts.forEach((count, i) => {
        g.fillStyle = palette.shape;
        g.globalAlpha = 0.55;
        g.fillRect(72, height - 6 - (i + 1) * step, (count / most) * Math.min(420, width - 130), Math.max(1, step - 1));
        g.globalAlpha = 1;
        if (i % 8 !== 0 && i !== BARS - 1) return;
        g.fillStyle = palette.ink2;
        g.fillText(text(i === BARS - 1 ? 1 : i / BARS), 6, height - 3 - i * step);
        const share = counts.slice(i, i + 8).reduce((s, v) => s + v, 0) / DRAWS;
        if (i < BARS - 1) g.fillText(`${Math.round(share * 100)} %`, Math.min(72 + 430, width - 50), height - 3 - (i + 3) * step);
      });
    },
    [counts, text],
  );
  return <canvas ref={useCanvas(paint)} className="absolute inset-0 h-full w-full" role="img" aria-label={`How often which value of ${m.name} comes`} />;
} // prettier-ignore
