import { BANK_TYPES, type FilterType } from "../dsp/filter";
import { log2 } from "../dsp/portableMath";
import type { Heap } from "./heap";
import type { AudioModule } from "./program";
import { BUS_BYTES, GROUPS, offset, type GroupStretch, type Runtime } from "./runtime";

type FilterModule = Extract<AudioModule, { kind: "filter" }>;

/**
 * One way of filtering: its memory, and what renders a group of four voices. Types differ so much that each is a thing of
 * its own; a filter whose type changes gets another one, through the dip that such a change makes.
 */
interface Path {
  begin(lane: number): void;
  render(m: FilterModule, group: number, bus: number, at: GroupStretch): void;
  dispose(): void;
}

const LOWEST_HZ = 20;

/** The types whose sides never differ and whose width is plain: both sides in one loop. */
const PLAIN_TYPES: ReadonlySet<FilterType> = new Set(["lp24", "lp12", "bp12", "hp12"]);

function plainPath(heap: Heap, log2Rate: number, type: keyof typeof BANK_TYPES): Path {
  const { value: bytes } = heap.kernels.FILTER_GROUP;
  const memory = heap.take(GROUPS * bytes);
  return {
    begin: (lane) => heap.kernels.clearLane(memory + (lane >> 2) * bytes, lane & 3),
    render: (m, group, bus, at) =>
      heap.kernels.filter(
        BANK_TYPES[type], memory + group * bytes, log2Rate, at.rows, at.rowBytes, m.cutoff * at.useBytes,
        m.resonance * at.useBytes, at.segments, at.segmentCount, Number(at.fresh), bus,
      ),
    dispose: () => heap.give(memory, GROUPS * bytes),
  };
} // prettier-ignore

function bankPath(heap: Heap, log2Rate: number, type: keyof typeof BANK_TYPES): Path {
  const { value: bytes } = heap.kernels.BANK_GROUP;
  const memory = heap.take(GROUPS * bytes);
  const aside = heap.take(BUS_BYTES / 2);
  return {
    begin: (lane) => heap.kernels.clearBankLane(memory + (lane >> 2) * bytes, lane & 3),
    render: (m, group, bus, at) =>
      heap.kernels.filterBank(
        BANK_TYPES[type], memory + group * bytes, log2Rate, at.rows, at.rowBytes, m.cutoff * at.useBytes,
        m.resonance * at.useBytes, offset(m.width, at), offset(m.vowel, at), offset(m.apart, at), at.segments,
        at.segmentCount, Number(at.fresh), bus, aside,
      ),
    dispose: () => {
      heap.give(memory, GROUPS * bytes);
      heap.give(aside, BUS_BYTES / 2);
    },
  };
} // prettier-ignore

function ladderPath(heap: Heap, log2Rate: number): Path {
  const { value: bytes } = heap.kernels.LADDER_GROUP;
  const memory = heap.take(GROUPS * bytes);
  return {
    begin: (lane) => heap.kernels.clearLadderLane(memory + (lane >> 2) * bytes, lane & 3),
    render: (m, group, bus, at) =>
      heap.kernels.ladder(
        memory + group * bytes, log2Rate, at.rows, at.rowBytes, m.cutoff * at.useBytes, m.resonance * at.useBytes,
        offset(m.drive, at), offset(m.apart, at), at.segments, at.segmentCount, bus,
      ),
    dispose: () => heap.give(memory, GROUPS * bytes),
  };
} // prettier-ignore

function combPath(heap: Heap, log2Rate: number, sign: number): Path {
  const frames = 2 ** Math.ceil(log2Rate - log2(LOWEST_HZ) + 0.01);
  const bytes = heap.kernels.COMB_HEAD.value + frames * heap.kernels.COMB_FRAME.value;
  const memory = heap.take(GROUPS * bytes);
  return {
    begin: (lane) => heap.kernels.clearCombLane(memory + (lane >> 2) * bytes, lane & 3),
    render: (m, group, bus, at) =>
      heap.kernels.comb(
        memory + group * bytes, frames - 1, sign, log2Rate, at.rows, at.rowBytes, m.cutoff * at.useBytes,
        m.resonance * at.useBytes, offset(m.apart, at), at.segments, at.segmentCount, bus,
      ),
    dispose: () => heap.give(memory, GROUPS * bytes),
  };
} // prettier-ignore

function newPath(m: FilterModule, heap: Heap, log2Rate: number): Path {
  switch (m.type) {
    case "ladder":
      return ladderPath(heap, log2Rate);
    case "combUp":
      return combPath(heap, log2Rate, 1);
    case "combDown":
      return combPath(heap, log2Rate, -1);
    default:
      return PLAIN_TYPES.has(m.type) && m.width === null && m.apart === null
        ? plainPath(heap, log2Rate, m.type)
        : bankPath(heap, log2Rate, m.type);
  }
}

/** What decides which path a filter takes. */
const pathOf = (m: FilterModule): string => `${m.type} ${m.width === null} ${m.apart === null}`;

/** A filter: what goes in may be driven, what comes out blended with what went in. */
export class FilterRuntime implements Runtime {
  readonly kind = "filter";
  private module!: FilterModule;
  private path: Path | null = null;
  private taken = "";
  private readonly log2Rate: number;
  /** Bytes that drive keeps of a group. */
  private readonly driveBytes: number;
  /** Memory for drive and for the dry sound, taken when they are first needed. */
  private saturate = 0;
  private dry = 0;

  constructor(
    private readonly heap: Heap,
    sampleRate: number,
  ) {
    this.log2Rate = log2(sampleRate);
    this.driveBytes = heap.kernels.SATURATE_GROUP.value;
  }

  install(module: AudioModule): void {
    if (module.kind !== "filter") return;
    this.module = module;
    if (this.drives && this.saturate === 0) {
      this.saturate = this.heap.take(GROUPS * this.driveBytes);
      for (let lane = 0; lane < 4 * GROUPS; lane++) this.beginDrive(lane);
    }
    if (module.mix !== null && this.dry === 0) this.dry = this.heap.take(BUS_BYTES);
    if (this.path && pathOf(module) === this.taken) return;
    this.path?.dispose();
    this.path = newPath(module, this.heap, this.log2Rate);
    this.taken = pathOf(module);
  }

  /** The driven four-pole bends what goes round in it; the others what goes in. */
  private get drives(): boolean {
    return this.module.drive !== null && this.module.type !== "ladder";
  }

  begin(lane: number): void {
    this.path?.begin(lane);
    if (this.saturate !== 0) this.beginDrive(lane);
  }

  private beginDrive(lane: number): void {
    this.heap.kernels.clearSaturateLane(this.saturate + (lane >> 2) * this.driveBytes, lane & 3);
  }

  render(group: number, buses: number, at: GroupStretch): void {
    const { module: m, heap, dry } = this;
    const bus = buses + m.bus * BUS_BYTES;
    if (m.mix !== null) heap.kernels.copyBus(bus, dry);
    if (this.drives)
      heap.kernels.saturate(this.saturate + group * this.driveBytes, at.rows, at.rowBytes, m.drive! * at.useBytes, at.segments, at.segmentCount, bus); // prettier-ignore
    this.path?.render(m, group, bus, at);
    if (m.mix !== null)
      heap.kernels.blend(dry, at.rows, at.rowBytes, m.mix * at.useBytes, at.segments, at.segmentCount, bus);
  }

  dispose(): void {
    this.path?.dispose();
    if (this.saturate !== 0) this.heap.give(this.saturate, GROUPS * this.driveBytes);
    if (this.dry !== 0) this.heap.give(this.dry, BUS_BYTES);
  }
}
