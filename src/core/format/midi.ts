import { parseMidi, type MidiData, type MidiEvent } from "midi-file";
import { MAX_NOTES } from "../patch/project";
import type { NoteEvent } from "../pattern/noteEvent";
import { MAX_TICK, TICKS_PER_QUARTER } from "../time/noteValue";
import type { Meter } from "../time/meter";

/**
 * Reads Standard MIDI Files 1.0 (MIDI Manufacturers Association), formats 0 and 1. The parser hands out a note-on without
 * velocity as the note-off that it is.
 */

/** Bytes of the first chunk, its name and length included. */
const HEAD = 14;

export interface MidiImport {
  /** Sorted by onset; ticks at 960 a quarter. */
  readonly notes: readonly NoteEvent[];
  readonly tempoBpm: number | null;
  readonly meter: Meter | null;
  /** The first named track that holds notes. */
  readonly name: string | null;
  /** Later tempo or meter changes in the file, which a song of one tempo cannot follow. */
  readonly changesLeftOut: boolean;
  /** Notes past what a part holds. */
  readonly notesLeftOut: number;
}

export type MidiOpened =
  { readonly ok: true; readonly file: MidiImport } | { readonly ok: false; readonly reason: string };

const refuse = (reason: string): MidiOpened => ({ ok: false, reason });

/**
 * Walks the chunks before parsing, as the parser itself accepts many files that are cut short: what is wrong, or the file
 * with its tracks alone. Chunks of other kinds are to be passed over (Standard MIDI Files 1.0), and a longer head cut.
 */
function tracksOnly(bytes: Uint8Array): Uint8Array | string {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const idAt = (at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4));
  if (bytes.length < HEAD || idAt(0) !== "MThd") return "it does not start like a MIDI file";
  const headerBytes = view.getUint32(4);
  if (headerBytes < 6) return "its header is too short";
  const format = view.getUint16(8);
  if (format > 1) return `format ${format} is not read, only 0 and 1`;
  const declared = view.getUint16(10);
  if (view.getInt16(12) <= 0) return "it counts time in frames of video, not in beats";
  const tracks: Uint8Array[] = [];
  let at = 8 + headerBytes;
  while (at < bytes.length) {
    if (at + 8 > bytes.length) return `it is cut short at byte ${bytes.length}`;
    const end = at + 8 + view.getUint32(at + 4);
    if (end > bytes.length) return `it is cut short: ${end - bytes.length} bytes are missing`;
    if (idAt(at) === "MTrk") {
      // Every track closes with the end-of-track event, FF 2F 00.
      if (bytes[end - 3] !== 0xff || bytes[end - 2] !== 0x2f || bytes[end - 1] !== 0)
        return `track ${tracks.length + 1} has no end`;
      tracks.push(bytes.subarray(at, end));
    }
    at = end;
  }
  if (tracks.length < declared) return `it should hold ${declared} tracks, and holds ${tracks.length}`;
  const only = new Uint8Array(tracks.reduce((sum, t) => sum + t.length, HEAD));
  only.set(bytes.subarray(0, HEAD));
  const head = new DataView(only.buffer);
  head.setUint32(4, HEAD - 8);
  head.setUint16(10, tracks.length);
  let to = HEAD;
  for (const t of tracks) {
    only.set(t, to);
    to += t.length;
  }
  return only;
}

interface Collected {
  readonly notes: NoteEvent[];
  readonly tempos: number[];
  readonly meters: Meter[];
  name: string | null;
}

function collectTrack(track: readonly MidiEvent[], scale: number, out: Collected): void {
  /** The notes that are held on each channel and key, first come first; `next` is the first that still is. */
  const open = new Map<number, { next: number; readonly held: { onTick: number; velocity: number }[] }>();
  let tick = 0;
  let trackName: string | null = null;
  const close = (channel: number, key: number): void => {
    const queue = open.get(channel * 128 + key);
    const started = queue?.held[queue.next];
    if (!queue || !started) return;
    queue.next++;
    const onTick = Math.round(started.onTick * scale);
    out.notes.push({
      onTick,
      offTick: Math.max(onTick + 1, Math.round(tick * scale)),
      key,
      velocity: started.velocity,
    });
    out.name ??= trackName;
  };
  for (const e of track) {
    tick += e.deltaTime;
    if (e.type === "trackName" && e.text.trim()) trackName = e.text.trim().slice(0, 80);
    else if (e.type === "setTempo") out.tempos.push(60_000_000 / e.microsecondsPerBeat);
    else if (e.type === "timeSignature") out.meters.push({ beats: e.numerator, unit: e.denominator });
    else if (e.type === "noteOn") {
      const address = e.channel * 128 + e.noteNumber;
      const queue = open.get(address) ?? { next: 0, held: [] };
      queue.held.push({ onTick: tick, velocity: e.velocity });
      open.set(address, queue);
    } else if (e.type === "noteOff") close(e.channel, e.noteNumber);
  }
  // A note that is never let go ends with its track.
  for (const [address, queue] of open) while (queue.next < queue.held.length) close(address >> 7, address & 127);
}

/** Reads a MIDI file: the notes of all tracks together, the first tempo and meter. */
export function readMidi(bytes: Uint8Array): MidiOpened {
  const only = tracksOnly(bytes);
  if (typeof only === "string") return refuse(only);
  let data: MidiData;
  try {
    data = parseMidi(only);
  } catch (error) {
    return refuse(`it is damaged inside (${error instanceof Error ? error.message : String(error)})`);
  }
  const scale = TICKS_PER_QUARTER / (data.header.ticksPerBeat ?? TICKS_PER_QUARTER);
  const out: Collected = { notes: [], tempos: [], meters: [], name: null };
  for (const track of data.tracks) collectTrack(track, scale, out);
  const valid = out.notes.every((n) => Number.isFinite(n.onTick) && n.key <= 127 && n.velocity <= 127);
  if (!valid) return refuse("it is damaged inside (a note out of range)");
  // Delta times count forward only; a reader that takes one for negative has met a damaged one.
  if (out.notes.some((n) => n.onTick < 0)) return refuse("it is damaged inside (a note before the start)");
  const notes = out.notes
    .filter((n) => n.onTick <= MAX_TICK)
    .map((n) => (n.offTick - n.onTick > MAX_TICK ? { ...n, offTick: n.onTick + MAX_TICK } : n))
    .sort((a, b) => a.onTick - b.onTick || a.key - b.key);
  const meter = out.meters.find((m) => [2, 4, 8, 16].includes(m.unit) && m.beats >= 1 && m.beats <= 32) ?? null;
  return {
    ok: true,
    file: {
      notes: notes.slice(0, MAX_NOTES),
      tempoBpm: out.tempos[0] ?? null,
      meter,
      name: out.name,
      changesLeftOut: new Set(out.tempos).size > 1 || new Set(out.meters.map((m) => `${m.beats}/${m.unit}`)).size > 1,
      notesLeftOut: out.notes.length - Math.min(notes.length, MAX_NOTES),
    },
  };
}
