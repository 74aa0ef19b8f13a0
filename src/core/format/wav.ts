/**
 * WAV files as RIFF chunks (Multimedia Programming Interface and Data Specifications 1.0, Microsoft and IBM, 1991;
 * the `smpl` loop chunk as in Microsoft's New Multimedia Data Types, 1994).
 */

export type BitDepth = 16 | 24 | 32;

export interface WavOptions {
  readonly sampleRate: number;
  /** 16 and 24 are PCM, 32 is IEEE float. */
  readonly bitDepth: BitDepth;
  /** Marks the whole file as a loop from the first frame to this one (exclusive). */
  readonly loopFrames?: number;
  /** Seed of the dither on 16 bits. */
  readonly ditherSeed?: number;
}

interface Chunk {
  readonly id: string;
  readonly bytes: number;
  readonly write: (view: DataView, at: number) => void;
}

const PCM = 1;
const IEEE_FLOAT = 3;

const text = (view: DataView, at: number, s: string): void => {
  for (let i = 0; i < s.length; i++) view.setUint8(at + i, s.charCodeAt(i));
};

function fmtChunk(channels: number, o: WavOptions): Chunk {
  return {
    id: "fmt ",
    bytes: 16,
    write: (v, at) => {
      const frameBytes = (channels * o.bitDepth) / 8;
      v.setUint16(at, o.bitDepth === 32 ? IEEE_FLOAT : PCM, true);
      v.setUint16(at + 2, channels, true);
      v.setUint32(at + 4, o.sampleRate, true);
      v.setUint32(at + 8, o.sampleRate * frameBytes, true);
      v.setUint16(at + 12, frameBytes, true);
      v.setUint16(at + 14, o.bitDepth, true);
    },
  };
}

/** Formats other than PCM carry the number of frames in a fact chunk. */
const factChunk = (frames: number): Chunk => ({
  id: "fact",
  bytes: 4,
  write: (v, at) => v.setUint32(at, frames, true),
});

function loopChunk(sampleRate: number, loopFrames: number): Chunk {
  return {
    id: "smpl",
    bytes: 60,
    write: (v, at) => {
      v.setUint32(at + 8, Math.round(1e9 / sampleRate), true);
      v.setUint32(at + 12, 60, true);
      v.setUint32(at + 28, 1, true);
      v.setUint32(at + 36 + 12, loopFrames - 1, true);
    },
  };
}

/** A small generator for dither noise (xorshift32, Marsaglia 2003); uniform in [0, 1). */
function noise(seed: number): () => number {
  let s = seed >>> 0 || 1;
  return () => {
    s ^= s << 13;
    s ^= s >>> 17;
    s ^= s << 5;
    return (s >>> 0) / 0x1_0000_0000;
  };
}

function dataChunk(channels: readonly Float32Array[], o: WavOptions): Chunk {
  const frames = channels[0]?.length ?? 0;
  return {
    id: "data",
    bytes: (frames * channels.length * o.bitDepth) / 8,
    write: (v, start) => {
      const random = noise(o.ditherSeed ?? 1);
      let at = start;
      for (let i = 0; i < frames; i++) {
        for (const channel of channels) {
          const x = channel[i]!;
          if (o.bitDepth === 32) v.setFloat32(at, x, true);
          // Triangular dither of one step each way takes the distortion out of 16-bit rounding (common practice);
          // silence stays silent.
          else if (o.bitDepth === 16)
            v.setInt16(at, clampInt(x === 0 ? 0 : x * 32767 + random() - random(), 32767), true);
          else {
            const n = clampInt(x * 8388607, 8388607);
            v.setUint8(at, n & 255);
            v.setInt16(at + 1, n >> 8, true);
          }
          at += o.bitDepth / 8;
        }
      }
    },
  };
}

const clampInt = (x: number, max: number): number => Math.max(-max - 1, Math.min(max, Math.round(x)));

/** A WAV file of equally long channels, samples -1 to 1. Throws RangeError when the lengths differ. */
export function writeWav(channels: readonly Float32Array[], options: WavOptions): Uint8Array<ArrayBuffer> {
  const frames = channels[0]?.length ?? 0;
  if (channels.some((c) => c.length !== frames)) throw new RangeError("channels of a WAV file must be equally long");
  const chunks = [fmtChunk(channels.length, options)];
  if (options.bitDepth === 32) chunks.push(factChunk(frames));
  chunks.push(dataChunk(channels, options));
  if (options.loopFrames) chunks.push(loopChunk(options.sampleRate, options.loopFrames));
  // Chunks start on even bytes.
  const padded = (bytes: number): number => bytes + (bytes & 1);
  const size = 12 + chunks.reduce((sum, c) => sum + 8 + padded(c.bytes), 0);
  const file = new Uint8Array(size);
  const view = new DataView(file.buffer);
  text(view, 0, "RIFF");
  view.setUint32(4, size - 8, true);
  text(view, 8, "WAVE");
  let at = 12;
  for (const chunk of chunks) {
    text(view, at, chunk.id);
    view.setUint32(at + 4, chunk.bytes, true);
    chunk.write(view, at + 8);
    at += 8 + padded(chunk.bytes);
  }
  return file;
}
