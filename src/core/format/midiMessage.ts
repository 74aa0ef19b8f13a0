/** What hands do at an instrument. */
export type HandEvent =
  | { readonly type: "press"; readonly key: number; readonly velocity: number }
  | { readonly type: "release"; readonly key: number }
  /** -1 to 1. */
  | { readonly type: "bend"; readonly value: number }
  /** 0 to 1. */
  | { readonly type: "wheel"; readonly value: number }
  /** 0 to 1: of the whole channel, or of one key. */
  | { readonly type: "pressure"; readonly value: number }
  | { readonly type: "pedal"; readonly down: boolean }
  /** Everything is let go. */
  | { readonly type: "allOff" };

const NOTE_OFF = 0x8;
const NOTE_ON = 0x9;
const KEY_PRESSURE = 0xa;
const CONTROL = 0xb;
const CHANNEL_PRESSURE = 0xd;
const BEND = 0xe;
const CC_WHEEL = 1;
const CC_PEDAL = 64;
const CC_ALL_SOUND_OFF = 120;
const CC_ALL_NOTES_OFF = 123;

/**
 * Reads a channel message of any channel, after the tables of MIDI 1.0: a note-on without velocity is a note-off, bend is
 * 14 bits around 8192. Null for anything else, and for what is broken off.
 */
export function readMidiMessage(bytes: ArrayLike<number>): HandEvent | null {
  const [status = 0, a, b] = [bytes[0], bytes[1], bytes[2]];
  if (a === undefined || a > 127) return null;
  if (status >> 4 === CHANNEL_PRESSURE) return { type: "pressure", value: a / 127 };
  if (b === undefined || b > 127) return null;
  switch (status >> 4) {
    case NOTE_ON:
      return b === 0 ? { type: "release", key: a } : { type: "press", key: a, velocity: b };
    case NOTE_OFF:
      return { type: "release", key: a };
    case BEND: {
      const value = a + 128 * b - 8192;
      return { type: "bend", value: value < 0 ? value / 8192 : value / 8191 };
    }
    case KEY_PRESSURE:
      return { type: "pressure", value: b / 127 };
    case CONTROL:
      if (a === CC_WHEEL) return { type: "wheel", value: b / 127 };
      if (a === CC_PEDAL) return { type: "pedal", down: b >= 64 };
      return a === CC_ALL_SOUND_OFF || a === CC_ALL_NOTES_OFF ? { type: "allOff" } : null;
    default:
      return null;
  }
}
