import { fromBase64 } from "../format/base64";
import { KERNELS, KERNEL_PAGES } from "../dsp/simd/kernels.generated";
import type { SoundTable } from "../dsp/tableSpec";
import { NO_SIMD } from "./simd";

/** A number that the kernels export. */
interface Bytes {
  readonly value: number;
}

/** The kernels of src/core/dsp/simd/kernels.ts; numbers are addresses in the heap unless their name says otherwise. */
export interface Kernels {
  /** How much memory the kernels keep of a lane, of a group of four, or in room that all groups share. */
  readonly STACK_LANE: Bytes;
  readonly HALVES_GROUP: Bytes;
  readonly FRAMES_ROOM: Bytes;
  readonly BENT_GROUP: Bytes;
  readonly BENT_ROOM: Bytes;
  readonly BENT_SPEC: Bytes;
  readonly NOISE_LANE: Bytes;
  readonly RECORDING_LANE: Bytes;
  readonly FILTER_GROUP: Bytes;
  readonly BANK_GROUP: Bytes;
  readonly LADDER_GROUP: Bytes;
  readonly COMB_HEAD: Bytes;
  readonly COMB_FRAME: Bytes;
  readonly SATURATE_GROUP: Bytes;
  readonly FEEDBACK_GROUP: Bytes;
  resetLane(lane: number): void;
  oscillate(
    lanes: number, count: number, stack: number, pulse: number, gain: number, levels: number, log2Tuning: number,
    rows: number, rowBytes: number, pitchAt: number, detuneAt: number, widthAt: number, pulseAt: number,
    segments: number, segmentCount: number, starts: number, scratch: number,
  ): void;
  oscillateFrames(
    lanes: number, halves: number, room: number, count: number, stack: number, table: number, log2Tuning: number, rows: number,
    rowBytes: number, pitchAt: number, detuneAt: number, widthAt: number, placeAt: number, placeYAt: number, segments: number,
    segmentCount: number, starts: number, scratch: number,
  ): void;
  clearHalves(halves: number, lane: number): void;
  oscillateBent(
    spec: number, group: number, room: number, gain: number, log2Tuning: number, rows: number, rowBytes: number, segments: number,
    segmentCount: number, starts: number, scratch: number,
  ): void;
  clearBentLane(group: number, lane: number): void;
  resetBent(group: number): void;
  tapSource(scratch: number, tap: number, scale: number): void;
  seedNoise(lane: number, seedL: number, seedR: number): void;
  noise(
    lanes: number, colour: number, gain: number, perSample: number, rows: number, rowBytes: number, widthAt: number,
    rateAt: number, segments: number, segmentCount: number, starts: number, scratch: number,
  ): void;
  beginRecording(lane: number, further: number): void;
  playRecording(
    lanes: number, about: number, loops: number, log2Root: number, gain: number, framesPerMs: number, rows: number,
    rowBytes: number, pitchAt: number, fromAt: number, toAt: number, backAt: number, seamAt: number, segments: number,
    segmentCount: number, starts: number, scratch: number,
  ): void;
  pour(
    scratch: number, starts: number, rows: number, rowBytes: number, gainAt: number, panAt: number,
    segments: number, segmentCount: number, bus: number,
  ): void;
  clearLane(memory: number, lane: number): void;
  filter(
    type: number, memory: number, log2Rate: number, rows: number, rowBytes: number, cutoffAt: number, resonanceAt: number,
    segments: number, segmentCount: number, fresh: number, bus: number,
  ): void;
  filterBank(
    type: number, memory: number, log2Rate: number, rows: number, rowBytes: number, cutoffAt: number, resonanceAt: number,
    widthAt: number, vowelAt: number, apartAt: number, segments: number, segmentCount: number, fresh: number, bus: number,
    aside: number,
  ): void;
  clearBankLane(memory: number, lane: number): void;
  ladder(
    memory: number, log2Rate: number, rows: number, rowBytes: number, cutoffAt: number, resonanceAt: number, driveAt: number,
    apartAt: number, segments: number, segmentCount: number, bus: number,
  ): void;
  clearLadderLane(memory: number, lane: number): void;
  comb(
    memory: number, mask: number, sign: number, log2Rate: number, rows: number, rowBytes: number, cutoffAt: number,
    resonanceAt: number, apartAt: number, segments: number, segmentCount: number, bus: number,
  ): void;
  clearCombLane(memory: number, lane: number): void;
  saturate(
    memory: number, rows: number, rowBytes: number, driveAt: number, segments: number, segmentCount: number, bus: number,
  ): void;
  clearSaturateLane(memory: number, lane: number): void;
  blend(
    dry: number, rows: number, rowBytes: number, mixAt: number, segments: number, segmentCount: number, bus: number,
  ): void;
  copyBus(from: number, to: number): void;
  amp(
    rows: number, rowBytes: number, gainAt: number, panAt: number, apartAt: number, segments: number,
    segmentCount: number, bus: number, left: number, right: number,
  ): void;
  addBus(from: number, to: number): void;
  addShare(
    from: number, to: number, rows: number, rowBytes: number, shareAt: number, segments: number, segmentCount: number,
    rest: number,
  ): void;
  feedbackIn(memory: number, segments: number, segmentCount: number, bus: number): void;
  feedbackOut(
    memory: number, keep: number, rows: number, rowBytes: number, gainAt: number, backAt: number, segments: number,
    segmentCount: number, bus: number,
  ): void;
  clearFeedbackLane(memory: number, lane: number): void;
  truePeaks(left: number, right: number, between: number, count: number, tops: number): void;
  peakOf(at: number, bytes: number): number;
  clear(at: number, bytes: number): void;
  firstByte(): number;
} // prettier-ignore

/** What is used of the WebAssembly interface (W3C, WebAssembly JavaScript Interface 2.0); the core has no browser types. */
interface WasmMemory {
  readonly buffer: ArrayBuffer;
}

interface WasmApi {
  readonly Memory: new (size: { initial: number; maximum: number }) => WasmMemory;
  readonly Module: new (bytes: Uint8Array) => object;
  readonly Instance: new (module: object, imports: object) => { readonly exports: unknown };
}

let compiled: object | null = null;

/** The kernels' module, compiled once a thread. Throws Error where WebAssembly or its SIMD instructions are missing. */
function kernelModule(api: WasmApi): object {
  try {
    compiled ??= new api.Module(fromBase64(KERNELS)!);
    return compiled;
  } catch (cause) {
    throw new Error(NO_SIMD, { cause });
  }
}

interface TableBlock {
  /** Where it is described. */
  readonly at: number;
  readonly blocks: readonly (readonly [at: number, bytes: number])[];
  /** Frames a second of a recording; 0 for waves. */
  readonly rate: number;
}

const ALIGN = 16;

/** A heap that used no more than this is cleared sooner than another one is made. */
const MOST_CLEARED = 2 ** 25;

/**
 * The memory of one engine, and the kernels that work in it. Freed with the engine. Blocks that are given back are kept
 * by their size for the next one that asks.
 */
export class Heap {
  private readonly memory: WasmMemory;
  readonly kernels: Kernels;
  readonly buffer: ArrayBuffer;
  /** All of it, four bytes at a time. */
  readonly words: Int32Array;
  private next: number;
  private readonly spare = new Map<number, number[]>();
  /** Where the levels of each wave table are described. */
  private readonly tables = new Map<string, TableBlock>();

  /**
   * As good as new in the memory of one `before` that nobody uses any more, where that is quickly cleared: to have 256 MB
   * reserved takes long, and drives the garbage collector.
   */
  constructor(before: Heap | null = null) {
    const api = (globalThis as { WebAssembly?: WasmApi }).WebAssembly;
    if (!api) throw new Error(NO_SIMD);
    const module = kernelModule(api);
    const cleared = before?.cleared() ?? null;
    const memory = cleared ?? new api.Memory({ initial: KERNEL_PAGES, maximum: KERNEL_PAGES });
    this.memory = memory;
    this.kernels = new api.Instance(module, { env: { memory, abort: () => undefined } }).exports as Kernels;
    this.buffer = memory.buffer;
    this.words = new Int32Array(this.buffer);
    this.next = Math.ceil(this.kernels.firstByte() / ALIGN) * ALIGN;
  }

  /** Its memory, all zero again; null where that would take long. The kernels' own numbers come with their next instance. */
  private cleared(): WasmMemory | null {
    if (this.next > MOST_CLEARED) return null;
    new Uint8Array(this.buffer, 0, this.next).fill(0);
    return this.memory;
  }

  /** Address of a block of at least `bytes` bytes, all zero. Throws RangeError when the heap is full. */
  take(bytes: number): number {
    const size = Math.ceil(bytes / ALIGN) * ALIGN;
    const kept = this.spare.get(size)?.pop();
    if (kept !== undefined) {
      this.kernels.clear(kept, size);
      return kept;
    }
    const at = this.next;
    if (at + size > this.buffer.byteLength)
      throw new RangeError(`the engine's heap of ${this.buffer.byteLength} bytes is full`);
    this.next += size;
    return at;
  }

  give(at: number, bytes: number): void {
    const size = Math.ceil(bytes / ALIGN) * ALIGN;
    const list = this.spare.get(size);
    if (list) list.push(at);
    else this.spare.set(size, [at]);
  }

  float64(at: number, length: number): Float64Array {
    return new Float64Array(this.buffer, at, length);
  }
  float32(at: number, length: number): Float32Array {
    return new Float32Array(this.buffer, at, length);
  }
  int32(at: number, length: number): Int32Array {
    return new Int32Array(this.buffer, at, length);
  }

  /**
   * Copies a table of a single wave, of frames, or a recording into the heap, once. Throws RangeError when it does not fit:
   * the heap is then as it was.
   */
  setTable(name: string, table: SoundTable): void {
    if (this.tables.has(name)) return;
    const samples = this.put(table.samples);
    if ("taps" in table) {
      // As src/core/dsp/simd/recording.ts reads it.
      const taps = this.put(table.taps);
      const words = [table.channels, table.levels.length, taps[0], 0];
      for (const [left, right, frames] of table.levels)
        words.push(samples[0] + left * 4, samples[0] + right * 4, frames);
      const described = this.put(Int32Array.from(words));
      this.tables.set(name, { at: described[0], blocks: [samples, taps, described], rate: table.sampleRate });
      return;
    }
    const { levels } = table;
    if (!("frames" in table)) {
      // As src/core/dsp/simd/oscillator.ts reads it.
      const rests = table.rests && this.put(table.rests);
      const words = levels.flatMap(([offset, bits]) => [samples[0] + offset * 4, bits]);
      words.push(rests ? rests[0] : 0);
      const described = this.put(Int32Array.from(words));
      const blocks = rests ? [samples, rests, described] : [samples, described];
      this.tables.set(name, { at: described[0], blocks, rate: 0 });
      return;
    }
    // As src/core/dsp/simd/frames.ts reads it.
    const alike = this.put(table.alike);
    const words = [table.frames, table.frameLength * 4, samples[0], alike[0]];
    for (const [offset, bits] of levels) words.push(offset * 4, bits);
    const described = this.put(Int32Array.from(words));
    this.tables.set(name, { at: described[0], blocks: [samples, alike, described], rate: 0 });
  }

  private put(values: Float32Array | Int32Array): readonly [at: number, bytes: number] {
    const at = this.take(values.byteLength);
    if (values instanceof Float32Array) this.float32(at, values.length).set(values);
    else this.int32(at, values.length).set(values);
    return [at, values.byteLength];
  }

  /** Gives a table's memory back. */
  dropTable(name: string): void {
    const table = this.tables.get(name);
    if (!table) return;
    for (const [at, bytes] of table.blocks) this.give(at, bytes);
    this.tables.delete(name);
  }

  /** Where a table is described: its levels, or its frames. 0 while it is not there. */
  tableAt(name: string): number {
    return this.tables.get(name)?.at ?? 0;
  }

  /** Frames a second at which a recording was made; 0 for a table that is none, or not there. */
  recordedAt(name: string): number {
    return this.tables.get(name)?.rate ?? 0;
  }
}
