import { patchHeard } from "../patch/layers";
import { SHORTEST_MS } from "../patch/automation";
import { addressOfRow, modulesOf } from "../patch/kinds";
import { adjusted } from "../patch/kinds/kind";
import { PLAYING, type Playing } from "../patch/kinds/playing";
import { MAX_NOTES, MAX_PARTS, type Note, type Part, type Patch, type Song } from "../patch/project";
import type { Key } from "../pitch/note";
import { keysOfNote, type NoteChord } from "../pitch/noteChord";
import { barTicks } from "../time/meter";
import { TICKS_PER_WHOLE, noteValueTicks } from "../time/noteValue";
import { ticksPerSecond } from "../time/span";
import { straightTick, swingTick, type Swing } from "../time/swing";
import { arpeggiate, arpeggioSteps, type ArpeggioSong, type Step } from "./arpeggio";
import { hash01, hash32, hashText } from "./chance";
import type { PlayedNote } from "./noteEvent";
import { oneNote } from "./oneNote";

export const loopTicks = (song: Song): number => song.loopBars * barTicks(song.meter);

/** Position and speed of a song, as shapes that all notes share are worked out by. */
export const songFrame = (song: Song): { loopTicks: number; barTicks: number; ticksPerSec: number } => ({
  loopTicks: loopTicks(song),
  barTicks: barTicks(song.meter),
  ticksPerSec: ticksPerSecond(song.tempoBpm),
});

/** The swing of a song. */
export const songSwing = (song: Song): Swing => ({
  percent: song.swing.percent,
  gridTicks: TICKS_PER_WHOLE / song.swing.grid,
  barTicks: barTicks(song.meter),
});

const arpeggioSong = (song: Song): ArpeggioSong => ({
  swing: songSwing(song),
  loopTicks: loopTicks(song),
  key: song.key,
});

/** The steps of a part's arpeggio in one pass: what its lanes are drawn over. */
export const stepsOfPart = (part: Pick<Pattern, "notes" | "noteChord" | "arpeggio">, song: Song): Step[] =>
  arpeggioSteps(withChords(part.notes, part.noteChord, song.key), part.arpeggio, arpeggioSong(song));

/** The seed of a part's draws: parts with the same settings draw apart. */
export const partSeed = (seed: number, part: Pick<Part, "id">): number => hash32(seed, hashText(part.id));

/** The half of a part that decides what is played. */
export type Pattern = Pick<Part, "id" | "notes" | "noteChord" | "arpeggio" | "patch"> & {
  /** How another part's pattern is played: transposed, and so many ticks later. */
  readonly shift?: { readonly semitones: number; readonly ticks: number };
};

/** What a part plays: its own pattern, or that of the part that it follows, by its own rule of playing. */
export function patternOf(part: Part, parts: readonly Part[]): Pattern {
  const { follows } = part;
  const patch = patchHeard(part, parts);
  const other = follows && parts.find((p) => p.id === follows.part);
  if (!other) return part;
  const { id, notes, noteChord, arpeggio } = other;
  const ticks = follows.later ? noteValueTicks(follows.later) : 0;
  return { id, notes, noteChord, arpeggio, patch, shift: { semitones: follows.semitones, ticks } };
}

const isKey = (key: number): boolean => key >= 0 && key <= 127;

/** Notes transposed and moved later; what would begin past the end of the pass begins as much after its start. */
function shifted(
  events: readonly PlayedNote[],
  { semitones, ticks }: NonNullable<Pattern["shift"]>,
  end: number,
): PlayedNote[] {
  return events
    .map(({ slide, ...e }): PlayedNote => {
      const onTick = (e.onTick + ticks) % end;
      const moved = { ...e, onTick, offTick: onTick + e.offTick - e.onTick, key: e.key + semitones };
      if (!slide) return moved;
      const from = slide.from + semitones;
      return isKey(from) ? { ...moved, slide: { ...slide, from } } : moved;
    })
    .filter((e) => isKey(e.key))
    .sort((a, b) => a.onTick - b.onTick);
}

/** The rule by which a part plays one note at a time; null where it plays chords. */
export function oneNoteRule(patch: Patch): Playing | null {
  const playing = modulesOf(patch.modules, PLAYING)[0];
  if (playing?.choices.voices !== "one") return null;
  const address = addressOfRow(playing, PLAYING.times.glide);
  return patch.modules.some((m) => m.kind === "automation" && m.data.target === address) ? audible(playing) : playing;
}

const glidesOfRules = new WeakMap<Playing, Playing>();

/** A rule whose glide lasts at least as long as the shortest that automation gives: nothing times a factor stays nothing. */
function audible(rule: Playing): Playing {
  const { glide } = rule.times;
  if (glide.unit !== "ms" || glide.ms >= SHORTEST_MS) return rule;
  const known = glidesOfRules.get(rule);
  if (known) return known;
  const made = adjusted(rule, { times: { glide: { unit: "ms", ms: SHORTEST_MS } } });
  glidesOfRules.set(rule, made);
  return made;
}

/** What the events of a part were last made from, and what came out: an edit of anything else gives the same list. */
interface Played {
  readonly arpeggio: Part["arpeggio"];
  readonly noteChord: Part["noteChord"];
  readonly rule: Playing | null;
  readonly meter: Song["meter"];
  readonly loopBars: number;
  readonly swing: Song["swing"];
  readonly key: Song["key"];
  readonly seed: number;
  readonly semitones: number;
  readonly later: number;
  readonly events: readonly PlayedNote[];
  readonly cut: boolean;
}

/** Parts that share their notes, as copies and followers do, have an entry each. */
const played = new WeakMap<readonly Note[], Played[]>();
const MOST_PLAYED = 2 * MAX_PARTS;

/**
 * What a part plays in one pass of the loop, in order of onset, then key. Notes that start at or after the loop's end
 * are silent; one that is held past it ends there, and starts anew on the next pass. The same part and song give the
 * same list.
 */
export const partEvents = (part: Pattern, song: Song, seed: number): readonly PlayedNote[] =>
  play(part, song, seed).events;

/** Whether a part's arpeggio would play more notes than a pass can hold, so that it stops before the loop ends. */
export const isCut = (part: Pattern, song: Song, seed: number): boolean => play(part, song, seed).cut;

function play(part: Pattern, song: Song, seed: number): Played {
  const { arpeggio, noteChord } = part;
  const rule = oneNoteRule(part.patch);
  const { meter, loopBars, swing, key } = song;
  const own = partSeed(seed, part);
  const { semitones, ticks: later } = part.shift ?? { semitones: 0, ticks: 0 };
  const known = played.get(part.notes) ?? [];
  const last = known.find(
    (last) =>
      last.arpeggio === arpeggio &&
      last.noteChord === noteChord &&
      last.rule === rule &&
      last.meter === meter &&
      last.loopBars === loopBars &&
      last.swing === swing &&
      last.key === key &&
      last.seed === own &&
      last.semitones === semitones &&
      last.later === later,
  );
  if (last) return last;
  const { events, cut } = makeEvents(part, song, own);
  const moved = part.shift ? shifted(events, part.shift, loopTicks(song)) : events;
  const made = {
    arpeggio,
    noteChord,
    rule,
    meter,
    loopBars,
    swing,
    key,
    seed: own,
    semitones,
    later,
    events: rule ? oneNote(moved, rule, song, loopTicks(song)) : moved,
    cut,
  };
  played.set(part.notes, [made, ...known].slice(0, MOST_PLAYED));
  return made;
}

/** Addresses the draws of notes' chances apart from others made from the same seed. */
const NOTE_CHANCE = 0x2c;

/** Whether chance lets a note be played: drawn for its place and key. */
const isPlayed = (n: Note, seed: number): boolean =>
  n.chance === undefined || hash01(seed, NOTE_CHANCE, n.startTick, n.key) < n.chance / 100;

/** Notes with the chords that they stand for; a key that several of them bring at once is there once, as the longest. */
function withChords(notes: readonly Note[], chord: NoteChord | null, key: Key): readonly Note[] {
  if (!chord) return notes;
  const made = new Map<string, Note>();
  for (const n of notes)
    for (const k of keysOfNote(n.key, chord, key)) {
      const place = `${n.startTick}:${k}`;
      const there = made.get(place);
      if (!there || there.lengthTicks < n.lengthTicks) made.set(place, { ...n, id: place, key: k });
    }
  return [...made.values()];
}

/** What is played before one note is chosen where one sounds at a time. */
function makeEvents(part: Pattern, song: Song, seed: number): Pick<Played, "events" | "cut"> {
  const end = loopTicks(song);
  const swing = songSwing(song);
  const audible = withChords(
    part.notes.filter((n) => n.startTick < end && isPlayed(n, seed)),
    part.noteChord,
    song.key,
  );
  const { events, cut } = part.arpeggio.on
    ? arpeggiate(audible, part.arpeggio, arpeggioSong(song), seed)
    : {
        events: audible.map((n): PlayedNote => {
          const onTick = swingTick(n.startTick, swing);
          const offTick = Math.min(end, swingTick(n.startTick + n.lengthTicks, swing));
          return {
            onTick,
            offTick: Math.max(onTick + 1, offTick),
            key: n.key,
            velocity: n.velocity,
            freeA: 0,
            freeB: 0,
          };
        }),
        cut: false,
      };
  return { events: events.filter((e) => e.onTick < end).sort((a, b) => a.onTick - b.onTick || a.key - b.key), cut };
}

/**
 * What a part plays in one pass as notes of its own, to be played without the arpeggio: they sound as it did. With swing
 * they may start or end a tick apart from it (half a millisecond at 120 BPM), as positions are whole ticks. At most
 * MAX_NOTES; what the free lanes said is not kept.
 */
export function notesOf(part: Pattern, song: Song, seed: number, newId: () => string): Note[] {
  const swing = songSwing(song);
  const straight = (tick: number): number => straightTick(tick, swing);
  return makeEvents(part, song, partSeed(seed, part))
    .events.slice(0, MAX_NOTES)
    .map(({ onTick, offTick, key, velocity }): Note => {
      const startTick = straight(onTick);
      return { id: newId(), startTick, lengthTicks: Math.max(1, straight(offTick) - startTick), key, velocity };
    });
}

/** The fewest whole bars after which the events repeat within the loop; the loop's own length when they do not. */
export function patternRepeatBars(events: readonly PlayedNote[], song: Song): number {
  const bar = barTicks(song.meter);
  for (let bars = 1; bars < song.loopBars; bars++) {
    if (song.loopBars % bars === 0 && repeatsEvery(events, bars * bar, song.loopBars / bars)) return bars;
  }
  return song.loopBars;
}

function repeatsEvery(events: readonly PlayedNote[], period: number, times: number): boolean {
  if (events.length % times !== 0) return false;
  const perPass = events.length / times;
  return events.every((e, i) => {
    const first = events[i % perPass]!;
    const shift = Math.floor(i / perPass) * period;
    return (
      e.onTick - shift === first.onTick &&
      e.offTick - shift === first.offTick &&
      e.key === first.key &&
      e.velocity === first.velocity &&
      e.freeA === first.freeA &&
      e.freeB === first.freeB &&
      e.tied === first.tied &&
      e.slide?.from === first.slide?.from &&
      e.slide?.ticks === first.slide?.ticks &&
      e.slide?.ms === first.slide?.ms
    );
  });
}
