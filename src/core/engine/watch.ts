import { exp2, gainToDb } from "../dsp/portableMath";
import { inputsOf, type Ref } from "../motion/program";
import type { Address } from "../patch/address";
import type { Bank, BankListener } from "./bank";
import { Sequencer } from "./sequencer";
import type { PartProgram, Program, SoundProgram } from "./program";
import { SUB_BLOCK } from "./stretch";

/** What is watched of a part: values by their address, what routes add by its name (`addedName`), modulators by their id. */
export interface Watched {
  readonly addresses: readonly Address[];
  readonly adds?: readonly string[];
  readonly sources: readonly string[];
}

/** Quieter than this is drawn and reported as this. */
const HEARD_FLOOR_DB = -96;

/** Where one watched thing of a lane stands, as the engine has it: a use of the modules, or a slot of the motion, -1 and null for none. */
interface Reader {
  readonly use: number;
  readonly slot: Ref | null;
  /** What of a slot is read: base + gain x its value. */
  readonly base: number;
  readonly gain: number;
  /** What turns it into what is shown: MIDI key, dB, Hz, or what the value's own unit is; 0 to 1 for modulators. Rising, so that peaks stay peaks. */
  readonly shown: (value: number) => number;
}

const asItIs = (value: number): number => value;
const inDb = (gain: number): number => Math.max(HEARD_FLOOR_DB, gainToDb(gain));
const NOTHING: Reader = { use: -1, slot: null, base: 0, gain: 1, shown: asItIs };
const ofSlot = (slot: Ref | undefined): Reader | null => (slot === undefined ? null : { ...NOTHING, slot });

/** One way of reading for all: a call that differs from thing to thing costs more than what it does. */
function valueOf({ use, slot, base, gain }: Reader, bank: Bank, lane: number): number {
  if (use !== -1) return bank.value(use, lane);
  return slot === null ? 0 : base + gain * bank.slotValue(slot, lane);
}

function readerOf(sound: SoundProgram, address: Address): Reader | null {
  const use = sound.motion.uses.findIndex((u) => u.address === address);
  if (use !== -1) {
    const { form } = sound.motion.uses[use]!;
    return {
      ...NOTHING,
      use,
      shown: form === "gain" || form === "level" ? inDb : form === "log2hz" ? exp2 : asItIs,
    };
  }
  return ofSlot(sound.motion.targets[address]);
}

/** Readers of everything that is watched, in its order; what does not exist reads 0. */
function readersOf(sound: SoundProgram, watched: Watched): readonly Reader[] {
  return [
    ...watched.addresses.map((a) => readerOf(sound, a) ?? NOTHING),
    ...(watched.adds ?? []).map((id) => ({ ...NOTHING, ...sound.motion.adds[id] })),
    ...watched.sources.map((id) => ofSlot(sound.motion.sources[id]) ?? NOTHING),
  ];
}

/** Leaves out of a program what neither the watched things nor the notes' lengths need. */
function onlyWatched(sound: SoundProgram, watched: Watched): SoundProgram {
  const { motion } = sound;
  const wanted = new Set<string>(watched.addresses);
  const uses = motion.uses.filter((u, i) => i === sound.gain || wanted.has(u.address));
  const needed = new Set<number>();
  const need = (ref: unknown): void => {
    if (typeof ref === "number") needed.add(ref);
  };
  for (const u of uses) {
    if (u.form === "plain") need(u.value);
    else if (u.form === "pitch") [u.semitones, u.cents, u.apart].forEach(need);
    else if (u.form === "log2hz") [u.follow, u.apart, u.octaves].forEach(need);
    else if (u.form === "level") [u.level, ...u.factors].forEach(need);
    else [u.envelope, u.level, ...u.factors].forEach(need);
  }
  watched.sources.forEach((id) => need(motion.sources[id]));
  watched.addresses.forEach((a) => need(motion.targets[a]));
  watched.adds?.forEach((id) => need(motion.adds[id]?.slot));
  const ops = [...motion.shared, ...motion.voice];
  for (let size = -1; size < needed.size;) {
    size = needed.size;
    for (const op of ops) {
      if (needed.has(op.out)) inputsOf(op).forEach(need);
    }
  }
  return {
    ...sound,
    gain: uses.findIndex((u) => u.form === "gain"),
    motion: {
      ...motion,
      shared: motion.shared.filter((o) => needed.has(o.out)),
      voice: motion.voice.filter((o) => needed.has(o.out)),
      uses,
    },
  };
}

/** A part as far as it is watched. */
const leanPart = (part: PartProgram, watched: Watched): PartProgram => ({
  ...part,
  sound: onlyWatched(part.sound, watched),
});

/** A stretch of columns of one note and one watched thing. */
export interface Columns {
  readonly first: number;
  readonly count: number;
  /** Where its values start in those of the watch: the lowest of each column, then the highest, then the last. */
  readonly at: number;
}

interface WatchedNote {
  readonly part: number;
  readonly key: number;
  readonly onFrame: number;
  /** One for each watched address, for what each watched route adds, then for each watched source that is not shared. */
  readonly columns: readonly Columns[];
}

export interface Watch {
  readonly sampleRate: number;
  /** Frames of one pass of the loop, and how many columns it is cut into. */
  readonly frames: number;
  readonly columns: number;
  readonly watched: readonly Watched[];
  /** The values of all columns, in one piece, so that it is quickly handed to another thread. */
  readonly values: Float32Array<ArrayBuffer>;
  readonly notes: readonly WatchedNote[];
  /** Per part and watched source: the values that all notes share; null where each note has its own. */
  readonly shared: readonly (readonly (Columns | null)[])[];
}

/** Columns that grow: three numbers each. */
class Collector {
  private first = -1;
  private used = 0;
  private data = new Float64Array(96);
  /** What stands as long as its note sounds is read once. */
  private stands = false;

  begin(stands = false): void {
    this.first = -1;
    this.used = 0;
    this.stands = stands;
  }

  add(column: number, value: number): void {
    if (this.first === -1) this.first = column;
    const at = (column - this.first) * 3;
    while (this.used <= at) this.grow(value);
    const { data } = this;
    if (value < data[at]!) data[at] = value;
    if (value > data[at + 1]!) data[at + 1] = value;
    data[at + 2] = value;
  }

  private grow(value: number): void {
    if (this.used + 3 > this.data.length) {
      const larger = new Float64Array(this.data.length * 2);
      larger.set(this.data);
      this.data = larger;
    }
    const { data, used } = this;
    data[used] = value;
    data[used + 1] = value;
    data[used + 2] = value;
    this.used = used + 3;
  }

  /** Its columns as they are shown; of what stands, those up to the last one of its note. */
  take(pool: Pool, shown: (value: number) => number, lastColumn: number): Columns {
    const count = this.stands && this.first !== -1 ? lastColumn - this.first + 1 : this.used / 3;
    const at = pool.take(3 * count);
    const { data } = this;
    const { values } = pool;
    if (this.stands) {
      values.fill(shown(data[0]!), at, at + 3 * count);
      return { first: Math.max(0, this.first), count, at };
    }
    // Most of what is drawn stands still from column to column, or rises or falls through one: nothing is worked out twice.
    let from = NaN;
    let to = NaN;
    for (let i = 0; i < count; i++) {
      const low = data[3 * i]!;
      const high = data[3 * i + 1]!;
      const last = data[3 * i + 2]!;
      if (last !== from) {
        from = last;
        to = shown(last);
      }
      values[at + i] = low === last ? to : shown(low);
      values[at + count + i] = high === last ? to : shown(high);
      values[at + 2 * count + i] = to;
    }
    return { first: Math.max(0, this.first), count, at };
  }
}

/** Numbers in one growing piece of memory. */
class Pool {
  values = new Float32Array(16_384);
  used = 0;

  take(count: number): number {
    const at = this.used;
    this.used += count;
    while (this.used > this.values.length) {
      const larger = new Float32Array(this.values.length * 2);
      larger.set(this.values);
      this.values = larger;
    }
    return at;
  }
}

interface Open {
  readonly key: number;
  readonly onFrame: number;
  readonly collectors: Collector[];
  /** The newest column; -1 before the first. */
  column: number;
}

/** Gathers columns from an engine. */
class ColumnWatcher implements BankListener {
  readonly notes: WatchedNote[] = [];
  readonly pool = new Pool();
  private readonly open: (Open | undefined)[][];
  private readonly spare: Collector[] = [];
  private readonly readers: readonly (readonly Reader[])[];
  /** Which of a part's readers read what stands while a note sounds; known once its bank is. */
  private readonly standing: (readonly boolean[] | undefined)[];
  readonly shared: readonly (readonly (Collector | null)[])[];
  private readonly sharedReaders: readonly (readonly Reader[])[];

  constructor(
    program: Program,
    watched: readonly Watched[],
    private readonly frames: number,
    private readonly columns: number,
  ) {
    this.open = program.parts.map(() => []);
    this.standing = program.parts.map(() => undefined);
    const isShared = (p: number, id: string): boolean => (program.parts[p]!.sound.motion.sources[id] ?? 0) < 0;
    this.readers = program.parts.map((p, i) => {
      const { sources, ...rest } = watched[i]!;
      return readersOf(p.sound, { ...rest, sources: sources.filter((id) => !isShared(i, id)) });
    });
    this.shared = watched.map((w, i) => w.sources.map((id) => (isShared(i, id) ? new Collector() : null)));
    this.sharedReaders = program.parts.map((p, i) =>
      readersOf(p.sound, { addresses: [], sources: watched[i]!.sources }),
    );
  }

  begin(part: number, bank: Bank, lane: number): void {
    const readers = this.readers[part]!;
    const standing = (this.standing[part] ??= readers.map((reader) => bank.stands(reader.use)));
    const collectors = readers.map(() => this.spare.pop() ?? new Collector());
    collectors.forEach((c, i) => c.begin(standing[i]));
    this.open[part]![lane] = { key: bank.lanes.key[lane]!, onFrame: bank.lanes.onFrame[lane]!, collectors, column: -1 };
  }

  row(part: number, bank: Bank, frame: number, list: Int32Array, count: number, ends: boolean): void {
    const column = Math.floor((frame * this.columns) / this.frames);
    const shared = this.shared[part]!;
    if (ends && column < this.columns)
      for (let s = 0; s < shared.length; s++) shared[s]?.add(column, valueOf(this.sharedReaders[part]![s]!, bank, 0));
    const open = this.open[part]!;
    const readers = this.readers[part]!;
    const standing = this.standing[part];
    if (!standing) return;
    for (let k = 0; k < count; k++) {
      const v = list[k]!;
      const note = open[v]!;
      const { collectors } = note;
      const first = note.column === -1;
      for (let i = 0; i < readers.length; i++)
        if (first || !standing[i]) collectors[i]!.add(column, valueOf(readers[i]!, bank, v));
      note.column = column;
    }
  }

  release(): void {
    // A release shows in the values.
  }

  end(part: number, _bank: Bank | null, lane: number): void {
    const open = this.open[part]![lane];
    if (!open) return;
    this.notes.push({
      part,
      key: open.key,
      onFrame: open.onFrame,
      columns: open.collectors.map((c, i) => c.take(this.pool, this.readers[part]![i]!.shown, open.column)),
    });
    this.spare.push(...open.collectors);
    this.open[part]![lane] = undefined;
  }

  /** Ends what still sounds; notes are then in order of onset. */
  finish(): readonly WatchedNote[] {
    this.open.forEach((lanes, part) => lanes.forEach((_, lane) => this.end(part, null, lane)));
    return this.notes.sort((a, b) => a.onFrame - b.onFrame || a.key - b.key);
  }
}

/** Frames of whole bars at a program's tempo, to the nearest frame. */
export const framesOfBars = (program: Program, bars: number, sampleRate: number): number =>
  Math.round(((bars * program.song.barTicks) / program.song.ticksPerSec) * sampleRate);

/** The longest sub-block that a curve is looked at with: 2.7 ms, so that fast movement shows in long loops, too. */
const LONGEST_STEP = 128;
/** Loops of minutes are looked at this often at the most. */
const MOST_STEPS = 40_000;

/** The longest sub-block of which a column holds two: a curve is not looked at more closely than it is drawn. */
function stepFor(frames: number, columns: number): number {
  let step = SUB_BLOCK;
  while (step * 4 <= frames / columns && (step < LONGEST_STEP || frames / step > MOST_STEPS)) step *= 2;
  return step;
}

/**
 * What one pass of the loop does to what is watched of each part: the engine's own evaluation, without sound, gathered
 * into columns for the screen.
 */
export function watchLoop(program: Program, sampleRate: number, watched: readonly Watched[], columns: number): Watch {
  const { song } = program;
  const frames = framesOfBars(program, song.loopTicks / song.barTicks, sampleRate);
  // Parts of which nothing is watched are left out.
  const seen = watched.flatMap((w, i) =>
    w.addresses.length + w.sources.length + (w.adds?.length ?? 0) > 0 ? [i] : [],
  );
  const wanted = seen.map((i) => watched[i]!);
  const lean = { ...program, parts: seen.map((i) => leanPart(program.parts[i]!, watched[i]!)) };
  const watcher = new ColumnWatcher(lean, wanted, frames, columns);
  const sequencer = new Sequencer(sampleRate, watcher, stepFor(frames, columns));
  sequencer.load(lean);
  sequencer.play(0);
  sequencer.finishAfter(song.loopTicks);
  sequencer.run(frames);
  const notes = watcher.finish().map((n) => ({ ...n, part: seen[n.part]! }));
  const taken = watcher.shared.map((list) => list.map((c) => c?.take(watcher.pool, asItIs, columns - 1) ?? null));
  const shared = watched.map((_, i) => taken[seen.indexOf(i)] ?? []);
  const values = watcher.pool.values.slice(0, watcher.pool.used);
  return { sampleRate, frames, columns, watched, values, notes, shared };
}

/** One note's values at every end of a sub-block, as the engine used them. */
export interface HeardNote {
  readonly part: number;
  readonly key: number;
  readonly onFrame: number;
  /** Frames of the rows. */
  readonly frames: Float64Array;
  /** One row of values a frame: `addresses`, `adds`, then `sources`. */
  readonly rows: Float64Array;
}

interface Recording {
  readonly key: number;
  readonly onFrame: number;
  frames: number[];
  rows: number[];
}

/** Hands over the values of each note as it ends, at the ends of sub-blocks and at corners: for files, and for tests that hold the drawn against the used. */
export class HeardLog implements BankListener {
  private readonly open: (Recording | undefined)[][];
  private readonly readers: readonly (readonly Reader[])[];

  constructor(
    program: Program,
    watched: readonly Watched[],
    private readonly onNote: (note: HeardNote) => void,
  ) {
    this.open = program.parts.map(() => []);
    this.readers = program.parts.map((p, i) => readersOf(p.sound, watched[i]!));
  }

  begin(part: number, bank: Bank, lane: number): void {
    this.open[part]![lane] = { key: bank.lanes.key[lane]!, onFrame: bank.lanes.onFrame[lane]!, frames: [], rows: [] };
  }

  row(part: number, bank: Bank, frame: number, list: Int32Array, count: number): void {
    for (let k = 0; k < count; k++) {
      const note = this.open[part]![list[k]!]!;
      note.frames.push(frame);
      for (const reader of this.readers[part]!) note.rows.push(reader.shown(valueOf(reader, bank, list[k]!)));
    }
  }

  release(): void {
    // A release shows in the values.
  }

  end(part: number, _bank: Bank | null, lane: number): void {
    const open = this.open[part]![lane];
    if (!open) return;
    const { key, onFrame, frames, rows } = open;
    this.open[part]![lane] = undefined;
    this.onNote({ part, key, onFrame, frames: Float64Array.from(frames), rows: Float64Array.from(rows) });
  }

  /** Ends what still sounds. */
  finish(): void {
    this.open.forEach((lanes, part) => lanes.forEach((_, lane) => this.end(part, null, lane)));
  }
}
