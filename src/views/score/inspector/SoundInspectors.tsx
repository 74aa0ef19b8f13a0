import { addressOfRow } from "@/core/patch/kinds";
import { AMP, type Amp } from "@/core/patch/kinds/amp";
import { NOISE, type Noise } from "@/core/patch/kinds/noise";
import { OSCILLATOR, type Oscillator } from "@/core/patch/kinds/oscillator";
import { formatAmount } from "@/core/patch/valueText";
import { WAVE_TEXT } from "../stripList";
import { panText } from "./MixSection";
import { SoundHead } from "./SoundHead";
import { InspectorTitle } from "./InspectorTitle";
import { MovedBy } from "./Routes";
import { ModuleChoice, ModuleRow } from "./rows";

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
