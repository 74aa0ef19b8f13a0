import { readMidiMessage, type HandEvent } from "@/core/format/midiMessage";

/** Instruments that are connected, by name. */
export interface MidiInputs {
  readonly names: readonly string[];
  close(): void;
}

const hasMidi = (): boolean => typeof navigator !== "undefined" && "requestMIDIAccess" in navigator;

/**
 * Listens to every MIDI instrument, those that are plugged in later included. `onNames` is told when they come and go.
 * Rejects with words for a person where the browser has no Web MIDI or it was not allowed.
 */
export async function openMidi(
  onEvent: (event: HandEvent) => void,
  onNames: (names: readonly string[]) => void,
): Promise<MidiInputs> {
  if (!hasMidi()) throw new Error("this browser has no Web MIDI");
  let access: MIDIAccess;
  try {
    access = await navigator.requestMIDIAccess();
  } catch {
    throw new Error("it was not allowed; the browser's settings for this page can allow it");
  }
  const inputs = (): MIDIInput[] => [...access.inputs.values()].filter((i) => i.state === "connected");
  const names = (): string[] => inputs().map((i) => i.name ?? "unnamed instrument");
  const listen = (): void => {
    for (const input of inputs())
      input.onmidimessage = (e) => {
        const event = e.data && readMidiMessage(e.data);
        if (event) onEvent(event);
      };
  };
  listen();
  access.onstatechange = () => {
    listen();
    onNames(names());
  };
  return {
    names: names(),
    close: () => {
      access.onstatechange = null;
      for (const input of access.inputs.values()) input.onmidimessage = null;
    },
  };
}
