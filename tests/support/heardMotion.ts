import { compileProject } from "@/core/engine/compile";
import { Sequencer } from "@/core/engine/sequencer";
import { HeardLog, watchLoop, type HeardNote, type Watched } from "@/core/engine/watch";
import type { Address } from "@/core/patch/address";
import { newShape } from "@/core/patch/defaults";
import { adjusted } from "@/core/patch/kinds/kind";
import type { Restart, Shape } from "@/core/patch/kinds/shape";
import type { Project } from "@/core/patch/project";
import { makeProject, type Made } from "./projects";

export const RATE = 48_000;
const RAMP = [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }] as const; // prettier-ignore

/** Motion as an engine plays it, note by note. */

/** A straight rise from 0 to 1 in each cycle. */
export const rise = (id: string, hz: number, restart: Restart = "note", triggers: number[] = []): Shape => {
  const made = newShape(id, id);
  return adjusted(made, {
    values: { smoothing: 0 },
    choices: { restart },
    times: { rate: { unit: "hz", hz } },
    data: { points: RAMP, triggers },
  });
};

/**
 * What the notes of one pass do to what is watched, for two seconds: frames and values, in sub-blocks of so many frames;
 * `edited` is loaded after a while.
 */
export function heard(
  made: Made,
  watched: Watched,
  edited: { to: Made; atSec: number } | null = null,
  step = 16,
): HeardNote[] {
  const program = compileProject(makeProject(made));
  const notes: HeardNote[] = [];
  const log = new HeardLog(program, [watched], (n) => notes.push(n));
  const sequencer = new Sequencer(RATE, log, step);
  sequencer.load(program);
  sequencer.play(0);
  sequencer.finishAfter(program.song.loopTicks);
  const first = edited ? Math.round(edited.atSec * RATE) : 0;
  sequencer.run(first);
  if (edited) sequencer.load(compileProject(makeProject(edited.to)));
  sequencer.run(96_000 - first);
  log.finish();
  return notes.sort((a, b) => a.onFrame - b.onFrame || a.key - b.key);
}

export const ofAddress = (made: Made, address: Address): HeardNote[] =>
  heard(made, { addresses: [address], sources: [] });
export const ofSource = (made: Made, id: string): HeardNote[] => heard(made, { addresses: [], sources: [id] });

/** The value at a time after the note's start, from the row nearest to it. */
export const at = (n: HeardNote, sec: number): number => {
  const frame = n.onFrame + sec * RATE;
  let best = 0;
  n.frames.forEach((f, i) => {
    if (Math.abs(f - frame) < Math.abs(n.frames[best]! - frame)) best = i;
  });
  return n.rows[best]!;
};

/** The lowest and highest value of an address of the first part in each of 1024 columns of the loop, by the newest note. */
export function columnsOf(
  project: Project,
  address: Address,
): { low: (at: number) => number; high: (at: number) => number } {
  const program = compileProject(project, project.parts[0]!.id);
  const watch = watchLoop(program, RATE, [{ addresses: [address], sources: [] }], 1024);
  const of = (at: number, which: 0 | 1): number => {
    const column = Math.min(1023, Math.floor(at * 1024));
    const n = watch.notes.findLast((m) => m.columns[0]!.first <= column && column < m.columns[0]!.first + m.columns[0]!.count)!; // prettier-ignore
    const c = n.columns[0]!;
    return watch.values[c.at + which * c.count + column - c.first]!;
  };
  return { low: (at) => of(at, 0), high: (at) => of(at, 1) };
}
