import fc from "fast-check";
import type { CurvePoint } from "@/core/curve/curve";
import { KIT, type Kit } from "@/core/patch/kinds/kit";
import { withBinaries } from "@/core/patch/binaries";
import { newProject } from "@/core/patch/defaults";
import type { Module } from "@/core/patch/kinds";
import { AMP } from "@/core/patch/kinds/amp";
import { ENVELOPE } from "@/core/patch/kinds/envelope";
import { FILTER } from "@/core/patch/kinds/filter";
import { FOLLOWER } from "@/core/patch/kinds/follower";
import { GATE } from "@/core/patch/kinds/gate";
import { NOISE } from "@/core/patch/kinds/noise";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import { PLAYING } from "@/core/patch/kinds/playing";
import { SUB } from "@/core/patch/kinds/sub";
import { RECORDING } from "@/core/patch/kinds/recording";
import { MIX } from "@/core/patch/kinds/mix";
import { AUTOMATION } from "@/core/patch/kinds/automation";
import { MACRO } from "@/core/patch/kinds/macro";
import { RANDOM } from "@/core/patch/kinds/random";
import { STEPS, STEP_FORMS } from "@/core/patch/kinds/steps";
import { SHAPE } from "@/core/patch/kinds/shape";
import type { KindShape, TimeRow } from "@/core/patch/kinds/kind";
import {
  ARP_ORDERS,
  ARP_RESTARTS,
  type Arpeggio,
  type Note,
  type Part,
  type Patch,
  type Project,
  type Route,
} from "@/core/patch/project";
import { LANES, LANE_DIRECTIONS, LANE_IDS, type StepLane } from "@/core/patch/lanes";
import type { Parameter } from "@/core/patch/row";
import { AMPLITUDE_REACH, sourcesOf, targetAt, targetsOf } from "@/core/patch/targets";
import { SCALES } from "@/core/pitch/note";
import type { NoteChord } from "@/core/pitch/noteChord";
import { barTicks } from "@/core/time/meter";
import { NOTE_VALUES } from "@/core/time/noteValue";
import type { Span } from "@/core/time/span";
import { evenly, evenlyByOctaves } from "./evenly";
import { BINARY, HASH } from "./recordings";

/** Random valid projects for properties: every kind, every field of a route, one to three parts; short loops. */

/** Stacks of copies and unison cost as much as they are high, and a few show all that many do. */
const MOST_STACKED = 3;
const STACKED: ReadonlySet<Parameter> = new Set([OSCILLATOR.rows.unison, PLAYING.rows.copies]);

/** Mostly loud: of levels drawn from the whole of their range, several in a row leave nothing to hear. */
const levelOf = (p: Parameter): fc.Arbitrary<number> => {
  const loud = evenly(Math.max(p.min, -12), p.max);
  return fc.oneof({ weight: 15, arbitrary: loud }, { weight: 1, arbitrary: evenly(p.min, p.max) });
};

function valueOf(p: Parameter): fc.Arbitrary<number> {
  if (p.whole) return fc.integer({ min: p.min, max: STACKED.has(p) ? MOST_STACKED : p.max });
  if (p.unit === "dB") return levelOf(p);
  return p.taper === "log" ? evenlyByOctaves(p.min, p.max) : evenly(p.min, p.max);
}

const noteSpan = fc.constantFrom(...NOTE_VALUES).map((v): Span => ({ unit: "note", ...v }));
/** Mostly short, so that a note of a short loop is heard; often none where that is possible. */
const timeOf = (t: TimeRow): fc.Arbitrary<Span> => {
  const spanOf = (ms: number): Span => ({ unit: "ms", ms });
  const ms = evenlyByOctaves(Math.max(t.min, 0.1), Math.min(t.max, 800)).map(spanOf);
  const least = fc.constant(spanOf(t.min));
  const hz = evenlyByOctaves(0.01, 200).map((v): Span => ({ unit: "hz", hz: v }));
  return t.hz ? fc.oneof(ms, hz, noteSpan) : fc.oneof(ms, ms, least, noteSpan);
};

const point = fc.record({ x: evenly(0, 1), y: evenly(0, 1), tension: evenly(-100, 100) });

export const arbitraryPoints: fc.Arbitrary<CurvePoint[]> = fc
  .tuple(fc.array(point, { maxLength: 8 }), point, point)
  .map(([inner, first, last]) => [{ ...first, x: 0 }, ...inner.sort((a, b) => a.x - b.x), { ...last, x: 1 }]);

const recordOf = <T, U>(rows: Readonly<Record<string, T>>, draw: (row: T) => fc.Arbitrary<U>) =>
  fc.record(Object.fromEntries(Object.entries(rows).map(([k, r]) => [k, draw(r)])));

/** Any module of a kind, drawn from its rows. */
const moduleOf = (k: KindShape, id: string, data: fc.Arbitrary<object>): fc.Arbitrary<Module> =>
  fc.record({
    id: fc.constant(id),
    kind: fc.constant(k.kind),
    name: fc.constant(id),
    on: fc.integer({ min: 0, max: 9 }).map((n) => n > 0),
    values: recordOf(k.rows, valueOf),
    choices: recordOf(k.choices, (c) => fc.constantFrom(...c.options)),
    times: recordOf(k.times, timeOf),
    data,
  }) as unknown as fc.Arbitrary<Module>;

const plain = fc.constant({});
const waveData = fc.record({
  // Few tables: making one takes some ten milliseconds.
  table: fc.constantFrom("plain", "vowels", "hitch"),
  drawn: fc.array(fc.record({ levels: fc.array(evenly(0, 1), { minLength: 1, maxLength: 12 }), phases: fc.array(evenly(-360, 360), { maxLength: 4 }) }), { minLength: 1, maxLength: 3 }),
  corners: fc.array(fc.record({ table: fc.constantFrom("plain", "vowels"), place: evenly(0, 100), harmonic: fc.integer({ min: 1, max: 16 }), level: evenly(0, 1), phase: evenly(0, 360) }), { minLength: 4, maxLength: 4 }),
  cycles: fc.record({ recording: fc.constantFrom(null, HASH), length: fc.constantFrom(256, 300, 2048), even: fc.boolean() }),
  weights: fc.record({ table: fc.constantFrom("plain", "vowels"), place: evenly(0, 100), pattern: fc.array(evenly(0, 1), { minLength: 1, maxLength: 5 }), shift: fc.integer({ min: -32, max: 32 }), every: fc.integer({ min: 1, max: 16 }), turn: evenly(-180, 180), low: fc.integer({ min: 1, max: 64 }), high: fc.integer({ min: 1, max: 512 }) }),
  pmFrom: fc.constantFrom(null, "osc", "osc2", "noise"),
  ringFrom: fc.constantFrom(null, "osc", "osc2", "noise"),
}); // prettier-ignore
const triggers = fc.uniqueArray(fc.integer({ min: 0, max: 9000 }), { maxLength: 6 }).map((t) => [...t].sort((a, b) => a - b)); // prettier-ignore
const notesOf = fc.constantFrom(null, null, "part-1", "nobody", "drums.kick");
const shapeNamed = (id: string) => moduleOf(SHAPE, id, fc.record({ points: arbitraryPoints, triggers, notesOf }));

const step = fc.record({ value: evenly(0, 1), second: evenly(0, 1), form: fc.constantFrom(...STEP_FORMS), glide: evenly(0, 100), chance: evenly(0, 100), hold: fc.boolean() }); // prettier-ignore
const steps = moduleOf(STEPS, "steps", fc.record({ steps: fc.array(step, { minLength: 1, maxLength: 12 }), triggers, notesOf })); // prettier-ignore
const random = moduleOf(RANDOM, "random", fc.record({ points: arbitraryPoints, kept: fc.constant([]) }));
const follower = moduleOf(FOLLOWER, "follower", fc.record({ notesOf }));
const macro = moduleOf(MACRO, "macro", plain);
const line = moduleOf(AUTOMATION, "line", fc.record({ target: fc.constantFrom("filter.cutoff", "osc.level", "part.level", "shape.phase", "shape.rate", "steps.rate", "macro.value"), points: arbitraryPoints })); // prettier-ignore
const gate = moduleOf(GATE, "gate", fc.record({ steps: fc.array(fc.integer({ min: 0, max: 2 }), { minLength: 1, maxLength: 20 }) })); // prettier-ignore

/** What a route is before its amount is known to be in reach. */
const route = fc.record({
  source: fc.nat(),
  target: fc.nat(),
  part: evenly(-1, 1),
  amplitude: fc.boolean(),
  around: fc.boolean(),
  reversed: fc.boolean(),
  curve: fc.option(arbitraryPoints, { freq: 3 }),
  scaledBy: fc.option(fc.nat(), { freq: 3 }),
  atStart: fc.integer({ min: 0, max: 4 }).map((n) => n === 0),
  on: fc.integer({ min: 0, max: 4 }).map((n) => n > 0),
  tap: fc.constantFrom(0, 0, 45, 90.5, 180, 359),
});

type DrawnRoute = typeof route extends fc.Arbitrary<infer T> ? T : never;

/** Adds routes one by one, so that later ones may move the amounts of earlier ones. */
function withRoutes(patch: Patch, songModules: readonly Module[], drawn: readonly DrawnRoute[]): Patch {
  return drawn.reduce<Patch>((done, { source, target, part, amplitude, scaledBy, ...rest }, i) => {
    const sources = sourcesOf(done, songModules);
    const targets = targetsOf(done, songModules);
    const { address, move } = targets[target % targets.length]!;
    const asAmplitude = amplitude && move.unit === "dB";
    const made: Route = {
      ...rest,
      id: `r${i}`,
      source: sources[source % sources.length]!.id,
      target: address,
      amount: part * (asAmplitude ? AMPLITUDE_REACH : move.reach),
      amplitude: asAmplitude,
      scaledBy: scaledBy === null ? null : sources[scaledBy % sources.length]!.id,
    };
    const next = { ...done, routes: [...done.routes, made] };
    return targetAt(next, songModules, address) ? next : done;
  }, patch);
}

const patchOf = (songModules: readonly Module[]): fc.Arbitrary<Patch> =>
  fc
    .record({
      oscillators: fc.tuple(moduleOf(OSCILLATOR, "osc", waveData), moduleOf(OSCILLATOR, "osc2", waveData)),
      filters: fc.tuple(moduleOf(FILTER, "filter", plain), moduleOf(FILTER, "filter2", plain)),
      noise: moduleOf(NOISE, "noise", plain),
      sub: moduleOf(SUB, "sub", plain),
      rope: moduleOf(RECORDING, "rope", fc.record({ recording: fc.constantFrom(HASH, HASH, null) })),
      amp: moduleOf(AMP, "amp", fc.constant({ envelope: "env" })),
      mix: moduleOf(MIX, "part", plain),
      playing: moduleOf(PLAYING, "playing", plain),
      modulators: fc.tuple(moduleOf(ENVELOPE, "env", fc.record({ triggers, notesOf })), moduleOf(ENVELOPE, "env2", fc.record({ triggers, notesOf })), shapeNamed("shape"), shapeNamed("shape2"), gate, steps, random, follower, macro, line),
      second: fc.boolean(),
      cables: fc.constantFrom<readonly (readonly [string, string])[]>(
        [["osc", "filter"], ["osc2", "filter"], ["filter", "amp"]],
        [["osc", "filter"], ["osc2", "filter2"], ["filter", "amp"], ["filter2", "amp"]],
        [["osc", "filter"], ["osc", "amp"], ["rope", "amp"], ["filter", "filter2"], ["filter2", "amp"], ["osc2", "amp"]],
        [["osc", "amp"], ["rope", "filter"], ["sub", "amp"], ["noise", "amp"], ["osc2", "filter"], ["filter", "amp"]],
      ),
      routes: fc.array(route, { maxLength: 8 }),
    })
    .map(({ oscillators, noise, sub, rope, filters, amp, mix, playing, modulators, second, cables, routes }) => {
      const audio: Module[] = second ? [...oscillators, noise, rope, sub, ...filters] : [oscillators[0], filters[0]];
      // Many copies of long chords would only make properties slow.
      const few = playing.kind === "playing" ? { ...playing, values: { ...playing.values, copies: 1 + (playing.values.copies % 3) } } : playing;
      const modules: Module[] = [...audio, amp, mix, few, ...modulators.map((m) => (m.id === "env" ? { ...m, on: true } : m))];
      const has = (id: string) => modules.some((m) => m.id === id);
      const bare: Patch = {
        modules,
        cables: cables.filter(([from, to]) => has(from) && has(to)).map(([from, to]) => ({ from: from, to: to })),
        routes: [],
      };
      return withRoutes(bare, songModules, routes);
    }); // prettier-ignore

const lane = (row: Parameter): fc.Arbitrary<StepLane> =>
  fc
    .record({
      on: fc.integer({ min: 0, max: 3 }).map((n) => n > 0),
      direction: fc.constantFrom(...LANE_DIRECTIONS),
      steps: fc.array(fc.tuple(valueOf(row), evenly(0, (row.max - row.min) / 2)), { minLength: 1, maxLength: 20 }),
      freshBars: fc.integer({ min: 0, max: 4 }),
      take: fc.integer({ min: 0, max: 9 }),
      kept: fc.array(
        fc.record({ name: fc.constant("Bar 2"), values: fc.array(valueOf(row), { minLength: 1, maxLength: 9 }) }),
        { maxLength: 2 },
      ),
      lock: fc.boolean(),
    })
    .map(({ steps, lock, ...rest }) => ({
      ...rest,
      locked: lock && rest.kept.length > 0 ? 0 : null,
      values: steps.map(([v]) => v),
      ranges: steps.map(([, r]) => r),
    }));

const arpeggio: fc.Arbitrary<Arpeggio> = fc.record({
  on: fc.boolean(),
  order: fc.constantFrom(...ARP_ORDERS),
  octaves: fc.integer({ min: 1, max: 4 }),
  rate: fc.constantFrom(...NOTE_VALUES),
  gate: evenly(1, 200),
  swingFrom: fc.constantFrom("song" as const, "own" as const),
  swing: evenly(50, 75),
  length: fc.integer({ min: 1, max: 64 }),
  repeatEnds: fc.boolean(),
  restart: fc.constantFrom(...ARP_RESTARTS),
  latch: fc.boolean(),
  transposeIn: fc.constantFrom("semitones" as const, "degrees" as const),
  lanes: fc
    .subarray(LANE_IDS)
    .chain((ids) => fc.record(Object.fromEntries(ids.map((id) => [id, lane(LANES[id].row)])))),
});

const notes: fc.Arbitrary<Note[]> = fc
  .array(
    fc.record({
      startTick: fc.integer({ min: 0, max: 8000 }),
      lengthTicks: fc.integer({ min: 1, max: 6000 }),
      key: fc.oneof(
        { weight: 7, arbitrary: fc.integer({ min: 24, max: 84 }) },
        { weight: 1, arbitrary: fc.integer({ min: 0, max: 127 }) },
      ),
      velocity: fc.integer({ min: 1, max: 127 }),
      chance: fc.option(fc.integer({ min: 0, max: 100 }), { freq: 3 }),
    }),
    { maxLength: 16 },
  )
  .map((list) => list.map(({ chance, ...n }, i) => ({ ...n, id: `n${i}`, ...(chance === null ? {} : { chance }) })));

const inversion = fc.integer({ min: -2, max: 2 });
const noteChord: fc.Arbitrary<NoteChord | null> = fc.option(
  fc.oneof(
    fc.record({ from: fc.constant("kind" as const), symbol: fc.constantFrom("m" as const, "maj7" as const, "5" as const), inversion }),
    fc.record({ from: fc.constant("key" as const), notes: fc.integer({ min: 2, max: 4 }), inversion }),
  ),
  { freq: 2 },
); // prettier-ignore

const seldom = fc.integer({ min: 0, max: 5 }).map((n) => n === 5);
const mix = fc.record({ mute: seldom, solo: seldom });

const partOf = (songModules: readonly Module[]) =>
  fc.record({ mix, notes, noteChord, arpeggio, patch: patchOf(songModules) });

const velocity = fc.oneof(fc.constant(0), fc.integer({ min: 1, max: 127 }));
const kit = moduleOf(KIT, "drums", fc.record({ steps: fc.array(fc.record({ kick: velocity, clap: velocity, hat: velocity }), { minLength: 1, maxLength: 16 }) })) as fc.Arbitrary<Kit>; // prettier-ignore

export const arbitraryProject: fc.Arbitrary<Project> = fc
  .option(shapeNamed("song-shape"))
  .chain((songShape) => {
    const modules: readonly Module[] = songShape ? [songShape] : [];
    return fc.record({
      modules: fc.constant(modules),
      backing: fc.option(kit),
      tempoBpm: evenly(90, 400),
      beats: fc.integer({ min: 1, max: 4 }),
      unit: fc.constantFrom(4, 8, 16),
      swing: fc.record({ percent: evenly(50, 75), grid: fc.constantFrom(8 as const, 16 as const) }),
      tonic: fc.integer({ min: 0, max: 11 }),
      scale: fc.constantFrom(...SCALES),
      parts: fc.array(partOf(modules), { minLength: 1, maxLength: 3 }),
      seed: fc.integer({ min: 0, max: 0xffffffff }),
      outputTrim: evenly(-12, 6),
    });
  })
  .map((r) => {
    const project = newProject("random", "Random", r.seed);
    const song = {
      ...project.song,
      tempoBpm: r.tempoBpm,
      meter: { beats: r.beats, unit: r.unit },
      loopBars: 1,
      swing: r.swing,
      key: { tonic: r.tonic, scale: r.scale },
    };
    // Most notes lie in the loop; some lie beyond, as they do when a loop is made shorter.
    const inLoop = (n: Note): Note => ({
      ...n,
      startTick: n.startTick % 7 ? n.startTick % barTicks(song.meter) : n.startTick,
    });
    const parts = r.parts.map((p, i): Part => ({
      ...project.parts[0]!,
      ...p,
      notes: p.notes.map(inLoop),
      id: `part-${i + 1}`,
    }));
    const whole = { ...project, song, modules: r.modules, backing: r.backing, parts, outputTrim: r.outputTrim };
    return withBinaries(whole, () => BINARY);
  });
