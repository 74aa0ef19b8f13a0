import { AMP, type Amp } from "@/core/patch/kinds/amp";
import { NOISE, type Noise } from "@/core/patch/kinds/noise";
import { OSCILLATOR, type Oscillator } from "@/core/patch/kinds/oscillator";
import { RECORDING, type RecordingModule } from "@/core/patch/kinds/recording";
import { formatAmount } from "@/core/patch/valueText";
import { SUB, type Sub } from "@/core/patch/kinds/sub";
import { WAVE_TEXT, subText } from "../stripList";
import { panText } from "./MixSection";
import { SoundHead } from "./SoundHead";
import { InspectorTitle } from "./InspectorTitle";
import { MovedValues } from "./Routes";
import { OscillatorRows, SourceRows } from "../../voice/OscillatorRows";
import { RecordingRows } from "../../voice/RecordingRows";
import { WavePlot } from "../../voice/WavePlot";
import { ModuleChoice, ModuleRow } from "./rows";

export function OscillatorInspector({ oscillator }: { oscillator: Oscillator }) {
  const { rows } = OSCILLATOR;
  const { unison } = oscillator.values;
  return (
    <>
      <SoundHead
        module={oscillator}
        subtitle={`${WAVE_TEXT[oscillator.choices.wave]}, ${unison === 1 ? "one voice" : `${unison} voices`}`}
      />
      <section>
        <WavePlot oscillator={oscillator} />
        <OscillatorRows oscillator={oscillator} />
      </section>
      <MovedValues module={oscillator} always={[rows.pitch, rows.level]} />
    </>
  );
}

const COLOUR_TITLES: Record<Noise["choices"]["colour"], string> = {
  white: "Level at every frequency",
  pink: "Falls by 3 dB an octave",
  brown: "Falls by 6 dB an octave",
};

/** A noise's values. */
export function NoiseRows({ noise }: { noise: Noise }) {
  const { rows, choices } = NOISE;
  return (
    <>
      <section>
        <SourceRows module={noise} />
        <ModuleChoice module={noise} choice={choices.colour} text={(o) => o} title={(o) => COLOUR_TITLES[o]} />
        <ModuleRow module={noise} row={rows.width} />
        <ModuleRow module={noise} row={rows.rate} text={(v) => (v >= rows.rate.max ? "every sample" : formatAmount(v, "Hz", 1))} />
      </section>
      <section>
        <h3 className="heading mb-1">Start of each note</h3>
        <ModuleChoice module={noise} choice={choices.start} text={(o) => (o === "alike" ? "always alike" : "running on")} />
      </section>
    </>
  ); // prettier-ignore
}

export function NoiseInspector({ noise }: { noise: Noise }) {
  const { rows } = NOISE;
  return (
    <>
      <SoundHead module={noise} subtitle={`${noise.choices.colour} noise`} />
      <NoiseRows noise={noise} />
      <MovedValues module={noise} always={[rows.level, rows.rate]} />
    </>
  );
}

/** A sub's values. */
export function SubRows({ sub }: { sub: Sub }) {
  const { rows, choices } = SUB;
  return (
    <section>
      <ModuleChoice module={sub} choice={choices.wave} text={(w) => w} />
      <ModuleChoice module={sub} choice={choices.below} text={(b) => (b === "one" ? "an octave" : "two octaves")} />
      <SourceRows module={sub} />
      <ModuleRow module={sub} row={rows.pitch} text={(v) => formatAmount(v, "st", v % 1 === 0 ? 0 : 2, true)} />
      <ModuleRow module={sub} row={rows.fine} text={(v) => formatAmount(v, "ct", v % 1 === 0 ? 0 : 1, true)} />
      <ModuleRow module={sub} row={rows.phase} />
    </section>
  );
}

export function SubInspector({ sub }: { sub: Sub }) {
  const { rows } = SUB;
  return (
    <>
      <SoundHead module={sub} subtitle={subText(sub)} />
      <SubRows sub={sub} />
      <MovedValues module={sub} always={[rows.pitch, rows.level]} />
    </>
  );
}

export function RecordingInspector({ recording }: { recording: RecordingModule }) {
  const { rows } = RECORDING;
  return (
    <>
      <SoundHead module={recording} subtitle={recording.choices.plays} />
      <section>
        <RecordingRows module={recording} />
      </section>
      <MovedValues module={recording} always={[rows.pitch, rows.level, rows.from]} />
    </>
  );
}

export function AmpInspector({ amp }: { amp: Amp }) {
  return (
    <>
      <InspectorTitle title="Level" subtitle="before the output trim" />
      <section>
        <ModuleRow module={amp} row={AMP.rows.level} />
        <ModuleRow module={amp} row={AMP.rows.pan} text={panText} />
        <ModuleRow module={amp} row={AMP.rows.apart} />
        <ModuleRow module={amp} row={AMP.rows.feedback} />
      </section>
      <MovedValues module={amp} always={[AMP.rows.level, AMP.rows.pan]} />
    </>
  );
}
