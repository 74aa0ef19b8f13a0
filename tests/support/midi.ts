import { writeMidiSong, type MidiSong, type MidiTrack } from "@/core/format/midiOut";

/** A MIDI file of one part, in format 1. */
export const midiOf = (o: Pick<MidiSong, "name" | "tempoBpm" | "meter" | "endTick"> & Pick<MidiTrack, "notes">) =>
  writeMidiSong({ ...o, format: 1, tracks: [{ name: o.name, notes: o.notes, curves: [] }] });
