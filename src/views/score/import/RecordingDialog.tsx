import { useCallback, useMemo, useState } from "react";
import type { Heard } from "@/audio/workers/file.worker";
import { guessTempo } from "@/core/measure/onsets";
import { clampToParameter, row } from "@/core/patch/row";
import { SONG_ROWS } from "@/core/patch/rows";
import { barTicks } from "@/core/time/meter";
import { ticksPerSecond } from "@/core/time/span";
import { Dialog, DialogButtons } from "@/ui/Dialog";
import { ValueRow } from "@/ui/ValueRow";
import { parameterValue } from "@/ui/values";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { usePart, useProject, useStudio } from "@/views/studio/studio";
import { BecomesRows } from "./BecomesRows";
import { rhythmEdit, type Becomes } from "./rhythmEdits";

const OFFERED: readonly Becomes[] = ["gate", "steps", "triggers", "shape", "notes"];
/** Weaker onsets than this share of the strongest are left out, unless told otherwise. */
const SENSITIVITY = row({ label: "Takes from", unit: "%", min: 1, max: 100, default: 15, step: 5, fine: 1, hint: "Leaves out what begins weaker than this share of the strongest." }); // prettier-ignore
const STEM = /\.[^.]+$/;

/** What was heard in a recording, and what is to become of it. */
export function RecordingDialog({ fileName, heard, onClose }: { fileName: string; heard: Heard; onClose: () => void }) {
  const { workspace, view } = useStudio();
  const part = usePart();
  const project = useProject((s) => s.project);
  const { song } = project;
  const [least, setLeast] = useState(SENSITIVITY.default);
  const [choice, setChoice] = useState({ becomes: "gate" as Becomes, step: { num: 1, den: 16 }, shapeId: null as string | null });
  const onsets = useMemo(() => heard.onsets.filter((o) => o.strength >= least / 100), [heard, least]);
  const guess = useMemo(() => guessTempo(onsets, heard.lengthSec), [onsets, heard.lengthSec]);
  const [takeTempo, setTakeTempo] = useState(guess?.beats != null);
  const tempo = guess && takeTempo ? clampToParameter(SONG_ROWS.tempo, guess.tempoBpm) : song.tempoBpm;
  const perSecond = ticksPerSecond(tempo);
  const loudest = heard.levels.reduce((most, v) => Math.max(most, v), 0);
  const none = onsets.length === 0 && choice.becomes !== "shape";
  const take = (): void => {
    const name = fileName.replace(STEM, "").trim().slice(0, 80) || "Recording";
    const hits = onsets.map((o) => ({ tick: o.sec * perSecond, offTick: null, velocity: Math.round(40 + 87 * o.strength) }));
    const lengthTicks = heard.lengthSec * perSecond;
    const { meter } = song;
    const key = 48 + song.key.tonic;
    const notes = hits.map((h, i) => ({
      startTick: Math.round(h.tick),
      lengthTicks: Math.max(1, Math.round(Math.min(240, (hits[i + 1]?.tick ?? lengthTicks) - h.tick))),
      key,
      velocity: h.velocity,
    }));
    const rhythm = { name, hits, notes, lengthTicks, step: choice.step, levels: heard.levels.map((v) => (loudest > 0 ? v / loudest : 0)), shapeId: choice.shapeId };
    const { edit, strip } = rhythmEdit(choice.becomes, rhythm, part, project);
    const bars = Math.min(32, Math.max(song.loopBars, Math.ceil(lengthTicks / barTicks(meter) - 0.01)));
    const done = workspace.store.edit(`Take the rhythm of ${name}`, (p) => {
      const taken = edit(p);
      return { ...taken, song: { ...taken.song, tempoBpm: tempo, loopBars: choice.becomes === "notes" || choice.becomes === "triggers" ? bars : taken.song.loopBars } };
    });
    if (done) view.setState({ strip, selectedNotes: new Set() });
    onClose();
  };
  return (
    <Dialog title="Take a rhythm from a recording" onClose={onClose}>
      <p className="break-words">
        <b>{fileName}</b> lasts {heard.lengthSec.toFixed(2)} s; {onsets.length === 1 ? "1 beginning was" : `${onsets.length} beginnings were`} heard in it.
      </p>
      <Picture heard={heard} onsets={onsets} loudest={loudest} />
      <div className="mt-2">
        <ValueRow label={SENSITIVITY.label} hint={SENSITIVITY.hint} value={parameterValue(SENSITIVITY, least, setLeast)} />
        <BecomesRows offered={OFFERED} {...choice} onChange={setChoice} />
      </div>
      {guess && (
        <label className="mt-2 flex items-center gap-2">
          <input type="checkbox" checked={takeTempo} onChange={(e) => setTakeTempo(e.currentTarget.checked)} />
          Take its tempo, {guess.tempoBpm.toFixed(2)} BPM{guess.beats === null ? ", as near as it was heard" : `: a loop of ${guess.beats} beats`} (the song has {song.tempoBpm.toFixed(2)})
        </label>
      )}
      {none && <p className="mt-2 text-ink2">Nothing begins in it so strongly. Take from weaker ones, or its level.</p>}
      <DialogButtons>
        <button type="button" className="chip" onClick={onClose}>
          Cancel
        </button>
        <button type="button" className="chip" data-on="true" disabled={none} onClick={take}>
          Take
        </button>
      </DialogButtons>
    </Dialog>
  );
} // prettier-ignore

/** The level of the recording and where something begins in it. */
function Picture({ heard, onsets, loudest }: { heard: Heard; onsets: Heard["onsets"]; loudest: number }) {
  const paint = useCallback(
    ({ g, width, height, palette }: Surface) => {
      g.fillStyle = palette.ink2;
      const n = heard.levels.length;
      heard.levels.forEach((v, i) => {
        const h = loudest > 0 ? (v / loudest) * (height - 4) : 0;
        g.fillRect((i * width) / n, (height - h) / 2, Math.max(1, width / n - 0.5), Math.max(1, h));
      });
      g.fillStyle = palette.heard;
      for (const o of onsets) g.fillRect((o.sec / heard.lengthSec) * width, 0, 1.5, height);
    },
    [heard, onsets, loudest],
  );
  return (
    <div className="relative mt-2 h-[72px] border border-line bg-paper">
      <canvas
        ref={useCanvas(paint)}
        className="absolute inset-0 h-full w-full"
        role="img"
        aria-label={`Level of the recording, with ${onsets.length} beginnings marked`}
      />
    </div>
  );
}
