import type { Heard } from "@/core/engine/heard";
import type { Program } from "@/core/engine/program";
import { SUB_BLOCK } from "@/core/engine/voice";
import { TARGET_IDS, parameter, type TargetId } from "@/core/patch/parameters";
import type { Modulator } from "@/core/patch/project";
import type { Track } from "./paint";

/** Where the engine keeps a modulator's values: a column of every note's rows, and a place among the shared shapes (-1 for envelopes). */
export interface SourcePlace {
  readonly column: number;
  readonly shape: number;
}

/** The engine keeps targets, then envelopes (the amp's first), then shapes. */
export function placeOf(modulators: readonly Modulator[], id: string): SourcePlace {
  const envelopes = modulators.filter((m) => m.kind === "envelope").map((m) => m.id);
  const shapes = modulators.filter((m) => m.kind === "shape").map((m) => m.id);
  const order = ["amp", ...envelopes.filter((e) => e !== "amp"), ...shapes];
  return { column: TARGET_IDS.length + order.indexOf(id), shape: shapes.indexOf(id) };
}

/** One column of every note's values: a target or a source. A note is strong until the next one begins. */
function noteTracks(heard: Heard, program: Program, partIndex: number, column: number): Track[] {
  const ticksPerFrame = program.ticksPerSec / heard.sampleRate;
  const notes = heard.notes.filter((n) => n.part === partIndex);
  return notes.map((note, i) => {
    const count = note.rows.length / note.width;
    const next = notes[i + 1];
    const strong = next ? Math.ceil((next.onFrame - note.firstFrame) / SUB_BLOCK) : count;
    return {
      firstTick: note.firstFrame * ticksPerFrame,
      tickStep: SUB_BLOCK * ticksPerFrame,
      count,
      at: (index) => note.rows[index * note.width + column]!,
      strongUntil: Math.max(0, Math.min(count, strong)),
    };
  });
}

export const targetTracks = (heard: Heard, program: Program, partIndex: number, target: TargetId): Track[] =>
  noteTracks(heard, program, partIndex, TARGET_IDS.indexOf(target));

/** What a modulator does: one track where all notes share it, else one a note. */
export function modulatorTracks(heard: Heard, program: Program, partIndex: number, place: SourcePlace): Track[] {
  const shared = heard.shared[partIndex]?.[place.shape];
  if (!shared) return noteTracks(heard, program, partIndex, place.column);
  const tickStep = (SUB_BLOCK * program.ticksPerSec) / heard.sampleRate;
  return [{ firstTick: tickStep, tickStep, count: shared.length, at: (i) => shared[i]!, strongUntil: shared.length }];
}

/** Value of the strongest track at a tick; null where nothing sounds. */
export function valueAt(tracks: readonly Track[], tick: number): number | null {
  for (let i = tracks.length - 1; i >= 0; i--) {
    const track = tracks[i]!;
    const index = Math.round((tick - track.firstTick) / track.tickStep);
    if (index >= 0 && index < track.count) return track.at(index);
  }
  return null;
}

export interface Scale {
  readonly min: number;
  readonly max: number;
  readonly log: boolean;
  readonly ticks: readonly number[];
}

/** The lowest and highest value of all tracks; null when there is none. */
export function rangeOf(tracks: readonly Track[]): { low: number; high: number } | null {
  let low = Infinity;
  let high = -Infinity;
  for (const track of tracks) {
    for (let i = 0; i < track.count; i++) {
      const v = track.at(i);
      if (v < low) low = v;
      if (v > high) high = v;
    }
  }
  return low <= high ? { low, high } : null;
}

const HZ_MARKS = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000];
const LEVEL_FLOOR_DB = -48;

/** A scale that holds what is heard, with a few round marks. */
export function heardScale(target: TargetId, range: { low: number; high: number } | null): Scale {
  if (target === "filter.cutoff") {
    const min = Math.max(20, (range?.low ?? 100) / 1.5);
    const max = Math.min(24_000, (range?.high ?? 10_000) * 1.5);
    return { min, max, log: true, ticks: thin(HZ_MARKS.filter((hz) => hz > min && hz < max)) };
  }
  if (target === "osc.pitch") {
    const min = Math.floor((range?.low ?? 60) - 2);
    const max = Math.ceil((range?.high ?? 72) + 2);
    const octaves = Array.from({ length: 11 }, (_, i) => i * 12).filter((k) => k >= min && k <= max);
    return { min, max, log: false, ticks: octaves.length > 0 ? octaves : [Math.round((min + max) / 2)] };
  }
  if (target === "amp.level") return { min: LEVEL_FLOOR_DB, max: 0, log: false, ticks: [-36, -12] };
  const p = parameter(target);
  return { min: p.min, max: p.max, log: false, ticks: [p.min, (p.min + p.max) / 2, p.max] };
}

/** Three marks at the most. */
const thin = (marks: readonly number[]): readonly number[] =>
  marks.length <= 3 ? marks : [marks[0]!, marks[Math.floor(marks.length / 2)]!, marks.at(-1)!];

/** Place on the scale, 0 at the bottom to 1 at the top. */
export function onScale(scale: Scale, value: number): number {
  const v = Math.min(scale.max, Math.max(scale.min, value));
  return scale.log
    ? Math.log(v / scale.min) / Math.log(scale.max / scale.min)
    : (v - scale.min) / (scale.max - scale.min);
}
