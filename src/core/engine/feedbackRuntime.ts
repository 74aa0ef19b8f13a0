import { exp } from "../dsp/portableMath";
import type { Heap } from "./heap";
import type { AudioModule } from "./program";
import { BUS_BYTES, GROUPS, type GroupStretch, type Runtime } from "./runtime";

/** Bytes of a group's memory in the kernels of feedback. */
const GROUP = 16 + 64 + 2 * 128 * 16;
/** What comes back holds nothing below this: it would only push the filters aside. */
const LOWEST_HZ = 20;

/** Brings what came back into the filters, and keeps it for them. */
export class BackRuntime implements Runtime {
  readonly kind = "back";
  /** The memory that is written behind the amp. */
  readonly tap: number;
  private module!: Extract<AudioModule, { kind: "back" }>;

  constructor(private readonly heap: Heap) {
    this.tap = heap.take(GROUPS * GROUP);
    heap.kernels.clear(this.tap, GROUPS * GROUP);
  }

  install(module: AudioModule): void {
    if (module.kind === "back") this.module = module;
  }

  begin(lane: number): void {
    this.heap.kernels.clearFeedbackLane(this.tap + (lane >> 2) * GROUP, lane & 3);
  }

  render(group: number, buses: number, at: GroupStretch): void {
    const { buses: to } = this.module;
    for (let i = 0; i < to.length; i++)
      this.heap.kernels.feedbackIn(this.tap + group * GROUP, at.segments, at.segmentCount, buses + to[i]! * BUS_BYTES);
  }

  dispose(): void {
    this.heap.give(this.tap, GROUPS * GROUP);
  }
}

/** Takes what comes back from behind the amp. */
export class BehindRuntime implements Runtime {
  readonly kind = "behind";
  private module!: Extract<AudioModule, { kind: "behind" }>;
  private memory = 0;
  private readonly keep: number;

  constructor(
    private readonly heap: Heap,
    sampleRate: number,
  ) {
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
      this.memory + group * GROUP, this.keep, at.rows, at.rowBytes, m.gain * at.useBytes, m.amount * at.useBytes, at.segments,
      at.segmentCount, buses + m.bus * BUS_BYTES,
    ); // prettier-ignore
  }

  dispose(): void {
    // It holds no memory of its own.
  }
}
