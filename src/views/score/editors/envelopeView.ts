import { compileEnvelope, envelopeAt } from "@/core/curve/envelope";
import type { Envelope } from "@/core/patch/kinds/envelope";
import { spanMs, type TimeBase } from "@/core/time/span";

/** An envelope laid out for drawing: where its stages end, in milliseconds, with a stretch of held sustain between. */
export interface EnvelopeView {
  readonly delayMs: number;
  /** The time at full after the attack. */
  readonly fullMs: number;
  readonly attackMs: number;
  readonly decayMs: number;
  readonly holdMs: number;
  readonly releaseMs: number;
  readonly totalMs: number;
}

/** Share of the picture that the held part takes. */
const HOLD_SHARE = 0.18;

/** `shared` by all notes, it is not let go. */
export function viewOf(e: Envelope, base: TimeBase, shared = false): EnvelopeView {
  const { delay, attack, hold, decay, release } = e.times;
  const [delayMs, attackMs, fullMs, decayMs] = [delay, attack, hold, decay].map((s) => spanMs(s, base)) as [number, number, number, number]; // prettier-ignore
  const releaseMs = shared ? 0 : spanMs(release, base);
  const moving = delayMs + attackMs + fullMs + decayMs + releaseMs;
  const holdMs = (Math.max(20, moving) * HOLD_SHARE) / (1 - HOLD_SHARE);
  return { delayMs, attackMs, fullMs, decayMs, holdMs, releaseMs, totalMs: (moving + holdMs) * 1.04 };
}

/** When the key is let go in the picture. */
const heldMs = (v: EnvelopeView): number => v.delayMs + v.attackMs + v.fullMs + v.decayMs + v.holdMs;

/** The envelope as it is drawn: value at a time, the key being let go at the end of the held part. */
export function drawnEnvelope(e: Envelope, v: EnvelopeView): (ms: number) => number {
  const compiled = compileEnvelope({
    delaySec: v.delayMs / 1000,
    holdSec: v.fullMs / 1000,
    loop: e.choices.loop,
    attackSec: v.attackMs / 1000,
    decaySec: v.decayMs / 1000,
    sustain: e.values.sustain / 100,
    releaseSec: v.releaseMs / 1000,
    attackCurve: e.values.attackCurve,
    decayCurve: e.values.decayCurve,
    releaseCurve: e.values.releaseCurve,
  });
  const offSec = heldMs(v) / 1000;
  return (ms) => envelopeAt(compiled, ms / 1000, offSec);
}

/** Where the picture stands for an envelope that all notes share, `sec` after it started: round and round what loops. */
export function sharedTimeMs(v: EnvelopeView, loop: Envelope["choices"]["loop"], sec: number): number {
  const ms = sec * 1000;
  if (loop === "none") return drawnTimeMs(v, sec, Infinity);
  const before = loop === "all" ? v.delayMs : v.delayMs + v.attackMs + v.fullMs;
  return before + (ms % (heldMs(v) - v.holdMs - before));
}

/** Where the picture stands for a note that has sounded for `sec` and was let go at `offSec` (Infinity while held). */
export function drawnTimeMs(v: EnvelopeView, sec: number, offSec: number): number {
  const heldEnd = heldMs(v);
  if (sec < offSec) return Math.min(sec * 1000, heldEnd);
  return Math.min(v.totalMs, heldEnd + (sec - offSec) * 1000);
}
