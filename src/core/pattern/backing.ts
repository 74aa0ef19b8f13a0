import { tensionExponent } from "../curve/bend";
import { addressOf } from "../patch/address";
import { newEnvelope } from "../patch/defaults";
import type { Envelope } from "../patch/kinds/envelope";
import { adjusted } from "../patch/kinds/kind";
import { DRUMS, type Drum, type Kit } from "../patch/kinds/kit";
import type { Note, Song } from "../patch/project";
import { spanTicks } from "../time/span";
import { swingTick } from "../time/swing";
import { loopTicks, songSwing } from "./events";
import type { PlayedNote } from "./noteEvent";

/** A stroke of a drum: a note that is played as it is written. */
export type Hit = PlayedNote & Pick<Note, "startTick" | "lengthTicks">;

/** Keys of the General MIDI percussion map (General MIDI System Level 1): Bass Drum 1, Hand Clap, Closed Hi-Hat. */
const DRUM_KEYS: Readonly<Record<Drum, number>> = { kick: 36, clap: 39, hat: 42 };

/** The drum whose strokes are heard under a name; null for any other name. */
export const drumNamed = (backing: Kit | null, name: string | null): Drum | null =>
  (backing && DRUMS.find((d) => addressOf(backing.id, d) === name)) ?? null;

type Hits = Readonly<Record<Drum, readonly Hit[]>>;
type Struck = Pick<Song, "tempoBpm" | "meter" | "loopBars" | "swing">;

interface Made {
  readonly step: Kit["times"]["step"];
  readonly song: Struck;
  readonly hits: Hits;
}

/** What the same steps gave last. */
const made = new WeakMap<Kit["data"]["steps"], Made>();

const sameSong = (a: Struck, b: Struck): boolean =>
  a.tempoBpm === b.tempoBpm && a.meter === b.meter && a.loopBars === b.loopBars && a.swing === b.swing;

/**
 * The strokes of each drum in one pass of the loop, in order, with the song's swing: rounds of the steps, the first from
 * the start of the pass. A stroke lasts for its step. The same steps, step and song give the same lists.
 */
export function kitHits(kit: Pick<Kit, "data" | "times">, song: Song): Hits {
  const { steps } = kit.data;
  const { step } = kit.times;
  const known = made.get(steps);
  if (known && known.step === step && sameSong(known.song, song)) return known.hits;
  const hits = strike(kit, song);
  made.set(steps, { step, song, hits });
  return hits;
}

function strike({ data: { steps }, times }: Pick<Kit, "data" | "times">, song: Song): Hits {
  const length = spanTicks(times.step, song);
  const end = loopTicks(song);
  const swing = songSwing(song);
  const hits: Record<Drum, Hit[]> = { kick: [], clap: [], hat: [] };
  for (let i = 0; i * length < end; i++) {
    const struck = steps[i % steps.length]!;
    const startTick = swingTick(i * length, swing);
    if (startTick >= end) break;
    const lengthTicks = Math.max(1, swingTick((i + 1) * length, swing) - startTick);
    for (const drum of DRUMS) {
      const velocity = struck[drum];
      if (velocity === 0) continue;
      const offTick = startTick + lengthTicks;
      hits[drum].push({ startTick, lengthTicks, onTick: startTick, offTick, key: DRUM_KEYS[drum], velocity, freeA: 0, freeB: 0 }); // prettier-ignore
    }
  }
  return hits;
}

/** The bend of a fall by 60 dB: e^(-ln 1000 x). */
const FALL = (100 * Math.log(1000)) / tensionExponent(100);

const envelopes = new WeakMap<Kit["values"], Readonly<Record<Drum, Envelope>>>();

/** How the level of a drum falls, as followers hear it; the same one while the kit's values are. */
export function drumEnvelope({ values }: Pick<Kit, "values">, drum: Drum): Envelope {
  const known = envelopes.get(values);
  if (known) return known[drum];
  const falling = (ms: number): Envelope => {
    const fall = { unit: "ms", ms } as const;
    return adjusted(newEnvelope("fall", "Fall"), {
      values: { sustain: 0, decayCurve: FALL, releaseCurve: FALL },
      // Let go after its step, it falls on as it did.
      times: { attack: { unit: "ms", ms: 0 }, decay: fall, release: fall },
    });
  };
  const all = { kick: falling(values.kickDecay), clap: falling(values.clapDecay), hat: falling(values.hatDecay) };
  envelopes.set(values, all);
  return all[drum];
}
