import { NOTE_SOURCES } from "../targets";
import * as z from "../zod";
import { listOf, within, whole } from "../zod";

/** Version 1 as it was released; frozen. Upgrades check a file against it before they trust a field of it. */

const id = z.text(1, 64);
const name = z.nameText();
const uniqueIds = (list: { id: string }[]) => new Set(list.map((e) => e.id)).size === list.length;

const noteValue = z.object({ num: whole(1, 96), den: whole(1, 192) });
const ms = z.object({ unit: z.literal("ms"), ms: within(0, 60_000) });
const hz = z.object({ unit: z.literal("hz"), hz: within(0.01, 200) });
const note = z.extend(noteValue, { unit: z.literal("note") });
const bars = z.object({ unit: z.literal("bars"), bars: whole(1, 32) });
const time = z.discriminatedUnion("unit", [ms, note, bars]);
const rate = z.discriminatedUnion("unit", [z.extend(ms, { ms: within(1, 60_000) }), hz, note, bars]);

const points = listOf(z.object({ x: within(0, 1), y: within(0, 1), tension: within(-100, 100) }), 2, 64).check(
  z.refine((p) => p[0]?.x === 0 && p.at(-1)?.x === 1, "the first point must be at x 0 and the last at x 1"),
  z.refine((p) => p.every((q, i) => i === 0 || q.x >= p[i - 1]!.x), "points must be in order of x"),
);

const envelope = z.object({
  kind: z.literal("envelope"),
  id,
  name,
  attack: time,
  decay: time,
  sustain: within(0, 100),
  release: time,
  attackCurve: within(-100, 100),
  decayCurve: within(-100, 100),
  releaseCurve: within(-100, 100),
});

const shape = z.object({
  kind: z.literal("shape"),
  id,
  name,
  points,
  rate,
  restart: z.enum(["song", "bar", "note", "once"]),
  phase: within(0, 360),
  smoothing: within(0, 200),
});

const AMP_ENVELOPE = "amp";

const patch = z
  .object({
    values: z.object({
      "osc.octave": within(-4, 4),
      "osc.pitch": within(-24, 24),
      "osc.fine": within(-100, 100),
      "osc.pulseWidth": within(5, 95),
      "osc.unison": within(1, 16),
      "osc.detune": within(0, 100),
      "osc.width": within(0, 100),
      "osc.phase": within(0, 360),
      "filter.cutoff": within(20, 20_000),
      "filter.resonance": within(0, 100),
      "filter.keyFollow": within(0, 150),
      "amp.level": within(-60, 6),
      "amp.pan": within(-100, 100),
    }),
    choices: z.object({
      "osc.wave": z.enum(["sine", "triangle", "saw", "pulse"]),
      "osc.start": z.enum(["fixed", "random"]),
      "filter.type": z.enum(["lp24", "lp12", "bp12", "hp12"]),
    }),
    modulators: listOf(z.discriminatedUnion("kind", [envelope, shape]), 1, 12),
    routes: listOf(
      z.object({
        id,
        source: id,
        target: z.enum(["osc.pitch", "amp.level", "filter.cutoff", "filter.resonance", "amp.pan"]),
        amount: z.number(),
        on: z.boolean(),
        reversed: z.boolean(),
      }),
      0,
      32,
    ),
  })
  .check(
    z.superRefine((p, ctx) => {
      const ids = p.modulators.map((m) => m.id);
      const problem = (message: string, path: (string | number)[]) => ctx.addIssue({ code: "custom", message, path });
      if (p.modulators.find((m) => m.id === AMP_ENVELOPE)?.kind !== "envelope")
        problem(`an envelope with the id "${AMP_ENVELOPE}" is needed`, ["modulators"]);
      if (new Set(ids).size < ids.length) problem("two modulators have the same id", ["modulators"]);
      // Sources and amounts of routes are looked at as those of today, under the same paths.
    }),
  );

const longest = 32 * 64 * 3840;

const part = z.object({
  id,
  name,
  notes: listOf(
    z.object({
      id,
      startTick: whole(0, longest),
      lengthTicks: whole(1, longest),
      key: whole(0, 127),
      velocity: whole(1, 127),
    }),
    0,
    4096,
  ).check(z.refine(uniqueIds, "two notes have the same id")),
  arpeggio: z.object({
    on: z.boolean(),
    order: z.enum(["up", "down", "upDown", "asPlayed", "chord", "random"]),
    octaves: whole(1, 4),
    rate: noteValue,
    gate: within(1, 200),
    swingFrom: z.enum(["song", "own"]),
    swing: within(50, 75),
    length: whole(1, 64),
  }),
  patch,
});

export const ProjectV1 = z.object({
  format: z.literal("clovik-project"),
  version: z.literal(1),
  id,
  name,
  song: z.object({
    tempoBpm: within(20, 400),
    meter: z.object({
      beats: whole(1, 32),
      unit: z.union([z.literal(2), z.literal(4), z.literal(8), z.literal(16)]),
    }),
    loopBars: whole(1, 32),
    swing: z.object({ percent: within(50, 75), grid: z.union([z.literal(8), z.literal(16)]) }),
    key: z.object({ tonic: whole(0, 11), scale: z.enum(["major", "minor"]) }),
  }),
  parts: listOf(part, 1, 8).check(z.refine(uniqueIds, "two parts have the same id")),
  outputTrim: within(-24, 12),
  seed: whole(0, 0xffffffff),
});

type V1 = z.output<typeof ProjectV1>;
type PatchV1 = V1["parts"][number]["patch"];

/** Ids of version 1 were any text; those of version 2 are plain and belong to one thing of a patch each. */
function plainIds(wanted: readonly string[], taken: readonly string[]): Map<string, string> {
  const used = new Set(taken);
  const names = new Map<string, string>();
  for (const w of wanted) {
    const plain = w.replace(/[^A-Za-z0-9_-]/g, "-").slice(0, 56) || "x";
    let name = plain;
    for (let n = 2; used.has(name); n++) name = `${plain}-${n}`;
    used.add(name);
    names.set(w, name);
  }
  return names;
}

/** What one voice was made of becomes modules, each under the name that addresses had. */
function patchTo2(p: PatchV1): object {
  const fixed = ["osc", "filter", "amp", "playing", ...NOTE_SOURCES.map((s) => s.id)];
  const modulators = plainIds(p.modulators.map((m) => m.id), fixed); // prettier-ignore
  const routes = plainIds(p.routes.map((_, i) => `route-${i + 1}`), [...fixed, ...modulators.values()]); // prettier-ignore
  const { values: v, choices: c } = p;
  const module = (id: string, kind: string, name: string, rest: object): object => ({
    id,
    kind,
    name,
    on: true,
    ...rest,
  });
  return {
    modules: [
      module("osc", "oscillator", "Oscillator", {
        values: {
          octave: Math.round(v["osc.octave"]),
          pitch: v["osc.pitch"],
          fine: v["osc.fine"],
          pulseWidth: v["osc.pulseWidth"],
          unison: Math.round(v["osc.unison"]),
          detune: v["osc.detune"],
          width: v["osc.width"],
          phase: v["osc.phase"],
        },
        choices: { wave: c["osc.wave"], start: c["osc.start"] },
      }),
      module("filter", "filter", "Filter", {
        values: { cutoff: v["filter.cutoff"], resonance: v["filter.resonance"], keyFollow: v["filter.keyFollow"] },
        choices: { type: c["filter.type"] },
      }),
      module("amp", "amp", "Amp", {
        values: { level: v["amp.level"], pan: v["amp.pan"] },
        data: { envelope: modulators.get(AMP_ENVELOPE)! },
      }),
      module("playing", "playing", "Playing", {}),
      ...p.modulators.map((m) =>
        m.kind === "envelope"
          ? module(modulators.get(m.id)!, m.kind, m.name, {
              values: {
                sustain: m.sustain,
                attackCurve: m.attackCurve,
                decayCurve: m.decayCurve,
                releaseCurve: m.releaseCurve,
              },
              times: { attack: m.attack, decay: m.decay, release: m.release },
            })
          : module(modulators.get(m.id)!, m.kind, m.name, {
              values: { phase: m.phase, smoothing: m.smoothing },
              choices: { restart: m.restart },
              times: { rate: m.rate },
              data: { points: m.points },
            }),
      ),
    ],
    cables: [
      { from: "osc", to: "filter" },
      { from: "filter", to: "amp" },
    ],
    routes: p.routes.map((r, i) => ({
      ...r,
      id: routes.get(`route-${i + 1}`)!,
      source: modulators.get(r.source) ?? r.source,
    })),
  };
}

/** Version 2 of a checked version 1 document; what version 2 added takes its defaults when it is read. */
export const upgradeV1 = (p: V1): object => ({
  ...p,
  version: 2,
  parts: p.parts.map((q) => ({ ...q, patch: patchTo2(q.patch) })),
});
