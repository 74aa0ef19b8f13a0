import * as z from "./zod";
import { ADDRESS, ID, type Address } from "./address";
import { KINDS, kindOf, type Module } from "./kinds";
import type { KindShape, TimeRow } from "./kinds/kind";
import { KIT, type Kit } from "./kinds/kit";
import { MIX } from "./kinds/mix";
import { pointsSchema } from "./kinds/shape";
import { ARPEGGIO_LATER, PART_LATER, PROJECT_LATER } from "./defaults";
import { LANES, LANE_DIRECTIONS, MAX_KEPT, MAX_LANE_STEPS, type LaneKind } from "./lanes";
import { AMPLITUDE_REACH, NOTE_SOURCES, TAP, targetAt } from "./targets";
import { ARP_ORDERS, ARP_RESTARTS, FORMAT, MAX_MODULATORS, MAX_NOTES, MAX_PARTS, MAX_ROUTES, VERSION, type Note, type Part, type Patch, type Project } from "./project"; // prettier-ignore
import { canAutomate } from "./automation";
import { hashesIn } from "./binaries";
import type { Parameter } from "./row";
import { ARPEGGIO_ROWS, NOTE_ROWS, PART_ROWS, SONG_ROWS } from "./rows";
import { CHORD_KINDS } from "../pitch/chord";
import { MAX_INVERSION, MAX_STACK } from "../pitch/noteChord";
import { SCALES } from "../pitch/note";
import { MAX_TICK, MAX_NOTE_VALUE } from "../time/noteValue";
import { HZ_RANGE } from "../time/span";

const numberOf = (p: Parameter) => {
  const number: z.ZodMiniNumber<number> = p.whole ? z.whole(p.min, p.max) : z.within(p.min, p.max);
  return number.check(z.describe(`${p.label}${p.unit ? `, in ${p.unit}` : ""}`));
};

const id = z.string().check(z.regex(ID, "an id is made of letters, digits, - and _"));
const MAX_ID = 64;
const partId = z.text(1, MAX_ID);
const name = z.nameText();

const noteValue = z.object({
  num: z.whole(1, MAX_NOTE_VALUE.num),
  den: z.whole(1, MAX_NOTE_VALUE.den),
});
const note = z.extend(noteValue, { unit: z.literal("note") });
const bars = z.object({ unit: z.literal("bars"), bars: z.whole(1, 32) });
const hz = z.object({ unit: z.literal("hz"), hz: z.within(HZ_RANGE.min, HZ_RANGE.max) });

function spanOf(t: TimeRow) {
  const ms = z.object({ unit: z.literal("ms"), ms: z.within(t.min, t.max) });
  const span = t.hz
    ? z.discriminatedUnion("unit", [ms, hz, note, bars])
    : z.discriminatedUnion("unit", [ms, note, bars]);
  return span.check(z.describe(t.label));
}

/** An object whose missing fields take their defaults, as does the whole of it. */
function defaulted<T>(rows: Readonly<Record<string, T>>, field: (row: T) => z.Schema, fallback: (row: T) => unknown) {
  const entries = Object.entries(rows);
  const shape = Object.fromEntries(entries.map(([key, r]) => [key, z._default(field(r), fallback(r) as never)]));
  const whole = Object.fromEntries(entries.map(([key, r]) => [key, fallback(r)]));
  return z._default(z.object(shape), whole);
}

/** The schema of a kind's modules, from its rows. */
const moduleOf = (k: KindShape) => {
  const data = z.object(k.data);
  return z.object({
    id,
    kind: z.literal(k.kind),
    name,
    on: z._default(z.boolean(), true),
    values: defaulted(k.rows, numberOf, (r) => r.default),
    choices: defaulted(
      k.choices,
      (c) => z.enum(c.options).check(z.describe(c.label)),
      (c) => c.default,
    ),
    times: defaulted(k.times, spanOf, (t) => t.default),
    // A file may leave it out where every field has a default.
    data: data.safeParse({}).success ? z.prefault(data, {}) : data,
  });
};

const module = z.discriminatedUnion(
  "kind",
  KINDS.map(moduleOf) as unknown as [ReturnType<typeof moduleOf>, ...ReturnType<typeof moduleOf>[]],
) as unknown as z.Schema<Module>;

const route = z.object({
  id,
  source: id,
  target: z.string().check(z.regex(ADDRESS, "an address is owner.parameter")) as unknown as z.Schema<Address>,
  amount: z.number(),
  amplitude: z._default(z.boolean(), false),
  around: z._default(z.boolean(), false),
  reversed: z._default(z.boolean(), false),
  curve: z._default(z.nullable(pointsSchema), null),
  scaledBy: z._default(z.nullable(id), null),
  atStart: z._default(z.boolean(), false),
  tap: z._default(numberOf(TAP), 0),
  on: z._default(z.boolean(), true),
});

/** 48, and the one for the mix that older parts were given. */
const MAX_MODULES = 49;
const cables = z.listOf(z.object({ from: id, to: id }), 0, 64);
const patchOf = <M, R>(m: z.Schema<M>, r: z.Schema<R>) =>
  z.object({ modules: z.listOf(m, 0, MAX_MODULES), cables, routes: z.listOf(r, 0, MAX_ROUTES) });

const uniqueIds = (list: readonly { id: string }[]) => new Set(list.map((e) => e.id)).size === list.length;

export type Problem = (message: string, path: (string | number)[]) => void;

/** What the fields cannot say one by one: which module may be cabled to which, what a route may move, and how far. */
export function checkPatch(p: Patch, songModules: readonly Module[], problem: Problem): void {
  const modules = new Map(p.modules.map((m) => [m.id, m]));
  const reserved = NOTE_SOURCES.map((s): string => s.id);
  if (!uniqueIds([...p.modules, ...songModules, ...p.routes]))
    problem("two modules or routes have the same id", ["modules"]);
  p.modules.forEach((m, i) => {
    if (reserved.includes(m.id)) problem(`"${m.id}" is the name of a source of notes`, ["modules", i, "id"]);
    if (m.kind === "amp" && modules.get(m.data.envelope)?.kind !== "envelope")
      problem(`there is no envelope "${m.data.envelope}"`, ["modules", i, "data", "envelope"]);
  });
  for (const k of KINDS) {
    const count = p.modules.filter((m) => m.kind === k.kind).length;
    if (count < k.least || count > k.most)
      problem(`${k.least} to ${k.most} of the kind "${k.kind}" are needed, there are ${count}`, ["modules"]);
  }
  if (p.modules.filter((m) => kindOf(m).role === "modulator").length > MAX_MODULATORS)
    problem(`a part holds ${MAX_MODULATORS} modulators`, ["modules"]);
  checkCables(p, modules, problem);
  const automated = new Set<Address>();
  p.modules.forEach((m, i) => {
    if (m.kind !== "automation") return;
    const { target } = m.data;
    const at = ["modules", i, "data", "target"];
    if (!canAutomate(p, target)) problem(`there is no value to automate at "${target}"`, at);
    if (automated.has(target)) problem(`"${target}" is automated twice`, at);
    automated.add(target);
  });
  const sources = new Set([
    ...reserved,
    ...[...p.modules, ...songModules].filter((m) => kindOf(m).role === "modulator").map((m) => m.id),
  ]);
  p.routes.forEach((r, i) => {
    if (!sources.has(r.source)) problem(`the source "${r.source}" does not exist`, ["routes", i, "source"]);
    if (r.scaledBy !== null && !sources.has(r.scaledBy))
      problem(`the source "${r.scaledBy}" does not exist`, ["routes", i, "scaledBy"]);
    const target = targetAt(p, songModules, r.target);
    if (!target) return problem(`there is nothing to move at "${r.target}"`, ["routes", i, "target"]);
    if (r.amplitude && target.move.unit !== "dB")
      problem("only levels are moved in percent of amplitude", ["routes", i, "amplitude"]);
    const reach = r.amplitude ? AMPLITUDE_REACH : target.move.reach;
    if (Math.abs(r.amount) > reach)
      problem(`an amount on ${r.target} must be within ±${reach}`, ["routes", i, "amount"]);
  });
}

/** What a song has beside its parts: ids of patches differ from theirs. */
export const modulesOfSong = ({ modules, backing }: Pick<Project, "modules" | "backing">): readonly Module[] =>
  backing ? [...modules, backing] : modules;

/** A part follows another one that is there and plays a pattern of its own. */
export function checkFollows(parts: readonly Pick<Part, "id" | "follows">[], problem: Problem): void {
  parts.forEach((p, i) => {
    if (!p.follows) return;
    const { part: id } = p.follows;
    const other = parts.find((q) => q.id === id);
    if (id === p.id || !other) problem(`there is no other part "${id}" to follow`, [i, "follows", "part"]);
    else if (other.follows) problem(`"${id}" follows another part itself`, [i, "follows", "part"]);
  });
}

/** What modules refer to is named by the document. */
export function checkBinaries(p: Parameters<typeof hashesIn>[0] & Pick<Project, "binaries">, problem: Problem): void {
  const named = new Set(p.binaries.map((b) => b.hash));
  const lacking = [...hashesIn(p)].find((h) => !named.has(h));
  if (lacking !== undefined)
    problem(`a source plays the recording ${lacking.slice(0, 8)}, which is not there`, ["binaries"]);
}

function checkCables(p: Patch, modules: ReadonlyMap<string, Module>, problem: Problem): void {
  const role = (moduleId: string) => {
    const m = modules.get(moduleId);
    return m ? kindOf(m).role : null;
  };
  p.cables.forEach((c, i) => {
    const from = role(c.from);
    const to = role(c.to);
    if (from !== "source" && from !== "effect") problem(`"${c.from}" sends no sound`, ["cables", i, "from"]);
    if (to !== "effect" && to !== "output") problem(`"${c.to}" takes no sound`, ["cables", i, "to"]);
    if (p.cables.findIndex((d) => d.from === c.from && d.to === c.to) < i)
      problem(`"${c.from}" goes to "${c.to}" twice`, ["cables", i]);
  });
  const goesTo = (id: string): string[] => p.cables.filter((c) => c.from === id).map((c) => c.to);
  p.modules.forEach((m, i) => {
    const reached = new Set(goesTo(m.id));
    for (const id of reached) for (const next of goesTo(id)) reached.add(next);
    if (reached.has(m.id)) problem(`the cables of "${m.id}" run in a circle`, ["modules", i]);
  });
}

/** A note's numbers, all whole: lowest and highest. */
const NOTE_RANGES = {
  startTick: [0, MAX_TICK],
  lengthTicks: [1, MAX_TICK],
  key: [0, 127],
  velocity: [NOTE_ROWS.velocity.min, NOTE_ROWS.velocity.max],
} as const;
const wholeWithin = ([low, high]: readonly [number, number]) => z.whole(low, high);

const noteEvent = z.object({
  id: partId,
  startTick: wholeWithin(NOTE_RANGES.startTick),
  lengthTicks: wholeWithin(NOTE_RANGES.lengthTicks),
  key: wholeWithin(NOTE_RANGES.key),
  velocity: wholeWithin(NOTE_RANGES.velocity),
  chance: z.optional(numberOf(NOTE_ROWS.chance)),
});

const NOTE_NUMBERS = Object.entries(NOTE_RANGES) as [keyof typeof NOTE_RANGES, readonly [number, number]][];

/** What `noteEvent` accepts, without the cost of a schema: a hand may drag thousands of notes. */
export const isNote = (n: Note): boolean =>
  typeof n.id === "string" &&
  n.id.length > 0 &&
  n.id.length <= MAX_ID &&
  (n.chance === undefined || (Number.isInteger(n.chance) && n.chance >= 0 && n.chance <= NOTE_ROWS.chance.max)) &&
  NOTE_NUMBERS.every(([key, [low, high]]) => Number.isInteger(n[key]) && n[key] >= low && n[key] <= high);

const laneOf = (lane: LaneKind) =>
  z
    .object({
      on: z.boolean(),
      direction: z.enum(LANE_DIRECTIONS),
      values: z.listOf(numberOf(lane.row), 1, MAX_LANE_STEPS),
      ranges: z.listOf(z.within(0, lane.row.max - lane.row.min), 1, MAX_LANE_STEPS),
      freshBars: z.whole(0, 32),
      take: z.whole(0, 0xffff),
      kept: z._default(
        z.listOf(z.object({ name, values: z.listOf(numberOf(lane.row), 1, MAX_LANE_STEPS) }), 0, MAX_KEPT),
        [],
      ),
      locked: z._default(z.nullable(z.whole(0, MAX_KEPT - 1)), null),
    })
    .check(z.refine((l) => l.locked === null || l.locked < l.kept.length, "a lane is locked to a take that it has"))
    .check(z.refine((l) => l.values.length === l.ranges.length, "a lane has as many ranges as values"));
const lanes = z.object(
  Object.fromEntries(Object.entries(LANES).map(([lane, kind]) => [lane, z.optional(laneOf(kind))])),
);

const arpeggio = z.object({
  on: z.boolean(),
  order: z.enum(ARP_ORDERS),
  octaves: numberOf(ARPEGGIO_ROWS.octaves),
  rate: noteValue,
  gate: numberOf(ARPEGGIO_ROWS.gate),
  swingFrom: z.enum(["song", "own"]),
  swing: numberOf(ARPEGGIO_ROWS.swing),
  length: numberOf(ARPEGGIO_ROWS.length),
  repeatEnds: z._default(z.boolean(), ARPEGGIO_LATER.repeatEnds),
  restart: z._default(z.enum(ARP_RESTARTS), ARPEGGIO_LATER.restart),
  latch: z._default(z.boolean(), ARPEGGIO_LATER.latch),
  transposeIn: z._default(z.enum(["semitones", "degrees"]), ARPEGGIO_LATER.transposeIn),
  lanes: z._default(lanes, ARPEGGIO_LATER.lanes),
});

const inversion = z.whole(-MAX_INVERSION, MAX_INVERSION);
const noteChord = z.nullable(
  z.discriminatedUnion("from", [
    z.object({ from: z.literal("kind"), symbol: z.enum(CHORD_KINDS.map((k) => k.symbol)), inversion }),
    z.object({ from: z.literal("key"), notes: z.whole(2, MAX_STACK), inversion }),
  ]),
);

const mix = z.object({ mute: z.boolean(), solo: z.boolean() });
/** Parts of older files said here what their module of the kind "mix" says now. */
const mixOfFile = z.extend(mix, {
  level: z.optional(numberOf(MIX.rows.level)),
  pan: z.optional(numberOf(MIX.rows.pan)),
});
const follows = z.nullable(
  z.object({
    part: partId,
    semitones: numberOf(PART_ROWS.semitones),
    later: z.nullable(noteValue),
    linked: z._default(z.boolean(), false),
  }),
);

const part = z.object({
  id: partId,
  name,
  mix: z._default(mixOfFile, PART_LATER.mix),
  follows: z._default(follows, PART_LATER.follows),
  noteChord: z._default(noteChord, PART_LATER.noteChord),
  notes: z.listOf(noteEvent, 0, MAX_NOTES).check(z.refine(uniqueIds, "two notes have the same id")),
  arpeggio,
  patch: patchOf(module, route),
});

const songModules = <T>(m: z.Schema<T>) => z.listOf(m, 0, MAX_MODULATORS);
const backing = z.nullable(moduleOf(KIT) as unknown as z.Schema<Kit>);
const partList = <T>(p: z.Schema<T>) =>
  z
    .listOf(p, 1, MAX_PARTS)
    .check(z.refine((list) => uniqueIds(list as { id: string }[]), "two parts have the same id"));

const binary = z.object({
  hash: z.string().check(z.regex(/^[0-9a-f]{64}$/, "a SHA-256 has 64 hexadecimal digits")),
  name,
  bytes: z.whole(1, 64_000_000),
});

/** Bytes of all recordings of a project together: two minutes of stereo at 48 kHz and 24 bits, and some. */
const MOST_BINARY_BYTES = 40_000_000;
const binaryList = z
  .listOf(binary, 0, 64)
  .check(
    z.refine(
      (list) => list.reduce((sum, b) => sum + b.bytes, 0) <= MOST_BINARY_BYTES,
      `a project holds ${MOST_BINARY_BYTES / 1e6} MB of recordings`,
    ),
  )
  .check(z.refine((list) => new Set(list.map((b) => b.hash)).size === list.length, "a binary is named twice"));

const midiKey = z.whole(0, 127);
const tuning = z.object({
  name,
  cents: z.listOf(z.within(-24_000, 24_000), 1, 128),
  firstKey: midiKey,
  lastKey: midiKey,
  middleKey: midiKey,
  referenceKey: midiKey,
  referenceHz: z.within(1, 20_000),
  octaveDegree: z.whole(0, 128),
  mapping: z.listOf(z.nullable(z.whole(0, 999)), 0, 128),
});

const song = z.object({
  tempoBpm: numberOf(SONG_ROWS.tempo),
  meter: z.object({
    beats: z.whole(1, 32),
    unit: z.union([z.literal(2), z.literal(4), z.literal(8), z.literal(16)]),
  }),
  loopBars: numberOf(SONG_ROWS.loopBars),
  swing: z.object({ percent: numberOf(SONG_ROWS.swing), grid: z.union([z.literal(8), z.literal(16)]) }),
  key: z.object({ tonic: z.whole(0, 11), scale: z.enum(SCALES) }),
  tuning: z._default(z.nullable(tuning), null),
});

/** The current version of the document. Unknown fields are dropped; missing values take the defaults of their rows. */
export const ProjectSchema = z
  .object({
    format: z.literal(FORMAT),
    version: z.literal(VERSION),
    id: partId,
    name,
    song,
    modules: z._default(songModules(module), []),
    backing: z._default(backing, PROJECT_LATER.backing),
    parts: partList(part),
    binaries: z._default(binaryList, []),
    outputTrim: numberOf(SONG_ROWS.trim),
    seed: z.whole(0, 0xffffffff),
  })
  .check(
    z.superRefine((p, ctx) => {
      p.modules.forEach((m, i) => {
        if (kindOf(m).role !== "modulator")
          ctx.addIssue({ code: "custom", message: "a song holds modulators only", path: ["modules", i, "kind"] });
      });
      checkBinaries(p, (message, path) => ctx.addIssue({ code: "custom", message, path }));
      checkFollows(p.parts, (message, path) => ctx.addIssue({ code: "custom", message, path: ["parts", ...path] }));
      const songs = modulesOfSong(p);
      p.parts.forEach((q, i) =>
        checkPatch(q.patch, songs, (message, path) =>
          ctx.addIssue({ code: "custom", message, path: ["parts", i, "patch", ...path] }),
        ),
      );
    }),
  ) as unknown as z.Schema<Project>;

/** The schemas of the document's parts, for checks of what an edit has changed. */
export const PIECES = {
  name,
  partId,
  song,
  module,
  route,
  note: noteEvent,
  arpeggio,
  noteChord,
  mix,
  follows,
  backing,
  /** A patch but for what its modules and routes hold. */
  patchFrame: patchOf(z.unknown(), z.unknown()),
  /** The lists of a document but for what they hold. */
  frame: z.object({ modules: songModules(z.unknown()), parts: partList(z.unknown()), binaries: binaryList }),
  trim: numberOf(SONG_ROWS.trim),
} as const;
