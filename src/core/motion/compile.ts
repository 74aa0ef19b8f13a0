import { bend, bendScale, tensionExponent } from "../curve/bend";
import { compileCurve } from "../curve/curve";
import { log2 } from "../dsp/portableMath";
import type { Address } from "../patch/address";
import { addressOfRow, kindOf, modulesOf, type Module, type Modulator } from "../patch/kinds";
import { automatable, jumpsOf } from "../patch/automation";
import { ENVELOPE, type Envelope } from "../patch/kinds/envelope";
import { FOLLOWER, type Follower } from "../patch/kinds/follower";
import { GATE } from "../patch/kinds/gate";
import type { TimeRow } from "../patch/kinds/kind";
import { MACRO, type Macro } from "../patch/kinds/macro";
import { PLAYING } from "../patch/kinds/playing";
import { RANDOM } from "../patch/kinds/random";
import { SHAPE, type Shape } from "../patch/kinds/shape";
import { STEPS, type Steps } from "../patch/kinds/steps";
import type { Patch } from "../patch/project";
import { movesInOctaves } from "../patch/row";
import { NOTE_SOURCES, canTap, targetAt, type NoteSource } from "../patch/targets";
import { hash32, hashText } from "../pattern/chance";
import type { NotesHeard } from "../pattern/starts";
import { spanMs, type Span, type TimeBase } from "../time/span";
import { Feeds, amountAt, type Feed } from "./feeds";
import {
  DECLICKED,
  automationProgram,
  NO_FLOOR,
  drawsProgram,
  envelopeProgram,
  followerProgram,
  restartingAtJumps,
  gateProgram,
  sequenceProgram,
  shapeProgram,
  sharedEnvelopeProgram,
} from "./modulators";
import { isSharedShape, type CompiledShape } from "./shape";
import { addedName, type Added, type EnvelopeOp, type Input, type MotionProgram, type MovedShape, type Op, type Ref, type SumOp, type Use } from "./program"; // prettier-ignore

/** The source of notes that tells their key, and the octaves from middle C to where it stands at 1. */
const KEY = "key" satisfies NoteSource;
const KEY_OCTAVES = 5;

const SIXTEENTH: Span = { unit: "note", num: 1, den: 16 };

const VELOCITY = "velocity" satisfies NoteSource;

/** What MIDI velocities count as, by the rule of playing. */
function velocityResponse(patch: Patch): Float64Array {
  const k = tensionExponent(modulesOf(patch.modules, PLAYING)[0]?.values.velocityCurve ?? 0);
  const scale = bendScale(k);
  return Float64Array.from({ length: 128 }, (_, velocity) => bend(velocity / 127, k, scale));
}

/** What of a modulator is moved, by what it is to the evaluators. */
type Movable = Partial<Record<keyof MovedShape, object>>;
const SHAPE_MOVED: Movable = {
  rate: SHAPE.times.rate,
  phase: SHAPE.rows.phase,
  smoothing: SHAPE.rows.smoothing,
  fadeIn: SHAPE.times.fadeIn,
};
const STEPS_MOVED: Movable = {
  rate: STEPS.times.rate,
  phase: STEPS.rows.phase,
  smoothing: STEPS.rows.smoothing,
  blend: STEPS.rows.blend,
};
const GATE_MOVED: Movable = {
  rate: GATE.times.step,
  attack: GATE.rows.attack,
  release: GATE.rows.tail,
  hold: GATE.rows.hold,
  swing: GATE.rows.swing,
};
const FOLLOWER_MOVED: Movable = { attack: FOLLOWER.times.attack, release: FOLLOWER.times.release };

/**
 * Compiles the motion of a patch. Only what the uses need is compiled, so a modulator that moves nothing costs nothing;
 * sources in `drawn` are compiled all the same. Inputs come before what reads them; a circle is closed by the value of
 * the sub-block before.
 */
export class MotionCompiler {
  private readonly ops: Op[] = [];
  private readonly written = new Map<string, Ref>();
  private readonly feeds: Feeds;
  private readonly targets: Record<string, Ref> = {};
  private readonly adds: Record<string, Added> = {};
  private voiceSlots = 0;
  private sharedSlots = 0;

  constructor(
    private readonly patch: Patch,
    private readonly songModules: readonly Module[],
    private readonly base: TimeBase & { readonly loopTicks: number },
    /** What draws are made from. */
    private readonly seed: number,
    /** What those of the song's modulators are made from: alike in all parts. */
    private readonly songSeed: number,
    /** The envelope that shapes the level: its shortest stages are kept from clicking. */
    private readonly levelEnvelope: string,
    private readonly slides: boolean,
    private readonly notes: NotesHeard,
  ) {
    this.feeds = new Feeds(patch, songModules, levelEnvelope);
  }

  private slot(shared: boolean): Ref {
    return shared ? ~this.sharedSlots++ : this.voiceSlots++;
  }

  /** The slot of a source, so many degrees ahead, after the operations that it depends on. */
  source(id: string, tap = 0): Ref {
    const m = this.feeds.modules.get(id);
    const ahead = canTap(m) ? tap : 0;
    const key = ahead === 0 ? `source:${id}` : `source:${id}@${ahead}`;
    const known = this.written.get(key);
    if (known !== undefined) return known;
    const out = this.slot(!this.feeds.sourcePerNote(id));
    this.written.set(key, out);
    this.modulator(id, m, out, ahead);
    return out;
  }

  private modulator(id: string, m: Module | undefined, out: Ref, ahead: number): void {
    const seed = hash32(this.songModules.some((s) => s.id === id) ? this.songSeed : this.seed, hashText(id));
    switch (m?.kind) {
      case "envelope":
        this.envelope(m, out);
        break;
      case "shape":
      case "steps": {
        const program =
          m.kind === "shape"
            ? shapeProgram(this.lengthened(m), this.base, seed, this.notes.starts)
            : sequenceProgram(m, this.base, seed, this.notes.starts);
        const shared = isSharedShape(m.choices.restart);
        this.shape(m, out, this.restarted(m, program), shared, m.kind === "shape" ? SHAPE_MOVED : STEPS_MOVED, ahead);
        break;
      }
      case "random":
        this.shape(
          m,
          out,
          drawsProgram(
            m,
            this.base,
            this.feeds.isMoved(addressOfRow(m, RANDOM.times.rate)) ? 0 : this.base.loopTicks,
            seed,
          ),
          m.choices.draws === "rate",
          {
            rate: RANDOM.times.rate,
            smoothing: RANDOM.rows.smoothing,
          },
        );
        break;
      case "follower":
        this.shape(m, out, this.followed(this.lengthened(m)), true, FOLLOWER_MOVED);
        break;
      case "gate":
        this.shape(m, out, gateProgram(m, this.base), true, GATE_MOVED);
        break;
      case "macro":
        this.macro(m, out);
        break;
      default:
        this.ops.push({ type: "note", id: NOTE_SOURCES.find((s) => s.id === id)!.id, out, response: id === VELOCITY ? velocityResponse(this.patch) : null }); // prettier-ignore
    }
  }

  private followed(m: Follower): CompiledShape {
    const { played, levelEnvelope } = this.notes;
    const { notesOf } = m.data;
    return followerProgram(m, this.base, this.base.loopTicks, played(notesOf), levelEnvelope(notesOf));
  }

  private macro(m: Macro, out: Ref): void {
    const k = tensionExponent(m.values.curve);
    this.ops.push({
      type: "macro",
      id: m.id,
      out,
      value: this.moved(m, MACRO.rows.value, out < 0) ?? { constant: m.values.value },
      low: m.values.low / 100,
      high: m.values.high / 100,
      k,
      scale: bendScale(k),
    });
  }

  private envelope(m: Envelope, out: Ref): void {
    const shared = out < 0;
    const ref = (row: object): Ref | null => this.moved(m, row, shared);
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
    const envelope = envelopeProgram(this.lengthened(m), this.base, m.id === this.levelEnvelope ? DECLICKED : NO_FLOOR);
    const still = Object.values(moved).every((r) => r === null);
    const snapSec = m.choices.movedTimes === "sixteenths" ? spanMs(SIXTEENTH, this.base) / 1000 : 0;
    const op: EnvelopeOp = { type: "envelope", id: m.id, out, envelope, moved: still ? null : moved, snapSec };
    if (!shared) this.ops.push(op);
    else this.ops.push({ type: "shape", id: m.id, out, shape: sharedEnvelopeProgram(m, this.base, this.notes.starts), moved: null, stages: still ? null : op, table: null }); // prettier-ignore
  }

  /** What has automated times that are at least the shortest that automation gives: nothing times a factor stays nothing. */
  private lengthened<M extends Envelope | Shape | Follower>(m: M): M {
    const least = ([key, time]: [string, TimeRow]): Partial<Record<string, Span>> => {
      const address = addressOfRow(m, time);
      const found = !time.hz && this.feeds.line(address) ? automatable(this.patch, address, this.base) : null;
      return found ? { [key]: { unit: "ms", ms: found.rest } } : {};
    };
    const times = Object.assign({}, ...Object.entries(kindOf(m).times).map(least)) as M["times"];
    return { ...m, times: { ...m.times, ...times } };
  }

  private shape(m: Modulator, out: Ref, shape: CompiledShape, shared: boolean, rows: Movable, ahead = 0): void {
    const ref = (row: object | undefined): Ref | null => (row ? this.moved(m, row, shared) : null);
    const id = ahead === 0 ? m.id : `${m.id}@${ahead}`;
    const moved = {
      rate: this.withKey(m, ref(rows.rate), shared),
      phase: this.ahead(id, ref(rows.phase), ahead, shared),
      smoothing: ref(rows.smoothing),
      fadeIn: ref(rows.fadeIn),
      blend: ref(rows.blend),
      attack: ref(rows.attack),
      release: ref(rows.release),
      hold: ref(rows.hold),
      swing: ref(rows.swing),
    };
    const still = Object.values(moved).every((r) => r === null);
    this.ops.push({
      type: "shape",
      id,
      out,
      shape: { ...shape, phase: shape.phase + ahead / 360 },
      moved: still ? null : moved,
      stages: null,
      table: null,
    });
  }

  /** A shape or a sequence as it runs: what all notes share may start again where its automated rate jumps. */
  private restarted(m: Shape | Steps, shape: CompiledShape): CompiledShape {
    const rate = m.kind === "shape" ? SHAPE.times.rate : STEPS.times.rate;
    const line = this.feeds.line(addressOfRow(m, rate));
    if (m.choices.atJumps === "goesOn" || !line) return shape;
    return restartingAtJumps(shape, jumpsOf(line.data.points, this.base.loopTicks), this.base);
  }

  /** A rate, in octaves from what is set, that goes with the key as far as a shape says; what all notes share does not. */
  private withKey(m: Modulator, rate: Ref | null, shared: boolean): Ref | null {
    if (m.kind !== "shape" || shared || m.values.keyFollow === 0) return rate;
    const out = this.slot(false);
    const octaves = (m.values.keyFollow / 100) * KEY_OCTAVES;
    const slots = [this.source(KEY), ...(rate === null ? [] : [rate])];
    this.ops.push({ type: "sum", id: `${m.id}-follow`, out, base: 0, slots, gains: [octaves, 1].slice(0, slots.length), min: -Infinity, max: Infinity }); // prettier-ignore
    return out;
  }

  /** A moved phase, so many degrees ahead. */
  private ahead(id: string, phase: Ref | null, degrees: number, shared: boolean): Ref | null {
    if (phase === null || degrees === 0) return phase;
    const out = this.slot(shared);
    this.ops.push({ type: "sum", id: `${id}-phase`, out, base: degrees, slots: [phase], gains: [1], min: -Infinity, max: Infinity }); // prettier-ignore
    return out;
  }

  /** The slot of a module's value, `shared` by all notes or each note's own; null when nothing moves it. */
  moved(m: Module, row: object, shared: boolean): Ref | null {
    const address = addressOfRow(m, row);
    return this.feeds.isMoved(address) ? this.target(address, shared) : null;
  }

  isMoved(address: Address): boolean {
    return this.feeds.isMoved(address);
  }

  /** The slot of a moved value: what it is at rest and what its routes add. Octaves count from 0. */
  private target(address: Address, mustBeShared: boolean): Ref {
    const known = this.written.get(address);
    if (known !== undefined) return known;
    const feeds = this.feeds.to(address);
    const shared = mustBeShared || feeds.every((r) => !this.feeds.isPerNote(r.id));
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
    const line = this.line(address, octaves);
    this.sum(address, out, line?.base ?? (octaves ? 0 : found.rest!), feeds, shared, wide ? -Infinity : limits.min, wide ? Infinity : limits.max, line); // prettier-ignore
    return out;
  }

  /**
   * What automates a value: base + gain x slot, in its unit or, where routes move it by octaves, in octaves from what it is
   * at rest. Null where nothing does.
   */
  private line(address: Address, octaves: boolean): { base: number; gain: number; slot: Ref } | null {
    const automation = this.feeds.line(address);
    const found = automation && automatable(this.patch, address, this.base);
    if (!automation || !found) return null;
    const { row, rest } = found;
    const slot = this.slot(true);
    this.ops.push({ type: "shape", id: automation.id, out: slot, shape: automationProgram(automation, this.base.loopTicks), moved: null, stages: null, table: null }); // prettier-ignore
    if (octaves) return { base: log2(row.min / rest), gain: log2(row.max / row.min), slot };
    return { base: row.min, gain: row.max - row.min, slot };
  }

  private sum(
    id: string,
    out: Ref,
    rest: number,
    routes: readonly Feed[],
    shared: boolean,
    min: number,
    max: number,
    line: { readonly slot: Ref; readonly gain: number } | null,
  ): void {
    let base = rest;
    const slots: Ref[] = line ? [line.slot] : [];
    const gains: number[] = line ? [line.gain] : [];
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

  /** What a route adds as far as this feed brings it. */
  private term(r: Feed): Added {
    const whole = this.wholeTerm(r);
    this.adds[addedName(r.id, r.right)] = whole;
    return { base: whole.base * r.share, gain: whole.gain * r.share, slot: whole.slot };
  }

  /** What a route adds with the whole of its amount. */
  private wholeTerm(r: Feed): Added {
    const bipolar = NOTE_SOURCES.some((s) => s.id === r.source && s.bipolar);
    const amountIs = amountAt(r);
    const movedAmount = this.feeds.isMoved(amountIs);
    if (!movedAmount && r.curve === null && r.scaledBy === null && !r.atStart) {
      const slot = this.source(r.source, r.tap);
      const { amount } = r;
      // A bipolar source turns its sign when it is reversed; around rest it already goes both ways.
      if (bipolar) return { base: 0, gain: r.reversed ? -amount : amount, slot };
      if (r.around) return { base: r.reversed ? amount : -amount, gain: (r.reversed ? -2 : 2) * amount, slot };
      return { base: r.reversed ? amount : 0, gain: r.reversed ? -amount : amount, slot };
    }
    const id = addedName(r.id, r.right);
    const key = `term:${id}`;
    const known = this.written.get(key);
    if (known !== undefined) return { base: 0, gain: 1, slot: known };
    const out = this.slot(!this.feeds.isPerNote(r.id));
    this.written.set(key, out);
    const source = this.source(r.source, r.tap);
    const scaledBy = r.scaledBy === null ? null : this.source(r.scaledBy);
    const amount: Input = movedAmount ? this.target(amountIs, !this.feeds.isPerNote(r.id)) : { constant: r.amount };
    this.ops.push({
      type: "term",
      id,
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

  /**
   * A level in dB, shared by all notes or not, with the routes that move it in dB, and the factors of those that move its
   * amplitude. `still` where nothing but factors moves it.
   */
  level(address: Address, rest: number, mustBeShared: boolean): { level: Input; still: boolean; factors: Ref[] } {
    const routes = this.feeds.to(address);
    const inDb = routes.filter((r) => !r.amplitude);
    let level: Input = { constant: rest };
    const line = this.line(address, false);
    if (inDb.length > 0 || line) {
      const shared = mustBeShared || inDb.every((r) => !this.feeds.isPerNote(r.id));
      const out = this.slot(shared);
      this.targets[address] = out;
      level = out;
      this.sum(address, out, line?.base ?? rest, inDb, shared, -Infinity, Infinity, line);
    }
    return { level, still: !line, factors: routes.filter((r) => r.amplitude).map((r) => this.factor(r, mustBeShared)) };
  }

  /** 1 + amount x source in percent of amplitude. */
  private factor(r: Feed, mustBeShared: boolean): Ref {
    const shared = mustBeShared || !this.feeds.isPerNote(r.id);
    const out = this.slot(shared);
    const term = this.term(r);
    const from = shared && term.slot >= 0 ? this.newest(`factor:${r.id}`, term.slot) : term.slot;
    this.ops.push({
      type: "sum",
      id: `factor:${r.id}`,
      out,
      base: 1 + term.base / 100,
      slots: [from],
      gains: [term.gain / 100],
      min: 0,
      max: Infinity,
    });
    return out;
  }

  /** All of it: what the modules read, and the sources that are `drawn` besides. */
  finish(uses: readonly Use[], drawn: readonly string[]): MotionProgram {
    const sources = Object.fromEntries(drawn.map((id) => [id, this.source(id)]));
    const isShared = (op: Op): boolean => op.out < 0;
    return {
      slides: this.slides,
      voiceSlots: this.voiceSlots,
      sharedSlots: this.sharedSlots,
      shared: this.ops.filter(isShared),
      voice: this.ops.filter((op) => !isShared(op)),
      uses,
      sources,
      targets: this.targets,
      adds: this.adds,
    };
  }
}
