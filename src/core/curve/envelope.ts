import { bend, bendScale, tensionExponent } from "./bend";

/** Nothing; the decay, from full again each time; or attack, hold and decay, from the sustain on. */
export type EnvelopeLoop = "none" | "decay" | "all";

/** The time in which a decay that loops is back at full, at the end of its cycle: a jump would click. At most a tenth of it. */
const RETURN_SEC = 0.001;

/** An envelope in seconds, with each stage's curvature. Sustain is 0 to 1; times are at least 0. */
export interface CompiledEnvelope {
  readonly delaySec: number;
  readonly attackSec: number;
  readonly holdSec: number;
  readonly decaySec: number;
  /** What is run through again and again while the key is held. */
  readonly loop: EnvelopeLoop;
  readonly sustain: number;
  readonly releaseSec: number;
  readonly attackK: number;
  readonly attackScale: number;
  readonly decayK: number;
  readonly decayScale: number;
  readonly releaseK: number;
  readonly releaseScale: number;
}

/** Curves are tensions in percent, -100 to 100, as in `bend`: positive decays fall fast and settle. */
export function compileEnvelope(e: {
  delaySec?: number;
  attackSec: number;
  holdSec?: number;
  decaySec: number;
  loop?: EnvelopeLoop;
  sustain: number;
  releaseSec: number;
  attackCurve: number;
  decayCurve: number;
  releaseCurve: number;
}): CompiledEnvelope {
  const [attackK, decayK, releaseK] = [e.attackCurve, e.decayCurve, e.releaseCurve].map(tensionExponent) as [
    number,
    number,
    number,
  ];
  return {
    delaySec: e.delaySec ?? 0,
    holdSec: e.holdSec ?? 0,
    loop: e.loop ?? "none",
    attackSec: e.attackSec,
    decaySec: e.decaySec,
    sustain: e.sustain,
    releaseSec: e.releaseSec,
    attackK,
    attackScale: bendScale(attackK),
    decayK,
    decayScale: bendScale(decayK),
    releaseK,
    releaseScale: bendScale(releaseK),
  };
}

/** A loop that is shorter is none: nobody hears it as one, and it would turn corners all the time. */
const SHORTEST_LOOP_SEC = 0.001;

/** Seconds of what is looped; 0 where nothing is. */
export function loopSec(e: CompiledEnvelope): number {
  if (e.loop === "none") return 0;
  const sec = e.decaySec + (e.loop === "all" ? e.attackSec + e.holdSec : 0);
  return sec < SHORTEST_LOOP_SEC ? 0 : sec;
}

/** Value while the key is held, `sec` after note-on. One bend for both curves: so it fits into the loops that call it. */
export function heldAt(e: CompiledEnvelope, sec: number): number {
  let t = sec - e.delaySec;
  if (t < 0) return 0;
  let from = 0;
  const cycle = loopSec(e);
  const before = e.loop === "decay" ? e.attackSec + e.holdSec : 0;
  if (cycle > 0 && t >= before + cycle) {
    t = before + ((t - before) % cycle);
    from = e.sustain;
  }
  const rises = t < e.attackSec;
  if (!rises) {
    t -= e.attackSec;
    if (t < e.holdSec) return 1;
    t -= e.holdSec;
    if (t >= e.decaySec) return e.sustain;
    from = 1;
  }
  const whole = rises ? e.attackSec : e.decaySec;
  const to = rises ? 1 : e.sustain;
  const value =
    from + (to - from) * bend(t / whole, rises ? e.attackK : e.decayK, rises ? e.attackScale : e.decayScale);
  if (rises || e.loop !== "decay") return value;
  const back = Math.min(RETURN_SEC, whole / 10);
  const left = whole - t;
  return left < back ? value + (1 - value) * (1 - left / back) : value;
}

/** The next time after `sec`, in seconds after note-on, at which a held envelope turns a corner; Infinity for none. */
export function nextTurn(e: CompiledEnvelope, sec: number): number {
  const top = e.delaySec + e.attackSec;
  const flat = top + e.holdSec;
  const end = flat + e.decaySec;
  if (sec < e.delaySec) return e.delaySec;
  if (sec < top) return top;
  if (sec < flat) return flat;
  if (sec < end) return end;
  const cycle = loopSec(e);
  if (cycle <= 0) return Infinity;
  const start = end + Math.floor((sec - end) / cycle) * cycle;
  if (e.loop === "all") {
    if (sec < start + e.attackSec) return start + e.attackSec;
    if (sec < start + e.attackSec + e.holdSec) return start + e.attackSec + e.holdSec;
  }
  return sec < start + cycle ? start + cycle : start + 2 * cycle;
}

/** Turns seconds since the key was let go, at a place of a row, into what is left of the value that stood there then. */
export function toLeft(e: CompiledEnvelope, row: Float64Array, at: number): void {
  const sec = row[at]!;
  row[at] = sec >= e.releaseSec ? 0 : 1 - bend(sec / e.releaseSec, e.releaseK, e.releaseScale);
}

/** Value 0 to 1 at `sec` after note-on. `offSec` is when the key was let go, Infinity while it is held. */
export function envelopeAt(e: CompiledEnvelope, sec: number, offSec: number): number {
  if (sec < offSec) return heldAt(e, sec);
  const left = Float64Array.of(sec - offSec);
  toLeft(e, left, 0);
  return heldAt(e, offSec) * left[0]!;
}
