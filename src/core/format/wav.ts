import { stir, unit, UNSTIRRED } from "../pattern/chance";

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

function fmtChunk(channels: number, o: Omit<WavOptions, "loopFrames">): Chunk {
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

const clampInt = (x: number, max: number): number => Math.max(-max - 1, Math.min(max, Math.round(x)));

/** Chunks start on even bytes. */
const padded = (bytes: number): number => bytes + (bytes & 1);
const CHUNK_HEAD = 8;
/** A RIFF file counts its bytes with 32 bits. */
export const MAX_WAV_BYTES = 2 ** 32 - 1;

/** Bytes of a WAV file; over `MAX_WAV_BYTES` there can be none. */
export function wavBytes(frames: number, channels: number, bitDepth: BitDepth, looped: boolean): number {
  const fact = bitDepth === 32 ? CHUNK_HEAD + 4 : 0;
  const loop = looped ? CHUNK_HEAD + 60 : 0;
  return 12 + CHUNK_HEAD + 16 + fact + CHUNK_HEAD + padded((frames * channels * bitDepth) / 8) + loop;
}

/** Writes a WAV file piece by piece, in any order: what stands before and behind the sound, and the sound itself. */
export class WavWriter {
  constructor(
    private readonly channels: number,
    private readonly options: Omit<WavOptions, "loopFrames">,
  ) {}

  /** Encodes frames that start at frame `at`: the same whichever pieces a file is written in. Samples are -1 to 1. */
  frames(channels: readonly Float32Array[], at: number): Uint8Array<ArrayBuffer> {
    const { bitDepth, ditherSeed = 1 } = this.options;
    const drawn = stir(UNSTIRRED, ditherSeed);
    if (channels.length !== this.channels || channels.some((c) => c.length !== channels[0]!.length))
      throw new RangeError(`${this.channels} equally long channels are needed`);
    const count = channels[0]!.length;
    const bytes = new Uint8Array((count * channels.length * bitDepth) / 8);
    const view = new DataView(bytes.buffer);
    let to = 0;
    for (let i = 0; i < count; i++) {
      for (let c = 0; c < channels.length; c++) {
        const x = channels[c]![i]!;
        if (bitDepth === 32) view.setFloat32(to, x, true);
        else if (bitDepth === 16) {
          // Triangular dither of one step each way takes the distortion out of 16-bit rounding (common practice);
          // silence stays silent.
          const draw = 2 * ((at + i) * channels.length + c);
          const dither = unit(stir(drawn, draw)) - unit(stir(drawn, draw + 1));
          view.setInt16(to, clampInt(x === 0 ? 0 : x * 32767 + dither, 32767), true);
        } else {
          const n = clampInt(x * 8388607, 8388607);
          view.setUint8(to, n & 255);
          view.setInt16(to + 1, n >> 8, true);
        }
        to += bitDepth / 8;
      }
    }
    return bytes;
  }

  /** What stands before and behind `frames` frames. Throws RangeError, with the size, when a WAV file cannot hold them. */
  around(
    frames: number,
    loop: { readonly loopFrames?: number } = {},
  ): { head: Uint8Array<ArrayBuffer>; foot: Uint8Array<ArrayBuffer> } {
    const { channels, options } = this;
    const size = wavBytes(frames, channels, options.bitDepth, Boolean(loop.loopFrames));
    if (size > MAX_WAV_BYTES) throw new RangeError(tooLarge(size));
    const dataBytes = (frames * channels * options.bitDepth) / 8;
    const before = [fmtChunk(channels, options), ...(options.bitDepth === 32 ? [factChunk(frames)] : [])];
    const after = loop.loopFrames ? [loopChunk(options.sampleRate, loop.loopFrames)] : [];
    const length = (chunks: readonly Chunk[]): number =>
      chunks.reduce((sum, c) => sum + CHUNK_HEAD + padded(c.bytes), 0);
    const head = new Uint8Array(12 + length(before) + CHUNK_HEAD);
    const view = new DataView(head.buffer);
    text(view, 0, "RIFF");
    view.setUint32(4, size - 8, true);
    text(view, 8, "WAVE");
    writeChunks(view, 12, before);
    text(view, head.length - CHUNK_HEAD, "data");
    view.setUint32(head.length - 4, dataBytes, true);
    const padding = dataBytes & 1;
    const foot = new Uint8Array(padding + length(after));
    writeChunks(new DataView(foot.buffer), padding, after);
    return { head, foot };
  }
}

/** Why a file of this size cannot be written, for people. */
export const tooLarge = (bytes: number): string =>
  `a WAV file holds 4.29 GB at the most, and this one would have ${(bytes / 1e9).toFixed(2)} GB: take fewer bars, a lower sample rate or fewer bits`;

function writeChunks(view: DataView, start: number, chunks: readonly Chunk[]): void {
  let at = start;
  for (const chunk of chunks) {
    text(view, at, chunk.id);
    view.setUint32(at + 4, chunk.bytes, true);
    chunk.write(view, at + CHUNK_HEAD);
    at += CHUNK_HEAD + padded(chunk.bytes);
  }
}

/** A whole WAV file of equally long channels. Throws RangeError when the lengths differ. */
export function writeWav(channels: readonly Float32Array[], options: WavOptions): Uint8Array<ArrayBuffer> {
  const writer = new WavWriter(channels.length, options);
  const sound = writer.frames(channels, 0);
  const { head, foot } = writer.around(channels[0]!.length, options);
  const file = new Uint8Array(head.length + sound.length + foot.length);
  file.set(head);
  file.set(sound, head.length);
  file.set(foot, head.length + sound.length);
  return file;
}
