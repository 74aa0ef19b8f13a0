import type { TimeBase } from "@/core/time/span";
import type { Program } from "@/core/engine/program";
import type { Watch } from "@/core/engine/watch";
import type { MidiCurve, MidiCurveForm } from "@/core/format/midiCurve";
import type { Address } from "@/core/patch/address";
import { modulesOf } from "@/core/patch/kinds";
import { PLAYING } from "@/core/patch/kinds/playing";
import type { Part } from "@/core/patch/project";
import { toNorm } from "@/core/patch/row";
import { heardValue, modulatorTracks, ownTracks, valueAt, valueTracks } from "@/views/score/heardTracks";
import { heardAddresses, movedAddresses } from "@/views/score/heardStrips";
import { modulatorsOf } from "@/views/score/stripList";

/** Something whose curve can go out as MIDI. */
export type CurveSource =
  { readonly kind: "modulator"; readonly id: string } | { readonly kind: "heard"; readonly address: Address };

export interface WantedCurve {
  readonly source: CurveSource;
  readonly form: MidiCurveForm;
}

const LAST_KEY = 127;

/** What can go out of a part, by its name. */
export function curveSources(part: Part, song: TimeBase): { source: CurveSource; name: string }[] {
  const { patch } = part;
  return [
    ...modulatorsOf(patch).map((m) => ({ source: { kind: "modulator", id: m.id } as const, name: m.name })),
    ...[...new Set([...heardAddresses(patch), ...movedAddresses(patch)])].flatMap((address) => {
      const value = heardValue(patch, address, song);
      return value ? [{ source: { kind: "heard", address } as const, name: `${value.row.label} of ${value.module.name}, as heard` }] : [];
    }),
  ]; // prettier-ignore
}

/**
 * A curve read every `stepTicks` from what was watched. Modulators go from 0 to 1; values over what their row allows, a
 * pitch over MIDI's keys. As a bend, a pitch is how far it is from the note's key, over the part's bend range; anything
 * else goes from -1 to 1. Where nothing sounds, the value stays.
 */
export function curveOf(
  wanted: WantedCurve,
  part: Part,
  partIndex: number,
  watch: Watch,
  program: Program,
  stepTicks: number,
  error: number,
  song: TimeBase,
): MidiCurve {
  const { source, form } = wanted;
  const bend = form.kind === "bend";
  const value = source.kind === "heard" ? heardValue(part.patch, source.address, song) : null;
  const heard = source.kind === "heard" ? valueTracks(watch, program, partIndex, source.address) : modulatorTracks(watch, program, partIndex, source.id); // prettier-ignore
  const tracks = value ? ownTracks(value, heard) : heard;
  const keys = watch.notes.filter((n) => n.part === partIndex);
  const bendRange = modulesOf(part.patch.modules, PLAYING)[0]?.values.bendRange ?? PLAYING.rows.bendRange.default;
  const ticksPerFrame = program.song.loopTicks / watch.frames;
  const shown = (v: number, tick: number): number => {
    if (!value) return bend ? 2 * v - 1 : v;
    if (value.reads !== "key") return bend ? 2 * toNorm(value.row, v) - 1 : toNorm(value.row, v);
    if (!bend) return v / LAST_KEY;
    const sounding = keys.findLast((n) => n.onFrame * ticksPerFrame <= tick + 1);
    return sounding ? (v - sounding.key) / Math.max(1, bendRange) : 0;
  };
  const points: { tick: number; value: number }[] = [];
  for (let tick = 0; tick < program.song.loopTicks; tick += stepTicks) {
    const v = valueAt(tracks, tick);
    if (v !== null) points.push({ tick: Math.round(tick), value: shown(v, tick) });
  }
  return { form, points, error };
}
