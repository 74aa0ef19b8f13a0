import { bend, bendScale, tensionExponent } from "./bend";

/** An envelope in seconds, with each stage's curvature. Sustain is 0 to 1; times are at least 0. */
export interface CompiledEnvelope {
  readonly attackSec: number;
  readonly decaySec: number;
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
  attackSec: number;
  decaySec: number;
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

/** Value while the key is held, `sec` after note-on. */
function heldAt(e: CompiledEnvelope, sec: number): number {
  if (sec < e.attackSec) return bend(sec / e.attackSec, e.attackK, e.attackScale);
  const inDecay = sec - e.attackSec;
  if (inDecay < e.decaySec) return 1 - (1 - e.sustain) * bend(inDecay / e.decaySec, e.decayK, e.decayScale);
  return e.sustain;
}

/** Value 0 to 1 at `sec` after note-on. `offSec` is when the key was let go, Infinity while it is held. */
export function envelopeAt(e: CompiledEnvelope, sec: number, offSec: number): number {
  if (sec < offSec) return heldAt(e, sec);
  const inRelease = sec - offSec;
  if (inRelease >= e.releaseSec) return 0;
  return heldAt(e, offSec) * (1 - bend(inRelease / e.releaseSec, e.releaseK, e.releaseScale));
}
