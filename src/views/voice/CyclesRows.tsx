import { guessFrameLength } from "@/core/dsp/importedFrames";
import { FRAME_LENGTHS } from "@/core/dsp/tableSpec";
import { OSCILLATOR, type Oscillator } from "@/core/patch/kinds/oscillator";
import { wholeRow } from "@/core/patch/row";
import { editModule } from "@/state/edits";
import { Toggle } from "@/ui/Toggle";
import { ValueRow } from "@/ui/ValueRow";
import { parameterValue } from "@/ui/values";
import { useEditable, usePart, useStudio } from "@/views/studio/studio";
import { WhichRecording } from "./WhichRecording";
import { useRecording } from "./recordings";

const LENGTH = wholeRow({ label: "Cycle", unit: "", ...FRAME_LENGTHS, default: 2048, hint: "Samples of each cycle that the recording is cut into." }); // prettier-ignore

/** Where an oscillator's own cycles come from, and how they are cut. */
export function CyclesRows({ oscillator: o }: { oscillator: Oscillator }) {
  const part = usePart();
  const { store } = useStudio().workspace;
  const editable = useEditable();
  const { cycles } = o.data;
  const { recording } = useRecording(cycles.recording);
  const edit = (change: Partial<Oscillator["data"]["cycles"]>) =>
    editModule(part.id, OSCILLATOR, o.id, (m) => ({ ...m, data: { ...m.data, cycles: { ...m.data.cycles, ...change } } }));
  const samples = recording?.channels[0]?.length ?? 0;
  const frames = Math.min(256, Math.floor(samples / cycles.length));
  return (
    <>
      <WhichRecording
        hash={cycles.recording}
        label={`Cycles of ${o.name}`}
        use={(hash, count) => edit({ recording: hash, length: guessFrameLength(count) })}
      />
      {recording && (
        <>
          <ValueRow
            label={LENGTH.label}
            hint={LENGTH.hint}
            value={parameterValue(LENGTH, cycles.length, (length, gesture) => store.edit(`Cut ${o.name} into cycles of ${length}`, edit({ length }), gesture), (v) => `${v} samples`)}
          />
          <div className="flex items-center justify-between gap-2 py-[3px] text-[12px]">
            <span className="text-ink2">
              {frames === 0 ? "it is shorter than that: the wave is silent" : frames === 1 ? "one cycle" : `${frames} cycles`}
            </span>
            <Toggle
              text="equally loud"
              name={`Cycles of ${o.name} equally loud`}
              on={cycles.even}
              disabled={!editable}
              onChange={(even) => store.edit(even ? `Make the cycles of ${o.name} equally loud` : `Leave the cycles of ${o.name} as loud as they are`, edit({ even }))}
            />
          </div>
        </>
      )}
    </>
  );
} // prettier-ignore
