import { PLAY, REST, SLIDE_NOTE, TIE, type LaneId } from "../patch/lanes";
import type { Arpeggio, Note } from "../patch/project";
import { moveInScale, type Key } from "../pitch/note";
import { TICKS_PER_WHOLE, noteValueTicks } from "../time/noteValue";
import { swingTick, type Swing } from "../time/swing";
import { hash01 } from "./chance";
import { laneValue, type StepPlace } from "./lane";
import type { PlayedNote, Slide } from "./noteEvent";
import { cycleOf, stepKeys, type Held } from "./order";

/** Addresses the draws of the chance lane apart from others made from the same seed. */
const LANE_CHANCE = 0x1c;

/** Notes that an arpeggio plays in one pass at the most: sixteen times what a part holds. */
export const MAX_EVENTS = 65_536;

export interface Arpeggiated {
  readonly events: PlayedNote[];
  /** Whether there would be more than MAX_EVENTS: the pattern then stops before the loop ends. */
  readonly cut: boolean;
}

/** What an arpeggio needs to know of the song. */
export interface ArpeggioSong {
  readonly swing: Swing;
  readonly loopTicks: number;
  readonly key: Key;
}

type Mutable<T> = { -readonly [K in keyof T]: T[K] };

/** Notes as a latch holds them: each group of notes until the next one begins after all its keys were let go. */
function latched(inOrderOfPlay: readonly Note[], loopTicks: number): Note[] {
  const out: Note[] = [];
  let group: Note[] = [];
  let released = 0;
  const close = (at: number): void => {
    for (const n of group) out.push({ ...n, lengthTicks: Math.max(n.lengthTicks, at - n.startTick) });
    group = [];
  };
  for (const n of inOrderOfPlay) {
    if (n.startTick >= released) close(n.startTick);
    released = Math.max(released, n.startTick + n.lengthTicks);
    group.push(n);
  }
  close(loopTicks);
  return out;
}

/** Where steps are counted from anew: ticks in rising order, the pass's start first. */
function restartsOf(arp: Arpeggio, inOrderOfPlay: readonly Note[], { swing, loopTicks }: ArpeggioSong): number[] {
  switch (arp.restart) {
    case "loop":
      return [0];
    case "bar":
      return Array.from({ length: loopTicks / swing.barTicks }, (_, bar) => bar * swing.barTicks);
    case "chord":
      return [...new Set([0, ...inOrderOfPlay.map((n) => n.startTick)])].filter((t) => t < loopTicks);
    default:
      return arp.restart satisfies never;
  }
}

/** A step of an arpeggio: where it begins and ends before swing, in ticks that need not be whole. */
export interface Step extends StepPlace {
  readonly tick: number;
  readonly end: number;
}

/** The steps of one pass. */
function stepsOf(arp: Arpeggio, held: readonly Note[], song: ArpeggioSong): Step[] {
  // Steps are placed from the fraction itself and rounded once: sevenths and ninths would drift otherwise.
  const stepTick = (step: number): number => (step * arp.rate.num * TICKS_PER_WHOLE) / arp.rate.den;
  const starts = restartsOf(arp, held, song);
  const steps: Step[] = [];
  starts.forEach((from, s) => {
    const to = starts[s + 1] ?? Infinity;
    for (let count = 0; Math.round(from + stepTick(count)) < Math.min(to, song.loopTicks); count++) {
      const tick = from + stepTick(count);
      const end = Math.min(to, from + stepTick(count + 1));
      steps.push({ tick, end, count, ofPass: steps.length, bar: Math.floor(tick / song.swing.barTicks) });
    }
  });
  return steps;
}

const heldBy = (arp: Arpeggio, notes: readonly Note[], loopTicks: number): readonly Note[] => {
  const inOrderOfPlay = [...notes].sort((a, b) => a.startTick - b.startTick || a.key - b.key);
  return arp.latch ? latched(inOrderOfPlay, loopTicks) : inOrderOfPlay;
};

/** The steps that an arpeggio walks through in one pass, whether notes are held or not: what its lanes are drawn over. */
export const arpeggioSteps = (notes: readonly Note[], arp: Arpeggio, song: ArpeggioSong): Step[] =>
  stepsOf(arp, heldBy(arp, notes, song.loopTicks), song);

/** A key that lanes have moved, brought back by octaves where MIDI has no such key. */
function foldKey(key: number): number {
  let folded = key;
  while (folded > 127) folded -= 12;
  while (folded < 0) folded += 12;
  return folded;
}

/** What a step leads into the next one: its keys, and how long their glide takes. */
interface Lead extends Omit<Slide, "from"> {
  readonly keys: readonly number[];
}

/** Lets notes glide in from the keys of the step before, each from the one at its place; the last one serves those above it. */
function slideInto(notes: Mutable<PlayedNote>[], { keys, ticks, ms }: Lead): void {
  if (ticks + ms === 0 || keys.length === 0) return;
  notes.forEach((e, i) => {
    const from = keys[Math.min(i, keys.length - 1)]!;
    if (from !== e.key) e.slide = { from, ticks, ms };
  });
}

/**
 * The notes that an arpeggio plays over [0, loopTicks): a pure function of held notes, settings and seed. A step takes
 * the notes that sound at its straight position; swing then moves it. A rest uses up no note of the order, a note that
 * chance leaves out does. What is drawn from the seed is addressed by the step or bar, so that every pass draws the same.
 * Gates over 100 % overlap the next step. It stops at MAX_EVENTS.
 */
export function arpeggiate(notes: readonly Note[], arp: Arpeggio, song: ArpeggioSong, seed: number): Arpeggiated {
  const inOrderOfPlay = heldBy(arp, notes, song.loopTicks);
  const gridTicks = (arp.rate.num * TICKS_PER_WHOLE) / arp.rate.den;
  const swing = arp.swingFrom === "own" ? { ...song.swing, percent: arp.swing, gridTicks } : song.swing;
  const events: Mutable<PlayedNote>[] = [];
  let next = 0;
  let held: Note[] = [];
  let cycle: Held[] = [];
  let inOrder = 0;
  let played = 0;
  let ringing: Mutable<PlayedNote>[] = [];
  let lead: Lead = { keys: [], ticks: 0, ms: 0 };
  let first: Mutable<PlayedNote>[] = [];
  for (const step of stepsOf(arp, inOrderOfPlay, song)) {
    const { tick, end, ofPass } = step;
    if (step.count % arp.length === 0) inOrder = 0;
    const before = held;
    if (held.some((n) => tick >= n.startTick + n.lengthTicks))
      held = held.filter((n) => tick < n.startTick + n.lengthTicks);
    for (; next < inOrderOfPlay.length && inOrderOfPlay[next]!.startTick <= tick; next++) {
      const n = inOrderOfPlay[next]!;
      if (tick < n.startTick + n.lengthTicks) held = [...held, n];
    }
    if (held !== before) {
      const unique = new Map(held.map((n) => [n.key, { key: n.key, velocity: n.velocity }]));
      cycle = cycleOf([...unique.values()], arp);
    }
    const value = (id: LaneId, otherwise: number): number => {
      const lane = arp.lanes[id];
      return lane?.on ? laneValue(lane, id, seed, step) : otherwise;
    };
    const gate = value("gate", arp.gate);
    const does = value("play", PLAY);
    if (cycle.length === 0 || does === REST) {
      ringing = [];
      // Silence is no rest that somebody wrote: the order goes on under it.
      if (does === PLAY) inOrder++;
      continue;
    }
    if (does === TIE) {
      const onTick = swingTick(tick, swing);
      const offTick = onTick + Math.max(1, Math.round(((swingTick(end, swing) - onTick) * gate) / 100));
      for (const e of ringing) e.offTick = Math.max(e.offTick, offTick);
      continue;
    }
    const keys = stepKeys(cycle, arp, { inOrder, played, ofPass, pick: value("pick", 1) }, seed);
    inOrder++;
    played++;
    ringing = [];
    const repeats = value("repeats", 1);
    const chance = value("chance", 100) / 100;
    const louder = value("velocity", 100) / 100;
    const up = 12 * value("octave", 0);
    const by = value("transpose", 0);
    const [freeA, freeB] = [value("freeA", 0), value("freeB", 0)];
    const moves = (h: Held): number =>
      foldKey((arp.transposeIn === "degrees" ? moveInScale(h.key, by, song.key) : h.key + by) + up);
    const stepIsFirst = first.length === 0;
    let sounds = false;
    for (let r = 0; r < repeats; r++) {
      if (chance < 1 && hash01(seed, LANE_CHANCE, ofPass, r) >= chance) continue;
      const onTick = swingTick(tick + ((end - tick) * r) / repeats, swing);
      const length = swingTick(tick + ((end - tick) * (r + 1)) / repeats, swing) - onTick;
      const offTick = onTick + Math.max(1, Math.round((length * gate) / 100));
      ringing = [];
      for (const h of keys) {
        if (events.length === MAX_EVENTS) return { events, cut: true };
        const velocity = Math.min(127, Math.max(1, Math.round(h.velocity * louder)));
        const event = { onTick, offTick, key: moves(h), velocity, freeA, freeB };
        events.push(event);
        ringing.push(event);
      }
      if (!sounds) slideInto(ringing, lead);
      if (!sounds && stepIsFirst) first = ringing;
      sounds = true;
    }
    const ticks = value("slide", 0) * noteValueTicks(SLIDE_NOTE);
    if (sounds) lead = { keys: keys.map(moves), ticks, ms: value("slideMs", 0) };
  }
  // The first step of a pass comes after the last one of the pass before.
  slideInto(first, lead);
  return { events, cut: false };
}
