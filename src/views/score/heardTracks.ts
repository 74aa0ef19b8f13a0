import { roundMarks } from "@/core/curve/roundMarks";
import type { Columns, Watch } from "@/core/engine/watch";
import type { Program } from "@/core/engine/program";
import { addedName } from "@/core/motion/program";
import { kindOf, type Module } from "@/core/patch/kinds";
import { addressOf, splitAddress, type Address } from "@/core/patch/address";
import { AMP } from "@/core/patch/kinds/amp";
import { FILTER } from "@/core/patch/kinds/filter";
import { MIX } from "@/core/patch/kinds/mix";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import { RECORDING } from "@/core/patch/kinds/recording";
import { SUB } from "@/core/patch/kinds/sub";
import { SOURCE_ROWS } from "@/core/patch/kinds/source";
import { automatable } from "@/core/patch/automation";
import type { Patch } from "@/core/patch/project";
import type { TimeBase } from "@/core/time/span";
import { movesInOctaves, type Parameter } from "@/core/patch/row";
import type { Track } from "./paint";

/** A value whose as-heard curve is shown. */
export interface HeardValue {
  readonly address: Address;
  readonly module: Module;
  readonly row: Parameter;
  /** What the curve's numbers are: a MIDI key, dB, Hz, what the row says; or octaves from the row's default, which is then what is at rest: of a time or a rate. */
  readonly reads: "key" | "level" | "hz" | "plain" | "octaves";
  /** A number for people, where the row alone does not say how. */
  readonly text: ((value: number) => string) | null;
}

/** The value at an address of a patch; null when there is none. Times and rates need the song's tempo. */
export function heardValue(patch: Pick<Patch, "modules">, address: Address, base?: TimeBase): HeardValue | null {
  const { owner, parameter } = splitAddress(address);
  const module = patch.modules.find((m) => m.id === owner);
  const row = module ? kindOf(module).rows[parameter] : undefined;
  const time = row || !base ? null : automatable(patch, address, base);
  if (module && time)
    return { address, module, row: { ...time.row, default: time.rest }, reads: "octaves", text: time.text };
  if (!module || !row) return null;
  if (kindOf(module).role === "modulator" && movesInOctaves(row.move, row)) {
    const values: Readonly<Record<string, number>> = module.values;
    return { address, module, row: { ...row, default: values[parameter]! }, reads: "octaves", text: null };
  }
  const reads =
    row === OSCILLATOR.rows.pitch || row === RECORDING.rows.pitch || row === SUB.rows.pitch
      ? "key"
      : row === AMP.rows.level || row === SOURCE_ROWS.level || row === MIX.rows.level
        ? "level"
        : row === FILTER.rows.cutoff
          ? "hz"
          : "plain";
  return { address, module, row, reads, text: null };
}

/** Tracks in the value's own unit: of times and rates, from octaves to what they come to. */
export const ownTracks = ({ reads, row }: Pick<HeardValue, "reads" | "row">, tracks: readonly Track[]): readonly Track[] => {
  if (reads !== "octaves") return tracks;
  const own = (octaves: ArrayLike<number>): Float32Array => Float32Array.from(octaves, (v) => row.default * 2 ** v);
  return tracks.map((t) => ({ ...t, low: own(t.low), high: own(t.high), last: own(t.last) }));
}; // prettier-ignore

/** One column of every note's values. A note is strong until the next one begins. */
function noteTracks(watch: Watch, program: Program, partIndex: number, column: number): Track[] {
  const tickStep = program.song.loopTicks / watch.columns;
  const notes = watch.notes.filter((n) => n.part === partIndex && (n.columns[column]?.count ?? 0) > 0);
  return notes.map((note, i): Track => {
    const next = notes[i + 1]?.columns[column];
    const own = note.columns[column]!;
    return track(watch.values, own, tickStep, next ? next.first - own.first : own.count);
  });
}

const track = (values: Float32Array, c: Columns, tickStep: number, strong: number): Track => ({
  // The middle of the first column.
  firstTick: (c.first + 0.5) * tickStep,
  tickStep,
  count: c.count,
  low: values.subarray(c.at, c.at + c.count),
  high: values.subarray(c.at + c.count, c.at + 2 * c.count),
  last: values.subarray(c.at + 2 * c.count, c.at + 3 * c.count),
  strongUntil: Math.max(0, Math.min(c.count, strong)),
});

/** What a value does, as heard: a track a note. */
export function valueTracks(watch: Watch, program: Program, partIndex: number, address: Address): Track[] {
  const column = watch.watched[partIndex]?.addresses.indexOf(address) ?? -1;
  return column === -1 ? [] : noteTracks(watch, program, partIndex, column);
}

/** What a route adds to its value, in the unit of its amount: the left side's tracks, and the right side's where they are apart. */
export function addedTracks(watch: Watch, program: Program, partIndex: number, route: string): readonly Track[][] {
  const watched = watch.watched[partIndex];
  return [false, true].map((right) => {
    const index = watched?.adds?.indexOf(addedName(route, right)) ?? -1;
    return watched && index !== -1 ? noteTracks(watch, program, partIndex, watched.addresses.length + index) : [];
  });
}

/** The row that sets the sides of a value apart, by its address; null where there is none. */
export const sidesOf = ({ module, row }: Pick<HeardValue, "module" | "row">): Address | null =>
  row.move?.sides ? addressOf(module.id, row.move.sides.row) : null;

/** What both sides of a value do, the left one's tracks and then the right one's; empty where they are alike. */
export function sideTracks(watch: Watch, program: Program, partIndex: number, value: HeardValue): [Track[], Track[]] {
  const { sides } = value.row.move ?? {};
  const address = sidesOf(value);
  const middle = valueTracks(watch, program, partIndex, value.address);
  const between = address === null ? [] : valueTracks(watch, program, partIndex, address);
  const range = rangeOf(between);
  if (!sides || between.length !== middle.length || !range || (range.low === 0 && range.high === 0)) return [[], []];
  // Each side goes half of the way: in octaves on frequencies, else in the value's own unit.
  const side = (sign: 1 | -1): Track[] =>
    middle.map((track, i) => {
      const apart = between[i]!;
      const at = (v: number, a: number): number => (value.reads === "hz" ? v * 2 ** ((sign * a) / (2 * sides.per)) : v + (sign * a) / (2 * sides.per));
      const turned = (values: ArrayLike<number>, by: ArrayLike<number>): Float32Array => Float32Array.from(values, (v, k) => at(v, by[k] ?? 0));
      const [low, high] = sign === 1 ? [apart.low, apart.high] : [apart.high, apart.low];
      return { ...track, low: turned(track.low, low), high: turned(track.high, high), last: turned(track.last, apart.last) };
    });
  return [side(-1), side(1)];
} // prettier-ignore

/** What is heard of a value of a patch: a list of tracks, or two where its sides are apart. */
export function tracksOfSides(watch: Watch, program: Program, partIndex: number, patch: Patch, address: Address): Track[][] {
  const value = heardValue(patch, address);
  const sides = value ? sideTracks(watch, program, partIndex, value) : [];
  return sides.flat().length > 0 ? sides : [valueTracks(watch, program, partIndex, address)];
} // prettier-ignore

/** What a modulator does: one track where all notes share it, else one a note. */
export function modulatorTracks(watch: Watch, program: Program, partIndex: number, id: string): Track[] {
  const watched = watch.watched[partIndex];
  const index = watched?.sources.indexOf(id) ?? -1;
  if (!watched || index === -1) return [];
  const shared = watch.shared[partIndex]![index];
  if (shared) return [track(watch.values, shared, program.song.loopTicks / watch.columns, shared.count)];
  // Columns of notes hold the addresses, what routes add, then the sources that are not shared.
  const own = watched.sources.slice(0, index).filter((_, i) => !watch.shared[partIndex]![i]).length;
  return noteTracks(watch, program, partIndex, watched.addresses.length + (watched.adds?.length ?? 0) + own);
}

/** Value of the strongest track at a tick; null where nothing sounds. */
export function valueAt(tracks: readonly Track[], tick: number): number | null {
  for (let i = tracks.length - 1; i >= 0; i--) {
    const track = tracks[i]!;
    const index = Math.round((tick - track.firstTick) / track.tickStep);
    if (index >= 0 && index < track.count) return track.last[index]!;
  }
  return null;
}

export interface Scale {
  readonly min: number;
  readonly max: number;
  readonly log: boolean;
  readonly ticks: readonly number[];
  /** Decimals that the ticks need. */
  readonly digits: number;
}

/** The lowest and highest value of all tracks; null when there is none. */
export function rangeOf(tracks: readonly Track[]): { low: number; high: number } | null {
  let low = Infinity;
  let high = -Infinity;
  for (const track of tracks) {
    for (let i = 0; i < track.count; i++) {
      low = Math.min(low, track.low[i]!);
      high = Math.max(high, track.high[i]!);
    }
  }
  return low <= high ? { low, high } : null;
}

const LEVEL_FLOOR_DB = -48;

/** A scale that holds what is heard, with a few round marks. */
export function heardScale(value: HeardValue, range: { low: number; high: number } | null): Scale {
  if (value.reads === "hz" || value.reads === "octaves") {
    const [lowest, highest] = value.reads === "hz" ? [20, 24_000] : [value.row.min, value.row.max];
    const min = Math.max(lowest, (range?.low ?? 100) / 1.5);
    const max = Math.min(highest, (range?.high ?? 10_000) * 1.5);
    return { min, max, log: true, ticks: thin(roundMarks(min, max, true)), digits: 0 };
  }
  if (value.reads === "key") {
    const min = Math.floor((range?.low ?? 60) - 2);
    const max = Math.ceil((range?.high ?? 72) + 2);
    // The scale stands at the notes that are played: the lowest, the highest, and octaves where there is room between.
    const low = Math.round(range?.low ?? 60);
    const high = Math.round(range?.high ?? 72);
    const apart = Math.max(4, (high - low) / 4);
    const octaves = Array.from({ length: 11 }, (_, i) => i * 12).filter((k) => k > low + apart && k < high - apart);
    const ends = high > low ? [low, high] : [low - 1, low + 1];
    return { min, max, log: false, ticks: [ends[0]!, ...thin(octaves).slice(0, 1), ends[1]!], digits: 0 };
  }
  if (value.reads === "level")
    return {
      min: LEVEL_FLOOR_DB,
      max: range && range.high > 0 ? value.row.max : 0,
      log: false,
      ticks: [-36, -12],
      digits: 0,
    };
  const p = value.row;
  return { min: p.min, max: p.max, log: false, ticks: thin(roundMarks(p.min, p.max, false)), digits: p.digits };
}

/** Three marks at the most, the first and the last among them. */
const thin = (marks: readonly number[]): readonly number[] =>
  marks.length <= 3 ? marks : [marks[0]!, marks[Math.floor(marks.length / 2)]!, marks.at(-1)!];

/** Place on the scale, 0 at the bottom to 1 at the top. */
export function onScale(scale: Scale, value: number): number {
  const v = Math.min(scale.max, Math.max(scale.min, value));
  return scale.log
    ? Math.log(v / scale.min) / Math.log(scale.max / scale.min)
    : (v - scale.min) / (scale.max - scale.min);
}

const same = (a: ArrayLike<number>, b: ArrayLike<number>): boolean => {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
};

/** Whether two lists of tracks draw the same: an edit of one modulator leaves the others' as they were. */
export const sameTracks = (a: readonly Track[], b: readonly Track[]): boolean =>
  a === b ||
  (a.length === b.length &&
    a.every((t, i) => {
      const u = b[i]!;
      return (
        t.firstTick === u.firstTick &&
        t.tickStep === u.tickStep &&
        t.count === u.count &&
        t.strongUntil === u.strongUntil &&
        same(t.low, u.low) &&
        same(t.high, u.high) &&
        same(t.last, u.last)
      );
    }));
