import { compileCurve, curveAt, type CurvePoint } from "../curve/curve";
import { compileEnvelope, type CompiledEnvelope } from "../curve/envelope";
import type { Automation } from "../patch/kinds/automation";
import type { Envelope } from "../patch/kinds/envelope";
import { FOLLOWER, type Follower } from "../patch/kinds/follower";
import type { Gate } from "../patch/kinds/gate";
import type { Random } from "../patch/kinds/random";
import type { Shape } from "../patch/kinds/shape";
import type { Steps } from "../patch/kinds/steps";
import { hash32 } from "../pattern/chance";
import type { NoteStarts } from "../pattern/starts";
import type { NoteEvent } from "../pattern/noteEvent";
import { compileGate } from "../pattern/gate";
import { barTicks } from "../time/meter";
import { isSynced, spanMs, spanTicks, ticksPerSecond, type Span, type TimeBase } from "../time/span";
import { compileFollower } from "./follower";
import { compileDraws } from "./drawn";
import { compileSequence } from "./sequence";
import { isSharedShape, type CompiledShape, type Stretch } from "./shape";

/** What each kind of modulator is to the evaluators: an envelope, or a shape of some kind. */

const FLAT: readonly CurvePoint[] = [0, 1].map((x) => ({ x, y: 0, tension: 0 }));
/** A curve that goes round at its own pace; what else a shape may have is left out. */
const curveOf = (points: readonly CurvePoint[]) => ({
  curve: compileCurve(points),
  phase: 0,
  once: false,
  triggers: [],
  smoothingSec: 0,
  sequence: null,
  draws: null,
  follower: null,
  gate: null,
  every: 1,
  scatter: 0,
  seed: 0,
  fadeIn: 0,
  from: 0,
  blend: 0,
  held: null,
});

const NO_STARTS: NoteStarts = () => [];

/** How the evaluators see a restart: those with notes are as good as a list of triggers. */
function restarts(
  { choices: { restart }, data }: Pick<Shape | Steps | Envelope, "choices" | "data">,
  starts: NoteStarts,
): Pick<CompiledShape, "restart" | "triggers"> {
  if (restart === "chord" || restart === "rest")
    return { restart: "triggers", triggers: starts(restart, data.notesOf) };
  // Until a hand has said so it runs with the song.
  if (restart === "hand") return { restart: data.triggers.length > 0 ? "triggers" : "song", triggers: data.triggers };
  return { restart, triggers: restart === "triggers" ? data.triggers : [] };
}

/** What a shape that goes through once with its note does while that is held. */
function heldStretch({ choices, values }: Shape): Stretch | null {
  const { restart, whileHeld } = choices;
  if (restart !== "once" || whileHeld === "runs") return null;
  const [from, to] = [values.heldFrom / 100, values.heldTo / 100];
  return whileHeld === "stands" ? { from: to, to } : { from: Math.min(from, to), to: Math.max(from, to) };
}

/** An envelope in seconds; stages shorter than the floors are stretched to them. */
export function envelopeProgram(
  e: Envelope,
  base: TimeBase,
  floor: { attackSec: number; releaseSec: number } = NO_FLOOR,
): CompiledEnvelope {
  const { delay, attack, hold, decay, release } = e.times;
  return compileEnvelope({
    delaySec: spanMs(delay, base) / 1000,
    holdSec: spanMs(hold, base) / 1000,
    loop: e.choices.loop,
    attackSec: Math.max(floor.attackSec, spanMs(attack, base) / 1000),
    decaySec: spanMs(decay, base) / 1000,
    sustain: e.values.sustain / 100,
    releaseSec: Math.max(floor.releaseSec, spanMs(release, base) / 1000),
    attackCurve: e.values.attackCurve,
    decayCurve: e.values.decayCurve,
    releaseCurve: e.values.releaseCurve,
  });
}

export const NO_FLOOR = { attackSec: 0, releaseSec: 0 };
/** Shorter stages of the envelope that shapes the level would click. */
export const DECLICKED = { attackSec: 0.0005, releaseSec: 0.004 };

/** A drawn curve that runs in time; `seed` is that of its drawn starts. */
export function shapeProgram(s: Shape, base: TimeBase, seed: number, starts: NoteStarts = NO_STARTS): CompiledShape {
  const { restart, goes } = s.choices;
  const synced = isSynced(s.times.rate);
  const inTime = (span: Span): number => (synced ? spanTicks(span, base) : spanMs(span, base) / 1000);
  const made = curveOf(s.data.points);
  return {
    ...made,
    ...restarts(s, starts),
    every: s.values.every,
    synced,
    period: inTime(s.times.rate),
    phase: s.values.phase / 360,
    smoothingSec: s.values.smoothing / 1000,
    once: restart === "triggers" || restart === "once" || (goes === "once" && isSharedShape(restart)),
    held: heldStretch(s),
    scatter: isSharedShape(restart) ? 0 : s.values.scatter / 100,
    seed,
    fadeIn: restart === "song" ? 0 : inTime(s.times.fadeIn),
    from: curveAt(made.curve, (s.values.phase / 360) % 1),
  };
}

/** What all notes share, starting again at some ticks of the pass beside its own restarts. */
export function restartingAtJumps(
  shape: CompiledShape,
  jumps: readonly number[],
  base: TimeBase & { readonly loopTicks: number },
): CompiledShape {
  if (!isSharedShape(shape.restart)) return shape;
  const bar = barTicks(base.meter) * shape.every;
  const own =
    shape.restart === "bar"
      ? Array.from({ length: Math.ceil(base.loopTicks / bar) }, (_, i) => i * bar)
      : shape.restart === "song"
        ? [0]
        : shape.triggers;
  const triggers = [...new Set([...own, ...jumps])].sort((a, b) => a - b);
  return { ...shape, restart: "triggers", triggers };
}

/** The least that smooths the jumps of a gate that a bar cuts short. */
const GATE_SMOOTHING_SEC = 0.001;

/** An envelope that starts as shapes start again, as a shape that all notes share: its stages once, or its loop. */
export function sharedEnvelopeProgram(e: Envelope, base: TimeBase, starts: NoteStarts = NO_STARTS): CompiledShape {
  const { loop } = e.choices;
  const sec = (span: Envelope["times"]["attack"]): number => spanMs(span, base) / 1000;
  const { delay, attack, hold, decay } = e.times;
  const sustain = e.values.sustain / 100;
  const { attackCurve, decayCurve } = e.values;
  const around = loop === "all";
  // What loops sets out from where it ends; a decay that loops alone is at full at once.
  const stages: [sec: number, to: number, tension: number][] = [
    ...(loop === "none" ? [[sec(delay), 0, 0] as [number, number, number]] : []),
    ...(loop === "decay" ? [] : [[sec(attack), 1, attackCurve], [sec(hold), 1, 0]] as [number, number, number][]),
    [sec(decay), sustain, decayCurve],
  ]; // prettier-ignore
  const period = Math.max(
    1e-4,
    stages.reduce((sum, [length]) => sum + length, 0),
  );
  const points = [{ x: 0, y: loop === "decay" ? 1 : around ? sustain : 0, tension: stages[0]![2] }];
  let at = 0;
  stages.forEach(([length, to], i) => {
    at += length;
    points.push({ x: Math.min(1, at / period), y: to, tension: stages[i + 1]?.[2] ?? 0 });
  });
  return {
    ...curveOf(points),
    ...restarts(e, starts),
    every: e.values.every,
    synced: false,
    period,
    smoothingSec: GATE_SMOOTHING_SEC,
    once: loop === "none",
  };
}

/** A gate as a shape that all notes share. */
export function gateProgram(g: Gate, base: TimeBase): CompiledShape {
  const { attack, hold, tail, swing } = g.values;
  const ticksPerMs = ticksPerSecond(base.tempoBpm) / 1000;
  const stepLength = isSynced(g.times.step) ? spanTicks(g.times.step, base) : spanMs(g.times.step, base) * ticksPerMs;
  const inSteps = (ms: number): number => (ms * ticksPerMs) / stepLength;
  return {
    ...curveOf(FLAT),
    gate: compileGate(g.data.steps, {
      attack: inSteps(attack),
      hold: hold / 100,
      tail: inSteps(tail),
      swing: swing / 100,
    }),
    restart: g.choices.restart,
    synced: true,
    period: stepLength * g.data.steps.length,
    smoothingSec: GATE_SMOOTHING_SEC,
  };
}

/** Ticks of one round of a sequence. */
export const roundTicks = (m: Steps, base: TimeBase): number =>
  spanTicks(m.times.rate, base) * (m.choices.rateOf === "step" ? m.data.steps.length : 1);

/** Bars from one restart of a sequence with the bar to the next: as many as are set, or as it takes to go through. */
export const barsOf = (m: Steps, base: TimeBase): number =>
  m.values.every > 0 ? m.values.every : Math.max(1, Math.ceil(roundTicks(m, base) / barTicks(base.meter) - 1e-6));

/** A step sequence as a shape; `seed` is that of its chances. */
export function sequenceProgram(m: Steps, base: TimeBase, seed: number, starts: NoteStarts = NO_STARTS): CompiledShape {
  const { rate } = m.times;
  const synced = isSynced(rate);
  const whole = synced ? spanTicks(rate, base) : spanMs(rate, base) / 1000;
  const { restart, rateOf } = m.choices;
  return {
    ...curveOf(FLAT),
    sequence: compileSequence(m.data.steps, seed),
    blend: m.values.blend / 100,
    ...restarts(m, starts),
    every: barsOf(m, base),
    synced,
    period: rateOf === "step" ? whole * m.data.steps.length : whole,
    phase: m.values.phase / 360,
    smoothingSec: m.values.smoothing / 1000,
    once: restart === "triggers" || restart === "once",
  };
}

/** Draws as a shape; a note's own draw stands while it sounds. `loopTicks` is 0 where the rate is moved. */
export function drawsProgram(m: Random, base: TimeBase, loopTicks: number, seed: number): CompiledShape {
  const { rate } = m.times;
  const synced = isSynced(rate);
  const ofNote = m.choices.draws === "note";
  const period = ofNote ? Infinity : synced ? spanTicks(rate, base) : spanMs(rate, base) / 1000;
  const inLoop = synced && !ofNote ? loopTicks / period : 0;
  const around = Math.abs(inLoop - Math.round(inLoop)) < 1e-6 ? Math.round(inLoop) : 0;
  return {
    ...curveOf(FLAT),
    draws: compileDraws(m, hash32(seed, m.values.take), around),
    restart: "song",
    synced,
    period,
    smoothingSec: m.values.smoothing / 1000,
  };
}

/** What follows the notes of a pass as a shape over the whole of it; `shape` is the envelope of their level. */
export function followerProgram(
  m: Follower,
  base: TimeBase,
  loopTicks: number,
  notes: readonly NoteEvent[],
  shape: Envelope | null,
): CompiledShape {
  const { lowest, highest, held } = m.values;
  const ticks = (ms: number): number => (ms / 1000) * ticksPerSecond(base.tempoBpm);
  const inTicks = (span: Span): number => ticks(spanMs(span, base));
  const follower = compileFollower(
    notes.filter((n) => n.key >= lowest && n.key <= highest),
    {
      loopTicks,
      heldTicks: held >= FOLLOWER.rows.held.max ? Infinity : ticks(held),
      attackTicks: inTicks(m.times.attack),
      releaseTicks: inTicks(m.times.release),
      alike: m.choices.level === "alike",
      shape: shape && m.choices.level === "shaped" ? envelopeProgram(shape, base, DECLICKED) : null,
      ticksPerSec: ticksPerSecond(base.tempoBpm),
    },
  );
  return {
    ...curveOf(FLAT),
    follower,
    restart: "song",
    synced: true,
    period: loopTicks,
  };
}

/** Jumps of an automation settle within this, so that they do not click. */
const AUTOMATION_SMOOTHING_SEC = 0.003;

/** Break points over the loop as a shape that all notes share. */
export const automationProgram = (m: Automation, loopTicks: number): CompiledShape => ({
  ...curveOf(m.data.points),
  restart: "song",
  synced: true,
  period: loopTicks,
  smoothingSec: AUTOMATION_SMOOTHING_SEC,
});
