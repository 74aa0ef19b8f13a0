import { useCallback, useMemo } from "react";
import { filterMagnitudeDb } from "@/core/dsp/filter";
import type { Address } from "@/core/patch/address";
import { addressOfRow } from "@/core/patch/kinds";
import { AMP, type Amp } from "@/core/patch/kinds/amp";
import { FILTER, type Filter } from "@/core/patch/kinds/filter";
import { NOISE, type Noise } from "@/core/patch/kinds/noise";
import { OSCILLATOR, type Oscillator } from "@/core/patch/kinds/oscillator";
import { toNorm } from "@/core/patch/row";
import { formatAmount } from "@/core/patch/valueText";
import { describeHz, usesFlats } from "@/core/pitch/note";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useHeard, usePart, useProject } from "@/views/studio/studio";
import { rangeOf, valueTracks } from "../heardTracks";
import { FILTER_TEXT, WAVE_TEXT } from "../stripList";
import { panText } from "./MixSection";
import { SoundHead } from "./SoundHead";
import { InspectorTitle } from "./InspectorTitle";
import { MovedBy } from "./Routes";
import { ModuleChoice, ModuleRow } from "./rows";

/** Lowest and highest value over the loop; null while nothing sounds. */
function useHeardRange(address: Address): { low: number; high: number } | null {
  const part = usePart();
  const partIndex = useProject((s) => s.project.parts.indexOf(part));
  const { heard, program } = useHeard((h) => h);
  return useMemo(
    () => (heard && program ? rangeOf(valueTracks(heard, program, partIndex, address)) : null),
    [heard, program, partIndex, address],
  );
}

export function FilterInspector({ filter }: { filter: Filter }) {
  const song = useProject((s) => s.project.song);
  const { cutoff } = FILTER.rows;
  const address = addressOfRow(filter, cutoff);
  const range = useHeardRange(address);
  return (
    <>
      <SoundHead module={filter} subtitle={FILTER_TEXT[filter.choices.type]} />
      <section>
        <ModuleChoice
          module={filter}
          choice={FILTER.choices.type}
          text={(o) => FILTER_TEXT[o].replace("-pass", "").replace(" dB", "")}
        />
        <ModuleRow
          module={filter}
          row={cutoff}
          reach={range && { from: toNorm(cutoff, range.low), to: toNorm(cutoff, range.high), kind: "heard" }}
        />
        <p className="text-right text-[11px] text-ink2">{describeHz(filter.values.cutoff, usesFlats(song.key))}</p>
        <ModuleRow module={filter} row={FILTER.rows.resonance} />
        <ModuleRow module={filter} row={FILTER.rows.keyFollow} />
      </section>
      <FilterGraph filter={filter} range={range} />
      <MovedBy target={address} />
      <MovedBy target={addressOfRow(filter, FILTER.rows.resonance)} />
      {range && (
        <p className="text-[11px] text-ink2">
          As heard over the loop: lowest {formatAmount(range.low, "Hz", 0)}, highest {formatAmount(range.high, "Hz", 0)}
        </p>
      )}
    </>
  );
}

const TOP_DB = 24;
const BOTTOM_DB = -60;

/** The filter's response at rest, and where the loop's lowest and highest cutoff take it. */
function FilterGraph({ filter, range }: { filter: Filter; range: { low: number; high: number } | null }) {
  const { cutoff: rest, resonance } = filter.values;
  const { type } = filter.choices;
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
          g.lineTo(x, toY(filterMagnitudeDb(type, cutoff, resonance, 48_000, hzAt(x))));
        g.stroke();
        g.globalAlpha = 1;
      };
      if (range) {
        curve(range.low, palette.heard, 0.45);
        curve(range.high, palette.heard, 1);
      }
      curve(rest, palette.ink, 1);
    },
    [type, rest, resonance, range],
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

export function OscillatorInspector({ oscillator }: { oscillator: Oscillator }) {
  const { rows, choices } = OSCILLATOR;
  const { wave } = oscillator.choices;
  const { unison } = oscillator.values;
  return (
    <>
      <SoundHead
        module={oscillator}
        subtitle={`${WAVE_TEXT[wave]}, ${unison === 1 ? "one voice" : `${unison} voices`}`}
      />
      <section>
        <ModuleRow module={oscillator} row={rows.level} />
        <ModuleRow module={oscillator} row={rows.pan} text={panText} />
        <ModuleChoice module={oscillator} choice={choices.wave} text={(o) => WAVE_TEXT[o]} />
        {wave === "pulse" && <ModuleRow module={oscillator} row={rows.pulseWidth} />}
        <ModuleRow
          module={oscillator}
          row={rows.octave}
          text={(v) => (v > 0 ? `+${v}` : String(v).replace("-", "−"))}
        />
        <ModuleRow
          module={oscillator}
          row={rows.pitch}
          text={(v) => formatAmount(v, "st", v % 1 === 0 ? 0 : 2, true)}
        />
        <ModuleRow module={oscillator} row={rows.fine} text={(v) => formatAmount(v, "ct", v % 1 === 0 ? 0 : 1, true)} />
      </section>
      <section>
        <h3 className="heading mb-1">Unison</h3>
        <ModuleRow module={oscillator} row={rows.unison} text={(v) => (v === 1 ? "1 voice" : `${v} voices`)} />
        <ModuleRow module={oscillator} row={rows.detune} />
        <ModuleRow module={oscillator} row={rows.width} />
      </section>
      <section>
        <h3 className="heading mb-1">Start of each note</h3>
        <ModuleChoice
          module={oscillator}
          choice={choices.start}
          text={(o) => (o === "fixed" ? "always alike" : "random")}
        />
        <ModuleRow module={oscillator} row={rows.phase} />
      </section>
      <MovedBy target={addressOfRow(oscillator, rows.pitch)} />
      <MovedBy target={addressOfRow(oscillator, rows.level)} />
    </>
  );
}

const COLOUR_TITLES: Record<Noise["choices"]["colour"], string> = {
  white: "Level at every frequency",
  pink: "Falls by 3 dB an octave",
  brown: "Falls by 6 dB an octave",
};

export function NoiseInspector({ noise }: { noise: Noise }) {
  const { rows, choices } = NOISE;
  return (
    <>
      <SoundHead module={noise} subtitle={`${noise.choices.colour} noise`} />
      <section>
        <ModuleRow module={noise} row={rows.level} />
        <ModuleRow module={noise} row={rows.pan} text={panText} />
        <ModuleChoice module={noise} choice={choices.colour} text={(o) => o} title={(o) => COLOUR_TITLES[o]} />
        <ModuleRow module={noise} row={rows.width} />
        <ModuleRow module={noise} row={rows.rate} text={(v) => (v >= rows.rate.max ? "every sample" : formatAmount(v, "Hz", 1))} />
      </section>
      <section>
        <h3 className="heading mb-1">Start of each note</h3>
        <ModuleChoice module={noise} choice={choices.start} text={(o) => (o === "alike" ? "always alike" : "running on")} />
      </section>
      <MovedBy target={addressOfRow(noise, rows.level)} />
      <MovedBy target={addressOfRow(noise, rows.rate)} />
    </>
  ); // prettier-ignore
}

export function AmpInspector({ amp }: { amp: Amp }) {
  return (
    <>
      <InspectorTitle title="Level" subtitle="before the output trim" />
      <section>
        <ModuleRow module={amp} row={AMP.rows.level} />
        <ModuleRow module={amp} row={AMP.rows.pan} text={panText} />
      </section>
      <MovedBy target={addressOfRow(amp, AMP.rows.level)} />
      <MovedBy target={addressOfRow(amp, AMP.rows.pan)} />
    </>
  );
}
