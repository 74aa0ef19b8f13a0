import { log2 } from "../dsp/portableMath";
import { tableName } from "../dsp/tableSpec";
import { MAX_UNISON, startPhase } from "../dsp/unison";
import { LANES } from "../motion/lanes";
import { stir, unit, UNSTIRRED } from "../pattern/chance";
import type { Heap } from "./heap";
import { WITHOUT_BLEND, type AudioModule } from "./program";
import { BUS_BYTES, GROUPS, pour, stand, type GroupStretch, type NoteStart, type Runtime } from "./runtime";

type OscillatorModule = Extract<AudioModule, { kind: "oscillator" }>;

const LOG2_440 = log2(440);
const NOTHING = -1;

/** How an oscillator plays: a band-limited wave as it is, frames of a table, or bent. */
interface Way {
  /** Where the phases of a lane's stack are: the first one's address, and bytes from one to the next. */
  readonly phases: (lane: number) => number;
  readonly step: number;
  /** Silences what a lane remembers, after its phases are set. */
  begin(lane: number): void;
  resize(): void;
  install(m: OscillatorModule, tapOf: (id: string) => number): void;
  render(m: OscillatorModule, group: number, at: GroupStretch, scratch: number): boolean;
  dispose(): void;
}

function plainWay(heap: Heap, log2Tuning: number): Way {
  const lane = heap.kernels.STACK_LANE.value;
  const memory = heap.take(LANES * lane);
  return {
    phases: (v) => memory + v * lane,
    step: 1,
    begin: () => undefined,
    resize: () => {
      for (let v = 0; v < LANES; v++) heap.kernels.resetLane(memory + v * lane);
    },
    install: () => undefined,
    render: (m, group, at, scratch) => {
      const levels = heap.tableAt(m.tableName);
      if (levels === 0) return false;
      const whole = stand(at, m.pitch, m.detune, m.width, m.pulseWidth);
      heap.kernels.oscillate(
        memory + group * 4 * lane, m.unison, m.stack, Number(m.pulse), m.gain, levels, log2Tuning, at.rows, at.rowBytes,
        m.pitch * at.useBytes, m.detune * at.useBytes, m.width * at.useBytes, m.pulseWidth * at.useBytes,
        whole ? at.whole : at.segments, whole ? 1 : at.segmentCount, at.starts, scratch,
      );
      return true;
    },
    dispose: () => heap.give(memory, LANES * lane),
  };
} // prettier-ignore

function framesWay(heap: Heap, log2Tuning: number): Way {
  const lane = heap.kernels.STACK_LANE.value;
  const memory = heap.take(LANES * lane);
  const { value: halvesBytes } = heap.kernels.HALVES_GROUP;
  const { value: roomBytes } = heap.kernels.FRAMES_ROOM;
  const halves = heap.take(GROUPS * halvesBytes);
  const room = heap.take(roomBytes);
  return {
    phases: (v) => memory + v * lane,
    step: 1,
    begin: (v) => heap.kernels.clearHalves(halves + (v >> 2) * halvesBytes, v & 3),
    resize: () => {
      for (let v = 0; v < LANES; v++) heap.kernels.resetLane(memory + v * lane);
    },
    install: () => undefined,
    render: (m, group, at, scratch) => {
      const table = heap.tableAt(m.tableName);
      if (table === 0) return false;
      heap.kernels.oscillateFrames(
        memory + group * 4 * lane, halves + group * halvesBytes, room, m.unison, m.stack, table, log2Tuning, at.rows, at.rowBytes,
        m.pitch * at.useBytes, m.detune * at.useBytes, m.width * at.useBytes, m.position * at.useBytes,
        m.upward === null ? NOTHING : m.upward * at.useBytes, at.segments, at.segmentCount, at.starts, scratch,
      );
      return true;
    },
    dispose: () => {
      heap.give(memory, LANES * lane);
      heap.give(halves, GROUPS * halvesBytes);
      heap.give(room, roomBytes);
    },
  };
} // prettier-ignore

/** The table that inner modulators read. */
const PLAIN_TABLE = tableName({ kind: "own", id: "plain" });

function bentWay(heap: Heap, log2Tuning: number): Way {
  const { value: bytes } = heap.kernels.BENT_GROUP;
  const { value: roomBytes } = heap.kernels.BENT_ROOM;
  const { value: specBytes } = heap.kernels.BENT_SPEC;
  const memory = heap.take(GROUPS * bytes);
  const room = heap.take(roomBytes);
  const at = heap.take(specBytes);
  const spec = heap.int32(at, specBytes / 4);
  return {
    phases: (lane) => memory + (lane >> 2) * bytes + (lane & 3) * 4,
    step: 4,
    begin: (lane) => heap.kernels.clearBentLane(memory + (lane >> 2) * bytes, lane & 3),
    resize: () => {
      for (let g = 0; g < GROUPS; g++) heap.kernels.resetBent(memory + g * bytes);
    },
    install: (m, tapOf) => {
      const bent = m.bent!;
      const offset = (use: number | null): number => (use === null ? NOTHING : use * LANES * 8);
      // In the order in which src/core/dsp/simd/bent.ts reads them.
      spec.set([
        0, Number(m.upward !== null), m.unison, m.stack, bent.bend1, bent.bend2, bent.innerWave, Number(bent.innerFixed),
        bent.pmFrom === null ? 0 : tapOf(bent.pmFrom), bent.ringFrom === null ? 0 : tapOf(bent.ringFrom), 0, Number(m.pulse),
        offset(m.pitch), offset(m.detune), offset(m.width), offset(m.pulseWidth), offset(m.position), offset(m.upward),
        offset(bent.amount1), offset(bent.amount2), offset(bent.pm), offset(bent.inner), offset(bent.ratio), offset(bent.ring),
        offset(bent.feedback),
      ]);
      heap.float32(at + 100, 1)[0] = bent.full;
    },
    render: (m, group, stretch, scratch) => {
      const table = heap.tableAt(m.tableName);
      const plain = heap.tableAt(PLAIN_TABLE);
      if (table === 0 || plain === 0) return false;
      spec[0] = table;
      spec[10] = plain;
      heap.kernels.oscillateBent(
        at, memory + group * bytes, room, m.gain, log2Tuning, stretch.rows, stretch.rowBytes, stretch.segments,
        stretch.segmentCount, stretch.starts, scratch,
      );
      return true;
    },
    dispose: () => {
      heap.give(memory, GROUPS * bytes);
      heap.give(room, roomBytes);
      heap.give(at, specBytes);
    },
  };
} // prettier-ignore

const WAYS = { plain: plainWay, frames: framesWay, bent: bentWay } as const;

export class OscillatorRuntime implements Runtime {
  readonly kind = "oscillator";
  readonly tap: number;
  private module!: OscillatorModule;
  private readonly scratch: number;
  private readonly log2Tuning: number;
  private way: Way | null = null;
  private taken = "";
  private size = "";
  /** Lanes whose phases have begun: those that run on are set once. */
  private readonly begun = new Uint8Array(LANES);

  constructor(
    private readonly heap: Heap,
    sampleRate: number,
  ) {
    this.scratch = heap.take(BUS_BYTES);
    this.tap = heap.take(BUS_BYTES / 2);
    // A MIDI key / 12 plus this is log2 of cycles a sample.
    this.log2Tuning = LOG2_440 - log2(sampleRate) - 69 / 12;
  }

  install(module: AudioModule, tapOf: (id: string) => number): void {
    if (module.kind !== "oscillator") return;
    this.module = module;
    if (!this.way || this.taken !== module.way) {
      this.way?.dispose();
      this.way = WAYS[module.way](this.heap, this.log2Tuning);
      this.taken = module.way;
      this.size = "";
      this.begun.fill(0);
    }
    this.way.install(module, tapOf);
    const size = `${module.unison} ${module.stack & WITHOUT_BLEND}`;
    if (size !== this.size) this.way.resize();
    this.size = size;
  }

  begin(lane: number, note: NoteStart): void {
    const { unison, phase, start } = this.module;
    const { way } = this;
    if (!way) return;
    if (start !== "running" || this.begun[lane] === 0) {
      this.begun[lane] = 1;
      const { words } = this.heap;
      const at = way.phases(lane) >> 2;
      const drawn = stir(stir(stir(UNSTIRRED, note.seed), note.address), note.key);
      for (let u = 0; u < unison; u++) {
        const voice = stir(drawn, u);
        const random = unit(note.copy === 0 ? voice : stir(voice, note.copy));
        // Copies of a voice start apart for the same reason as voices of a stack.
        const cycles = phase + (start === "random" ? random : startPhase(u, unison) + note.copy * 0.381966);
        // Whole cycles fall off the end.
        words[at + u * way.step] = (cycles * 2 ** 32) | 0;
        if (this.module.bent) words[at + (MAX_UNISON + u) * way.step] = 0;
      }
    }
    way.begin(lane);
  }

  render(group: number, buses: number, at: GroupStretch): void {
    const { module: m, heap, scratch } = this;
    if (!this.way?.render(m, group, at, scratch)) return;
    if (m.tapScale !== null) heap.kernels.tapSource(scratch, this.tap, m.tapScale);
    pour(heap, scratch, m, at, buses);
  }

  dispose(): void {
    this.way?.dispose();
    this.heap.give(this.scratch, BUS_BYTES);
    this.heap.give(this.tap, BUS_BYTES / 2);
  }
}
