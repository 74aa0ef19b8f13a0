import { z } from "zod";
import { MAX_POINTS } from "../curve/curve";
import {
  CHOICES,
  TARGET_IDS,
  VOICE_PARAMETERS,
  parameter,
  type ParameterId,
  type VoiceParameterId,
} from "./parameters";
import {
  AMP_ENVELOPE, ARP_ORDERS, FORMAT, MAX_MODULATORS, MAX_NOTES, MAX_PARTS, MAX_ROUTES, RESTARTS, VERSION,
  type Project,
} from "./project"; // prettier-ignore

// The page's security policy forbids eval, and Zod's probe for it would count as a violation.
z.config({ jitless: true });

const numberOf = (id: ParameterId) => {
  const p = parameter(id);
  return z
    .number()
    .min(p.min)
    .max(p.max)
    .describe(`${p.label}${p.unit ? `, in ${p.unit}` : ""}`);
};
const wholeOf = (id: ParameterId) => numberOf(id).int();

const id = z.string().min(1).max(64);
const name = z.string().trim().min(1, "a name is needed").max(80);

const noteValue = z.object({ num: z.int().min(1).max(96), den: z.int().min(1).max(192) });
const ms = z.object({ unit: z.literal("ms"), ms: z.number().min(0).max(60_000) });
const hz = z.object({ unit: z.literal("hz"), hz: z.number().min(0.01).max(200) });
const note = noteValue.extend({ unit: z.literal("note") });
const bars = z.object({ unit: z.literal("bars"), bars: z.int().min(1).max(32) });
const time = z.discriminatedUnion("unit", [ms, note, bars]);
const rate = z.discriminatedUnion("unit", [ms.extend({ ms: z.number().min(1).max(60_000) }), hz, note, bars]);

const point = z.object({
  x: z.number().min(0).max(1),
  y: z.number().min(0).max(1),
  tension: z.number().min(-100).max(100),
});

const points = z
  .array(point)
  .min(2)
  .max(MAX_POINTS)
  .refine((p) => p[0]?.x === 0 && p.at(-1)?.x === 1, "the first point must be at x 0 and the last at x 1")
  .refine((p) => p.every((q, i) => i === 0 || q.x >= p[i - 1]!.x), "points must be in order of x");

const envelope = z.object({
  kind: z.literal("envelope"),
  id,
  name,
  attack: time,
  decay: time,
  sustain: numberOf("envelope.sustain"),
  release: time,
  attackCurve: numberOf("envelope.attackCurve"),
  decayCurve: numberOf("envelope.decayCurve"),
  releaseCurve: numberOf("envelope.releaseCurve"),
});

const shape = z.object({
  kind: z.literal("shape"),
  id,
  name,
  points,
  rate,
  restart: z.enum(RESTARTS),
  phase: numberOf("shape.phase"),
  smoothing: numberOf("shape.smoothing"),
});

const route = z.object({
  id,
  source: id,
  target: z.enum(TARGET_IDS),
  amount: z.number(),
  on: z.boolean(),
  reversed: z.boolean(),
});

const values = z.object(
  Object.fromEntries(VOICE_PARAMETERS.map((p) => [p.id, numberOf(p.id)])) as unknown as Record<
    VoiceParameterId,
    z.ZodNumber
  >,
);

const patch = z
  .object({
    values,
    choices: z.object({
      "osc.wave": z.enum(CHOICES["osc.wave"].options),
      "osc.start": z.enum(CHOICES["osc.start"].options),
      "filter.type": z.enum(CHOICES["filter.type"].options),
    }),
    modulators: z
      .array(z.discriminatedUnion("kind", [envelope, shape]))
      .min(1)
      .max(MAX_MODULATORS),
    routes: z.array(route).max(MAX_ROUTES),
  })
  .superRefine((p, ctx) => {
    const ids = p.modulators.map((m) => m.id);
    const problem = (message: string, path: (string | number)[]) => ctx.addIssue({ code: "custom", message, path });
    if (p.modulators.find((m) => m.id === AMP_ENVELOPE)?.kind !== "envelope")
      problem(`an envelope with the id "${AMP_ENVELOPE}" is needed`, ["modulators"]);
    if (new Set(ids).size < ids.length) problem("two modulators have the same id", ["modulators"]);
    p.routes.forEach((r, i) => {
      if (r.source !== "velocity" && r.source !== "key" && !ids.includes(r.source))
        problem(`the source "${r.source}" does not exist`, ["routes", i, "source"]);
      const reach = parameter(r.target).move!.reach;
      if (Math.abs(r.amount) > reach)
        problem(`an amount on ${r.target} must be within ±${reach}`, ["routes", i, "amount"]);
    });
  });

const noteEvent = z.object({
  id,
  startTick: z
    .int()
    .min(0)
    .max(32 * 64 * 3840),
  lengthTicks: z
    .int()
    .min(1)
    .max(32 * 64 * 3840),
  key: z.int().min(0).max(127),
  velocity: wholeOf("note.velocity"),
});

const arpeggio = z.object({
  on: z.boolean(),
  order: z.enum(ARP_ORDERS),
  octaves: wholeOf("arp.octaves"),
  rate: noteValue,
  gate: numberOf("arp.gate"),
  swingFrom: z.enum(["song", "own"]),
  swing: numberOf("arp.swing"),
  length: wholeOf("arp.length"),
});

const uniqueIds = (list: { id: string }[]) => new Set(list.map((e) => e.id)).size === list.length;

const part = z.object({
  id,
  name,
  notes: z.array(noteEvent).max(MAX_NOTES).refine(uniqueIds, "two notes have the same id"),
  arpeggio,
  patch,
});

/** The current version of the document. Unknown fields are dropped. */
export const ProjectSchema = z.object({
  format: z.literal(FORMAT),
  version: z.literal(VERSION),
  id,
  name,
  song: z.object({
    tempoBpm: numberOf("song.tempo"),
    meter: z.object({
      beats: z.int().min(1).max(32),
      unit: z.union([z.literal(2), z.literal(4), z.literal(8), z.literal(16)]),
    }),
    loopBars: wholeOf("song.loopBars"),
    swing: z.object({ percent: numberOf("song.swing"), grid: z.union([z.literal(8), z.literal(16)]) }),
    key: z.object({ tonic: z.int().min(0).max(11), scale: z.enum(["major", "minor"]) }),
  }),
  parts: z.array(part).min(1).max(MAX_PARTS).refine(uniqueIds, "two parts have the same id"),
  outputTrim: numberOf("output.trim"),
  seed: z.int().min(0).max(0xffffffff),
}) satisfies z.ZodType<Project>;
