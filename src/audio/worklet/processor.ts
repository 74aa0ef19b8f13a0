import { tableName } from "../../core/dsp/tableSpec";
import { withChanges } from "../../core/engine/changes";
import { Engine } from "../../core/engine/engine";
import type { Program } from "../../core/engine/program";
import type { PartEngine } from "../../core/engine/partEngine";
import { warmUp } from "../../core/engine/warmUp";
import { STATUS, STATUS_LENGTH, type FromEngine, type ProcessorOptions, type ToEngine } from "../messages";

/** Share that a source's level keeps from block to block: it falls by some 30 dB in half a second. */
const SINKING = 0.98;

/** Blocks over which the load is averaged: the clock here ticks in whole milliseconds. */
const LOAD_BLOCKS = 1500;
const BLOCK = 128;
/** Blocks between posts of the status where memory is not shared: about 30 posts a second at 48 kHz. */
const POST_BLOCKS = 12;

/** The engine inside an AudioWorklet. `process` allocates nothing, except copies for the page while it is tapped. */
class EngineProcessor extends AudioWorkletProcessor {
  private readonly engine: Engine;
  private readonly status: Float64Array;
  private readonly shared: boolean;
  private untilPost = 0;
  private readonly peaks = new Float32Array(2);
  private program: Program;
  private ack = 0;
  private tapped = false;
  private shown = "";
  /** The bank whose sources are measured: that of the part that is shown. */
  private metered: PartEngine["bank"] | undefined;
  private busyMs = 0;
  private blocks = 0;

  constructor(options: { processorOptions: ProcessorOptions }) {
    super();
    const { program, tables, status } = options.processorOptions;
    this.shared = status !== null;
    this.status = status ? new Float64Array(status) : new Float64Array(STATUS_LENGTH);
    this.program = program;
    const handed = new Map(tables);
    const heap = warmUp(program, sampleRate, { tables: (spec) => handed.get(tableName(spec))! });
    this.engine = new Engine(sampleRate, heap);
    for (const [name, table] of tables) this.engine.setTable(name, table);
    this.engine.load(program);
    this.port.onmessage = (event: MessageEvent<ToEngine>) => this.receive(event.data);
  }

  private receive(message: ToEngine): void {
    switch (message.type) {
      case "changes":
        this.program = withChanges(this.program, message.changes);
        return this.engine.load(this.program);
      case "table":
        return this.engine.setTable(message.name, message.table);
      case "dropTables":
        return this.engine.dropTables(message.names);
      case "play":
        return this.engine.play(message.loopTick, message.countBeats);
      case "transport":
        this.engine.click.on = message.click;
        return this.engine.repeat(message.region);
      case "marks":
        this.engine.marks.ticks = message.ticks;
        return;
      case "stop":
        return this.engine.stop();
      case "noteOn":
        return this.engine.noteOn(message.partId, message.key, message.velocity);
      case "noteOff":
        return this.engine.noteOff(message.partId, message.key);
      case "hands":
        return this.engine.hands(message.partId, message.bend, message.wheel, message.pressure);
      case "show":
        this.shown = message.partId;
        this.status.fill(0, STATUS.sources);
        return;
      case "tap":
        this.tapped = message.on;
        return;
      default:
        return message satisfies never;
    }
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const left = outputs[0]?.[0];
    const right = outputs[0]?.[1];
    if (!left || !right) return true;
    const before = Date.now();
    const frame = this.engine.outFrame;
    this.engine.process(left, right, left.length);
    if (this.tapped)
      this.port.postMessage({ type: "block", frame, left: left.slice(), right: right.slice() } satisfies FromEngine);
    this.report(Date.now() - before);
    return true;
  }

  private shownPart(): PartEngine | undefined {
    for (const part of this.engine.parts) if (part.program.id === this.shown) return part;
    return this.engine.parts[0];
  }

  private report(busyMs: number): void {
    const { engine, status, peaks } = this;
    this.busyMs += busyMs;
    if (++this.blocks === LOAD_BLOCKS) {
      status[STATUS.load] = this.busyMs / ((LOAD_BLOCKS * BLOCK * 1000) / sampleRate);
      this.busyMs = 0;
      this.blocks = 0;
    }
    // The limiter hands the sound out late: what is heard now was rendered that much earlier.
    const { outFrame } = engine;
    status[STATUS.contextFrame] = currentFrame + BLOCK + engine.delay;
    status[STATUS.engineFrame] = outFrame;
    status[STATUS.loopTick] = engine.loopTick;
    status[STATUS.playing] = engine.clock.playing ? 1 : 0;
    status[STATUS.voices] = engine.voiceCount;
    const bank = this.shownPart()?.bank;
    if (bank !== this.metered) {
      this.metered?.meter(false);
      bank?.meter(true);
      this.metered = bank;
    }
    bank?.takePeaks(status, STATUS.sources, SINKING);
    const lanes = bank?.lanes;
    const note = lanes?.newest ?? -1;
    status[STATUS.hasNote] = note === -1 ? 0 : 1;
    if (lanes && note !== -1) {
      status[STATUS.noteFrames] = outFrame - lanes.onFrame[note]!;
      status[STATUS.noteTicks] = engine.clock.tickAt(outFrame) - lanes.onTick[note]!;
      const off = lanes.offFrame[note]!;
      status[STATUS.offFrames] = off === Infinity ? -1 : Math.max(0, outFrame - off);
    }
    engine.takePeaks(peaks);
    const taken = status[STATUS.ack] !== this.ack;
    if (taken) this.ack = status[STATUS.ack]!;
    status[STATUS.peakL] = taken ? peaks[0]! : Math.max(status[STATUS.peakL]!, peaks[0]!);
    status[STATUS.peakR] = taken ? peaks[1]! : Math.max(status[STATUS.peakR]!, peaks[1]!);
    status[STATUS.longest] = taken ? busyMs : Math.max(status[STATUS.longest]!, busyMs);
    if (!this.shared && --this.untilPost <= 0) {
      this.untilPost = POST_BLOCKS;
      this.port.postMessage({ type: "status", values: status.slice() } satisfies FromEngine);
      // The page has these peaks now.
      this.ack = -1;
    }
  }
}

registerProcessor("clovik-engine", EngineProcessor);
