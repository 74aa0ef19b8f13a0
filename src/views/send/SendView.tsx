import { useMemo, useRef, useState } from "react";
import { renderFile, type RenderJob } from "@/audio/files";
import { compileProject } from "@/core/engine/compile";
import { SAMPLE_RATES, type Tail } from "@/core/engine/render";
import { framesOfBars } from "@/core/engine/watch";
import { MAX_WAV_BYTES, tooLarge, wavBytes, type BitDepth } from "@/core/format/wav";
import { formatAmount } from "@/core/patch/valueText";
import { Choices } from "@/ui/Choices";
import { fileStem, saveFile } from "@/ui/saveFile";
import { useSaveAsFile } from "@/views/studio/useSaveAsFile";
import { useProject, useStudio } from "@/views/studio/studio";
import { MidiOut } from "./MidiOut";

const TAIL_TEXT: Record<Tail, { text: string; title: string }> = {
  wrap: {
    text: "round into the start",
    title: "Releases that sound past the end are added to the start: the file loops without a seam",
  },
  append: { text: "kept after the end", title: "The file goes on until the last release is silent" },
  cut: { text: "cut off", title: "The file ends with the last bar" },
};

const DEPTH_TEXT: Record<BitDepth, string> = { 16: "16 bit", 24: "24 bit", 32: "32 bit float" };

export function SendView() {
  return (
    <div className="h-full overflow-y-auto bg-sheet px-6 py-5">
      <h1 className="text-[20px] font-bold">Send out</h1>
      <div className="mt-4 grid max-w-[980px] grid-cols-[minmax(0,1.3fr)_minmax(0,1fr)] gap-6">
        <Sound />
        <div className="flex flex-col gap-6">
          <MidiOut />
          <ProjectFile />
        </div>
      </div>
    </div>
  );
}

function Sound() {
  const { tell, workspace } = useStudio();
  const project = useProject((s) => s.project);
  const [bars, setBars] = useState<number | null>(null);
  const [sampleRate, setSampleRate] = useState<(typeof SAMPLE_RATES)[number]>(48_000);
  const [bitDepth, setBitDepth] = useState<BitDepth>(24);
  const [tail, setTail] = useState<Tail>("wrap");
  const [backing, setBacking] = useState(false);
  const [progress, setProgress] = useState<number | null>(null);
  const [done, setDone] = useState<string | null>(null);
  const job = useRef<RenderJob | null>(null);
  const program = useMemo(() => compileProject(project), [project]);
  const length = bars ?? project.song.loopBars;
  const frames = framesOfBars(program, length, sampleRate);
  const bytes = wavBytes(frames, 2, bitDepth, tail === "wrap");
  const tooMuch = bytes > MAX_WAV_BYTES ? tooLarge(bytes) : null;

  const start = async (): Promise<void> => {
    setProgress(0);
    setDone(null);
    job.current = renderFile(
      program,
      { sampleRate, bars: length, tail, backing, recordings: workspace.recordings.store.getState().known },
      bitDepth,
      setProgress,
    );
    try {
      const result = await job.current.result;
      if (!result) return setDone("Cancelled. No file was made.");
      const name = `${fileStem(project.name)} ${project.song.tempoBpm} BPM.wav`;
      saveFile(name, result.file, "audio/wav");
      const peak = Number.isFinite(result.peakDb) ? `peak ${formatAmount(result.peakDb, "dB", 1)}` : "silent";
      setDone(
        `${name}: ${result.frames} frames, ${peak}${result.limited ? ". It went over full scale and was limited: lower the trim." : ""}`,
      );
    } catch (error) {
      tell({
        kind: "error",
        text: `The sound could not be rendered: ${(error as Error).message}. Try again, or with fewer bars.`,
      });
    } finally {
      setProgress(null);
    }
  };

  return (
    <section aria-label="Sound">
      <h2 className="heading">Sound, as WAV</h2>
      <div className="mt-2 flex items-center gap-1 py-[3px]">
        <span className="mr-1 w-[84px] text-[12px]">Length</span>
        <input
          type="number"
          min={1}
          max={256}
          aria-label="Bars"
          className="field w-[64px]"
          value={length}
          onChange={(e) => {
            const v = Math.round(e.currentTarget.valueAsNumber);
            if (v >= 1 && v <= 256) setBars(v);
          }}
        />
        bars, the loop has {project.song.loopBars}
      </div>
      <Choices
        label="Releases"
        value={tail}
        options={(Object.keys(TAIL_TEXT) as Tail[]).map((t) => ({ value: t, ...TAIL_TEXT[t] }))}
        onChange={setTail}
      />
      <Choices
        label="Sample rate"
        value={String(sampleRate)}
        options={SAMPLE_RATES.map((r) => ({ value: String(r), text: `${r / 1000} kHz` }))}
        onChange={(r) => setSampleRate(Number(r) as typeof sampleRate)}
      />
      <Choices
        label="Depth"
        value={String(bitDepth)}
        options={([16, 24, 32] as const).map((d) => ({ value: String(d), text: DEPTH_TEXT[d] }))}
        onChange={(d) => setBitDepth(Number(d) as BitDepth)}
      />
      {program.song.kit && (
        <Choices
          label="Backing"
          value={backing ? "with" : "without"}
          options={[
            {
              value: "without",
              text: "without it",
              title: "The parts alone: the drums stand in for a song that has its own",
            },
            { value: "with", text: "with its drums" },
          ]}
          onChange={(b) => setBacking(b === "with")}
        />
      )}
      <p className="mt-2 text-ink2">
        The file will hold {length} bars at {project.song.tempoBpm.toFixed(2)} BPM: {(frames / sampleRate).toFixed(3)}{" "}
        s, {frames} frames
        {tail === "append" ? " and the releases after them" : ""}, stereo, about {(bytes / 1e6).toFixed(1)} MB
        {tail === "wrap" ? ", with its loop marked" : ""}.
      </p>
      {tooMuch && (
        <p className="mt-2 flex items-start gap-1.5" role="alert">
          <span className="mt-1 h-2 w-2 shrink-0 bg-warn" aria-hidden />
          <span>This cannot be written: {tooMuch}.</span>
        </p>
      )}
      <div className="mt-3 flex items-center gap-3">
        <button
          type="button"
          className="chip"
          data-on="true"
          disabled={progress !== null || tooMuch !== null}
          onClick={() => void start()}
        >
          Export WAV
        </button>
        {progress !== null && (
          <>
            <progress className="h-2 w-[180px] accent-ink" max={1} value={progress} aria-label="Rendering" />
            <button type="button" className="chip" onClick={() => job.current?.cancel()}>
              Cancel
            </button>
          </>
        )}
      </div>
      <p className="mt-2 min-h-[16px] break-words" role="status">
        {done}
      </p>
    </section>
  );
}

function ProjectFile() {
  const project = useProject((s) => s.project);
  const save = useSaveAsFile();
  return (
    <section aria-label="Project">
      <h2 className="heading">The project, as a file</h2>
      <p className="mt-2 text-ink2">Everything in “{project.name}”, as JSON. Any Clovik opens it from the shelf.</p>
      <div className="mt-2 flex items-center gap-3">
        <button type="button" className="chip" onClick={() => void save()}>
          Export project
        </button>
        <a className="link" href="/schema/project" target="_blank" rel="noreferrer">
          Its JSON Schema
        </a>
      </div>
    </section>
  );
}
