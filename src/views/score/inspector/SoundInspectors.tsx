import { useCallback, useMemo } from "react";
import { FILTER_BP12, FILTER_HP12, FILTER_LP12, FILTER_LP24, filterMagnitudeDb } from "@/core/dsp/filter";
import { CHOICES, parameter, toNorm, type ChoiceId, type ChoiceOf, type TargetId } from "@/core/patch/parameters";
import { formatAmount } from "@/core/patch/valueText";
import { describeHz, usesFlats } from "@/core/pitch/note";
import { setChoice } from "@/state/edits";
import { Choices } from "@/ui/Choices";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useHeard, usePart, useProject, useStudio } from "@/views/studio/studio";
import { rangeOf, targetTracks } from "../heardTracks";
import { FILTER_TEXT, WAVE_TEXT } from "../stripList";
import { InspectorTitle } from "./Inspector";
import { MovedBy } from "./Routes";
import { VoiceRow } from "./rows";

/** Lowest and highest value of a target over the loop; null while nothing sounds. */
function useHeardRange(target: TargetId): { low: number; high: number } | null {
  const part = usePart();
  const partIndex = useProject((s) => s.project.parts.indexOf(part));
  const { heard, program } = useHeard((h) => h);
  return useMemo(
    () => (heard && program ? rangeOf(targetTracks(heard, program, partIndex, target)) : null),
    [heard, program, partIndex, target],
  );
}

function VoiceChoice<T extends ChoiceId>({ id, text }: { id: T; text: (option: ChoiceOf<T>) => string }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const { label, options } = CHOICES[id];
  const value = part.patch.choices[id] as ChoiceOf<T>;
  return (
    <Choices
      label={label}
      hidden={options.length > 2}
      value={value}
      options={(options as readonly ChoiceOf<T>[]).map((o) => ({ value: o, text: text(o) }))}
      onChange={(o) => store.edit(`Set ${label.toLowerCase()}`, setChoice(part.id, id, o))}
    />
  );
}

export function CutoffInspector() {
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const range = useHeardRange("filter.cutoff");
  const cutoff = parameter("filter.cutoff");
  const { values, choices } = part.patch;
  return (
    <>
      <InspectorTitle title="Filter" subtitle={FILTER_TEXT[choices["filter.type"]]} />
      <section>
        <VoiceChoice id="filter.type" text={(o) => FILTER_TEXT[o].replace("-pass", "").replace(" dB", "")} />
        <VoiceRow
          id="filter.cutoff"
          reach={range && { from: toNorm(cutoff, range.low), to: toNorm(cutoff, range.high), kind: "heard" }}
        />
        <p className="text-right text-[11px] text-ink2">{describeHz(values["filter.cutoff"], usesFlats(song.key))}</p>
        <VoiceRow id="filter.resonance" />
        <VoiceRow id="filter.keyFollow" />
      </section>
      <FilterGraph />
      <MovedBy target="filter.cutoff" />
      <MovedBy target="filter.resonance" />
      {range && (
        <p className="text-[11px] text-ink2">
          As heard over the loop: lowest {formatAmount(range.low, "Hz", 0)}, highest {formatAmount(range.high, "Hz", 0)}
        </p>
      )}
    </>
  );
}

const FILTER_TYPES = { lp24: FILTER_LP24, lp12: FILTER_LP12, bp12: FILTER_BP12, hp12: FILTER_HP12 } as const;
const TOP_DB = 24;
const BOTTOM_DB = -60;

/** The filter's response at rest, and where the loop's lowest and highest cutoff take it. */
function FilterGraph() {
  const part = usePart();
  const range = useHeardRange("filter.cutoff");
  const { values, choices } = part.patch;
  const type = FILTER_TYPES[choices["filter.type"]];
  const paint = useCallback(
    ({ g, width, height, palette }: Surface) => {
      const toY = (db: number): number => ((TOP_DB - db) / (TOP_DB - BOTTOM_DB)) * height;
      const hzAt = (x: number): number => 20 * 1000 ** (x / width);
      g.fillStyle = palette.line;
      for (const hz of [100, 1000, 10_000]) g.fillRect((Math.log(hz / 20) / Math.log(1000)) * width, 0, 1, height);
      for (const db of [0, -24, -48]) g.fillRect(0, toY(db), width, 1);
      g.fillStyle = palette.ink2;
      g.fillText("0 dB", 3, toY(0) - 3);
      g.fillText("−48", 3, toY(-48) - 3);
      const curve = (cutoff: number, colour: string, alpha: number): void => {
        g.strokeStyle = colour;
        g.globalAlpha = alpha;
        g.lineWidth = 1.6;
        g.beginPath();
        for (let x = 0; x <= width; x += 2)
          g.lineTo(x, toY(filterMagnitudeDb(type, cutoff, values["filter.resonance"], 48_000, hzAt(x))));
        g.stroke();
        g.globalAlpha = 1;
      };
      if (range) {
        curve(range.low, palette.heard, 0.45);
        curve(range.high, palette.heard, 1);
      }
      curve(values["filter.cutoff"], palette.ink, 1);
    },
    [type, values, range],
  );
  return (
    <figure>
      <div className="relative h-[110px] border border-line bg-sheet">
        <canvas
          ref={useCanvas(paint)}
          className="absolute inset-0 h-full w-full"
          role="img"
          aria-label="Filter response from 20 Hz to 20 kHz"
        />
      </div>
      <figcaption className="flex justify-between text-[11px] text-ink2">
        <span>20 Hz</span>
        <span>ink: at rest, pink: as heard</span>
        <span>20 kHz</span>
      </figcaption>
    </figure>
  );
}

export function PitchInspector() {
  const part = usePart();
  const { values, choices } = part.patch;
  return (
    <>
      <InspectorTitle
        title="Oscillator"
        subtitle={`${WAVE_TEXT[choices["osc.wave"]]}, ${values["osc.unison"] === 1 ? "one voice" : `${values["osc.unison"]} voices`}`}
      />
      <section>
        <VoiceChoice id="osc.wave" text={(o) => WAVE_TEXT[o]} />
        {choices["osc.wave"] === "pulse" && <VoiceRow id="osc.pulseWidth" />}
        <VoiceRow id="osc.octave" text={(v) => (v > 0 ? `+${v}` : String(v).replace("-", "−"))} />
        <VoiceRow id="osc.pitch" text={(v) => formatAmount(v, "st", v % 1 === 0 ? 0 : 2, true)} />
        <VoiceRow id="osc.fine" text={(v) => formatAmount(v, "ct", v % 1 === 0 ? 0 : 1, true)} />
      </section>
      <section>
        <h3 className="heading mb-1">Unison</h3>
        <VoiceRow id="osc.unison" text={(v) => (v === 1 ? "1 voice" : `${v} voices`)} />
        <VoiceRow id="osc.detune" />
        <VoiceRow id="osc.width" />
      </section>
      <section>
        <h3 className="heading mb-1">Start of each note</h3>
        <VoiceChoice id="osc.start" text={(o) => (o === "fixed" ? "same phase" : "random")} />
        <VoiceRow id="osc.phase" />
      </section>
      <MovedBy target="osc.pitch" />
    </>
  );
}

export function LevelInspector() {
  return (
    <>
      <InspectorTitle title="Level" subtitle="before the output trim" />
      <section>
        <VoiceRow id="amp.level" />
        <VoiceRow id="amp.pan" text={(v) => (v === 0 ? "middle" : `${Math.abs(v)} % ${v < 0 ? "left" : "right"}`)} />
      </section>
      <MovedBy target="amp.level" />
      <MovedBy target="amp.pan" />
    </>
  );
}
