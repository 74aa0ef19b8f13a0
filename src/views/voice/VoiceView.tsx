import { kindOf, modulesOf, type Module } from "@/core/patch/kinds";
import { AMP } from "@/core/patch/kinds/amp";
import { FILTER } from "@/core/patch/kinds/filter";
import { NOISE } from "@/core/patch/kinds/noise";
import { useEffect } from "react";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import { RECORDING } from "@/core/patch/kinds/recording";
import { SUB } from "@/core/patch/kinds/sub";
import { PLAYING } from "@/core/patch/kinds/playing";
import { MenuButton } from "@/ui/menu";
import { useEditable, usePart, useStudio } from "@/views/studio/studio";
import { FilterRows } from "../score/inspector/FilterInspector";
import { NoiseRows, SubRows } from "../score/inspector/SoundInspectors";
import { PlayingSection } from "../score/inspector/PlayingSection";
import { panText } from "../score/inspector/MixSection";
import { ModuleRow } from "../score/inspector/rows";
import { AddSounds } from "../score/AddSounds";
import { voiceActions } from "../score/soundActions";
import { FILTER_TEXT, WAVE_TEXT, subText } from "../score/stripList";
import { MovedPanel } from "./MovedPanel";
import { RecordingRows } from "./RecordingRows";
import { OscillatorRows } from "./OscillatorRows";
import { RouteMap } from "./RouteMap";
import { SoundColumn } from "./SoundColumn";
import { WavePlot } from "./WavePlot";
import { tableText } from "./oscillatorText";

/** The sound of a part: its sources, its filters, the way between them, and how notes are played. */
export function VoiceView() {
  const { view } = useStudio();
  const part = usePart();
  const { modules } = part.patch;
  const sources = modules.filter((m) => kindOf(m).role === "source");
  const filters = modulesOf(modules, FILTER);
  useEffect(() => {
    view.setState({ voiceOpen: true });
    // What is heard apart from the project ends with the view.
    return () => view.setState({ voiceOpen: false, soloSource: null, comparing: null });
  }, [view]);
  return (
    <div
      key={part.id}
      className="grid h-full grid-cols-[minmax(0,1fr)_216px] grid-rows-[minmax(0,7fr)_minmax(0,4fr)] [grid-template-areas:'top_top''bottom_side'] xl:grid-cols-[minmax(0,1fr)_264px] xl:[grid-template-areas:'top_side''bottom_side']"
    >
      <div className="grid min-h-0 grid-rows-[auto_auto_minmax(0,1fr)] [grid-area:top]">
        <VoiceHead />
        <RouteMap />
        <div className="grid min-h-0 border-b border-line bg-sheet" style={columns(Math.max(1, sources.length))}>
          {sources.map((m) => (
            <Source key={m.id} module={m} />
          ))}
          {sources.length === 0 && (
            <p className="p-3 text-ink2">Nothing sounds: add an oscillator, noise or a sub above.</p>
          )}
        </div>
      </div>
      <div className="grid min-h-0 bg-sheet [grid-area:bottom]" style={columns(filters.length + 1)}>
        {filters.map((f) => (
          <SoundColumn key={f.id} module={f} told={FILTER_TEXT[f.choices.type]}>
            <FilterRows filter={f} />
          </SoundColumn>
        ))}
        <Playing />
      </div>
      <MovedPanel />
    </div>
  );
}

const columns = (count: number) => ({ gridTemplateColumns: `repeat(${count}, minmax(0, 420px))` });

function VoiceHead() {
  const studio = useStudio();
  const part = usePart();
  const editable = useEditable();
  return (
    <header className="flex flex-wrap items-center gap-1.5 border-b border-line bg-paper px-3 py-1.5">
      <h1 className="mr-2 max-w-[240px] truncate text-[14px] font-bold" title={part.name}>
        {part.name}
      </h1>
      <AddSounds chips />
      <span className="ml-auto" />
      <MenuButton
        label="What can be done with the whole voice"
        text="Whole voice"
        entries={() => voiceActions(studio, part, editable)}
      />
    </header>
  );
}

function Source({ module }: { module: Module }) {
  if (module.kind === OSCILLATOR.kind) {
    const { wave } = module.choices;
    return (
      <SoundColumn module={module} told={wave === "table" ? tableText(module) : WAVE_TEXT[wave]}>
        <WavePlot oscillator={module} />
        <OscillatorRows oscillator={module} />
      </SoundColumn>
    );
  }
  if (module.kind === RECORDING.kind)
    return (
      <SoundColumn module={module} told={module.choices.plays}>
        <RecordingRows module={module} />
      </SoundColumn>
    );
  if (module.kind === SUB.kind)
    return (
      <SoundColumn module={module} told={subText(module)}>
        <SubRows sub={module} />
      </SoundColumn>
    );
  if (module.kind !== NOISE.kind) return null;
  return (
    <SoundColumn module={module} told={`${module.choices.colour} noise`}>
      <NoiseRows noise={module} />
    </SoundColumn>
  );
}

/** How notes are played, and the level that they come out with. */
function Playing() {
  const part = usePart();
  const editable = useEditable();
  const amp = modulesOf(part.patch.modules, AMP)[0]!;
  const playing = modulesOf(part.patch.modules, PLAYING)[0];
  return (
    <section aria-label="Playing and level" className="flex min-h-0 flex-col">
      <h2 className="px-2.5 pt-1.5 text-[14px] font-bold">Playing and level</h2>
      <p className="px-2.5 text-[11px] text-ink2">
        {playing?.choices.voices === "one" ? "one note at a time" : "chords"}, then {amp.name.toLowerCase()}
      </p>
      <fieldset
        disabled={!editable}
        className="min-h-0 flex-1 overflow-y-auto px-2.5 pb-2 [--row-label:76px] [--row-number:66px]"
      >
        <ModuleRow module={amp} row={AMP.rows.level} />
        <ModuleRow module={amp} row={AMP.rows.pan} text={panText} />
        <ModuleRow module={amp} row={AMP.rows.apart} />
        <ModuleRow module={amp} row={AMP.rows.feedback} />
        <PlayingSection />
      </fieldset>
    </section>
  );
}
