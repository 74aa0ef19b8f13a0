import { log2 } from "../dsp/portableMath";
import { LANES } from "../motion/lanes";
import { hash32 } from "../pattern/chance";
import { RecordingRuntime } from "./recordingRuntime";
import { BackRuntime, BehindRuntime } from "./feedbackRuntime";
import { FilterRuntime } from "./filterRuntime";
import { OscillatorRuntime } from "./oscillatorRuntime";
import type { Heap } from "./heap";
import type { AudioModule } from "./program";
import { BUS_BYTES, offset, pour, type GroupStretch, type NoteStart, type Runtime } from "./runtime";

const COLOURS = { white: 0, pink: 1, brown: 2 } as const;
/** Gains that make the colours as loud as a saw of middle pitch: see loudness.test.ts. */
const COLOUR_GAIN = { white: 0.709, pink: 0.248, brown: 1.395 } as const;

class NoiseRuntime implements Runtime {
  readonly kind = "noise";
  readonly tap: number;
  private module!: Extract<AudioModule, { kind: "noise" }>;
  private readonly memory: number;
  /** Bytes that a lane keeps. */
  private readonly bytes: number;
  private readonly scratch: number;
  private readonly log2Rate: number;
  /** Lanes whose noise has begun: one that runs on is seeded once. */
  private readonly begun = new Uint8Array(LANES);

  constructor(
    private readonly heap: Heap,
    sampleRate: number,
  ) {
    this.bytes = heap.kernels.NOISE_LANE.value;
    this.memory = heap.take(LANES * this.bytes);
    this.scratch = heap.take(BUS_BYTES);
    this.tap = heap.take(BUS_BYTES / 2);
    this.log2Rate = log2(sampleRate);
  }

  install(module: AudioModule): void {
    if (module.kind === "noise") this.module = module;
  }

  begin(lane: number, note: NoteStart): void {
    const { alike } = this.module;
    if (!alike && this.begun[lane] === 1) return;
    this.begun[lane] = 1;
    const place = alike ? note.copy : lane;
    // Chance that starts from nothing would stay there.
    this.heap.kernels.seedNoise(this.memory + lane * this.bytes, hash32(note.seed, NOISE_LEFT, place) | 1, hash32(note.seed, NOISE_RIGHT, place) | 1); // prettier-ignore
  }

  render(group: number, buses: number, at: GroupStretch): void {
    const m = this.module;
    this.heap.kernels.noise(
      this.memory + group * 4 * this.bytes, COLOURS[m.colour], COLOUR_GAIN[m.colour], this.log2Rate,
      at.rows, at.rowBytes, m.width * at.useBytes, m.rate * at.useBytes, at.segments, at.segmentCount, at.starts, this.scratch,
    ); // prettier-ignore
    if (m.tapScale !== null) this.heap.kernels.tapSource(this.scratch, this.tap, m.tapScale);
    pour(this.heap, this.scratch, m, at, buses);
  }

  dispose(): void {
    this.heap.give(this.memory, LANES * this.bytes);
    this.heap.give(this.scratch, BUS_BYTES);
    this.heap.give(this.tap, BUS_BYTES / 2);
  }
}

/** Address the draws of noise apart from others made from the same seed. */
const NOISE_LEFT = 0x71;
const NOISE_RIGHT = 0x72;

class AmpRuntime implements Runtime {
  readonly kind = "amp";
  private module!: Extract<AudioModule, { kind: "amp" }>;

  constructor(private readonly heap: Heap) {}

  install(module: AudioModule): void {
    if (module.kind === "amp") this.module = module;
  }

  begin(): void {
    // It remembers nothing.
  }

  render(_group: number, buses: number, at: GroupStretch): void {
    const m = this.module;
    this.heap.kernels.amp(
      at.rows, at.rowBytes, m.gain * at.useBytes, m.pan * at.useBytes, offset(m.apart, at),
      at.segments, at.segmentCount, buses + m.bus * BUS_BYTES, at.left, at.right,
    ); // prettier-ignore
  }

  dispose(): void {
    // It holds no memory.
  }
}

class CableRuntime implements Runtime {
  readonly kind = "cable";
  private module!: Extract<AudioModule, { kind: "cable" }>;

  constructor(private readonly heap: Heap) {}

  install(module: AudioModule): void {
    if (module.kind === "cable") this.module = module;
  }

  begin(): void {
    // It remembers nothing.
  }

  render(_group: number, buses: number, at: GroupStretch): void {
    const { kernels } = this.heap;
    const { share, rest } = this.module;
    const from = buses + this.module.bus * BUS_BYTES;
    const to = buses + this.module.to * BUS_BYTES;
    if (share === null) kernels.addBus(from, to);
    else kernels.addShare(from, to, at.rows, at.rowBytes, share * at.useBytes, at.segments, at.segmentCount, Number(rest)); // prettier-ignore
  }

  dispose(): void {
    // It holds no memory.
  }
}

export function newRuntime(module: AudioModule, heap: Heap, sampleRate: number): Runtime {
  switch (module.kind) {
    case "oscillator":
      return new OscillatorRuntime(heap, sampleRate);
    case "noise":
      return new NoiseRuntime(heap, sampleRate);
    case "recording":
      return new RecordingRuntime(heap, sampleRate);
    case "filter":
      return new FilterRuntime(heap, sampleRate);
    case "amp":
      return new AmpRuntime(heap);
    case "cable":
      return new CableRuntime(heap);
    case "back":
      return new BackRuntime(heap);
    case "behind":
      return new BehindRuntime(heap, sampleRate);
    default:
      return module satisfies never;
  }
}
