import { waveTable, type WaveName } from "@/core/dsp/waveTables";
import { changesBetween } from "@/core/engine/changes";
import { tablesOf, type Program } from "@/core/engine/program";
import { NO_SIMD, hasSimd } from "@/core/engine/simd";
import { STATUS, STATUS_LENGTH, type FromEngine, type ProcessorOptions, type ToEngine } from "./messages";
import processorUrl from "./worklet/processor.ts?bundled";

/** What the engine does now. Ticks and seconds as they are heard, not as they are being rendered. */
export interface Snapshot {
  readonly playing: boolean;
  readonly loopTick: number;
  readonly voices: number;
  readonly load: number;
  /** The first part's newest note, if one sounds. */
  readonly note: { readonly sec: number; readonly ticks: number; readonly offSec: number } | null;
}

export type SoundState = "idle" | "starting" | "running" | "failed";

/**
 * The page's sound: an AudioContext with the engine in its worklet, started by the first gesture that needs it.
 * Programs given before that are kept for it.
 */
export class AudioSession {
  state: SoundState = "idle";
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private status: Float64Array | null = null;
  private program: Program | null = null;
  /** What the worklet has. */
  private sent: Program | null = null;
  private readonly sentTables = new Set<WaveName>();
  private starting: Promise<void> | null = null;
  private readonly taps = new Set<(block: FromEngine) => void>();

  /** Hz; the usual 48000 until the sound has been started. */
  get sampleRate(): number {
    return this.context?.sampleRate ?? 48_000;
  }

  /** Takes over a program; what sounds goes on. */
  setProgram(program: Program): void {
    this.program = program;
    if (this.node) this.send(program);
  }

  /** Sends what the worklet lacks: wave tables first, then what changed. */
  private send(program: Program): void {
    for (const wave of tablesOf(program)) {
      if (this.sentTables.has(wave)) continue;
      this.sentTables.add(wave);
      this.post({ type: "table", wave, table: waveTable(wave) });
    }
    const changes = changesBetween(this.sent, program);
    this.sent = program;
    if (changes.length > 0) this.post({ type: "changes", changes });
  }

  /** Starts the sound. Call it from a gesture. Rejects when the browser has no sound to give. */
  start(): Promise<void> {
    this.starting ??= this.open().catch((error: unknown) => {
      this.starting = null;
      this.state = "failed";
      throw error;
    });
    return this.starting;
  }

  private async open(): Promise<void> {
    if (!this.program) throw new Error("no project is open");
    if (typeof SharedArrayBuffer === "undefined")
      throw new Error("the page is not isolated, so that threads cannot share memory");
    if (!hasSimd()) throw new Error(NO_SIMD);
    this.state = "starting";
    const context = new AudioContext({ latencyHint: "interactive" });
    await context.audioWorklet.addModule(processorUrl);
    const buffer = new SharedArrayBuffer(STATUS_LENGTH * Float64Array.BYTES_PER_ELEMENT);
    const program = this.program;
    const waves = tablesOf(program);
    const options: ProcessorOptions = { program, tables: waves.map((w) => [w, waveTable(w)] as const), status: buffer };
    const node = new AudioWorkletNode(context, "clovik-engine", {
      numberOfInputs: 0,
      outputChannelCount: [2],
      processorOptions: options,
    });
    node.onprocessorerror = () => {
      this.state = "failed";
    };
    node.port.onmessage = (event: MessageEvent<FromEngine>) => this.taps.forEach((tap) => tap(event.data));
    node.connect(context.destination);
    await context.resume();
    this.context = context;
    this.node = node;
    this.status = new Float64Array(buffer);
    this.state = "running";
    this.sent = program;
    waves.forEach((w) => this.sentTables.add(w));
    this.send(this.program);
  }

  private post(message: ToEngine): void {
    this.node?.port.postMessage(message);
  }

  /** Plays from a position within the loop. */
  async play(loopTick: number): Promise<void> {
    await this.start();
    // A context that the browser suspended (a sleeping machine) is woken by the gesture that plays.
    if (this.context?.state !== "running") await this.context?.resume();
    this.post({ type: "play", loopTick });
  }

  stop(): void {
    this.post({ type: "stop" });
  }

  /** Plays a note by hand until `noteOff`. */
  async noteOn(partId: string, key: number, velocity: number): Promise<void> {
    await this.start();
    this.post({ type: "noteOn", partId, key, velocity });
  }

  noteOff(partId: string, key: number): void {
    this.post({ type: "noteOff", partId, key });
  }

  /** Hands every block that is played to `listener`; returns what ends it. */
  tap(listener: (block: FromEngine) => void): () => void {
    this.taps.add(listener);
    this.post({ type: "tap", on: true });
    return () => {
      this.taps.delete(listener);
      if (this.taps.size === 0) this.post({ type: "tap", on: false });
    };
  }

  /** Null before the sound was started. */
  snapshot(): Snapshot | null {
    const { context, status, program } = this;
    if (!context || !status || !program) return null;
    const heardAt = context.getOutputTimestamp().contextTime ?? context.currentTime;
    const aheadSec = Math.max(0, Math.min(0.5, status[STATUS.contextFrame]! / context.sampleRate - heardAt));
    const playing = status[STATUS.playing] === 1;
    const behind = playing ? aheadSec * program.song.ticksPerSec : 0;
    const loopTick = (status[STATUS.loopTick]! - behind + program.song.loopTicks) % program.song.loopTicks;
    const noteSec = status[STATUS.noteFrames]! / context.sampleRate;
    const off = status[STATUS.offFrames]!;
    return {
      playing,
      loopTick,
      voices: status[STATUS.voices]!,
      load: status[STATUS.load]!,
      note: status[STATUS.hasNote]
        ? {
            sec: noteSec,
            ticks: status[STATUS.noteTicks]!,
            offSec: off < 0 ? Infinity : noteSec - off / context.sampleRate,
          }
        : null,
    };
  }

  /** Peaks before the limiter since the last call, as gains; null before the sound was started. */
  takePeaks(): readonly [number, number] | null {
    const { status } = this;
    if (!status) return null;
    const peaks = [status[STATUS.peakL]!, status[STATUS.peakR]!] as const;
    status[STATUS.ack] = status[STATUS.ack]! + 1;
    return peaks;
  }
}
