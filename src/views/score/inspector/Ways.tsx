import { compileCurve, curveAt, type CurvePoint } from "@/core/curve/curve";
import type { Route } from "@/core/patch/project";
import { row } from "@/core/patch/row";
import { TAP, canTap, sourcesOf, type Target } from "@/core/patch/targets";
import { dbToGain, gainToDb } from "@/core/dsp/portableMath";
import { Choices } from "@/ui/Choices";
import { SelectRow } from "@/ui/Select";
import { Toggle } from "@/ui/Toggle";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { bendOf } from "./bend";
import { NumberRow } from "./rows";

const BEND = row({ label: "Bent", unit: "%", min: -100, max: 100, default: 0, step: 5, fine: 1, hint: "Bends what the source says: below 0 most of it moves little, above 0 much." }); // prettier-ignore

/** A bend of a source as the curve that a route keeps; none for 0. */
const bendCurve = (tension: number): readonly CurvePoint[] | null =>
  tension === 0 ? null : [{ x: 0, y: 0, tension }, { x: 1, y: 1, tension: 0 }]; // prettier-ignore

export interface WaysProps {
  readonly route: Route;
  readonly target: Target;
  readonly named: string;
  readonly change: (next: Partial<Route>, label: string, gesture?: string) => void;
}

/** The ways in which a route moves its target. */
export function Ways({ route, target, named, change }: WaysProps) {
  const { view } = useStudio();
  const part = usePart();
  const editable = useEditable();
  const full = useView((v) => v.fullRoute === route.id);
  const songModules = useProject((s) => s.project.modules);
  const sources = sourcesOf(part.patch, songModules);
  const bent = bendOf(route.curve);
  const scaling = sources.find((s) => s.id === route.scaledBy);
  const inAmplitude = (amplitude: boolean): void => {
    const amount = amplitude
      ? Math.min(100, (dbToGain(route.amount) - 1) * 100)
      : Math.max(-target.move.reach, gainToDb(Math.max(1e-5, 1 + route.amount / 100)));
    change({ amplitude, amount: Number(amount.toFixed(2)) }, `Set the unit of ${named}`);
  };
  const set = (on: boolean): void => view.setState({ fullRoute: on ? route.id : null });
  return (
    <>
      <Choices
        label="Moves"
        hidden
        value={route.around ? "around" : "from"}
        options={[
          { value: "from", text: "from rest", title: "The value at rest is one end, the amount leads to the other" },
          { value: "around", text: "around rest", title: "Half of the source moves it one way, half the other" },
        ]}
        onChange={(way) => change({ around: way === "around" }, `Set the way of ${named}`)}
      />
      {canTap(sources.find((s) => s.id === route.source)?.module) && (
        <NumberRow row={TAP} kind="notes" value={route.tap} onChange={(tap, _l, g) => change({ tap }, `Read ${named} ahead`, g)} />
      )}
      <SelectRow
        label="Scaled by"
        name={`What scales ${named}`}
        value={scaling?.id ?? ""}
        options={[{ value: "", text: "nothing" }, ...sources.filter((s) => s.id !== route.source).map((s) => ({ value: s.id, text: s.name }))]}
        onChange={(id) => change({ scaledBy: id === "" ? null : id }, id === "" ? `Scale ${named} by nothing` : `Scale ${named}`)}
      />
      {bent === null ? (
        <div className="flex items-center justify-between text-[12px]">
          <span>Bent by a drawn curve, half-way {Math.round(curveAt(compileCurve(route.curve!), 0.5) * 100)} %</span>
          <button type="button" className="chip" disabled={!editable} onClick={() => change({ curve: null }, `Straighten ${named}`)}>
            straighten
          </button>
        </div>
      ) : (
        <NumberRow row={BEND} kind="notes" value={bent} onChange={(v, _l, g) => change({ curve: bendCurve(v) }, `Bend ${named}`, g)} />
      )}
      <div className="mt-1 flex flex-wrap gap-1">
        <Toggle
          text="at the note's start"
          name={`${named} at the note's start`}
          on={route.atStart}
          disabled={!editable}
          title="Takes what the source says when the note starts, and keeps it"
          onChange={(atStart) => change({ atStart }, atStart ? `Take ${named} at the start` : `Let ${named} follow`)}
        />
        {target.move.unit === "dB" && (
          <Toggle
            text="% of amplitude"
            name={`${named} in percent of amplitude`}
            on={route.amplitude}
            disabled={!editable}
            title="Half-way up from silence is then -6.02 dB"
            onChange={inAmplitude}
          />
        )}
        {target.row && target.rest !== null && (
          <button
            type="button"
            className="chip"
            data-on={full}
            aria-pressed={full}
            title="Hold, by mouse or Enter, to hear it at its full amount"
            onPointerDown={() => set(true)}
            onPointerUp={() => set(false)}
            onPointerLeave={() => set(false)}
            onKeyDown={(e) => {
              if (e.key !== "Enter") return;
              e.preventDefault();
              e.stopPropagation();
              if (!e.repeat) set(true);
            }}
            onKeyUp={() => set(false)}
            onBlur={() => set(false)}
          >
            hear it full
          </button>
        )}
      </div>
    </>
  );
} // prettier-ignore
