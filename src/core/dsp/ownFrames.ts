import { hash01 } from "../pattern/chance";
import { VOWELS } from "./filter";
import { harmonicsOfCycle, type Harmonics } from "./fourier";
import { MOST_HARMONICS } from "./frameTables";
import type { OwnTable } from "./ownTableIds";

/** Clovik's own wave tables, by formulas. */

const TAU = 2 * Math.PI;
const FRAMES = 32;
const SAMPLES = 4096;

/** A frame by the levels of its sines and cosines; `t` goes from 0 to 1 over the table. */
type Series = (h: number, t: number) => number | readonly [sin: number, cos: number];

const bySeries =
  (series: Series, frames = FRAMES) =>
  (): Harmonics[] =>
    Array.from({ length: frames }, (_, i) => {
      const sin = new Float64Array(MOST_HARMONICS);
      const cos = new Float64Array(MOST_HARMONICS);
      for (let h = 1; h <= MOST_HARMONICS; h++) {
        const level = series(h, frames === 1 ? 0 : i / (frames - 1));
        [sin[h - 1], cos[h - 1]] = typeof level === "number" ? [level, 0] : level;
      }
      return { sin, cos };
    });

/** A frame by its cycle; `p` goes from 0 to 1 over it. */
const byCycle =
  (cycle: (p: number, t: number) => number, frames = FRAMES) =>
  (): Harmonics[] =>
    Array.from({ length: frames }, (_, i) =>
      harmonicsOfCycle(
        Float64Array.from({ length: SAMPLES }, (_, k) => cycle(k / SAMPLES, i / (frames - 1))),
        MOST_HARMONICS,
      ),
    );

const odd = (h: number): boolean => h % 2 === 1;
const triangle = (h: number): number => (odd(h) ? (h % 4 === 1 ? 1 : -1) / (h * h) : 0);
const square = (h: number): number => (odd(h) ? 1 / h : 0);
/** Falls from 1 around harmonic `at`, with the slope of a low-pass of order 4. */
const below = (h: number, at: number): number => 1 / Math.sqrt(1 + (h / at) ** 8);
/** A peak around a harmonic, `width` octaves wide. */
const around = (h: number, at: number, width: number): number => Math.exp(-((Math.log2(h / at) / width) ** 2));
const fold = (x: number): number => 1 - Math.abs(((((x + 1) % 4) + 4) % 4) - 2);
const fm = (carrier: number, modulator: number, index: (t: number) => number) =>
  byCycle((p, t) => Math.sin(TAU * carrier * p + index(t) * Math.sin(TAU * modulator * p)));
const mix = (a: number, b: number, t: number): number => a + (b - a) * t;

/** Levels of the formants of a vowel at harmonic h of a note of 110 Hz. */
function spoken(h: number, t: number): number {
  const place = t * (VOWELS.length - 1);
  const i = Math.min(VOWELS.length - 2, Math.floor(place));
  return [0, 1, 2].reduce((sum, n) => {
    const hz = 2 ** mix(Math.log2(VOWELS[i]!.hz[n]!), Math.log2(VOWELS[i + 1]!.hz[n]!), place - i);
    const db = mix(VOWELS[i]!.db[n]!, VOWELS[i + 1]!.db[n]!, place - i);
    return sum + 10 ** (db / 20) * around(h * 110, hz, 0.16);
  }, 0.02 / h);
}

/** A wave that answers to itself: its own last value turns its phase (after L. Tomisawa's patent on feedback FM, 1981). */
function fedBack(t: number): (p: number) => number {
  const cycle = new Float64Array(SAMPLES);
  let y = 0;
  for (let round = 0; round < 3; round++)
    for (let k = 0; k < SAMPLES; k++) {
      y = 0.5 * (y + Math.sin((TAU * k) / SAMPLES + 1.35 * t * y));
      cycle[k] = y;
    }
  return (p) => cycle[Math.round(p * SAMPLES) % SAMPLES]!;
}

const PRIMES: ReadonlySet<number> = new Set([1, 2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37, 41, 43, 47, 53, 59, 61, 67, 71, 73, 79, 83, 89, 97]); // prettier-ignore
const PIPES = [1, 2, 3, 4, 6, 8, 12, 16];

/** The frames of each table. Takes milliseconds. */
export const OWN_FRAMES: Readonly<Record<OwnTable, () => Harmonics[]>> = {
  plain: bySeries((h, t) => [h === 1 ? 1 : 0, triangle(h), 1 / h, square(h)][Math.round(3 * t)]!, 4),
  widths: bySeries((h, t) => Math.sin(Math.PI * h * mix(0.5, 0.02, t)) / h),
  sluice: bySeries((h, t) => (below(h, 2 ** (9 * t)) / h)),
  lock: bySeries((h, t) => square(h) * below(h, 2 ** (9 * t))),
  tide: bySeries((h, t) => (h === 1 ? 1 : odd(h) ? 1 - t : t) / h),
  buoy: fm(1, 1, (t) => 8 * t),
  anchor: fm(1, 2, (t) => 7 * t),
  watch: fm(2, 3, (t) => 6 * t),
  lantern: fm(1, 7, (t) => 3 * t),
  echo: () => Array.from({ length: FRAMES }, (_, i) => harmonicsOfCycle(Float64Array.from({ length: SAMPLES }, (_, k) => k / SAMPLES).map(fedBack(i / (FRAMES - 1))), MOST_HARMONICS)),
  vowels: bySeries((h, t) => spoken(h, t)),
  hum: bySeries((h, t) => (h === 1 ? 0.3 : 0) + around(h, 2 ** (1 + 5 * t), 0.25)),
  choir: bySeries((h, t) => around(h, 4 * 2 ** (-t), 0.5) + 0.7 * around(h, 5 * 2 ** (2.5 * t), 0.35) + 0.1 / h),
  reed: byCycle((p, t) => Math.cos(TAU * (1 + 11 * t) * (p - 0.5)) * Math.exp(-(((p - 0.5) * (3 + 7 * t)) ** 2))),
  hitch: byCycle((p, t) => 2 * ((p * 8 ** t) % 1) - 1),
  tow: byCycle((p, t) => Math.sin(TAU * p * 12 ** t) * (1 - p)),
  pleat: byCycle((p, t) => fold(8 ** t * Math.sin(TAU * p))),
  sail: byCycle((p, t) => Math.sin((Math.PI / 2) * mix(1, 9, t) * fold(4 * p))),
  knee: byCycle((p, t) => { const d = mix(0.5, 0.01, t); return -Math.cos(TAU * (p < d ? (0.5 * p) / d : 0.5 + (0.5 * (p - d)) / (1 - d))); }),
  stairs: byCycle((p, t) => { const n = Math.round(48 * 16 ** -t); return Math.sin((TAU * (Math.floor(p * n) + 0.5)) / n); }),
  rungs: byCycle((p, t) => { const q = 2 ** mix(-5, 0, t); return q * (Math.floor(Math.sin(TAU * p) / q) + 0.5); }),
  oars: byCycle((p, t) => { const n = Math.round(16 ** t); const q = (p * n) % 1; return Math.exp(-q * 18) * (Math.floor(p * n) % 2 === 0 ? 1 : -0.5); }),
  pipes: bySeries((h, t) => { const at = PIPES.indexOf(h); return at < 0 ? 0 : Math.min(1, Math.max(0, 1 + t * (PIPES.length - 1) - at)) / (1 + 0.25 * at); }),
  comb: bySeries((h, t) => (Math.cos(Math.PI * h * mix(0.01, 0.24, t)) ** 2) / h),
  string: bySeries((h, t) => Math.sin(Math.PI * h * mix(0.5, 0.03, t)) / h ** mix(2, 1.2, t)),
  octaves: bySeries((h, t) => ((h & (h - 1)) === 0 ? h ** mix(-1.5, 0.1, t) : 0)),
  primes: bySeries((h, t) => (PRIMES.has(h) ? h ** mix(-2, -0.2, t) : 0)),
  chirp: byCycle((p, t) => Math.sin(TAU * p ** (1 + 2 * t) * (1 + Math.round(15 * t))) * Math.sin(Math.PI * p)),
  gravel: bySeries((h, t) => { const a = TAU * hash01(h, 3); const l = hash01(h, 5) * h ** mix(-1.6, -0.3, t); return [l * Math.cos(a), l * Math.sin(a)]; }),
  spray: bySeries((h, t) => { const a = TAU * (hash01(h, 11) + t * (hash01(h, 13) - 0.5) * 4); const l = h ** -0.5; return [l * Math.cos(a), l * Math.sin(a)]; }),
}; // prettier-ignore
