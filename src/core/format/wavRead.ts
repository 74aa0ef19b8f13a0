/** A sound as numbers: one or more equally long channels, -1 to 1. */
export interface Recording {
  readonly sampleRate: number;
  readonly channels: readonly Float32Array<ArrayBuffer>[];
}

const PCM = 1;
const IEEE_FLOAT = 3;
/** The real format stands further on. */
const EXTENSIBLE = 0xfffe;

type Sample = (view: DataView, at: number) => number;

/** How a sample is read, by format and bits: 8 bits are unsigned, more are signed, from the lowest byte on. */
const SAMPLES: Readonly<Record<string, Sample>> = {
  [`${PCM} 8`]: (v, at) => (v.getUint8(at) - 128) / 128,
  [`${PCM} 16`]: (v, at) => v.getInt16(at, true) / 32768,
  [`${PCM} 24`]: (v, at) => (v.getUint8(at) | (v.getInt16(at + 1, true) << 8)) / 8388608,
  [`${PCM} 32`]: (v, at) => v.getInt32(at, true) / 2147483648,
  [`${IEEE_FLOAT} 32`]: (v, at) => v.getFloat32(at, true),
  [`${IEEE_FLOAT} 64`]: (v, at) => v.getFloat64(at, true),
};

interface Format {
  readonly channels: number;
  readonly sampleRate: number;
  readonly bytes: number;
  readonly sample: Sample;
}

function readFormat(view: DataView, at: number, bytes: number): Format {
  if (bytes < 16) throw new RangeError("its format chunk is cut short");
  const tag = view.getUint16(at, true);
  // The first two bytes of the sub-format's name are the tag it stands for.
  const format = tag === EXTENSIBLE && bytes >= 40 ? view.getUint16(at + 24, true) : tag;
  const channels = view.getUint16(at + 2, true);
  const sampleRate = view.getUint32(at + 4, true);
  const bits = view.getUint16(at + 14, true);
  const sample = SAMPLES[`${format} ${bits}`];
  if (!sample) throw new RangeError(`samples of ${bits} bits in format ${format} are not read`);
  if (channels < 1 || channels > 8) throw new RangeError(`it has ${channels} channels`);
  if (sampleRate < 1000 || sampleRate > 384_000) throw new RangeError(`its sample rate is ${sampleRate} Hz`);
  return { channels, sampleRate, bytes: bits / 8, sample };
}

/**
 * Reads a WAV file (RIFF; see wav.ts for its sources): PCM of 8 to 32 bits, or IEEE float. A file that is cut off gives what
 * is there. Throws RangeError with the reason, for people, when it is none, has no sound, or is of another format.
 */
export function readWav(bytes: Uint8Array): Recording {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const name = (at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4));
  if (name(0) !== "RIFF" || name(8) !== "WAVE") throw new RangeError("it is no WAV file");
  let format: Format | null = null;
  for (let at = 12; at + 8 <= bytes.length;) {
    const size = view.getUint32(at + 4, true);
    const body = at + 8;
    const there = Math.min(size, bytes.length - body);
    if (name(at) === "fmt ") format = readFormat(view, body, there);
    if (name(at) === "data") {
      if (!format) throw new RangeError("its sound comes before its format");
      return readSound(view, body, there, format);
    }
    at = body + size + (size & 1);
  }
  throw new RangeError("there is no sound in it");
}

function readSound(
  view: DataView,
  at: number,
  length: number,
  { channels, sampleRate, bytes, sample }: Format,
): Recording {
  const frames = Math.floor(length / (channels * bytes));
  if (frames === 0) throw new RangeError("there is no sound in it");
  const out = Array.from({ length: channels }, (_, c) => {
    const side = new Float32Array(frames);
    for (let i = 0; i < frames; i++) {
      const x = sample(view, at + (i * channels + c) * bytes);
      // A float file may hold anything.
      side[i] = Number.isFinite(x) ? Math.max(-8, Math.min(8, x)) : 0;
    }
    return side;
  });
  return { sampleRate, channels: out };
}
