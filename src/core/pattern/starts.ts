import type { Note, Part, Project } from "../patch/project";
import { levelEnvelope } from "../patch/layers";
import type { Envelope } from "../patch/kinds/envelope";
import { drumEnvelope, drumNamed, kitHits } from "./backing";
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

/**
 * Where notes start again what restarts with them: the part's own, those of another one, by its id, or the strokes of a drum
 * of the backing, by its address.
 */
export type NoteStarts = (restart: "chord" | "rest", notesOf: string | null) => readonly number[];

/** What a part's modulators hear of notes. */
export interface NotesHeard {
  readonly starts: NoteStarts;
  /** What is played in one pass under a name; null for the part's own. */
  readonly played: (notesOf: string | null) => readonly PlayedNote[];
  /** What shapes the level of those notes. */
  readonly levelEnvelope: (notesOf: string | null) => Envelope | null;
}

/** Notes as they are written under a name, and how much later they are played. */
interface Written {
  readonly notes: readonly Timed[];
  readonly laterTicks: number;
}

type Hearable = Pick<Project, "parts" | "song" | "backing">;

const patternUnder = (part: Part, { parts }: Hearable, name: string | null): Pattern =>
  patternOf(parts.find((p) => p.id === name) ?? part, parts);

/** What is written under a name: a part that is not there is taken for the part itself. */
export function writtenUnder(part: Part, project: Hearable, name: string | null): Written {
  const { backing, song } = project;
  const drum = drumNamed(backing, name);
  if (backing && drum) return { notes: kitHits(backing, song)[drum], laterTicks: 0 };
  const { notes, shift } = patternUnder(part, project, name);
  return { notes, laterTicks: shift?.ticks ?? 0 };
}

/** What a part's modulators hear in one pass. */
export function notesFor(part: Part, project: Project): NotesHeard {
  const { backing, song, seed } = project;
  return {
    starts: startsFor(part, project),
    played: (name) => {
      const drum = drumNamed(backing, name);
      return backing && drum ? kitHits(backing, song)[drum] : partEvents(patternUnder(part, project, name), song, seed);
    },
    levelEnvelope: (name) => {
      const drum = drumNamed(backing, name);
      return backing && drum
        ? drumEnvelope(backing, drum)
        : (levelEnvelope(patternUnder(part, project, name).patch) ?? null);
    },
  };
}

/** Where notes start that modulators restart with. */
export function startsFor(part: Part, project: Hearable): NoteStarts {
  const end = loopTicks(project.song);
  return (restart, name) => {
    const { notes, laterTicks } = writtenUnder(part, project, name);
    const starts = restart === "chord" ? chordStarts(notes, end) : restStarts(notes, end);
    return starts.map((t) => (t + laterTicks) % end).sort((a, b) => a - b);
  };
}
