import { writeMidi, type MidiEvent } from "midi-file";
import type { NoteEvent } from "../pattern/noteEvent";
import { TICKS_PER_QUARTER } from "../time/noteValue";
import type { Meter } from "../time/meter";
import { curveMessages, type CurveMessage, type MidiCurve } from "./midiCurve";

/** Writes Standard MIDI Files 1.0 (MIDI Manufacturers Association), formats 0 and 1. */

export interface MidiTrack {
  readonly name: string;
  readonly notes: readonly NoteEvent[];
  /** Controllers and pitch bends that go with the notes. */
  readonly curves: readonly MidiCurve[];
}

export interface MidiSong {
  readonly name: string;
  readonly tracks: readonly MidiTrack[];
  readonly tempoBpm: number;
  readonly meter: Meter;
  /** Where everything ends, in ticks of 960 a quarter, so that the file loops. */
  readonly endTick: number;
  /** 0 puts everything into one track, each part on a channel of its own; 1 gives each part a track. */
  readonly format: 0 | 1;
}

/**
 * Notes of one key that overlap, ended where the next one starts: a MIDI channel has one note a key, and a second note-on
 * would be ended by the first one's off. Tells how many were shortened. Notes must be in order of onset.
 */
export function withoutOverlaps(notes: readonly NoteEvent[]): { notes: NoteEvent[]; shortened: number } {
  const nextOn = new Map<number, number>();
  let shortened = 0;
  const ended = [...notes].reverse().flatMap((n): NoteEvent[] => {
    const next = nextOn.get(n.key) ?? Infinity;
    nextOn.set(n.key, n.onTick);
    // Two of a key at once are one.
    if (next === n.onTick) return [];
    if (n.offTick <= next) return [n];
    shortened++;
    return [{ ...n, offTick: next }];
  });
  return { notes: ended.reverse(), shortened };
}

/** Something at a place of the song. At one tick, what is let go comes first, then controllers, then what is pressed. */
interface Placed {
  readonly tick: number;
  readonly rank: 0 | 1 | 2 | 3;
  readonly event: Omit<MidiEvent, "deltaTime">;
}

const text = (name: string): string => name.replace(/[^\x20-\x7e]/g, "?");

const named = (name: string): Placed => ({ tick: 0, rank: 0, event: { meta: true, type: "trackName", text: text(name) } as Placed["event"] }); // prettier-ignore

const curveEvent = ({ controller, value }: CurveMessage, channel: number): Placed["event"] => {
  const bend = { type: "pitchBend", channel, value } as Placed["event"];
  return controller === null
    ? bend
    : ({ type: "controller", channel, controllerType: controller, value } as Placed["event"]);
};

function eventsOf(track: MidiTrack, channel: number, endTick: number): Placed[] {
  const notes = withoutOverlaps(track.notes).notes.flatMap((n): Placed[] => {
    const off = Math.max(n.onTick + 1, Math.min(n.offTick, endTick));
    return [
      { tick: n.onTick, rank: 3, event: { type: "noteOn", channel, noteNumber: n.key, velocity: n.velocity } as Placed["event"] },
      { tick: off, rank: 1, event: { type: "noteOff", channel, noteNumber: n.key, velocity: 0 } as Placed["event"] },
    ];
  }); // prettier-ignore
  const curves = track.curves.flatMap((curve) =>
    curveMessages(curve)
      .filter((m) => m.tick < endTick)
      .map((m): Placed => ({
        tick: m.tick,
        rank: 2,
        event: curveEvent(m, channel),
      })),
  );
  return [...notes, ...curves];
}

/** Puts events in order, counts their distances, and ends the track. */
function trackOf(placed: readonly Placed[], endTick: number): MidiEvent[] {
  const inOrder = [...placed].sort((a, b) => a.tick - b.tick || a.rank - b.rank);
  let last = 0;
  const events = inOrder.map(({ tick, event }): MidiEvent => {
    const deltaTime = tick - last;
    last = tick;
    return { ...event, deltaTime } as MidiEvent;
  });
  return [...events, { deltaTime: Math.max(0, endTick - last), meta: true, type: "endOfTrack" }];
}

/** A MIDI channel for each part; the tenth is for drums by common practice. */
const channelOf = (index: number): number => (index < 9 ? index : index + 1) % 16;

/** A file with tempo, meter, names, notes and curves, at 960 ticks a quarter. */
export function writeMidiSong(song: MidiSong): Uint8Array<ArrayBuffer> {
  const head: Placed[] = [
    named(song.name),
    { tick: 0, rank: 0, event: { meta: true, type: "setTempo", microsecondsPerBeat: Math.round(60_000_000 / song.tempoBpm) } as Placed["event"] },
    { tick: 0, rank: 0, event: { meta: true, type: "timeSignature", numerator: song.meter.beats, denominator: song.meter.unit, metronome: 24, thirtyseconds: 8 } as Placed["event"] },
  ]; // prettier-ignore
  const parts = song.tracks.map((t, i) => eventsOf(t, channelOf(i), song.endTick));
  const tracks =
    song.format === 0
      ? [trackOf([...head, ...parts.flat()], song.endTick)]
      : [
          trackOf(head, song.endTick),
          ...parts.map((p, i) => trackOf([named(song.tracks[i]!.name), ...p], song.endTick)),
        ];
  const header = { format: song.format, numTracks: tracks.length, ticksPerBeat: TICKS_PER_QUARTER };
  return Uint8Array.from(writeMidi({ header, tracks }));
}
