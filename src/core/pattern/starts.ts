import type { Note, Part, Project } from "../patch/project";
import { levelEnvelope } from "../patch/layers";
import type { Envelope } from "../patch/kinds/envelope";
import { loopTicks, partEvents, patternOf, type Pattern } from "./events";
import type { PlayedNote } from "./noteEvent";

type Timed = Pick<Note, "startTick" | "lengthTicks">;

/** Where notes of a pass start, as modulators restart with them: written ones, so that an arpeggio over them counts once. */

/** Ticks at which chords and notes start, each once and in order. */
export const chordStarts = (notes: readonly Timed[], loopTicks: number): number[] =>
  [...new Set(notes.map((n) => n.startTick))].filter((t) => t < loopTicks).sort((a, b) => a - b);

/**
 * Ticks of the starts that follow a rest, in order. What is held to the end of the pass lasts up to its start; where no note
 * follows a rest, the first of the pass does.
 */
export function restStarts(notes: readonly Timed[], loopTicks: number): number[] {
  const starts = chordStarts(notes, loopTicks);
  const within = notes.filter((n) => n.startTick < loopTicks).sort((a, b) => a.startTick - b.startTick);
  let sounding = within.some((n) => n.startTick + n.lengthTicks >= loopTicks) ? 0 : -1;
  let next = 0;
  const found = starts.filter((tick) => {
    for (; next < within.length && within[next]!.startTick < tick; next++)
      sounding = Math.max(sounding, within[next]!.startTick + within[next]!.lengthTicks);
    return sounding < tick;
  });
  return found.length > 0 ? found : starts.slice(0, 1);
}

/** Where the notes of a part start again what restarts with them: its own, or those of another one, by its id. */
export type NoteStarts = (restart: "chord" | "rest", notesOf: string | null) => readonly number[];

/** What a part's modulators hear of notes. */
export interface NotesHeard {
  readonly starts: NoteStarts;
  /** What is played in one pass, by the part's id; null for its own. */
  readonly played: (notesOf: string | null) => readonly PlayedNote[];
  /** What shapes the level of those notes. */
  readonly levelEnvelope: (notesOf: string | null) => Envelope | null;
}

/** What a part's modulators hear in one pass; a part that is not there is taken for its own. */
export function notesFor(part: Part, project: Project): NotesHeard {
  const patternFor = (notesOf: string | null): Pattern =>
    patternOf(project.parts.find((p) => p.id === notesOf) ?? part, project.parts);
  return {
    starts: startsFor(part, project),
    played: (notesOf) => partEvents(patternFor(notesOf), project.song, project.seed),
    levelEnvelope: (notesOf) => levelEnvelope(patternFor(notesOf).patch) ?? null,
  };
}

/** Where notes start that modulators restart with. */
export function startsFor(part: Part, project: Pick<Project, "parts" | "song">): NoteStarts {
  const end = loopTicks(project.song);
  return (restart, notesOf) => {
    const of = project.parts.find((p) => p.id === notesOf) ?? part;
    const { notes, shift } = patternOf(of, project.parts);
    const starts = restart === "chord" ? chordStarts(notes, end) : restStarts(notes, end);
    return starts.map((t) => (t + (shift?.ticks ?? 0)) % end).sort((a, b) => a - b);
  };
}
