import { movePoints, setTension } from "@/core/curve/edit";
import { newGesture } from "../gesture";
import type { HandledValue, StepSize } from "../useValueHands";
import { InlineValue } from "../ValueRow";
import type { AxisReading, CurveEditorProps } from "./curveProps";
import type { Points, Selection } from "./curveDrag";

const TIMES: Record<StepSize, number> = { step: 1, fine: 1, page: 10 };
const clamp01 = (v: number): number => Math.min(1, Math.max(0, v));

/** A place on an axis for the hands. */
function placeValue(
  at: number,
  axis: AxisReading,
  steps: { snap: number; fine: number },
  set: (to: number, gesture: string) => void,
): HandledValue {
  const text = axis.text(at);
  return {
    norm: at,
    text,
    origin: 0,
    now: Number(at.toFixed(4)),
    min: 0,
    max: 1,
    spoken: text,
    setNorm: (to, g) => set(to, g),
    step: (direction, size, g) =>
      set(clamp01(at + direction * TIMES[size] * (size === "fine" ? steps.fine : steps.snap || steps.fine)), g),
    type: (typed) => {
      const to = axis.read(typed);
      if (to === null || !Number.isFinite(to)) return `Write it as it is shown: "${text.split(",")[0]}".`;
      if (to < -1e-6 || to > 1 + 1e-6) return `From ${axis.text(0)} to ${axis.text(1)}.`;
      set(clamp01(to), newGesture());
      return null;
    },
    reset: () => undefined,
  };
}

/** The chosen point in figures, each of which can be dragged or typed. */
export function PointFields({
  points,
  chosen,
  time,
  value,
  snaps,
  fine,
  onChange,
  editable,
  kind,
}: CurveEditorProps & { chosen: Selection }) {
  const index = chosen.size === 1 ? Math.min(...chosen) : -1;
  const point = points[index];
  const change = (next: Points, label: string, gesture: string): void => {
    if (next !== points) onChange(next, label, gesture);
  };
  if (!point) {
    return (
      <p className="h-[24px] shrink-0 truncate px-3 pt-[5px] text-[11px] text-ink2">
        {chosen.size > 1
          ? `${chosen.size} points chosen`
          : "Click to add a point, drag to move it; a chosen one can be typed here."}
      </p>
    );
  }
  const inner = index > 0 && index < points.length - 1;
  const bends = index < points.length - 1 && points[index + 1]!.x > point.x && points[index + 1]!.y !== point.y;
  return (
    <div className="flex h-[24px] shrink-0 items-center gap-4 px-3 text-[11px]">
      <span className="text-ink2">
        Point {index + 1} of {points.length}
      </span>
      <InlineValue
        label="Position"
        kind={kind}
        disabled={!editable || !inner}
        value={placeValue(point.x, time, { snap: snaps.x, fine: fine.x }, (to, g) =>
          change(movePoints(points, chosen, to - point.x, 0), "Move a point", g),
        )}
      />
      <InlineValue
        label="Value"
        kind={kind}
        disabled={!editable}
        value={placeValue(point.y, value, { snap: snaps.y, fine: fine.y }, (to, g) =>
          change(movePoints(points, chosen, 0, to - point.y), "Move a point", g),
        )}
      />
      {bends && (
        <InlineValue
          label="Bend"
          kind={kind}
          disabled={!editable}
          value={{
            ...placeValue(
              (point.tension + 100) / 200,
              {
                marks: [],
                text: (at) => `${Math.round(at * 200 - 100)} %`.replace("-", "−"),
                read: (typed) => {
                  const match = /^([+\-−]?\d+(?:[.,]\d+)?)\s*%?$/.exec(typed.trim());
                  return match ? (Number(match[1]!.replace("−", "-").replace(",", ".")) + 100) / 200 : null;
                },
              },
              { snap: 0.025, fine: 0.005 },
              (to, g) => change(setTension(points, index, Math.round(to * 200 - 100)), "Bend a segment", g),
            ),
            reset: () => change(setTension(points, index, 0), "Bend a segment", newGesture()),
          }}
        />
      )}
    </div>
  );
}
