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

/** Value while the key is held, `sec` after note-on. */
function heldAt(e: CompiledEnvelope, sec: number): number {
  let t = sec - e.delaySec;
  if (t < 0) return 0;
  let floor = 0;
  const cycle = loopSec(e);
  const before = e.loop === "decay" ? e.attackSec + e.holdSec : 0;
  if (cycle > 0 && t >= before + cycle) {
    t = before + ((t - before) % cycle);
    floor = e.sustain;
  }
  if (t < e.attackSec) return floor + (1 - floor) * bend(t / e.attackSec, e.attackK, e.attackScale);
  t -= e.attackSec;
  if (t < e.holdSec) return 1;
  t -= e.holdSec;
  if (t >= e.decaySec) return e.sustain;
  const fallen = 1 - (1 - e.sustain) * bend(t / e.decaySec, e.decayK, e.decayScale);
  const back = e.loop === "decay" ? Math.min(RETURN_SEC, e.decaySec / 10) : 0;
  const left = e.decaySec - t;
  return left < back ? fallen + (1 - fallen) * (1 - left / back) : fallen;
}

/** The next time after `sec`, in seconds after note-on, at which a held envelope turns a corner; Infinity for none. */
export function nextTurn(e: CompiledEnvelope, sec: number): number {
  const top = e.delaySec + e.attackSec;
  const flat = top + e.holdSec;
  const end = flat + e.decaySec;
  for (const t of [e.delaySec, top, flat, end]) if (t > sec) return t;
  const cycle = loopSec(e);
  if (cycle <= 0) return Infinity;
  const round = Math.floor((sec - end) / cycle);
  const start = end + round * cycle;
  const turns = e.loop === "all" ? [e.attackSec, e.attackSec + e.holdSec, cycle] : [cycle];
  for (const t of turns) if (start + t > sec) return start + t;
  return start + 2 * cycle;
}

/** Value 0 to 1 at `sec` after note-on. `offSec` is when the key was let go, Infinity while it is held. */
export function envelopeAt(e: CompiledEnvelope, sec: number, offSec: number): number {
  if (sec < offSec) return heldAt(e, sec);
  const inRelease = sec - offSec;
  if (inRelease >= e.releaseSec) return 0;
  return heldAt(e, offSec) * (1 - bend(inRelease / e.releaseSec, e.releaseK, e.releaseScale));
}
