import type { Corner, DrawnFrame, HarmonicWeights } from "../patch/kinds/oscillator";
import { framesOf } from "./importedFrames";
import { recordingTable } from "./recordingTable";
import { MOST_HARMONICS, cornerTable, frameTable, type FrameTable } from "./frameTables";
import type { Harmonics } from "./fourier";
import { OWN_FRAMES } from "./ownFrames";
import type { OwnTable } from "./ownTableIds";
import { cosCycles, sinCycles } from "./portableMath";
import type { Recordings, SoundTable, TableSpec } from "./tableSpec";
import { weighted, weightedFrames } from "./weightedHarmonics";
import { waveTable, type WaveTable } from "./waveTables";

const turnedHarmonics = (count: number, of: (h: number) => readonly [level: number, cycles: number]): Harmonics => {
  const cos = new Float64Array(count);
  const sin = new Float64Array(count);
  for (let h = 1; h <= count; h++) {
    const [level, cycles] = of(h);
    cos[h - 1] = level * sinCycles(cycles);
    sin[h - 1] = level * cosCycles(cycles);
  }
  return { cos, sin };
};

/** Harmonics of a frame that was set by hand: sines of these levels, each turned by its phase. */
export const drawnHarmonics = ({ levels, phases }: DrawnFrame): Harmonics =>
  turnedHarmonics(levels.length, (h) => [levels[h - 1]!, (phases[h - 1] ?? 0) / 360]);

const frames = new Map<OwnTable, readonly Harmonics[]>();

/** The frames of a table of our own, worked out once a thread. */
export function ownFrames(id: OwnTable): readonly Harmonics[] {
  const made = frames.get(id) ?? OWN_FRAMES[id]();
  frames.set(id, made);
  return made;
}

/** The harmonics of a table at a place of 0 to 100 %, straight between its frames. */
export function harmonicsAt(table: readonly Harmonics[], place: number): Harmonics {
  const x = (Math.min(100, Math.max(0, place)) / 100) * (table.length - 1);
  const a = table[Math.floor(x)]!;
  const b = table[Math.ceil(x)]!;
  const mix = (p: Float64Array, q: Float64Array): Float64Array => p.map((v, k) => v + (q[k]! - v) * (x % 1));
  return { cos: mix(a.cos, b.cos), sin: mix(a.sin, b.sin) };
}

/** A corner's cycle: its harmonics set apart by its pitch and turned by its phase. */
function cornerHarmonics(c: Corner): Harmonics {
  const wave = harmonicsAt(ownFrames(c.table), c.place);
  const cos = new Float64Array(MOST_HARMONICS);
  const sin = new Float64Array(MOST_HARMONICS);
  // What is set higher than the last harmonic falls off the end.
  for (let h = 1; h <= wave.cos.length; h++) {
    const [co, si] = [cosCycles((h * c.phase) / 360), sinCycles((h * c.phase) / 360)];
    cos[h * c.harmonic - 1] = wave.cos[h - 1]! * co + wave.sin[h - 1]! * si;
    sin[h * c.harmonic - 1] = wave.sin[h - 1]! * co - wave.cos[h - 1]! * si;
  }
  return { cos, sin };
}

/** Harmonics of four corners blended at two places of 0 to 100 %. */
export function tableHarmonics(corners: readonly Corner[], x: number, y: number): Harmonics {
  const [right, up] = [x / 100, y / 100];
  const weights = [(1 - right) * (1 - up), right * (1 - up), (1 - right) * up, right * up];
  const all = corners.map(cornerHarmonics);
  const sum = (of: (h: Harmonics) => Float64Array): Float64Array =>
    of(all[0]!).map((_, k) => all.reduce((s, h, i) => s + weights[i]! * corners[i]!.level * of(h)[k]!, 0));
  return { cos: sum((h) => h.cos), sin: sum((h) => h.sin) };
}

/** Harmonics of a weighted cycle at an amount of 0 to 100 %. */
export const weightedAt = (w: HarmonicWeights, percent: number): Harmonics =>
  weighted(harmonicsAt(ownFrames(w.table), w.place), w, percent / 100);

const own = new Map<OwnTable, FrameTable>();

type FromRecording = Extract<TableSpec, { hash: string }>;
const isFromRecording = (spec: TableSpec): spec is FromRecording => "hash" in spec;

/** Makes tables, those of recordings from what is there of them: null where one is not. */
export const tableMaker =
  (recordings: Recordings) =>
  (spec: TableSpec): SoundTable | null => {
    if (!isFromRecording(spec)) return makeTable(spec);
    const recording = recordings.get(spec.hash);
    if (!recording) return null;
    return spec.kind === "recording"
      ? recordingTable(recording)
      : frameTable(framesOf(recording, spec.length), spec.even);
  };

/** Makes the tables of engines that play no recordings. */
export const withoutRecordings = tableMaker(new Map());

/** Makes a table: some tens of milliseconds, so never on the audio thread. Plain and own ones are made once a thread. */
export function makeTable(spec: Exclude<TableSpec, FromRecording>): WaveTable | FrameTable {
  switch (spec.kind) {
    case "wave":
      return waveTable(spec.wave);
    case "own": {
      const made = own.get(spec.id) ?? frameTable(ownFrames(spec.id));
      own.set(spec.id, made);
      return made;
    }
    case "drawn":
      return frameTable(spec.frames.map(drawnHarmonics));
    case "harmonics":
      return frameTable(weightedFrames(harmonicsAt(ownFrames(spec.weights.table), spec.weights.place), spec.weights));
    case "corners":
      return cornerTable(
        spec.corners.map(cornerHarmonics),
        spec.corners.map((c) => c.level),
      );
    default:
      return spec satisfies never;
  }
}
