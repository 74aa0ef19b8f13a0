import { LANE_IDS, type StepLane } from "../patch/lanes";
import { SONG_ROWS } from "../patch/rows";
import type { Arpeggio, Song } from "../patch/project";
import { leastCommonMultiple } from "../time/repeat";

/** A length as a fraction of a whole note. */
interface Length {
  readonly num: number;
  readonly den: number;
}

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));

/** The shortest length that holds both a whole number of times. */
function common(a: Length, b: Length): Length {
  const reduce = ({ num, den }: Length): Length => ({ num: num / gcd(num, den), den: den / gcd(num, den) });
  const [x, y] = [reduce(a), reduce(b)];
  return { num: leastCommonMultiple(x.num, y.num), den: gcd(x.den, y.den) };
}

/** Steps after which a lane is where it was; null where chance never lets it be. */
function laneSteps(lane: StepLane): number | null {
  const drawn = lane.locked === null && lane.ranges.some((r) => r > 0);
  if (drawn || lane.direction === "random") return null;
  const n = lane.values.length;
  return lane.direction === "pendulum" ? Math.max(1, 2 * n - 2) : n;
}

/**
 * Bars after which the notes of the loop, the order and all lanes of an arpeggio begin together again, if the loop were as
 * long and its notes repeated: at most the longest loop, and that where chance has a say. The loop's own length where the
 * arpeggio is off or starts again within it.
 */
export function arpeggioRepeatBars(arp: Arpeggio, song: Song): number {
  const most = SONG_ROWS.loopBars.max;
  if (!arp.on || arp.restart !== "loop") return song.loopBars;
  const { beats, unit } = song.meter;
  const lanes = LANE_IDS.flatMap((id) => arp.lanes[id] ?? []).filter((l) => l.on);
  const chance = arp.lanes.chance;
  if (arp.order === "random" || arp.order === "shuffle" || (chance?.on && chance.values.some((v) => v > 0 && v < 100))) return most; // prettier-ignore
  let whole: Length = { num: song.loopBars * beats, den: unit };
  for (const steps of [arp.length, ...lanes.map(laneSteps)]) {
    if (steps === null) return most;
    whole = common(whole, { num: steps * arp.rate.num, den: arp.rate.den });
    if ((whole.num * unit) / (whole.den * beats) > most) return most;
  }
  return Math.round((whole.num * unit) / (whole.den * beats));
}
