import { cosCycles, exp2, sinCycles, tanPi } from "./portableMath";

/** The filters' types as the kernels know them, and their response as formulas. */

/** Cascades of trapezoidal sections, and formants side by side. */
export const BANK_TYPES = {
  lp24: 0,
  lp12: 1,
  bp12: 2,
  hp12: 3,
  hp24: 4,
  bp24: 5,
  notch12: 6,
  notch24: 7,
  allpass: 8,
  vowel: 9,
} as const;
type BankType = keyof typeof BANK_TYPES;
export type FilterType = BankType | "ladder" | "combUp" | "combDown";

/** The fourth-order Butterworth's two stages: 1/Q = 2 cos(pi/8) and 2 cos(3 pi/8). */
const BUTTERWORTH_4 = [1.8477590650225735, 0.7653668647301796] as const;
const BUTTERWORTH_2 = Math.SQRT2;
/** Octaves by which full resonance lowers the damping: Q 16 on 12 dB, 30 on the second stage of 24 dB. */
const RESONANCE_OCTAVES = 4.5;
/** Two equal stages together are narrower than one by this. */
const TWICE = Math.sqrt(Math.SQRT2 - 1);
/** Width at which a band-pass is as wide as Butterworth's second order: 1/Q = sqrt 2. */
const PLAIN_WIDTH = 1.9;
/** Loop gain of the driven four-pole at full resonance; from 4 on it goes on by itself. */
const LADDER_LOOP = 4.4;
const ALLPASS_STAGES = 4;

/**
 * Formants of a, e, i, o, u in Hz and their levels in dB, as spoken by men (G. E. Peterson and H. L. Barney, "Control
 * Methods Used in a Study of the Vowels", 1952, table II; from memory), and their widths in Hz (common practice).
 */
export const VOWELS = [
  { name: "a", hz: [730, 1090, 2440], db: [-1, -5, -28] },
  { name: "e", hz: [530, 1840, 2480], db: [-2, -17, -24] },
  { name: "i", hz: [270, 2290, 3010], db: [-4, -24, -28] },
  { name: "o", hz: [570, 840, 2410], db: [0, -7, -34] },
  { name: "u", hz: [300, 870, 2240], db: [-3, -19, -43] },
] as const;
const FORMANT_WIDTHS = [80, 100, 140] as const;

/** Damping k = 1/Q of the resonant stage for a resonance of 0 to 100 %. At 0 the filters are Butterworth. */
export const damping = (type: FilterType, resonance: number): number =>
  (type === "lp24" || type === "hp24" ? BUTTERWORTH_4[1] : BUTTERWORTH_2) *
  exp2((-resonance / 100) * RESONANCE_OCTAVES);

/** A filter as it stands. */
export interface FilterSetting {
  readonly type: FilterType;
  readonly cutoffHz: number;
  /** 0 to 100 %. */
  readonly resonance: number;
  /** Octaves. */
  readonly width?: number;
  /** 0 to 100 %. */
  readonly vowel?: number;
  /** 0 to 100 %. */
  readonly mix?: number;
}

/** A complex number. */
type Complex = readonly [re: number, im: number];
const times = (a: Complex, b: Complex): Complex => [a[0] * b[0] - a[1] * b[1], a[0] * b[1] + a[1] * b[0]];
const over = (a: Complex, b: Complex): Complex => {
  const d = b[0] * b[0] + b[1] * b[1];
  return [(a[0] * b[0] + a[1] * b[1]) / d, (a[1] * b[0] - a[0] * b[1]) / d];
};

/** A section at s = i x ratio: (m0 (s^2 + k s + 1) + m1 s + m2) / (s^2 + k s + 1). */
function section(ratio: number, k: number, m0: number, m1: number, m2: number): Complex {
  const denominator: Complex = [1 - ratio * ratio, k * ratio];
  const [re, im] = over([m2, m1 * ratio], denominator);
  return [m0 + re, im];
}

function wet(f: FilterSetting, sampleRate: number, hz: number): Complex {
  const tan = (x: number): number => tanPi(Math.min(x / sampleRate, 0.4999));
  const cutoff = tanPi(Math.min(f.cutoffHz / sampleRate, 0.49));
  const ratio = tan(hz) / cutoff;
  const sharper = exp2((-f.resonance / 100) * RESONANCE_OCTAVES);
  const halfWidth = (f.width ?? PLAIN_WIDTH) / 2;
  const wide = (exp2(halfWidth) - exp2(-halfWidth)) * sharper;
  const twice = (s: Complex): Complex => times(s, s);
  switch (f.type) {
    case "lp12":
      return section(ratio, BUTTERWORTH_2 * sharper, 0, 0, 1);
    case "lp24":
      return times(section(ratio, BUTTERWORTH_4[0], 0, 0, 1), section(ratio, BUTTERWORTH_4[1] * sharper, 0, 0, 1));
    case "hp12":
      return high(ratio, BUTTERWORTH_2 * sharper);
    case "hp24":
      return times(high(ratio, BUTTERWORTH_4[0]), high(ratio, BUTTERWORTH_4[1] * sharper));
    case "bp12":
      return section(ratio, wide, 0, wide, 0);
    case "bp24":
      return twice(section(ratio, wide / TWICE, 0, wide / TWICE, 0));
    case "notch12":
      return section(ratio, wide, 1, -wide, 0);
    case "notch24":
      return twice(section(ratio, wide * TWICE, 1, -wide * TWICE, 0));
    case "allpass":
      return Array.from({ length: ALLPASS_STAGES }, () => section(ratio, wide, 1, -2 * wide, 0)).reduce(times, [1, 0]);
    case "vowel":
      return vowelAt(f, sampleRate, hz);
    case "ladder": {
      const k = (LADDER_LOOP * f.resonance) / 100;
      // Drawn at the doubled rate that it runs at; past the point where it goes on by itself, just before it.
      const x = tanPi(Math.min(hz / sampleRate / 2, 0.4999)) / tanPi(Math.min(f.cutoffHz / sampleRate / 2, 0.49));
      const pole: Complex = [1, x];
      const four = times(times(pole, pole), times(pole, pole));
      return over([1 + k / 2, 0], [four[0] + Math.min(k, 3.96), four[1]]);
    }
    default: {
      const r = f.resonance / 100;
      const feedback = r * (2 - r) * 0.99 * (f.type === "combUp" ? 1 : -1);
      const turn = hz / f.cutoffHz;
      const level = Math.sqrt(1 - feedback * feedback);
      return over([level, 0], [1 - feedback * cosCycles(turn), feedback * sinCycles(turn)]);
    }
  }
}

const high = (ratio: number, k: number): Complex => section(ratio, k, 1, -k, -1);

function vowelAt(f: FilterSetting, sampleRate: number, hz: number): Complex {
  const place = Math.min(100, Math.max(0, f.vowel ?? 0)) / 25;
  const i = Math.min(3, Math.floor(place));
  const between = (a: number, b: number): number => a + (b - a) * (place - i);
  const narrow = exp2(2 - 0.04 * f.resonance);
  const octaves = (n: number): number => between(Math.log2(VOWELS[i]!.hz[n]!), Math.log2(VOWELS[i + 1]!.hz[n]!));
  return FORMANT_WIDTHS.map((width, n) => {
    const rel = (v: number): number => VOWELS[v]!.db[n]! - VOWELS[v]!.db[0];
    const db = between(rel(i), rel(i + 1)) + 20 * Math.log10(2) * (octaves(n) - octaves(0));
    const at = exp2(octaves(n));
    const k = (width * narrow) / at;
    const ratio = tanPi(hz / sampleRate) / tanPi(Math.min((at * f.cutoffHz) / 1000 / sampleRate, 0.49));
    return section(ratio, k, 0, k * 10 ** (db / 20), 0);
  }).reduce((sum, formant) => [sum[0] + formant[0], sum[1] + formant[1]]);
}

/**
 * Magnitude in dB at `hz` of a filter of the engine, without drive: the analogue prototype at the frequency that the
 * bilinear transform maps to `hz`. Floor -160.
 */
export function filterMagnitudeDb(f: FilterSetting, sampleRate: number, hz: number): number {
  const [re, im] = wet(f, sampleRate, hz);
  const share = (f.mix ?? 100) / 100;
  const power = (1 - share + share * re) ** 2 + (share * im) ** 2;
  return Math.max(-160, 10 * Math.log10(power));
}
