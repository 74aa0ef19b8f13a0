import type { Region } from "@/core/engine/sequencer";
import { tableName, type Recordings, type SoundTable, type TableSpec } from "@/core/dsp/tableSpec";
import type { tableMaker } from "@/core/dsp/tables";
import { changesBetween } from "@/core/engine/changes";
import { tablesOf, type Program } from "@/core/engine/program";
import { TableKeeper } from "@/core/engine/tableKeeper";
import { NO_SIMD, hasSimd } from "@/core/engine/simd";
import { STATUS, STATUS_LENGTH, type FromEngine, type ProcessorOptions, type ToEngine } from "./messages";
import processorUrl from "./worklet/processor.ts?bundled";

/** What the engine does now. Ticks and seconds as they are heard, not as they are being rendered. */
export interface Snapshot {
  readonly playing: boolean;
  readonly loopTick: number;
  readonly voices: number;
  readonly load: number;
  /** The newest note of the part that is shown, if one sounds. */
  readonly note: { readonly sec: number; readonly ticks: number; readonly offSec: number } | null;
}

/** "paused" by the browser: another page or the machine took the sound. "failed": it stopped, or never started. */
export type SoundState = "idle" | "starting" | "running" | "paused" | "failed";

/** The browser has this long to start its sound, and the worklet to hand out its first block. */
const PATIENCE_MS = 5000;
/** A running context whose worklet reports nothing for this long has stopped. */
const SILENT_MS = 900;

/** What a sound that was started is made of. */
interface Running {
  readonly context: AudioContext;
  readonly node: AudioWorkletNode;
}

/**
 * The page's sound: an AudioContext with the engine in its worklet, started by the first gesture that needs it.
 * Programs given before that are kept for it. A sound that stops by itself is told, and Play starts another.
 */
export class AudioSession {
  private current: SoundState = "idle";
  private running: Running | null = null;
  /** Shared with the worklet, or as it was posted last. */
  private status: Float64Array = new Float64Array(STATUS_LENGTH);
  private sharesMemory = false;
  private program: Program | null = null;
  /** What the worklet has. */
  private sent: Program | null = null;
  private readonly tables = new TableKeeper();
  /** Loaded with the engine. */
  private tableMaker: typeof tableMaker | null = null;
  private recordings: Recordings = new Map();
  private starting: Promise<void> | null = null;
  private region: Region | null = null;
  private click = false;
  private marks: Float64Array = new Float64Array(0);
  private shown = "";
  /** Notes that hands hold. */
  private readonly held = new Set<string>();
  private startedAt = 0;
  private latency = 0;
  private latencyAsked = -Infinity;
  private watchdog: ReturnType<typeof setInterval> | null = null;

  constructor(
    /** Told when the sound starts, is paused or stops by itself, and why. */
    private readonly onState: (state: SoundState, reason: string | null) => void = () => undefined,
    /** Told when something is going to be heard: until it has ended, `sounding` says so. */
    private readonly onSound: () => void = () => undefined,
  ) {}

  get state(): SoundState {
    return this.current;
  }

  private become(state: SoundState, reason: string | null = null): void {
    if (state === this.current) return;
    this.current = state;
    this.onState(state, reason);
  }

  /** Hz; the usual 48000 until the sound has been started. */
  get sampleRate(): number {
    return this.running?.context.sampleRate ?? 48_000;
  }

  /** Takes over a program; what sounds goes on. */
  setProgram(program: Program): void {
    this.program = program;
    if (this.running) this.send(program);
  }

  /** Sends what the worklet lacks: wave tables first, then what changed. */
  private send(program: Program): void {
    const { lacking, unused } = this.tables.next(this.readable(program));
    if (unused.length > 0) this.post({ type: "dropTables", names: unused });
    for (const [name, table] of this.made(lacking)) this.post({ type: "table", name, table });
    const changes = changesBetween(this.sent, program);
    this.sent = program;
    if (changes.length > 0) this.post({ type: "changes", changes });
  }

  /** Takes over the recordings that are at hand: what waited for one is heard. */
  setRecordings(recordings: Recordings): void {
    this.recordings = recordings;
    if (this.running && this.program) this.send(this.program);
  }

  /** The tables of a program that can be made: those of recordings that are not at hand are not. */
  private readable(program: Program): TableSpec[] {
    return tablesOf(program).filter((spec) => !("hash" in spec) || this.recordings.has(spec.hash));
  }

  private made(specs: readonly TableSpec[]): (readonly [name: string, table: SoundTable])[] {
    const make = this.tableMaker!(this.recordings);
    return specs.flatMap((spec) => {
      const table = make(spec);
      return table ? [[tableName(spec), table] as const] : [];
    });
  }

  /** Starts the sound, or wakes it when the browser has paused it. Call it from a gesture. Rejects when there is none to have. */
  start(): Promise<void> {
    if (this.running && this.current === "paused") return this.wake(this.running.context);
    if (this.running && this.current === "failed") this.drop("failed", null);
    this.starting ??= this.open().catch((error: unknown) => {
      this.drop("failed", null);
      throw error;
    });
    return this.starting;
  }

  private async wake(context: AudioContext): Promise<void> {
    await within(context.resume(), "the browser does not wake its sound");
    this.become("running");
  }

  private async open(): Promise<void> {
    if (!this.program) throw new Error("no project is open");
    if (!globalThis.isSecureContext)
      throw new Error("this address is not safe (https, or localhost), and browsers give such pages no sound");
    if (!hasSimd()) throw new Error(NO_SIMD);
    this.become("starting");
    const context = new AudioContext({ latencyHint: "interactive" });
    try {
      const engine = context.audioWorklet.addModule(processorUrl);
      const [maker] = await within(
        Promise.all([import("@/core/dsp/tables"), engine]),
        "the engine could not be loaded",
      );
      this.tableMaker = maker.tableMaker;
      this.sharesMemory = typeof SharedArrayBuffer !== "undefined" && globalThis.crossOriginIsolated;
      const buffer = this.sharesMemory ? new SharedArrayBuffer(STATUS_LENGTH * Float64Array.BYTES_PER_ELEMENT) : null;
      this.status = buffer ? new Float64Array(buffer) : new Float64Array(STATUS_LENGTH);
      const program = this.program;
      this.tables.clear();
      const { lacking } = this.tables.next(this.readable(program));
      const node = new AudioWorkletNode(context, "clovik-engine", {
        numberOfInputs: 0,
        outputChannelCount: [2],
        processorOptions: {
          program,
          tables: this.made(lacking),
          status: buffer,
        } satisfies ProcessorOptions,
      });
      const failed = new Promise<never>((_, reject) => {
        node.onprocessorerror = () => {
          reject(new Error("the engine stopped by itself"));
          this.lost(context, "the engine stopped by itself");
        };
      });
      failed.catch(() => undefined);
      node.port.onmessage = (event: MessageEvent<FromEngine>) => this.receive(event.data);
      node.connect(context.destination);
      await within(
        Promise.race([context.resume().then(() => this.firstBlock()), failed]),
        "the browser does not start its sound",
      );
      this.running = { context, node };
      this.startedAt = context.currentTime;
      this.latency = context.baseLatency;
      this.sent = program;
      this.send(this.program);
      this.setTransport(this.region, this.click);
      this.setMarks(this.marks);
      this.show(this.shown);
    } catch (error) {
      void context.close().catch(() => undefined);
      throw error;
    }
    context.onstatechange = () => this.follow(context);
    this.watch(context);
    this.become("running");
  }

  /** Settles when the worklet has reported its first block: before that, some browsers freeze when asked for the time. */
  private async firstBlock(): Promise<void> {
    while (!this.reports) await new Promise((resolve) => setTimeout(resolve, 10));
  }

  private get reports(): boolean {
    return this.status[STATUS.contextFrame]! > 0;
  }

  private receive(message: FromEngine): void {
    if (message.type === "block") return;
    const { values } = message;
    for (const side of [STATUS.peakL, STATUS.peakR] as const)
      values[side] = Math.max(values[side]!, this.status[side]!);
    this.status.set(values);
  }

  /** The browser has changed the context's state by itself. */
  private follow(context: AudioContext): void {
    if (this.running?.context !== context) return;
    if (context.state === "running") this.become("running");
    else if (context.state === "closed") this.lost(context, "the browser closed it");
    else this.become("paused", "the browser has paused it");
  }

  /**
   * Looks after the worklet: one that hangs reports nothing, and says nothing either. Its context is kept until another
   * is asked for: a machine that was only busy for a while goes on by itself.
   */
  private watch(context: AudioContext): void {
    let frame = -1;
    let since = performance.now();
    this.watchdog = setInterval(() => {
      const now = performance.now();
      const reported = this.status[STATUS.contextFrame]!;
      if (reported !== frame || context.state !== "running" || document.hidden) {
        if (reported !== frame && this.current === "failed") this.become("running");
        frame = reported;
        since = now;
      } else if (now - since > SILENT_MS) this.become("failed", "the engine does not answer");
    }, SILENT_MS / 4);
  }

  private lost(context: AudioContext, reason: string): void {
    if (this.running?.context === context) this.drop("failed", reason);
  }

  /** Lets go of the sound; the next start makes another. */
  private drop(state: SoundState, reason: string | null): void {
    if (this.watchdog !== null) clearInterval(this.watchdog);
    this.watchdog = null;
    const { running } = this;
    this.running = null;
    this.starting = null;
    this.sent = null;
    this.tables.clear();
    this.status = new Float64Array(STATUS_LENGTH);
    if (running && running.context.state !== "closed") {
      running.context.onstatechange = null;
      void running.context.close().catch(() => undefined);
    }
    this.become(state, reason);
  }

  private post(message: ToEngine): void {
    this.running?.node.port.postMessage(message);
  }

  /** Tells which part is shown; kept for a sound that is started later. */
  show(partId: string): void {
    this.shown = partId;
    this.post({ type: "show", partId });
  }

  /** What is repeated, and whether beats click; kept for a sound that is started later. */
  setTransport(region: Region | null, click: boolean): void {
    this.region = region;
    this.click = click;
    this.post({ type: "transport", region, click });
  }

  /** Places of a pass, in ticks and in order, that click softly; kept for a sound that is started later. */
  setMarks(ticks: Float64Array): void {
    this.marks = ticks;
    this.post({ type: "marks", ticks });
  }

  /** Plays from a position within the loop, or after so many beats are counted in. */
  async play(loopTick: number, countBeats = 0): Promise<void> {
    await this.start();
    this.post({ type: "play", loopTick, countBeats });
    this.onSound();
  }

  stop(): void {
    this.post({ type: "stop" });
  }

  /** Plays a note by hand until `noteOff`. */
  async noteOn(partId: string, key: number, velocity: number): Promise<void> {
    const note = `${partId} ${key}`;
    this.held.add(note);
    await this.start();
    // A key that was let go before the sound had started would never be let go again.
    if (!this.held.has(note)) return;
    this.post({ type: "noteOn", partId, key, velocity });
    this.onSound();
  }

  noteOff(partId: string, key: number): void {
    this.held.delete(`${partId} ${key}`);
    this.post({ type: "noteOff", partId, key });
  }

  /** Moves a part's pitch bend, -1 to 1, its mod wheel and its pressure, 0 to 1. */
  hands(partId: string, bend: number, wheel: number, pressure: number): void {
    this.post({ type: "hands", partId, bend, wheel, pressure });
  }

  /** Whether the song runs or a voice is heard. */
  get sounding(): boolean {
    return this.running !== null && (this.status[STATUS.playing] === 1 || this.status[STATUS.voices]! > 0);
  }

  /** Null before the sound was started. */
  snapshot(): Snapshot | null {
    const { running, status, program } = this;
    if (!running || !program) return null;
    const { context } = running;
    const heardAt = context.currentTime - this.latencyOf(context);
    const aheadSec = Math.max(0, Math.min(0.5, status[STATUS.contextFrame]! / context.sampleRate - heardAt));
    const playing = status[STATUS.playing] === 1;
    const behind = playing ? aheadSec * program.song.ticksPerSec : 0;
    const rendered = status[STATUS.loopTick]!;
    const { from, to } = this.region ?? { from: 0, to: program.song.loopTicks };
    // What is heard now lies behind what was rendered last, before the turn of the stretch that is repeated.
    const turned = rendered >= from && rendered <= to && rendered - behind < from;
    const heard = rendered - behind + (turned ? to - from : 0);
    const loopTick = (heard + program.song.loopTicks) % program.song.loopTicks;
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

  /**
   * Seconds from the worklet's clock to the ear. It is asked for once a second at the most and not before a second has
   * played: to answer, a browser may have to wait for its sound thread, and one was seen to wait for ever while that began.
   */
  private latencyOf(context: AudioContext): number {
    const now = performance.now();
    if (context.currentTime < this.startedAt + 1 || now - this.latencyAsked < 1000) return this.latency;
    this.latencyAsked = now;
    const heard = context.getOutputTimestamp().contextTime;
    if (heard !== undefined && heard > 0) this.latency = Math.max(0, context.currentTime - heard);
    return this.latency;
  }

  /** How loud a source of the part that is shown was last, as a gain, by its place in the part's program. */
  sourceLevel(place: number): number {
    return this.running ? this.status[STATUS.sources + place]! : 0;
  }

  /** Peaks before the limiter since the last call, as gains; null before the sound was started. */
  takePeaks(): readonly [number, number] | null {
    const { status } = this;
    if (!this.running) return null;
    const peaks = [status[STATUS.peakL]!, status[STATUS.peakR]!] as const;
    if (this.sharesMemory) status[STATUS.ack] = status[STATUS.ack]! + 1;
    else status.fill(0, STATUS.peakL, STATUS.peakR + 1);
    return peaks;
  }
}

/** Rejects with words for a person when a promise takes too long. */
function within<T>(promise: Promise<T>, problem: string): Promise<T> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(() => reject(new Error(problem)), PATIENCE_MS);
    promise.then(resolve, reject).finally(() => clearTimeout(timer));
  });
}
