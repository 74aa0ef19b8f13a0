import { dbToGain } from "../dsp/portableMath";
import { COUNTED } from "../motion/lanes";
import { mixOf } from "../patch/edit";
import type { Module } from "../patch/kinds";
import { KIT, type Kit } from "../patch/kinds/kit";
import { MIX, type Mix } from "../patch/kinds/mix";
import type { Parameter } from "../patch/row";
import type { Part, PartMix, Patch, Project, Song } from "../patch/project";
import { oneNoteRule, partEvents, partSeed, patternOf, songFrame } from "../pattern/events";
import { kitHits, type Hit } from "../pattern/backing";
import { notesFor, writtenUnder, type NotesHeard } from "../pattern/starts";
import type { PlayedNote } from "../pattern/noteEvent";
import { tuningTable, type Tuning } from "../pitch/tuning";
import { beatTicks } from "../time/meter";
import { soundProgram } from "./compileSound";
import {
  EVENT,
  EVENT_ROW,
  type MixProgram,
  type KitProgram,
  type PartProgram,
  type Program,
  type SongProgram,
  type Strokes,
} from "./program";

/** The table of a tuning, the same one as long as the tuning is. */
const tables = new WeakMap<Tuning, Float64Array>();
function tableOf(tuning: Tuning): Float64Array {
  const made = tables.get(tuning) ?? tuningTable(tuning);
  tables.set(tuning, made);
  return made;
}

function songProgram(project: Project): SongProgram {
  const { song } = project;
  return {
    ...songFrame(song),
    beatTicks: beatTicks(song.meter),
    tuning: song.tuning && tableOf(song.tuning),
    trim: dbToGain(project.outputTrim),
    kit: backed(project) ? kitProgram(project.backing, song) : null,
  };
}

/** Whether the backing is heard: parts that are soloed are heard alone. */
const backed = (project: Project): project is Project & { readonly backing: Kit } =>
  project.backing?.on === true && !project.parts.some((p) => p.mix.solo);

/** Level of a row, as a factor. */
const gainOf = (row: Parameter, db: number): number => (db <= row.min ? 0 : dbToGain(db));

/** Where and how hard the same strokes are struck: worked out once, whatever else of a kit changes. */
const struck = new WeakMap<readonly Hit[], Strokes>();
function strokesOf(hits: readonly Hit[]): Strokes {
  const known = struck.get(hits);
  if (known) return known;
  const made = {
    ticks: Float64Array.from(hits, (h) => h.onTick),
    strengths: Float64Array.from(hits, (h) => h.velocity / 127),
  };
  struck.set(hits, made);
  return made;
}

function kitProgram(kit: Kit, song: Song): KitProgram {
  const { rows } = KIT;
  const { values: v } = kit;
  const level = gainOf(rows.level, v.level);
  const hits = kitHits(kit, song);
  return {
    kick: { ...strokesOf(hits.kick), gain: level * gainOf(rows.kickLevel, v.kickLevel), decaySec: v.kickDecay / 1000 },
    kickHz: v.kickPitch,
    clap: { ...strokesOf(hits.clap), gain: level * gainOf(rows.clapLevel, v.clapLevel), decaySec: v.clapDecay / 1000 },
    hat: { ...strokesOf(hits.hat), gain: level * gainOf(rows.hatLevel, v.hatLevel), decaySec: v.hatDecay / 1000 },
  };
}

/** Whether what moves a patch draws from the seed. */
const movedByChance = (patch: Patch, songModules: readonly Module[]): boolean =>
  [...patch.modules, ...songModules].some((m) => m.kind === "random" || (m.kind === "steps" && m.data.steps.some((s) => s.chance < 100))); // prettier-ignore

/**
 * Gains of a part as far as nothing moves them: its level, and of the side that it is turned from less (a balance: a part has
 * two sides already).
 */
function mixProgram({ mute, solo }: PartMix, mixer: Mix | undefined, moved: boolean, parts: readonly Part[]): MixProgram {
  if (mute || (!solo && parts.some((p) => p.mix.solo))) return { left: 0, right: 0 };
  const { level, pan } = mixer?.values ?? PLAIN_MIX;
  if (moved) return { left: 1, right: 1 };
  const gain = gainOf(MIX.rows.level, level);
  return { left: gain * Math.min(1, 1 - pan / 100), right: gain * Math.min(1, 1 + pan / 100) };
} // prettier-ignore

/** How a part without a module of the mix stands. */
const PLAIN_MIX = { level: MIX.rows.level.default, pan: MIX.rows.pan.default };

function eventRows(events: readonly PlayedNote[]): Float64Array {
  const rows = new Float64Array(events.length * EVENT_ROW);
  // What starts together counts once.
  let onsets = -1;
  events.forEach((e, i) => {
    if (i === 0 || e.onTick !== events[i - 1]!.onTick) onsets++;
    const r = i * EVENT_ROW;
    rows[r + EVENT.onTick] = e.onTick;
    rows[r + EVENT.offTick] = e.offTick;
    rows[r + EVENT.key] = e.key;
    rows[r + EVENT.velocity] = e.velocity;
    rows[r + EVENT.freeA] = e.freeA;
    rows[r + EVENT.freeB] = e.freeB;
    rows[r + EVENT.onsets] = onsets % COUNTED;
    rows[r + EVENT.tied] = Number(e.tied ?? false);
    if (!e.slide) return;
    rows[r + EVENT.slideFrom] = e.slide.from;
    rows[r + EVENT.slideTicks] = e.slide.ticks;
    rows[r + EVENT.slideMs] = e.slide.ms;
    rows[r + EVENT.slideByRule] = Number(e.slide.byRule ?? false);
  });
  return rows;
}

/** What of notes a part's patch listens to, as lists that are the same ones while nothing changes. */
function heardBy(part: Part, patch: Patch, project: Project, notes: NotesHeard): (object | number)[] {
  return [...patch.modules, ...project.modules].flatMap((m): (object | number)[] => {
    if (m.kind !== "shape" && m.kind !== "steps" && m.kind !== "envelope" && m.kind !== "follower") return [];
    const { notesOf } = m.data;
    if (m.kind === "follower") {
      const shape = m.choices.level === "shaped" ? notes.levelEnvelope(notesOf) : null;
      return [notes.played(notesOf), ...(shape ? [shape] : [])];
    }
    if (m.choices.restart !== "chord" && m.choices.restart !== "rest") return [];
    const written = writtenUnder(part, project, notesOf);
    return [written.notes, written.laterTicks];
  });
}

/** Whether patches differ by nothing but how loud the part is among the others, and where. */
const sameButMix = (a: Patch, b: Patch): boolean =>
  a.routes === b.routes &&
  a.cables === b.cables &&
  a.modules.length === b.modules.length &&
  a.modules.every((m, i) => m === b.modules[i] || (m.kind === "mix" && b.modules[i]!.kind === "mix"));

interface Made {
  /** The notes that its sound listens to. */
  readonly heardNotes: readonly (object | number)[];
  readonly project: Project;
  readonly part: Part;
  /** As it was compiled: its own, or linked to another part's. */
  readonly patch: Patch;
  readonly program: PartProgram;
  readonly events: readonly PlayedNote[];
}

/**
 * Compiles projects, and remembers the last one: what did not change keeps its objects, so that only what changed is
 * worked out and sent on.
 */
export class Compiler {
  private made = new Map<string, Made>();
  private song: { project: Project; program: SongProgram } | null = null;
  private last: Program | null = null;

  /** With `onlyPart`, the other parts are left out; throws RangeError when it does not exist. */
  compile(project: Project, onlyPart?: string): Program {
    const parts = onlyPart === undefined ? project.parts : project.parts.filter((p) => p.id === onlyPart);
    if (parts.length === 0)
      throw new RangeError(`there is no part "${onlyPart ?? ""}"; parts: ${project.parts.map((p) => p.id).join(", ")}`);
    if (
      this.song?.project.song !== project.song ||
      this.song.project.outputTrim !== project.outputTrim ||
      this.song.project.backing !== project.backing ||
      backed(this.song.project) !== backed(project)
    )
      this.song = { project, program: songProgram(project) };
    const made = new Map(parts.map((p) => [p.id, this.part(p, project)]));
    this.made = made;
    const programs = [...made.values()].map((m) => m.program);
    const { last, song } = this;
    const same =
      last?.song === song.program &&
      last.parts.length === programs.length &&
      programs.every((p, i) => p === last.parts[i]);
    if (!same) this.last = { song: song.program, parts: programs };
    return this.last!;
  }

  private part(part: Part, project: Project): Made {
    const before = this.made.get(part.id);
    const pattern = patternOf(part, project.parts);
    const events = partEvents(pattern, project.song, project.seed);
    const slides =
      oneNoteRule(pattern.patch) !== null ||
      (pattern.arpeggio.on && [pattern.arpeggio.lanes.slide, pattern.arpeggio.lanes.slideMs].some((l) => l?.on));
    const seed = partSeed(project.seed, part);
    const notes = notesFor(part, project);
    const heardNotes = heardBy(part, pattern.patch, project, notes);
    const sameSound =
      before?.heardNotes.length === heardNotes.length &&
      heardNotes.every((n, i) => n === before.heardNotes[i]) &&
      (before.program.seed === seed || !movedByChance(pattern.patch, project.modules)) &&
      before.program.sound.motion.slides === slides &&
      (before.patch === pattern.patch ||
        (before.program.sound.mix === null && sameButMix(before.patch, pattern.patch))) &&
      before.project.modules === project.modules &&
      before.project.song.tempoBpm === project.song.tempoBpm &&
      before.project.song.meter === project.song.meter &&
      before.project.song.loopBars === project.song.loopBars;
    const sameEvents = before !== undefined && before.events === events;
    const sound = sameSound
      ? before.program.sound
      : soundProgram(pattern.patch, {
          song: project.song,
          songModules: project.modules,
          slides,
          seed,
          songSeed: project.seed,
          notes,
        });
    const mixer = mixOf(pattern.patch);
    const mix = mixProgram(part.mix, mixer, sound.mix !== null, project.parts);
    const sameMix = before?.program.mix.left === mix.left && before.program.mix.right === mix.right;
    if (sameSound && sameEvents && sameMix && before.project.seed === project.seed)
      return { ...before, project, part, patch: pattern.patch };
    return {
      heardNotes,
      project,
      part,
      patch: pattern.patch,
      events,
      program: {
        id: part.id,
        seed,
        sound,
        events: sameEvents ? before.program.events : eventRows(events),
        mix: sameMix ? before.program.mix : mix,
      },
    };
  }
}

/** Compiles a project once. */
export const compileProject = (project: Project, onlyPart?: string): Program =>
  new Compiler().compile(project, onlyPart);
