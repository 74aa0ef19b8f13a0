import { exp } from "../dsp/portableMath";
import type { Heap } from "./heap";
import type { AudioModule } from "./program";
import { BUS_BYTES, GROUPS, type GroupStretch, type Runtime } from "./runtime";

/** What comes back holds nothing below this: it would only push the filters aside. */
const LOWEST_HZ = 20;

/** Brings what came back into the filters, and keeps it for them. */
export class BackRuntime implements Runtime {
  readonly kind = "back";
  /** The memory that is written behind the amp. */
  readonly tap: number;
  private module!: Extract<AudioModule, { kind: "back" }>;

  private readonly bytes: number;

  constructor(private readonly heap: Heap) {
    this.bytes = heap.kernels.FEEDBACK_GROUP.value;
    this.tap = heap.take(GROUPS * this.bytes);
    heap.kernels.clear(this.tap, GROUPS * this.bytes);
  }

  install(module: AudioModule): void {
    if (module.kind === "back") this.module = module;
  }

  begin(lane: number): void {
    this.heap.kernels.clearFeedbackLane(this.tap + (lane >> 2) * this.bytes, lane & 3);
  }

  render(group: number, buses: number, at: GroupStretch): void {
    const { buses: to } = this.module;
    for (let i = 0; i < to.length; i++)
      this.heap.kernels.feedbackIn(
        this.tap + group * this.bytes,
        at.segments,
        at.segmentCount,
        buses + to[i]! * BUS_BYTES,
      );
  }

  dispose(): void {
    this.heap.give(this.tap, GROUPS * this.bytes);
  }
}

/** Takes what comes back from behind the amp. */
export class BehindRuntime implements Runtime {
  readonly kind = "behind";
  private module!: Extract<AudioModule, { kind: "behind" }>;
  private memory = 0;
  private readonly bytes: number;
  private readonly keep: number;

  constructor(
    private readonly heap: Heap,
    sampleRate: number,
  ) {
    this.bytes = heap.kernels.FEEDBACK_GROUP.value;
    this.keep = exp((-2 * Math.PI * LOWEST_HZ) / sampleRate);
  }

  install(module: AudioModule, tapOf: (id: string) => number): void {
    if (module.kind !== "behind") return;
    this.module = module;
    this.memory = tapOf(module.back);
  }

  begin(): void {
    // What it remembers is kept in front of the filters.
  }

  render(group: number, buses: number, at: GroupStretch): void {
    const m = this.module;
    this.heap.kernels.feedbackOut(
      this.memory + group * this.bytes, this.keep, at.rows, at.rowBytes, m.gain * at.useBytes, m.amount * at.useBytes, at.segments,
      at.segmentCount, buses + m.bus * BUS_BYTES,
    ); // prettier-ignore
  }

  dispose(): void {
    // It holds no memory of its own.
  }
}
