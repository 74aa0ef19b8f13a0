import { Engine, warmUp } from "../../core/engine/engine";
import { STATUS, type FromEngine, type ProcessorOptions, type ToEngine } from "../messages";

/** Blocks over which the load is averaged: the clock here ticks in whole milliseconds. */
const LOAD_BLOCKS = 1500;
const BLOCK = 128;

/** The engine inside an AudioWorklet. `process` allocates nothing, except copies for the page while it is tapped. */
class EngineProcessor extends AudioWorkletProcessor {
  private readonly engine = new Engine(sampleRate);
  private readonly status: Float64Array;
  private readonly peaks = new Float32Array(2);
  private ack = 0;
  private tapped = false;
  private busyMs = 0;
  private blocks = 0;

  constructor(options: { processorOptions: ProcessorOptions }) {
    super();
    const { program, status } = options.processorOptions;
    this.status = new Float64Array(status);
    warmUp(program, sampleRate);
    this.engine.load(program);
    this.port.onmessage = (event: MessageEvent<ToEngine>) => this.receive(event.data);
  }

  private receive(message: ToEngine): void {
    switch (message.type) {
      case "program":
        return this.engine.load(message.program);
      case "play":
        return this.engine.play(message.loopTick);
      case "stop":
        return this.engine.stop();
      case "noteOn":
        return this.engine.noteOn(message.partId, message.key, message.velocity);
      case "noteOff":
        return this.engine.noteOff(message.partId, message.key);
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
    const frame = this.engine.frame;
    this.engine.process(left, right, left.length);
    if (this.tapped)
      this.port.postMessage({ type: "block", frame, left: left.slice(), right: right.slice() } satisfies FromEngine);
    this.report(Date.now() - before);
    return true;
  }

  private report(busyMs: number): void {
    const { engine, status, peaks } = this;
    this.busyMs += busyMs;
    if (++this.blocks === LOAD_BLOCKS) {
      status[STATUS.load] = this.busyMs / ((LOAD_BLOCKS * BLOCK * 1000) / sampleRate);
      this.busyMs = 0;
      this.blocks = 0;
    }
    status[STATUS.contextFrame] = currentFrame + BLOCK;
    status[STATUS.engineFrame] = engine.frame;
    status[STATUS.loopTick] = engine.loopTick;
    status[STATUS.playing] = engine.clock.playing ? 1 : 0;
    status[STATUS.voices] = engine.voiceCount;
    const note = engine.parts[0]?.newest;
    status[STATUS.hasNote] = note ? 1 : 0;
    if (note) {
      status[STATUS.noteFrames] = engine.frame - note.onFrame;
      status[STATUS.noteTicks] = engine.clock.tickAt(engine.frame) - note.onTick;
      status[STATUS.offFrames] = note.offFrame === Infinity ? -1 : Math.max(0, engine.frame - note.offFrame);
    }
    engine.takePeaks(peaks);
    const taken = status[STATUS.ack] !== this.ack;
    if (taken) this.ack = status[STATUS.ack]!;
    status[STATUS.peakL] = taken ? peaks[0]! : Math.max(status[STATUS.peakL]!, peaks[0]!);
    status[STATUS.peakR] = taken ? peaks[1]! : Math.max(status[STATUS.peakR]!, peaks[1]!);
  }
}

registerProcessor("clovik-engine", EngineProcessor);
