import { log2 } from "../dsp/portableMath";
import { LANES } from "../motion/lanes";
import { hash01 } from "../pattern/chance";
import type { Heap } from "./heap";
import type { AudioModule } from "./program";
import { BUS_BYTES, pour, type GroupStretch, type NoteStart, type Runtime } from "./runtime";

/** Addresses the draws of where a note starts apart from others made from the same seed. */
const SCATTER = 0x73;
/** A recording at full scale is as loud as one. */
const GAIN = 1;

/** Plays a recording; silent while its table is not there. */
export class RecordingRuntime implements Runtime {
  readonly kind = "recording";
  readonly tap: number;
  private module!: Extract<AudioModule, { kind: "recording" }>;
  private readonly memory: number;
  /** Bytes that a lane keeps. */
  private readonly bytes: number;
  private readonly scratch: number;

  constructor(
    private readonly heap: Heap,
    private readonly sampleRate: number,
  ) {
    this.bytes = heap.kernels.RECORDING_LANE.value;
    this.memory = heap.take(LANES * this.bytes);
    this.scratch = heap.take(BUS_BYTES);
    this.tap = heap.take(BUS_BYTES / 2);
  }

  install(module: AudioModule): void {
    if (module.kind === "recording") this.module = module;
  }

  begin(lane: number, note: NoteStart): void {
    const { scatter } = this.module;
    const drawn = hash01(note.seed, SCATTER, note.address, note.key, note.copy);
    this.heap.kernels.beginRecording(this.memory + lane * this.bytes, scatter * drawn);
  }

  render(group: number, buses: number, at: GroupStretch): void {
    const { module: m, heap, scratch } = this;
    const about = heap.tableAt(m.tableName);
    if (about === 0) return;
    const rate = heap.recordedAt(m.tableName);
    heap.kernels.playRecording(
      this.memory + group * 4 * this.bytes, about, Number(m.looped), log2(rate / this.sampleRate) - m.root / 12, GAIN, rate / 1000,
      at.rows, at.rowBytes, m.pitch * at.useBytes, m.from * at.useBytes, m.to * at.useBytes, m.back * at.useBytes,
      m.seam * at.useBytes, at.segments, at.segmentCount, at.starts, scratch,
    ); // prettier-ignore
    if (m.tapScale !== null) heap.kernels.tapSource(scratch, this.tap, m.tapScale);
    pour(heap, scratch, m, at, buses);
  }

  dispose(): void {
    this.heap.give(this.memory, LANES * this.bytes);
    this.heap.give(this.scratch, BUS_BYTES);
    this.heap.give(this.tap, BUS_BYTES / 2);
  }
}
