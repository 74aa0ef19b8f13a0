import type { Playing } from "../patch/kinds/playing";
import { isSynced, spanMs, spanTicks, type TimeBase } from "../time/span";
import type { PlayedNote, Slide } from "./noteEvent";

/** How one note sounds at a time: what a part's rule of playing says of it. */
export type OneNoteRule = Pick<Playing, "choices" | "times">;

/** The glide of a rule: ticks where it follows the tempo, else milliseconds. */
export const glideTime = ({ times }: OneNoteRule, base: TimeBase): Pick<Slide, "ticks" | "ms"> =>
  isSynced(times.glide) ? { ticks: spanTicks(times.glide, base), ms: 0 } : { ticks: 0, ms: spanMs(times.glide, base) };

/** The glide between two keys by the rule; undefined when there is none. */
function glideBetween(from: number, to: number, rule: OneNoteRule, base: TimeBase): Slide | undefined {
  const { ticks, ms } = glideTime(rule, base);
  if (from === to || ticks + ms === 0) return undefined;
  const share = rule.choices.glideTime === "octave" ? Math.abs(to - from) / 12 : 1;
  return { from, ticks: ticks * share, ms: ms * share, byRule: true };
}

/**
 * One note at a time, out of notes in order of onset. The newest, highest or lowest of those that are held sounds; when it
 * is let go, the next one of those that are still held sounds again. Where notes overlap, they restart or are tied. A note
 * that begins glides from the one before, the first of the pass from the last, so that every pass is alike. A slide that a
 * note brings itself goes before the rule's. Nothing lasts past the loop's end.
 */
export function oneNote(
  notes: readonly PlayedNote[],
  rule: OneNoteRule,
  song: TimeBase,
  loopTicks: number,
): PlayedNote[] {
  const { priority, overlap, glides } = rule.choices;
  type Mutable = { -readonly [K in keyof PlayedNote]: PlayedNote[K] };
  const out: Mutable[] = [];
  let held: PlayedNote[] = [];
  let current: PlayedNote | null = null;

  const chosen = (): PlayedNote | null => {
    let best: PlayedNote | null = null;
    for (const n of held) {
      const goesBefore =
        best === null || priority === "last" || (priority === "high" ? n.key >= best.key : n.key <= best.key);
      if (goesBefore) best = n;
    }
    return best;
  };
  const choose = (tick: number): void => {
    const next = chosen();
    if (next === current) return;
    const before = out.at(-1);
    if (before) before.offTick = Math.min(before.offTick, tick);
    const overlaps = current !== null && (current.offTick > tick || (next !== null && next.onTick < tick));
    current = next;
    if (next === null || tick >= loopTicks) return;
    const made: Mutable = { ...next, onTick: tick, offTick: Math.min(next.offTick, loopTicks) };
    if (next.onTick < tick) delete made.slide;
    if (overlaps && overlap === "tied") made.tied = true;
    if (!made.slide && before && (glides === "always" || overlaps)) {
      const slide = glideBetween(before.key, made.key, rule, song);
      if (slide) made.slide = slide;
    }
    out.push(made);
  };
  /** Lets go of what ends before `tick`, one moment after another. */
  const letGo = (tick: number): void => {
    for (;;) {
      let off = Infinity;
      for (const n of held) off = Math.min(off, n.offTick);
      if (off > tick || off === Infinity) return;
      held = held.filter((n) => n.offTick > off);
      // What ends where others begin makes way for them; it is not chosen for a moment in between.
      if (off < tick) choose(off);
    }
  };
  for (let i = 0; i < notes.length;) {
    const tick = notes[i]!.onTick;
    letGo(tick);
    for (; i < notes.length && notes[i]!.onTick === tick; i++) held.push(notes[i]!);
    choose(tick);
  }
  letGo(Infinity);
  const [first] = out;
  if (first && !first.slide && glides === "always") {
    const slide = glideBetween(out.at(-1)!.key, first.key, rule, song);
    if (slide) first.slide = slide;
  }
  return out;
}
