import type { Arpeggio, Note } from "../patch/project";
import { TICKS_PER_WHOLE } from "../time/noteValue";
import { swingTick, type Swing } from "../time/swing";
import { hash32 } from "./chance";
import type { NoteEvent } from "./noteEvent";

/** Addresses the arpeggio's draws apart from others made from the same seed. */
const RANDOM_ORDER = 0xa4;

/** Notes that an arpeggio plays in one pass at the most: sixteen times what a part holds. */
export const MAX_EVENTS = 65_536;

export interface Arpeggiated {
  readonly events: NoteEvent[];
  /** Whether there would be more than MAX_EVENTS: the pattern then stops before the loop ends. */
  readonly cut: boolean;
}

interface Held {
  readonly key: number;
  readonly velocity: number;
}

/** One cycle of keys over all octaves, in the order they are played. `held` comes in the order it was played. */
function cycleOf(held: readonly Held[], order: Arpeggio["order"], octaves: number): Held[] {
  const base = order === "asPlayed" ? [...held] : [...held].sort((a, b) => a.key - b.key);
  const rising = Array.from({ length: octaves }, (_, o) => base.map((h) => ({ ...h, key: h.key + 12 * o })))
    .flat()
    .filter((h) => h.key <= 127);
  if (order === "down") return rising.reverse();
  // Up and down plays its top and bottom once: 1 2 3 2, common practice.
  if (order === "upDown") return [...rising, ...rising.slice(1, -1).reverse()];
  return rising;
}

/** The keys that a step plays from one cycle; `inOrder` counts steps since the order last started again. */
function stepKeys(cycle: readonly Held[], arp: Arpeggio, inOrder: number, step: number, seed: number): readonly Held[] {
  if (arp.order === "chord") return cycle;
  const at = arp.order === "random" ? hash32(seed, RANDOM_ORDER, step) % cycle.length : inOrder % cycle.length;
  return [cycle[at]!];
}

/**
 * The notes that an arpeggio plays over [0, loopTicks): a pure function of held notes, settings and seed. A step takes
 * the notes that sound at its straight position; swing then moves it. In random order each step draws anew from the
 * seed; every pass of the loop draws the same. Gates over 100 % overlap the next step. It stops at MAX_EVENTS.
 */
export function arpeggiate(
  notes: readonly Note[],
  arp: Arpeggio,
  songSwing: Swing,
  loopTicks: number,
  seed: number,
): Arpeggiated {
  // Steps are placed from the fraction itself and rounded once: sevenths and ninths would drift otherwise.
  const stepTick = (step: number): number => (step * arp.rate.num * TICKS_PER_WHOLE) / arp.rate.den;
  const swing = arp.swingFrom === "own" ? { ...songSwing, percent: arp.swing, gridTicks: stepTick(1) } : songSwing;
  const inOrderOfPlay = [...notes].sort((a, b) => a.startTick - b.startTick || a.key - b.key);
  const events: NoteEvent[] = [];
  let next = 0;
  let held: Note[] = [];
  let cycle: Held[] = [];
  for (let step = 0; Math.round(stepTick(step)) < loopTicks; step++) {
    const tick = stepTick(step);
    const before = held;
    if (held.some((n) => tick >= n.startTick + n.lengthTicks))
      held = held.filter((n) => tick < n.startTick + n.lengthTicks);
    for (; next < inOrderOfPlay.length && inOrderOfPlay[next]!.startTick <= tick; next++) {
      const n = inOrderOfPlay[next]!;
      if (tick < n.startTick + n.lengthTicks) held = [...held, n];
    }
    if (held !== before) {
      const unique = new Map(held.map((n) => [n.key, { key: n.key, velocity: n.velocity }]));
      cycle = cycleOf([...unique.values()], arp.order, arp.octaves);
    }
    if (cycle.length === 0) continue;
    const onTick = swingTick(tick, swing);
    const stepLength = swingTick(stepTick(step + 1), swing) - onTick;
    const offTick = onTick + Math.max(1, Math.round((stepLength * arp.gate) / 100));
    for (const h of stepKeys(cycle, arp, step % arp.length, step, seed)) {
      if (events.length === MAX_EVENTS) return { events, cut: true };
      events.push({ onTick, offTick, key: h.key, velocity: h.velocity });
    }
  }
  return { events, cut: false };
}
