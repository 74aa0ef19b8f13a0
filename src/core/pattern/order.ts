import type { Arpeggio } from "../patch/project";
import { hash32 } from "./chance";

/** Addresses the draws of orders apart from others made from the same seed. */
const RANDOM_ORDER = 0xa4;
const SHUFFLE = 0xa5;

/** A note that is held. */
export interface Held {
  readonly key: number;
  readonly velocity: number;
}

/** Outermost first: lowest, highest, second lowest, second highest and so on to the middle. */
function outsideIn<T>(rising: readonly T[]): T[] {
  const out: T[] = [];
  for (let low = 0, high = rising.length - 1; low <= high; low++, high--) {
    out.push(rising[low]!);
    if (high > low) out.push(rising[high]!);
  }
  return out;
}

/** There and back: the turning notes once each (1 2 3 2), or twice with repeated ends (1 2 3 3 2 1). */
const thereAndBack = <T>(way: readonly T[], repeatEnds: boolean): T[] =>
  repeatEnds ? [...way, ...[...way].reverse()] : [...way, ...way.slice(1, -1).reverse()];

/**
 * One cycle of an order over all its octaves, in the order it is played. `held` comes in the order it was played; keys
 * above 127 are left out. What is drawn by chance, and the drawn order, get the notes from low to high.
 */
export function cycleOf(held: readonly Held[], arp: Pick<Arpeggio, "order" | "octaves" | "repeatEnds">): Held[] {
  const base = arp.order === "asPlayed" ? [...held] : [...held].sort((a, b) => a.key - b.key);
  const rising = Array.from({ length: arp.octaves }, (_, o) => base.map((h) => ({ ...h, key: h.key + 12 * o })))
    .flat()
    .filter((h) => h.key <= 127);
  switch (arp.order) {
    case "down":
      return rising.reverse();
    case "upDown":
      return thereAndBack(rising, arp.repeatEnds);
    case "downUp":
      return thereAndBack(rising.reverse(), arp.repeatEnds);
    case "outsideIn":
      return outsideIn(rising);
    case "insideOut":
      return outsideIn(rising).reverse();
    default:
      return rising;
  }
}

/** The n-th round of a cycle in an order drawn from the seed: each note once, and none twice in a row from round to round. */
function shuffled(cycle: readonly Held[], round: number, seed: number): readonly Held[] {
  const draw = (r: number): Held[] => {
    const out = [...cycle];
    for (let i = out.length - 1; i > 0; i--) {
      const j = hash32(seed, SHUFFLE, r, i) % (i + 1);
      [out[i], out[j]] = [out[j]!, out[i]!];
    }
    return out;
  };
  // Two notes can but take turns.
  if (cycle.length <= 2 || round === 0) return draw(0);
  const out = draw(round);
  // Turning the first two round leaves the last, which the next round looks at, where it is.
  if (draw(round - 1).at(-1) === out[0]) [out[0], out[1]] = [out[1]!, out[0]!];
  return out;
}

/** Places of a step that orders go by. */
export interface OrderPlace {
  /** Notes that the order has played since it last started again. */
  readonly inOrder: number;
  /** The same since the pass began. */
  readonly played: number;
  /** Steps since the pass began. */
  readonly ofPass: number;
  /** The note of the chord that a drawn order names, from 1. */
  readonly pick: number;
}

/** What a step plays from a cycle. A drawn order that names more notes than there are counts on an octave up. */
export function stepKeys(cycle: readonly Held[], arp: Arpeggio, at: OrderPlace, seed: number): readonly Held[] {
  const n = cycle.length;
  switch (arp.order) {
    case "chord":
      return cycle;
    case "random":
      return [cycle[hash32(seed, RANDOM_ORDER, at.ofPass) % n]!];
    case "shuffle":
      return [shuffled(cycle, Math.floor(at.played / n), seed)[at.played % n]!];
    case "drawn": {
      const named = cycle[(at.pick - 1) % n]!;
      return [{ ...named, key: named.key + 12 * Math.floor((at.pick - 1) / n) }];
    }
    default:
      return [cycle[at.inOrder % n]!];
  }
}
