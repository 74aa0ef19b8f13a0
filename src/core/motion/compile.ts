import { compileCurve } from "../curve/curve";
import { compileEnvelope, type CompiledEnvelope } from "../curve/envelope";
import { log2 } from "../dsp/portableMath";
import { AMOUNT, addressOf, type Address } from "../patch/address";
import { addressOfRow, kindOf, type Module } from "../patch/kinds";
import { AMP } from "../patch/kinds/amp";
import { ENVELOPE, type Envelope } from "../patch/kinds/envelope";
import type { Gate } from "../patch/kinds/gate";
import { keyOfRow } from "../patch/kinds/kind";
import { SHAPE, type Shape } from "../patch/kinds/shape";
import type { Patch, Route } from "../patch/project";
import { movesInOctaves, type Parameter } from "../patch/row";
import { NOTE_SOURCES, targetAt } from "../patch/targets";
import { gatePoints } from "../pattern/gate";
import { isSynced, spanMs, spanTicks, ticksPerSecond, type TimeBase } from "../time/span";
import { isSharedShape, type CompiledShape } from "./shape";
import type { Input, Op, Ref, SumOp, Use, MotionProgram } from "./program";

/** An envelope in seconds; stages shorter than the floors are stretched to them. */
function envelopeProgram(
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

const NO_FLOOR = { attackSec: 0, releaseSec: 0 };
/** Shorter stages of the envelope that shapes the level would click. */
const DECLICKED = { attackSec: 0.0005, releaseSec: 0.004 };

export function shapeProgram(s: Shape, base: TimeBase): CompiledShape {
  const synced = isSynced(s.times.rate);
  return {
    curve: compileCurve(s.data.points),
    restart: s.choices.restart,
    synced,
    period: synced ? spanTicks(s.times.rate, base) : spanMs(s.times.rate, base) / 1000,
    phase: s.values.phase / 360,
    smoothingSec: s.values.smoothing / 1000,
    once: s.choices.restart === "triggers" || s.choices.restart === "once",
    triggers: s.choices.restart === "triggers" ? s.data.triggers : [],
  };
}

/** The least that smooths the jumps of a gate that a bar cuts short. */
const GATE_SMOOTHING_SEC = 0.001;

/** An envelope that starts with the song, the bar or triggers, as a shape that all notes share: its stages once, or its loop. */
export function sharedEnvelopeProgram(e: Envelope, base: TimeBase): CompiledShape {
  const { restart, loop } = e.choices;
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
    points.push({ x: i === stages.length - 1 ? 1 : Math.min(1, at / period), y: to, tension: stages[i + 1]?.[2] ?? 0 });
  });
  return {
    curve: compileCurve(points),
    restart: restart === "note" ? "song" : restart,
    synced: false,
    period,
    phase: 0,
    smoothingSec: GATE_SMOOTHING_SEC,
    once: loop === "none",
    triggers: restart === "triggers" ? e.data.triggers : [],
  };
}

/** A gate as a shape that all notes share. */
export function gateProgram(g: Gate, base: TimeBase): CompiledShape {
  const { attack, hold, tail, swing } = g.values;
  const ticksPerMs = ticksPerSecond(base.tempoBpm) / 1000;
  const stepLength = isSynced(g.times.step) ? spanTicks(g.times.step, base) : spanMs(g.times.step, base) * ticksPerMs;
  const shape = { steps: g.data.steps, stepLength, attack: attack * ticksPerMs, hold: hold / 100, tail: tail * ticksPerMs, swing: swing / 100 }; // prettier-ignore
  return {
    curve: compileCurve(gatePoints(shape)),
    restart: g.choices.restart,
    synced: true,
    period: stepLength * g.data.steps.length,
    phase: 0,
    smoothingSec: GATE_SMOOTHING_SEC,
    once: false,
    triggers: [],
  };
}

/** What feeds an address: the routes to it that are on. */
type Feeds = ReadonlyMap<Address, readonly Route[]>;

/**
 * Compiles the motion of a patch. Only what the uses need is compiled, so a modulator that moves nothing costs nothing;
 * sources in `drawn` are compiled all the same. Inputs come before what reads them; a circle is closed by the value of
 * the sub-block before.
 */
export class MotionCompiler {
  private readonly ops: Op[] = [];
  private readonly written = new Map<string, Ref>();
  private readonly feeds: Feeds;
  private readonly uses: Use[] = [];
  private readonly modules: ReadonlyMap<string, Module>;
  private readonly perNote: ReadonlyMap<string, boolean>;
  private readonly targets: Record<string, Ref> = {};
  private voiceSlots = 0;
  private sharedSlots = 0;

  constructor(
    private readonly patch: Patch,
    private readonly songModules: readonly Module[],
    private readonly base: TimeBase,
    /** The envelope that shapes the level: its shortest stages are kept from clicking. */
    private readonly levelEnvelope: string,
    private readonly slides: boolean,
  ) {
    this.modules = new Map([...songModules, ...patch.modules].map((m) => [m.id, m]));
    const feeds = new Map<Address, Route[]>();
    for (const r of patch.routes) {
      if (r.on && this.isOn(r.source)) feeds.set(r.target, [...(feeds.get(r.target) ?? []), r]);
    }
    this.feeds = feeds;
    this.perNote = this.findPerNote();
  }

  private isOn(source: string): boolean {
    return this.modules.get(source)?.on ?? true;
  }

  /** Which routes bring a value of each note's own. Amounts may depend on routes in a circle, so this is repeated until it stands. */
  private findPerNote(): ReadonlyMap<string, boolean> {
    const known = new Map(this.patch.routes.map((r) => [r.id, false]));
    for (let changed = true; changed;) {
      changed = false;
      for (const r of this.patch.routes) {
        if (known.get(r.id)) continue;
        const amounts = this.feeds.get(addressOf(r.id, AMOUNT)) ?? [];
        const own =
          r.atStart ||
          this.sourcePerNote(r.source) ||
          (r.scaledBy !== null && this.sourcePerNote(r.scaledBy)) ||
          amounts.some((a) => known.get(a.id));
        if (own) {
          known.set(r.id, true);
          changed = true;
        }
      }
    }
    return known;
  }

  private sourcePerNote(id: string): boolean {
    const m = this.modules.get(id);
    if (m?.kind === "gate") return false;
    if (m?.kind === "envelope") return !this.isShared(m);
    return m?.kind === "shape" ? !isSharedShape(m.choices.restart) : true;
  }

  /** Whether all notes share an envelope; the one that shapes the level is each note's own. */
  private isShared(m: Envelope): boolean {
    return m.choices.restart !== "note" && m.id !== this.levelEnvelope;
  }

  private slot(shared: boolean): Ref {
    return shared ? ~this.sharedSlots++ : this.voiceSlots++;
  }

  /** The slot of a source, after the operations that it depends on. */
  private source(id: string): Ref {
    const key = `source:${id}`;
    const known = this.written.get(key);
    if (known !== undefined) return known;
    const out = this.slot(!this.sourcePerNote(id));
    this.written.set(key, out);
    const m = this.modules.get(id);
    if (m?.kind === "envelope" && this.isShared(m))
      this.ops.push({ type: "shape", id, out, shape: sharedEnvelopeProgram(m, this.base), moved: null, cycles: null });
    else if (m?.kind === "envelope") this.envelope(m, out);
    else if (m?.kind === "shape") this.shape(m, out);
    else if (m?.kind === "gate")
      this.ops.push({ type: "shape", id, out, shape: gateProgram(m, this.base), moved: null, cycles: null });
    else this.ops.push({ type: "note", id: NOTE_SOURCES.find((s) => s.id === id)!.id, out });
    return out;
  }

  private envelope(m: Envelope, out: Ref): void {
    const ref = (row: object): Ref | null => this.movedOnly(m, row, false);
    const moved = {
      delay: ref(ENVELOPE.times.delay),
      hold: ref(ENVELOPE.times.hold),
      attack: ref(ENVELOPE.times.attack),
      decay: ref(ENVELOPE.times.decay),
      release: ref(ENVELOPE.times.release),
      sustain: ref(ENVELOPE.rows.sustain),
      attackCurve: ref(ENVELOPE.rows.attackCurve),
      decayCurve: ref(ENVELOPE.rows.decayCurve),
      releaseCurve: ref(ENVELOPE.rows.releaseCurve),
    };
    const envelope = envelopeProgram(m, this.base, m.id === this.levelEnvelope ? DECLICKED : NO_FLOOR);
    const still = Object.values(moved).every((r) => r === null);
    this.ops.push({ type: "envelope", id: m.id, out, envelope, moved: still ? null : moved });
  }

  private shape(m: Shape, out: Ref): void {
    const shared = isSharedShape(m.choices.restart);
    const ref = (row: object): Ref | null => this.movedOnly(m, row, shared);
    const moved = { rate: ref(SHAPE.times.rate), phase: ref(SHAPE.rows.phase), smoothing: ref(SHAPE.rows.smoothing) };
    const still = Object.values(moved).every((r) => r === null);
    this.ops.push({
      type: "shape",
      id: m.id,
      out,
      shape: shapeProgram(m, this.base),
      moved: still ? null : moved,
      cycles: null,
    });
  }

  /** The slot of a modulator's own value; null when nothing moves it. */
  private movedOnly(m: Module, row: object, shared: boolean): Ref | null {
    const address = addressOfRow(m, row);
    return this.feeds.has(address) ? this.target(address, shared) : null;
  }

  /** The slot of a moved value: what it is at rest and what its routes add. Octaves count from 0. */
  private target(address: Address, mustBeShared: boolean): Ref {
    const known = this.written.get(address);
    if (known !== undefined) return known;
    const feeds = this.feeds.get(address)!;
    const shared = mustBeShared || feeds.every((r) => !this.perNote.get(r.id));
    const out = this.slot(shared);
    this.written.set(address, out);
    this.targets[address] = out;
    const found = targetAt(this.patch, this.songModules, address)!;
    const { reach } = found.move;
    const octaves = movesInOctaves(found.move, found.row);
    const limits = octaves ? { min: -Infinity, max: Infinity } : (found.row ?? { min: -reach, max: reach });
    // Levels and pitches may be moved past what is set by hand, and angles go round; a detune stays one.
    const { row } = found;
    const wide = row !== null && (["dB", "st", "°"].includes(row.unit) || (row.unit === "ct" && row.min < 0));
    this.sum(
      address,
      out,
      octaves ? 0 : found.rest!,
      feeds,
      shared,
      wide ? -Infinity : limits.min,
      wide ? Infinity : limits.max,
    );
    return out;
  }

  private sum(
    id: string,
    out: Ref,
    rest: number,
    routes: readonly Route[],
    shared: boolean,
    min: number,
    max: number,
  ): void {
    let base = rest;
    const slots: Ref[] = [];
    const gains: number[] = [];
    for (const r of routes) {
      const term = this.term(r);
      base += term.base;
      slots.push(shared && term.slot >= 0 ? this.newest(r.id, term.slot) : term.slot);
      gains.push(term.gain);
    }
    this.ops.push({ type: "sum", id, out, base, slots, gains, min, max } satisfies SumOp);
  }

  /** A shared value that is fed by a note's takes after the newest note. */
  private newest(id: string, from: Ref): Ref {
    const out = this.slot(true);
    this.ops.push({ type: "newest", id, out, from });
    return out;
  }

  /** What a route adds: base + gain x slot. */
  private term(r: Route): { base: number; gain: number; slot: Ref } {
    const bipolar = NOTE_SOURCES.some((s) => s.id === r.source && s.bipolar);
    const amountAt = addressOf(r.id, AMOUNT);
    const movedAmount = this.feeds.has(amountAt);
    if (!movedAmount && r.curve === null && r.scaledBy === null && !r.atStart) {
      const slot = this.source(r.source);
      // A bipolar source turns its sign when it is reversed; around rest it already goes both ways.
      if (bipolar) return { base: 0, gain: r.reversed ? -r.amount : r.amount, slot };
      if (r.around) return { base: r.reversed ? r.amount : -r.amount, gain: (r.reversed ? -2 : 2) * r.amount, slot };
      return { base: r.reversed ? r.amount : 0, gain: r.reversed ? -r.amount : r.amount, slot };
    }
    const key = `term:${r.id}`;
    const known = this.written.get(key);
    if (known !== undefined) return { base: 0, gain: 1, slot: known };
    const out = this.slot(!this.perNote.get(r.id));
    this.written.set(key, out);
    const source = this.source(r.source);
    const scaledBy = r.scaledBy === null ? null : this.source(r.scaledBy);
    const amount: Input = movedAmount ? this.target(amountAt, !this.perNote.get(r.id)) : { constant: r.amount };
    this.ops.push({
      type: "term",
      id: r.id,
      out,
      source,
      bipolar,
      reversed: r.reversed,
      around: r.around,
      amount,
      curve: r.curve === null ? null : compileCurve(r.curve),
      scaledBy,
      scaleBipolar: NOTE_SOURCES.some((s) => s.id === r.scaledBy && s.bipolar),
      atStart: r.atStart,
    });
    return { base: 0, gain: 1, slot: out };
  }

  /** A value as a module's runtime reads it: its slot where it is moved, else what is set. Octaves count from 0. */
  private input(m: Module, row: Parameter): Input {
    const address = addressOfRow(m, row);
    if (this.feeds.has(address)) return this.target(address, false);
    const values: Readonly<Record<string, number>> = m.values;
    return { constant: movesInOctaves(row.move, row) ? 0 : values[keyOfRow(kindOf(m).rows, row)]! };
  }

  private use(use: Use): number {
    return this.uses.push(use) - 1;
  }

  plain(m: Module, row: Parameter): number {
    return this.use({ address: addressOfRow(m, row), form: "plain", value: this.input(m, row) });
  }

  /** A value that nothing moves, whatever the row says. */
  constant(m: Module, row: Parameter, value: number): number {
    return this.use({ address: addressOfRow(m, row), form: "plain", value: { constant: value } });
  }

  /** As `plain`; null where the value stands at its default and nothing moves it. */
  optional(m: Module, row: Parameter): number | null {
    const values: Readonly<Record<string, number>> = m.values;
    const stands = values[keyOfRow(kindOf(m).rows, row)] === row.default && !this.feeds.has(addressOfRow(m, row));
    return stands ? null : this.plain(m, row);
  }

  /**
   * MIDI key of a source: by the note that plays and `apart` from it in semitones, or `fixed`; then by its rows of semitones
   * and cents.
   */
  pitch(
    m: Module,
    rows: { readonly pitch: Parameter; readonly fine: Parameter },
    fixed: number | null,
    apart: number,
  ): number {
    return this.use({
      address: addressOfRow(m, rows.pitch),
      form: "pitch",
      follows: fixed === null,
      base: fixed ?? apart,
      semitones: this.input(m, rows.pitch),
      cents: this.input(m, rows.fine),
    });
  }

  /** log2 of a frequency; with `follow`, the row of its key follow. */
  hz(m: Module, row: Parameter, follow?: Parameter): number {
    const values: Readonly<Record<string, number>> = m.values;
    return this.use({
      address: addressOfRow(m, row),
      form: "log2hz",
      rest: log2(values[keyOfRow(kindOf(m).rows, row)]!),
      follow: follow ? this.input(m, follow) : { constant: 0 },
      octaves: this.input(m, row),
      min: log2(row.min),
      max: log2(row.max),
    });
  }

  /** A level in dB with the routes that move it in dB, and those that move its amplitude. */
  private levelOf(address: Address, rest: number, floor: number): Omit<Extract<Use, { form: "level" }>, "form"> {
    const routes = this.feeds.get(address) ?? [];
    const inDb = routes.filter((r) => !r.amplitude);
    let level: Input = { constant: rest };
    if (inDb.length > 0) {
      const shared = inDb.every((r) => !this.perNote.get(r.id));
      const out = this.slot(shared);
      this.targets[address] = out;
      level = out;
      this.sum(address, out, rest, inDb, shared, -Infinity, Infinity);
    }
    const factors = routes.filter((r) => r.amplitude).map((r) => this.factor(r));
    return { address, level, off: rest <= floor, floor, factors };
  }

  /** The gain of a source, by its row of dB. */
  level(m: Module, row: Parameter): number {
    const values: Readonly<Record<string, number>> = m.values;
    const rest = values[keyOfRow(kindOf(m).rows, row)]!;
    return this.use({ form: "level", ...this.levelOf(addressOfRow(m, row), rest, row.min) });
  }

  /** `copies` voices of a note together are as loud as one. */
  gain(m: Extract<Module, { kind: "amp" }>, copies: number): number {
    const level = this.levelOf(addressOfRow(m, AMP.rows.level), m.values.level, AMP.rows.level.min);
    return this.use({
      ...level,
      form: "gain",
      envelope: this.source(m.data.envelope),
      scale: 1 / Math.sqrt(copies),
    });
  }

  /** 1 + amount x source in percent of amplitude. */
  private factor(r: Route): Ref {
    const shared = !this.perNote.get(r.id);
    const out = this.slot(shared);
    const term = this.term(r);
    this.ops.push({
      type: "sum",
      id: `factor:${r.id}`,
      out,
      base: 1 + term.base / 100,
      slots: [term.slot],
      gains: [term.gain / 100],
      min: 0,
      max: Infinity,
    });
    return out;
  }

  finish(drawn: readonly string[]): MotionProgram {
    const sources = Object.fromEntries(drawn.map((id) => [id, this.source(id)]));
    return {
      slides: this.slides,
      voiceSlots: this.voiceSlots,
      sharedSlots: this.sharedSlots,
      shared: this.ops.filter((o) => o.out < 0),
      voice: this.ops.filter((o) => o.out >= 0),
      uses: this.uses,
      sources,
      targets: this.targets,
    };
  }
}
