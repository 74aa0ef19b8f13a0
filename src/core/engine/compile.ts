import { dbToGain } from "../dsp/portableMath";
import { COUNTED } from "../motion/lanes";
import { MotionCompiler } from "../motion/compile";
import { Reads } from "../motion/reads";
import { withCycles } from "../motion/shared";
import { mixOf } from "../patch/edit";
import { levelEnvelope } from "../patch/layers";
import { kindOf, modulesOf, type Module } from "../patch/kinds";
import { AMP } from "../patch/kinds/amp";
import { FILTER, type Filter } from "../patch/kinds/filter";
import { MIX, type Mix } from "../patch/kinds/mix";
import { NOISE } from "../patch/kinds/noise";
import { PLAYING } from "../patch/kinds/playing";
import type { Part, PartMix, Patch, Project, Song } from "../patch/project";
import { oneNoteRule, partEvents, partSeed, patternOf, songFrame } from "../pattern/events";
import { notesFor, type NotesHeard } from "../pattern/starts";
import type { PlayedNote } from "../pattern/noteEvent";
import { glideTime } from "../pattern/oneNote";
import { tuningTable, type Tuning } from "../pitch/tuning";
import { beatTicks } from "../time/meter";
import { oscillatorProgram, oscillatorStructure, recordingProgram, subProgram, tapped } from "./compileSource";
import {
  EVENT,
  EVENT_ROW,
  type AudioModule,
  type MixProgram,
  type OneNoteProgram,
  type PartProgram,
  type Program,
  type SongProgram,
  type SoundProgram,
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
  };
}

/** Modules that make or change sound on the way to an output, each before those it goes to. */
function inOrder(patch: Patch): Module[] {
  const byId = new Map(patch.modules.map((m) => [m.id, m]));
  const order: Module[] = [];
  const seen = new Set<string>();
  const visit = (m: Module): void => {
    if (seen.has(m.id)) return;
    seen.add(m.id);
    for (const c of patch.cables) if (c.to === m.id) visit(byId.get(c.from)!);
    // What turns or rings an oscillator runs before it; of two that turn each other the first one does.
    if (m.kind === "oscillator")
      for (const id of [m.data.pmFrom, m.data.ringFrom]) {
        const other = id === null ? undefined : byId.get(id);
        if (other && kindOf(other).role === "source") visit(other);
      }
    order.push(m);
  };
  modulesOf(patch.modules, AMP).forEach(visit);
  return order;
}

/** A cable as sound takes it: a filter's share of what goes on to another one, or what that share leaves. */
interface Way {
  readonly from: string;
  readonly to: string;
  readonly shared: boolean;
  readonly rest: boolean;
}

/**
 * The cables between modules that sound. A filter that sends only a share on to another filter sends the rest to the output,
 * unless it has a cable there anyway.
 */
function withRests(patch: Patch, order: readonly Module[], output: string, shares: (m: Filter) => boolean): Way[] {
  const byId = new Map(order.map((m) => [m.id, m]));
  return patch.cables.flatMap((c): Way[] => {
    const [from, to] = [byId.get(c.from), byId.get(c.to)];
    if (!from || !to) return [];
    const shared = from.kind === "filter" && from.on && to.kind === "filter" && shares(from);
    const way = { from: c.from, to: c.to, shared, rest: false };
    const past = patch.cables.some((d) => d.from === c.from && d.to === output);
    return shared && !past ? [way, { from: c.from, to: output, shared, rest: true }] : [way];
  });
}

/** The runtime's view of a module, with the uses that it reads. */
function audioModule(
  m: Module,
  bus: number,
  reads: Reads,
  copies: number,
  heard: ReadonlySet<string>,
  before: ReadonlySet<string>,
): AudioModule | null {
  switch (m.kind) {
    case "oscillator":
      return oscillatorProgram(m, bus, reads, heard.has(m.id), before);
    case "noise":
      return {
        kind: "noise",
        id: m.id,
        colour: m.choices.colour,
        alike: m.choices.start === "alike",
        level: reads.level(m, NOISE.rows.level),
        pan: reads.plain(m, NOISE.rows.pan),
        width: reads.plain(m, NOISE.rows.width),
        rate: reads.hz(m, NOISE.rows.rate),
        tapScale: heard.has(m.id) ? 1 : null,
        bus,
      };
    case "recording":
      return recordingProgram(m, bus, reads, heard.has(m.id));
    case "sub":
      return subProgram(m, bus, reads, heard.has(m.id));
    case "filter":
      return {
        kind: "filter",
        id: m.id,
        type: m.choices.type,
        cutoff: reads.hz(m, FILTER.rows.cutoff, FILTER.rows.keyFollow),
        resonance: reads.plain(m, FILTER.rows.resonance),
        width: reads.optional(m, FILTER.rows.width),
        vowel: m.choices.type === "vowel" ? reads.plain(m, FILTER.rows.vowel) : null,
        drive: reads.optional(m, FILTER.rows.drive),
        apart: reads.optional(m, FILTER.rows.apart),
        mix: reads.optional(m, FILTER.rows.mix),
        bus,
      };
    case "amp":
      return {
        kind: "amp",
        id: m.id,
        gain: reads.gain(m, copies),
        pan: reads.plain(m, AMP.rows.pan),
        apart: reads.optional(m, AMP.rows.apart),
        bus,
      };
    default:
      return null;
  }
}

function oneNoteProgram(patch: Patch, song: Song): OneNoteProgram | null {
  const rule = oneNoteRule(patch);
  if (!rule) return null;
  const { priority, overlap, glides, glideTime: timeOf } = rule.choices;
  const { ticks, ms } = glideTime(rule, song);
  return { priority, tied: overlap === "tied", always: glides === "always", glideTicks: ticks, glideMs: ms, perOctave: timeOf === "octave" }; // prettier-ignore
}

/** How a patch without a rule of playing plays. */
const PLAIN_PLAYING = {
  copies: PLAYING.rows.copies.default,
  ringing: PLAYING.rows.ringing.default,
  bendRange: PLAYING.rows.bendRange.default,
};

/** Whether what moves a patch draws from the seed. */
const movedByChance = (patch: Patch, songModules: readonly Module[]): boolean =>
  [...patch.modules, ...songModules].some((m) => m.kind === "random" || (m.kind === "steps" && m.data.steps.some((s) => s.chance < 100))); // prettier-ignore

/** Compiles a patch. A module that is off lets sound through, or makes none. `slides` tells that notes glide. */
function soundProgram(
  patch: Patch,
  songModules: readonly Module[],
  song: Song,
  slides: boolean,
  seed: number,
  songSeed: number,
  notes: NotesHeard,
): SoundProgram {
  const amp = modulesOf(patch.modules, AMP)[0]!;
  const { copies, ringing, bendRange } = modulesOf(patch.modules, PLAYING)[0]?.values ?? PLAIN_PLAYING;
  const motion = new MotionCompiler(
    patch,
    songModules,
    { ...song, loopTicks: songFrame(song).loopTicks },
    seed,
    songSeed,
    amp.data.envelope,
    slides,
    notes,
  );
  const reads = new Reads(motion);
  const order = inOrder(patch);
  const cables = withRests(patch, order, amp.id, (m) => reads.differs(m, FILTER.rows.onward));
  const goesTo = (id: string) => cables.filter((c) => c.from === id);
  const comesFrom = (id: string) => cables.filter((c) => c.to === id);
  // A bus a module that takes sound; one that is fed by a single effect works on that one's bus.
  const buses = new Map<string, number>();
  let count = 0;
  for (const m of order) {
    const [only, ...others] = comesFrom(m.id);
    const feeder = others.length === 0 && only ? order.find((o) => o.id === only.from)! : null;
    const shares = feeder && kindOf(feeder).role === "effect" && goesTo(feeder.id).length === 1;
    const source = kindOf(m).role === "source";
    if (shares) buses.set(m.id, buses.get(feeder.id)!);
    else if (!source || goesTo(m.id).length > 1) buses.set(m.id, count++);
  }
  const modules: AudioModule[] = [];
  const heard = tapped(patch);
  const before = new Set<string>();
  for (const m of order) {
    const to = goesTo(m.id);
    const direct = kindOf(m).role === "source" && to.length === 1;
    const bus = buses.get(direct ? to[0]!.to : m.id)!;
    const made = m.on || m.kind === "amp" ? audioModule(m, bus, reads, copies, heard, before) : null;
    if (made) {
      modules.push(made);
      before.add(m.id);
    }
    if (direct) continue;
    const share = m.kind === "filter" && to.some((c) => c.shared) ? reads.plain(m, FILTER.rows.onward) : null;
    for (const c of to)
      if (buses.get(c.to) !== bus)
        modules.push({
          kind: "cable",
          id: `${c.from}-${c.to}`,
          bus,
          to: buses.get(c.to)!,
          share: c.shared ? share : null,
          rest: c.rest,
        });
  }
  const first = order.filter((m) => m.kind === "filter" && m.on && !comesFrom(m.id).some((c) => order.find((o) => o.id === c.from)?.kind === "filter")); // prettier-ignore
  if (first.length > 0 && reads.differs(amp, AMP.rows.feedback)) {
    const amount = reads.level(amp, AMP.rows.feedback);
    const back = `${amp.id}-back`;
    const played = modules.find((m) => m.kind === "amp")!;
    modules.unshift({ kind: "back", id: back, buses: first.map((m) => buses.get(m.id)!) });
    modules.push({ kind: "behind", id: `${amp.id}-behind`, back, bus: played.bus, gain: played.gain, amount });
  }
  const drawn = [...patch.modules, ...songModules].filter((m) => kindOf(m).role === "modulator").map((m) => m.id);
  const gain = modules.find((m) => m.kind === "amp")!.gain;
  const mixer = mixOf(patch);
  const mix = mixer ? reads.mix(mixer) : null;
  return {
    motion: withCycles(motion.finish(reads.uses, drawn), songFrame(song)),
    modules,
    buses: count,
    copies,
    ringing,
    bendRange,
    oneNote: oneNoteProgram(patch, song),
    gain,
    mix,
    structure: modules
      .map((m) =>
        [
          m.kind,
          m.id,
          m.kind === "back" ? null : m.bus,
          ...(m.kind === "oscillator"
            ? oscillatorStructure(m)
            : m.kind === "filter"
              ? [m.type, ...[m.width, m.drive, m.apart, m.mix].map((use) => use !== null)]
              : m.kind === "noise"
                ? [m.colour]
                : m.kind === "recording"
                  ? [m.tableName, m.looped]
                  : m.kind === "amp"
                    ? [m.apart !== null]
                    : m.kind === "cable"
                      ? [m.to, m.share === null, m.rest]
                      : m.kind === "back"
                        ? m.buses
                        : []),
        ].join(),
      )
      .join(";"),
  };
}

/**
 * Gains of a part as far as nothing moves them: its level, and of the side that it is turned from less (a balance: a part has
 * two sides already).
 */
function mixProgram({ mute, solo }: PartMix, mixer: Mix | undefined, moved: boolean, parts: readonly Part[]): MixProgram {
  if (mute || (!solo && parts.some((p) => p.mix.solo))) return { left: 0, right: 0 };
  const { level, pan } = mixer?.values ?? PLAIN_MIX;
  if (moved) return { left: 1, right: 1 };
  const gain = level <= MIX.rows.level.min ? 0 : dbToGain(level);
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
    rows[r + EVENT.tied] = e.tied ? 1 : 0;
    if (!e.slide) return;
    rows[r + EVENT.slideFrom] = e.slide.from;
    rows[r + EVENT.slideTicks] = e.slide.ticks;
    rows[r + EVENT.slideMs] = e.slide.ms;
  });
  return rows;
}

/** What of notes a part's patch listens to, as lists that are the same ones while nothing changes. */
function heardBy(part: Part, patch: Patch, project: Project): (object | number)[] {
  return [...patch.modules, ...project.modules].flatMap((m): (object | number)[] => {
    if (m.kind !== "shape" && m.kind !== "steps" && m.kind !== "follower") return [];
    const pattern = patternOf(project.parts.find((p) => p.id === m.data.notesOf) ?? part, project.parts);
    if (m.kind === "follower") {
      const shape = m.choices.level === "shaped" ? levelEnvelope(pattern.patch) : undefined;
      return [partEvents(pattern, project.song, project.seed), ...(shape ? [shape] : [])];
    }
    const listens = m.choices.restart === "chord" || m.choices.restart === "rest";
    return listens ? [pattern.notes, pattern.shift?.ticks ?? 0] : [];
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
    if (this.song?.project.song !== project.song || this.song.project.outputTrim !== project.outputTrim)
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
    const heardNotes = heardBy(part, pattern.patch, project);
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
      : soundProgram(pattern.patch, project.modules, project.song, slides, seed, project.seed, notesFor(part, project));
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
