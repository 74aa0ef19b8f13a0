import { Moon, Play, Redo2, Square, Sun, Undo2 } from "lucide-react";
import { useRef } from "react";
import { SONG_ROWS } from "@/core/patch/rows";
import { formatAmount } from "@/core/patch/valueText";
import { SCALES, SCALE_TEXT, pitchClassName, usesFlats } from "@/core/pitch/note";
import { editSong } from "@/state/edits";
import { clockTime } from "@/ui/clockTime";
import { NameField } from "@/ui/NameField";
import { Select } from "@/ui/Select";
import { ValueField } from "@/ui/ValueRow";
import { parameterValue } from "@/ui/values";
import { useEditable, useProject, useSound, useStudio, useView } from "@/views/studio/studio";
import { HistoryList } from "./HistoryList";
import { Meter } from "./Meter";
import { tapTempo } from "./tapTempo";

const cell = "flex h-full flex-col justify-center border-r border-line px-2.5 xl:px-3";
const bare =
  "[field-sizing:content] appearance-none bg-transparent hover:underline text-[16px] leading-[20px] font-semibold rounded-[2px]";

export function TopBar() {
  return (
    <header className="flex h-[54px] items-stretch border-b border-ink bg-sheet">
      <div
        className="flex w-[128px] shrink-0 items-center xl:w-[152px] border-r border-line pl-3 text-[22px] font-bold tracking-tight"
        style={{ fontStretch: "112%" }}
      >
        clovik
      </div>
      <PlayButton />
      <SongFields />
      <ProjectName />
      <div className="ml-auto flex shrink-0 items-stretch">
        <HistoryButtons />
        <ThemeButton />
        <Meter />
      </div>
    </header>
  );
}

function PlayButton() {
  const studio = useStudio();
  const playing = useSound((s) => s.playing);
  const starting = useSound((s) => s.state === "starting");
  return (
    <button
      type="button"
      className="flex w-[88px] shrink-0 cursor-pointer items-center justify-center gap-2 bg-ink text-[13px] font-semibold text-sheet"
      title="Play or stop (Space)"
      onClick={() => studio.toggle()}
    >
      {playing ? <Square size={14} fill="currentColor" /> : <Play size={16} fill="currentColor" />}
      {playing ? "Stop" : starting ? "Starting" : "Play"}
    </button>
  );
}

function SongFields() {
  const { store } = useStudio().workspace;
  const song = useProject((s) => s.project.song);
  const editable = useEditable();
  const taps = useRef<readonly number[]>([]);
  const tempo = SONG_ROWS.tempo;
  const set = (label: string, change: Parameters<typeof editSong>[0], gesture?: string) =>
    store.edit(label, editSong(change), gesture);
  const tap = (): void => {
    const result = tapTempo(taps.current, performance.now());
    taps.current = result.taps;
    if (result.bpm !== null) set("Tap tempo", { tempoBpm: result.bpm }, "tap-tempo");
  };
  const flats = usesFlats(song.key);
  return (
    <fieldset disabled={!editable} className={`flex items-stretch ${editable ? "" : "pointer-events-none opacity-60"}`}>
      <legend className="sr-only">Song</legend>
      <div className={`${cell} w-[128px]`}>
        <div className="flex items-end justify-between gap-1">
          <ValueField
            disabled={!editable}
            label="Tempo"
            value={{
              ...parameterValue(
                tempo,
                song.tempoBpm,
                (v, g) => set("Set tempo", { tempoBpm: v }, g),
                (v) => v.toFixed(2),
              ),
              // A tenth of a beat a minute for each pixel.
              travelPx: (tempo.max - tempo.min) * 10,
            }}
          />
          <button type="button" className="chip mb-[1px]" title="Tap the tempo (T)" data-shortcut="tap" onClick={tap}>
            tap
          </button>
        </div>
      </div>
      <div className={cell}>
        <div className="text-[11px] text-ink2">Meter</div>
        <div className="flex">
          <Select
            label="Beats in a bar"
            className={bare}
            value={String(song.meter.beats)}
            options={Array.from({ length: 32 }, (_, i) => ({ value: String(i + 1), text: String(i + 1) }))}
            onChange={(beats) => set("Set meter", { meter: { ...song.meter, beats: Number(beats) } })}
          />
          <span className="text-[16px] leading-[20px] font-semibold">/</span>
          <Select
            label="Note that counts as a beat"
            className={bare}
            value={String(song.meter.unit)}
            options={[2, 4, 8, 16].map((u) => ({ value: String(u), text: String(u) }))}
            onChange={(unit) => set("Set meter", { meter: { ...song.meter, unit: Number(unit) } })}
          />
        </div>
      </div>
      <div className={cell}>
        <ValueField
          disabled={!editable}
          label="Loop"
          value={parameterValue(
            SONG_ROWS.loopBars,
            song.loopBars,
            (v, g) => set("Set loop", { loopBars: v }, g),
            (v) => (v === 1 ? "1 bar" : `${v} bars`),
          )}
        />
      </div>
      <div className={`${cell} w-[104px]`}>
        <div className="flex items-center text-[11px] whitespace-nowrap text-ink2">
          Swing on
          <Select
            label="Swing grid"
            className="ml-1 [field-sizing:content] appearance-none rounded-[2px] bg-transparent text-[11px] font-semibold text-ink hover:underline"
            value={String(song.swing.grid)}
            options={[
              { value: "8", text: "1/8" },
              { value: "16", text: "1/16" },
            ]}
            onChange={(grid) => set("Set swing grid", { swing: { ...song.swing, grid: grid === "8" ? 8 : 16 } })}
          />
        </div>
        <ValueField
          disabled={!editable}
          label=""
          name="Swing"
          value={parameterValue(
            SONG_ROWS.swing,
            song.swing.percent,
            (v, g) => set("Set swing", { swing: { ...song.swing, percent: v } }, g),
            (v) => formatAmount(v, "%", v % 1 === 0 ? 0 : 1),
          )}
        />
      </div>
      <div className={cell}>
        <div className="text-[11px] text-ink2">Key</div>
        <div className="flex gap-1">
          <Select
            label="Tonic"
            className={bare}
            value={String(song.key.tonic)}
            options={Array.from({ length: 12 }, (_, i) => ({ value: String(i), text: pitchClassName(i, flats) }))}
            onChange={(tonic) => set("Set key", { key: { ...song.key, tonic: Number(tonic) } })}
          />
          <Select
            label="Scale"
            className={bare}
            value={song.key.scale}
            options={SCALES.map((s) => ({ value: s, text: SCALE_TEXT[s] }))}
            onChange={(scale) => set("Set key", { key: { ...song.key, scale } })}
          />
        </div>
      </div>
    </fieldset>
  );
}

function ProjectName() {
  const { workspace } = useStudio();
  const id = useProject((s) => s.project.id);
  const name = useProject((s) => s.project.name);
  const save = useProject((s) => s.save);
  const readOnly = useProject((s) => s.readOnly);
  const text = readOnly
    ? "read only"
    : save.kind === "failed"
      ? `not saved since ${clockTime(save.since)}`
      : save.kind === "saved"
        ? save.at > 0
          ? `saved at ${clockTime(save.at)}`
          : "saved"
        : "saving";
  return (
    <div className="flex max-w-[220px] min-w-[68px] flex-1 flex-col justify-center px-2 xl:px-3">
      <NameField small name={name} disabled={readOnly !== null} onRename={(to) => void workspace.rename(id, to)} />
      <div
        className={`truncate text-[11px] ${save.kind === "failed" ? "font-semibold text-ink" : "text-ink2"}`}
        title={save.kind === "failed" ? save.reason : undefined}
        data-save={save.kind}
      >
        {text}
      </div>
    </div>
  );
}

const iconButton =
  "flex w-8 cursor-pointer items-center justify-center text-ink disabled:cursor-default disabled:opacity-35";

function HistoryButtons() {
  const studio = useStudio();
  const undoLabel = useProject((s) => s.history.done.at(-1)?.label);
  const redoLabel = useProject((s) => s.history.undone.at(-1)?.label);
  return (
    <>
      <button
        type="button"
        className={iconButton}
        disabled={!undoLabel}
        aria-label={undoLabel ? `Undo: ${undoLabel}` : "Undo"}
        title={undoLabel ? `Undo: ${undoLabel} (Ctrl+Z)` : "Nothing to undo"}
        onClick={() => studio.undo()}
      >
        <Undo2 size={16} />
      </button>
      <button
        type="button"
        className={iconButton}
        disabled={!redoLabel}
        aria-label={redoLabel ? `Redo: ${redoLabel}` : "Redo"}
        title={redoLabel ? `Redo: ${redoLabel} (Ctrl+Shift+Z)` : "Nothing to redo"}
        onClick={() => studio.redo()}
      >
        <Redo2 size={16} />
      </button>
      <HistoryList className={iconButton.replace("w-8", "w-6")} />
    </>
  );
}

function ThemeButton() {
  const { view } = useStudio();
  const theme = useView((v) => v.theme);
  const flip = (): void => {
    const night =
      theme === "night" || (theme === "system" && window.matchMedia("(prefers-color-scheme: dark)").matches);
    view.setState({ theme: night ? "day" : "night" });
  };
  return (
    <button type="button" className={iconButton} aria-label="Day or night" title="Day or night" onClick={flip}>
      <Sun size={15} className="hidden [[data-theme=night]_&]:block" />
      <Moon size={15} className="[[data-theme=night]_&]:hidden" />
    </button>
  );
}
