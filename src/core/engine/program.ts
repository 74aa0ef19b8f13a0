import { compileCurve } from "../curve/curve";
import { compileEnvelope, type CompiledEnvelope } from "../curve/envelope";
import { FILTER_BP12, FILTER_HP12, FILTER_LP12, FILTER_LP24 } from "../dsp/filter";
import { dbToGain } from "../dsp/portableMath";
import { WAVE_PULSE, WAVE_SAW, WAVE_SINE, WAVE_TRIANGLE } from "../dsp/waveTables";
import type { CompiledShape } from "../motion/shape";
import { parameter, TARGET_IDS, VOICE_PARAMETERS } from "../patch/parameters";
import { AMP_ENVELOPE, type Envelope, type Part, type Project, type Shape } from "../patch/project";
import { loopTicks, partEvents, partSeed } from "../pattern/events";
import { barTicks } from "../time/meter";
import { isSynced, spanMs, spanTicks, ticksPerSecond, type TimeBase } from "../time/span";

/**
 * What the engine plays, compiled from a project outside the audio thread: plain data and typed arrays, so that it can
 * be posted to another thread. The engine only reads it.
 */
export interface Program {
  readonly ticksPerSec: number;
  readonly loopTicks: number;
  readonly barTicks: number;
  /** Gain before the limiter. */
  readonly trim: number;
  readonly parts: readonly PartProgram[];
}

export interface PartProgram {
  readonly id: string;
  /** In the order of `VOICE_PARAMETERS`. */
  readonly values: Float64Array;
  readonly wave: number;
  readonly randomStart: boolean;
  readonly filter: number;
  readonly seed: number;
  /** Rows of onTick, offTick, key, velocity, sorted by onset. */
  readonly events: Float64Array;
  /** The first shapes the level of every note. */
  readonly envelopes: readonly CompiledEnvelope[];
  readonly shapes: readonly CompiledShape[];
  /** Sums to add to each target, whatever the sources do (a reversed source starts at its full amount). */
  readonly bases: Float64Array;
  readonly routes: readonly CompiledRoute[];
}

/** Adds `gain` times the source to the target. Sources: envelopes, then shapes, then velocity, then key. */
interface CompiledRoute {
  readonly source: number;
  readonly target: number;
  readonly gain: number;
}

export const EVENT_ROW = 4;
export const VALUE = Object.fromEntries(VOICE_PARAMETERS.map((p, i) => [p.id, i])) as Record<
  (typeof VOICE_PARAMETERS)[number]["id"],
  number
>;

/** Shorter amp stages than these click; they are stretched to them. */
const SHORTEST_ATTACK_SEC = 0.0005;
const SHORTEST_RELEASE_SEC = 0.004;

const WAVES = { sine: WAVE_SINE, triangle: WAVE_TRIANGLE, saw: WAVE_SAW, pulse: WAVE_PULSE } as const;
const FILTERS = { lp24: FILTER_LP24, lp12: FILTER_LP12, bp12: FILTER_BP12, hp12: FILTER_HP12 } as const;

function envelopeProgram(e: Envelope, base: TimeBase): CompiledEnvelope {
  const floor =
    e.id === AMP_ENVELOPE ? { attack: SHORTEST_ATTACK_SEC, release: SHORTEST_RELEASE_SEC } : { attack: 0, release: 0 };
  return compileEnvelope({
    attackSec: Math.max(floor.attack, spanMs(e.attack, base) / 1000),
    decaySec: spanMs(e.decay, base) / 1000,
    sustain: e.sustain / 100,
    releaseSec: Math.max(floor.release, spanMs(e.release, base) / 1000),
    attackCurve: e.attackCurve,
    decayCurve: e.decayCurve,
    releaseCurve: e.releaseCurve,
  });
}

export function shapeProgram(s: Shape, base: TimeBase): CompiledShape {
  const synced = isSynced(s.rate);
  return {
    curve: compileCurve(s.points),
    restart: s.restart,
    synced,
    period: synced ? spanTicks(s.rate, base) : spanMs(s.rate, base) / 1000,
    phase: s.phase / 360,
    smoothingSec: s.smoothing / 1000,
  };
}

function eventRows(part: Part, project: Project): Float64Array {
  const events = partEvents(part, project.song, project.seed);
  const rows = new Float64Array(events.length * EVENT_ROW);
  events.forEach((e, i) => rows.set([e.onTick, e.offTick, e.key, e.velocity], i * EVENT_ROW));
  return rows;
}

function partProgram(part: Part, project: Project, base: TimeBase): PartProgram {
  const { patch } = part;
  const envelopes = patch.modulators
    .filter((m) => m.kind === "envelope")
    .sort((a, b) => Number(b.id === AMP_ENVELOPE) - Number(a.id === AMP_ENVELOPE));
  const shapes = patch.modulators.filter((m) => m.kind === "shape");
  const sources = [...envelopes.map((e) => e.id), ...shapes.map((s) => s.id), "velocity", "key"];
  const bases = new Float64Array(TARGET_IDS.length);
  const routes = patch.routes
    .filter((r) => r.on && r.amount !== 0)
    .map((r): CompiledRoute => {
      const target = TARGET_IDS.indexOf(r.target);
      // The key counts both ways from middle C, so that reversing it turns its sign; all others run from 0 to 1.
      if (r.reversed && r.source !== "key") bases[target]! += r.amount;
      return { source: sources.indexOf(r.source), target, gain: r.reversed ? -r.amount : r.amount };
    });
  return {
    id: part.id,
    values: Float64Array.from(VOICE_PARAMETERS, (p) => patch.values[p.id]),
    wave: WAVES[patch.choices["osc.wave"]],
    randomStart: patch.choices["osc.start"] === "random",
    filter: FILTERS[patch.choices["filter.type"]],
    seed: partSeed(project.seed, part),
    events: eventRows(part, project),
    envelopes: envelopes.map((e) => envelopeProgram(e, base)),
    shapes: shapes.map((s) => shapeProgram(s, base)),
    bases,
    routes,
  };
}

/** Compiles a project. With `onlyPart`, the other parts are left out; throws RangeError when it does not exist. */
export function compileProject(project: Project, onlyPart?: string): Program {
  const parts = onlyPart === undefined ? project.parts : project.parts.filter((p) => p.id === onlyPart);
  if (parts.length === 0)
    throw new RangeError(`there is no part "${onlyPart ?? ""}"; parts: ${project.parts.map((p) => p.id).join(", ")}`);
  const { song } = project;
  return {
    ticksPerSec: ticksPerSecond(song.tempoBpm),
    loopTicks: loopTicks(song),
    barTicks: barTicks(song.meter),
    trim: dbToGain(project.outputTrim),
    parts: parts.map((p) => partProgram(p, project, song)),
  };
}

/** The quietest level that is not "off". */
export const LEVEL_OFF_DB = parameter("amp.level").min;
