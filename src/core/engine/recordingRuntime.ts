import { log2 } from "../dsp/portableMath";
import { LANES } from "../motion/lanes";
import { hash01 } from "../pattern/chance";
import type { Heap } from "./heap";
import type { AudioModule } from "./program";
import { pour, type GroupStretch, type NoteStart, type Runtime } from "./runtime";

/** Bytes of a lane's memory in the kernel. */
const LANE = 32;
/** Words of the kernel's memory: how far into the recording a lane is. */
const SCRATCH = 2048;
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
  private readonly scratch: number;

  constructor(
    private readonly heap: Heap,
    private readonly sampleRate: number,
  ) {
    this.memory = heap.take(LANES * LANE);
    this.scratch = heap.take(SCRATCH);
    this.tap = heap.take(SCRATCH / 2);
  }

  install(module: AudioModule): void {
    if (module.kind === "recording") this.module = module;
  }

  begin(lane: number, note: NoteStart): void {
    const { scatter } = this.module;
    const drawn = hash01(note.seed, SCATTER, note.address, note.key, note.copy);
    this.heap.kernels.beginRecording(this.memory + lane * LANE, scatter * drawn);
  }

  render(group: number, buses: number, at: GroupStretch): void {
    const { module: m, heap, scratch } = this;
    const about = heap.tableAt(m.tableName);
    if (about === 0) return;
    const rate = heap.recordedAt(m.tableName);
    heap.kernels.playRecording(
      this.memory + group * 4 * LANE, about, Number(m.looped), log2(rate / this.sampleRate) - m.root / 12, GAIN, rate / 1000,
      at.rows, at.rowBytes, m.pitch * at.useBytes, m.from * at.useBytes, m.to * at.useBytes, m.back * at.useBytes,
      m.seam * at.useBytes, at.segments, at.segmentCount, at.starts, scratch,
    ); // prettier-ignore
    if (m.tapScale !== null) heap.kernels.tapSource(scratch, this.tap, m.tapScale);
    pour(heap, scratch, m, at, buses);
  }

  dispose(): void {
    this.heap.give(this.memory, LANES * LANE);
    this.heap.give(this.scratch, SCRATCH);
    this.heap.give(this.tap, SCRATCH / 2);
  }
}
