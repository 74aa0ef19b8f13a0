import fc from "fast-check";
import { CHOICES, TARGET_IDS, VOICE_PARAMETERS, parameter, type VoiceParameterId } from "@/core/patch/parameters";
import { newProject } from "@/core/patch/defaults";
import {
  AMP_ENVELOPE,
  ARP_ORDERS,
  RESTARTS,
  type Arpeggio,
  type Envelope,
  type Note,
  type Patch,
  type Project,
  type Shape,
} from "@/core/patch/project";
import { NOTE_VALUES } from "@/core/time/noteValue";
import type { Span } from "@/core/time/span";

/** Random valid projects for properties: short loops, so that a render of one is quick. */

// JSON knows no minus zero, so none is drawn.
const range = (min: number, max: number): fc.Arbitrary<number> =>
  fc.double({ min, max, noNaN: true }).map((v) => (v === 0 ? 0 : v));
const noteSpan = fc.constantFrom(...NOTE_VALUES).map((v): Span => ({ unit: "note", ...v }));
const time: fc.Arbitrary<Envelope["attack"]> = fc.oneof(
  range(0, 800).map((ms) => ({ unit: "ms" as const, ms })),
  fc.constantFrom(...NOTE_VALUES).map((v) => ({ unit: "note" as const, ...v })),
);
const rate = fc.oneof(range(1, 3000).map((ms): Span => ({ unit: "ms", ms })), range(0.01, 200).map((hz): Span => ({ unit: "hz", hz })), noteSpan); // prettier-ignore

const envelope = (id: string): fc.Arbitrary<Envelope> =>
  fc.record({
    kind: fc.constant("envelope" as const),
    id: fc.constant(id),
    name: fc.constant(id),
    attack: time,
    decay: time,
    sustain: range(0, 100),
    release: time,
    attackCurve: range(-100, 100),
    decayCurve: range(-100, 100),
    releaseCurve: range(-100, 100),
  });

const point = fc.record({ x: range(0, 1), y: range(0, 1), tension: range(-100, 100) });

export const arbitraryPoints = fc
  .tuple(fc.array(point, { maxLength: 8 }), point, point)
  .map(([inner, first, last]) => [{ ...first, x: 0 }, ...inner.sort((a, b) => a.x - b.x), { ...last, x: 1 }]);

const shape = (id: string): fc.Arbitrary<Shape> =>
  fc.record({
    kind: fc.constant("shape" as const),
    id: fc.constant(id),
    name: fc.constant(id),
    points: arbitraryPoints,
    rate,
    restart: fc.constantFrom(...RESTARTS),
    phase: range(0, 360),
    smoothing: range(0, 200),
  });

const values = fc.record(
  Object.fromEntries(
    VOICE_PARAMETERS.map((p) => [
      p.id,
      p.digits === 0 && p.unit === "" ? fc.integer({ min: p.min, max: p.max }) : range(p.min, p.max),
    ]),
  ),
) as fc.Arbitrary<Record<VoiceParameterId, number>>;

const routes = fc.array(
  fc
    .record({
      source: fc.constantFrom(AMP_ENVELOPE, "env", "shape", "velocity", "key"),
      target: fc.constantFrom(...TARGET_IDS),
      part: range(-1, 1),
      on: fc.boolean(),
      reversed: fc.boolean(),
    })
    .map(({ part, ...r }) => ({ ...r, amount: part * parameter(r.target).move!.reach })),
  { maxLength: 6 },
);

const patch: fc.Arbitrary<Patch> = fc.record({
  values,
  choices: fc.record({
    "osc.wave": fc.constantFrom(...CHOICES["osc.wave"].options),
    "osc.start": fc.constantFrom(...CHOICES["osc.start"].options),
    "filter.type": fc.constantFrom(...CHOICES["filter.type"].options),
  }),
  modulators: fc.tuple(envelope(AMP_ENVELOPE), envelope("env"), shape("shape")),
  routes: routes.map((list) => list.map((r, i) => ({ ...r, id: `r${i}` }))),
});

const arpeggio: fc.Arbitrary<Arpeggio> = fc.record({
  on: fc.boolean(),
  order: fc.constantFrom(...ARP_ORDERS),
  octaves: fc.integer({ min: 1, max: 4 }),
  rate: fc.constantFrom(...NOTE_VALUES),
  gate: range(1, 200),
  swingFrom: fc.constantFrom("song" as const, "own" as const),
  swing: range(50, 75),
  length: fc.integer({ min: 1, max: 64 }),
});

const notes: fc.Arbitrary<Note[]> = fc
  .array(
    fc.record({
      startTick: fc.integer({ min: 0, max: 8000 }),
      lengthTicks: fc.integer({ min: 1, max: 6000 }),
      key: fc.integer({ min: 0, max: 127 }),
      velocity: fc.integer({ min: 1, max: 127 }),
    }),
    { maxLength: 24 },
  )
  .map((list) => list.map((n, i) => ({ ...n, id: `n${i}` })));

export const arbitraryProject: fc.Arbitrary<Project> = fc
  .record({
    tempoBpm: range(60, 400),
    beats: fc.integer({ min: 1, max: 5 }),
    unit: fc.constantFrom(4, 8, 16),
    swing: fc.record({ percent: range(50, 75), grid: fc.constantFrom(8 as const, 16 as const) }),
    tonic: fc.integer({ min: 0, max: 11 }),
    scale: fc.constantFrom("major" as const, "minor" as const),
    notes,
    arpeggio,
    patch,
    seed: fc.integer({ min: 0, max: 0xffffffff }),
    outputTrim: range(-24, 12),
  })
  .map((r) => {
    const project = newProject("random", "Random", r.seed);
    const part = { ...project.parts[0]!, notes: r.notes, arpeggio: r.arpeggio, patch: r.patch };
    const song = {
      ...project.song,
      tempoBpm: r.tempoBpm,
      meter: { beats: r.beats, unit: r.unit },
      loopBars: 1,
      swing: r.swing,
      key: { tonic: r.tonic, scale: r.scale },
    };
    return { ...project, song, parts: [part], outputTrim: r.outputTrim };
  });
