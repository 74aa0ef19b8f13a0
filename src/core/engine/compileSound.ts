import { MotionCompiler } from "../motion/compile";
import type { MadeRoute } from "../motion/feeds";
import { Reads } from "../motion/reads";
import { withTables } from "../motion/shared";
import { mixOf } from "../patch/edit";
import type { Address } from "../patch/address";
import { automationOf } from "../patch/automation";
import { newRoute } from "../patch/defaults";
import { addressOfRow, kindOf, modulesOf, type Module } from "../patch/kinds";
import { AMP, type Amp } from "../patch/kinds/amp";
import { FILTER, type Filter } from "../patch/kinds/filter";
import { NOISE } from "../patch/kinds/noise";
import { OSCILLATOR } from "../patch/kinds/oscillator";
import { PLAYING, type Playing } from "../patch/kinds/playing";
import { RECORDING } from "../patch/kinds/recording";
import { SUB } from "../patch/kinds/sub";
import type { Patch, Song } from "../patch/project";
import type { NoteSource } from "../patch/targets";
import { oneNoteRule, songFrame } from "../pattern/events";
import { glideTime } from "../pattern/oneNote";
import type { NotesHeard } from "../pattern/starts";
import { oscillatorProgram, oscillatorStructure, recordingProgram, subProgram, tapped } from "./compileSource";
import type { AudioModule, OneNoteProgram, SoundProgram } from "./program";

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

function oneNoteProgram(rule: Playing, song: Song): OneNoteProgram {
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

/** Ways of sound and the buses that they run on. */
interface Layout {
  readonly goesTo: (id: string) => readonly Way[];
  readonly comesFrom: (id: string) => readonly Way[];
  /** The bus on which a module works; -1 for a source that goes nowhere: it only turns or rings another one. */
  readonly busOf: (id: string) => number;
  readonly count: number;
}

/** A bus a module that takes sound; one that is fed by a single effect works on that one's bus. */
function layOut(order: readonly Module[], cables: readonly Way[]): Layout {
  const goesTo = (id: string): readonly Way[] => cables.filter((c) => c.from === id);
  const comesFrom = (id: string): readonly Way[] => cables.filter((c) => c.to === id);
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
  return { goesTo, comesFrom, busOf: (id) => buses.get(id) ?? -1, count };
}

/** What runs, in its order: modules, and cables from one bus to another. A module that is off lets sound through, or makes none. */
function chain(patch: Patch, order: readonly Module[], layout: Layout, reads: Reads, copies: number): AudioModule[] {
  const { goesTo, busOf } = layout;
  const modules: AudioModule[] = [];
  const heard = tapped(patch);
  const before = new Set<string>();
  for (const m of order) {
    const to = goesTo(m.id);
    const direct = kindOf(m).role === "source" && to.length === 1;
    const bus = busOf(direct ? to[0]!.to : m.id);
    const made = m.on || m.kind === "amp" ? audioModule(m, bus, reads, copies, heard, before) : null;
    if (made) {
      modules.push(made);
      before.add(m.id);
    }
    if (direct) continue;
    const share = m.kind === "filter" && to.some((c) => c.shared) ? reads.plain(m, FILTER.rows.onward) : null;
    for (const c of to)
      if (busOf(c.to) !== bus)
        modules.push({
          kind: "cable",
          id: `${c.from}-${c.to}`,
          bus,
          to: busOf(c.to),
          share: c.shared ? share : null,
          rest: c.rest,
        });
  }
  return modules;
}

/** The way back from behind the amp into the first filters, around what runs; nothing where it is closed for good. */
function withFeedback(
  modules: readonly AudioModule[],
  amp: Amp,
  order: readonly Module[],
  { comesFrom, busOf }: Layout,
  reads: Reads,
): readonly AudioModule[] {
  const isFilter = (id: string): boolean => order.find((o) => o.id === id)?.kind === "filter";
  const first = order.filter((m) => m.kind === "filter" && m.on && !comesFrom(m.id).some((c) => isFilter(c.from)));
  if (first.length === 0 || !reads.differs(amp, AMP.rows.feedback)) return modules;
  const amount = reads.level(amp, AMP.rows.feedback);
  const back = `${amp.id}-back`;
  const played = modules.find((m) => m.kind === "amp")!;
  return [
    { kind: "back", id: back, buses: first.map((m) => busOf(m.id)) },
    ...modules,
    { kind: "behind", id: `${amp.id}-behind`, back, bus: played.bus, gain: played.gain, amount },
  ];
}

/** What of a module has no in-between: two that differ here cannot glide into each other. */
function structureOf(m: AudioModule): readonly unknown[] {
  switch (m.kind) {
    case "oscillator":
      return oscillatorStructure(m);
    case "filter":
      return [m.type, ...[m.width, m.drive, m.apart, m.mix].map((use) => use !== null)];
    case "noise":
      return [m.colour];
    case "recording":
      return [m.tableName, m.looped];
    case "amp":
      return [m.apart !== null];
    case "cable":
      return [m.to, m.share === null, m.rest];
    case "back":
      return m.buses;
    case "behind":
      return [];
    default:
      return m satisfies never;
  }
}

/** A patch whose copies of a voice lie apart as its rule of playing says: by routes from their place. */
function withCopies(patch: Patch): Patch {
  const playing = modulesOf(patch.modules, PLAYING)[0];
  if (!playing || playing.values.copies === 1) return patch;
  const spread = (target: Address, key: "copiesDetune" | "copiesWidth"): MadeRoute[] => {
    const amountAt = addressOfRow(playing, PLAYING.rows[key]);
    const amount = playing.values[key];
    if (amount === 0 && !isMoved(patch, amountAt)) return [];
    // No route of a document has such a name.
    return [{ ...newRoute(`copies ${target}`, COPY, target, amount), amountAt }];
  };
  const routes = patch.modules.flatMap((m): MadeRoute[] => {
    if (m.kind === "oscillator") return spread(addressOfRow(m, OSCILLATOR.rows.fine), "copiesDetune");
    if (m.kind === "sub") return spread(addressOfRow(m, SUB.rows.fine), "copiesDetune");
    if (m.kind === "recording") return spread(addressOfRow(m, RECORDING.rows.fine), "copiesDetune");
    return m.kind === "amp" ? spread(addressOfRow(m, AMP.rows.pan), "copiesWidth") : [];
  });
  return { ...patch, routes: [...patch.routes, ...routes] };
}
const COPY = "copy" satisfies NoteSource;

/** Whether a document moves a value, be it that what does so is off. */
const isMoved = (patch: Patch, address: Address): boolean =>
  patch.routes.some((r) => r.target === address) || automationOf(patch, address) !== null;

/** What the song and the notes say of a patch that is compiled. */
export interface SoundContext {
  readonly song: Song;
  readonly songModules: readonly Module[];
  /** Whether notes glide. */
  readonly slides: boolean;
  /** What draws are made from, of the patch's own modulators and of the song's. */
  readonly seed: number;
  readonly songSeed: number;
  readonly notes: NotesHeard;
}

/** Compiles a patch. */
export function soundProgram(
  patch: Patch,
  { song, songModules, slides, seed, songSeed, notes }: SoundContext,
): SoundProgram {
  const amp = modulesOf(patch.modules, AMP)[0]!;
  const playing = modulesOf(patch.modules, PLAYING)[0];
  const { copies, ringing, bendRange } = playing?.values ?? PLAIN_PLAYING;
  const base = { ...song, loopTicks: songFrame(song).loopTicks };
  const motion = new MotionCompiler(
    withCopies(patch),
    songModules,
    base,
    seed,
    songSeed,
    amp.data.envelope,
    slides,
    notes,
  );
  const reads = new Reads(motion, playing);
  const rule = oneNoteRule(patch);
  const glide = rule && motion.moved(rule, PLAYING.times.glide, false);
  const order = inOrder(patch);
  const cables = withRests(patch, order, amp.id, (m) => reads.differs(m, FILTER.rows.onward));
  const layout = layOut(order, cables);
  const modules = withFeedback(chain(patch, order, layout, reads, copies), amp, order, layout, reads);
  const mixer = mixOf(patch);
  const mix = mixer ? reads.mix(mixer) : null;
  const drawn = [...patch.modules, ...songModules].filter((m) => kindOf(m).role === "modulator").map((m) => m.id);
  return {
    motion: withTables(motion.finish(reads.uses, drawn), songFrame(song)),
    modules,
    buses: layout.count,
    copies,
    ringing,
    quietest: playing?.choices.makesWay === "quietest",
    bendRange,
    oneNote: rule && oneNoteProgram(rule, song),
    glide,
    gain: modules.find((m) => m.kind === "amp")!.gain,
    mix,
    structure: modules.map((m) => [m.kind, m.id, m.kind === "back" ? null : m.bus, ...structureOf(m)].join()).join(";"),
  };
}
