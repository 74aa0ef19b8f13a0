import { cosCycles, sinCycles } from "./portableMath";

interface Turns {
  readonly cos: Float64Array;
  readonly sin: Float64Array;
}
const turns = new Map<number, Turns>();

/** Cosine and sine of k / n cycles up to half of one, worked out once a thread for each n. */
function turnsOf(n: number): Turns {
  let known = turns.get(n);
  if (!known) {
    known = {
      cos: Float64Array.from({ length: n / 2 }, (_, k) => cosCycles(k / n)),
      sin: Float64Array.from({ length: n / 2 }, (_, k) => sinCycles(k / n)),
    };
    turns.set(n, known);
  }
  return known;
}

/**
 * Turns a spectrum into a cycle and back: the radix-2 transform of J. W. Cooley and J. W. Tukey (1965), in place. `re` and
 * `im` hold n values each, n a power of two; afterwards X[k] = sum of x[i] e^(-2 pi i k / n), or with `inverse` the sum with
 * the other sign, without a factor. Throws RangeError for another length.
 */
export function transform(re: Float64Array, im: Float64Array, inverse = false): void {
  const n = re.length;
  if (n < 2 || (n & (n - 1)) !== 0 || im.length !== n)
    throw new RangeError("a transform needs a power of two of values");
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1;
    for (; j & bit; bit >>= 1) j ^= bit;
    j ^= bit;
    if (i >= j) continue;
    [re[i], re[j]] = [re[j]!, re[i]!];
    [im[i], im[j]] = [im[j]!, im[i]!];
  }
  const { cos, sin } = turnsOf(n);
  const sign = inverse ? 1 : -1;
  // Two rounds of butterflies at once: half as often through memory.
  let size = 2;
  for (; size < n; size <<= 2) {
    const half = size >> 1;
    const stride = n / size;
    for (let block = 0; block < n; block += 2 * size) {
      for (let k = 0; k < half; k++) {
        const a = block + k;
        const b = a + half;
        const c = a + size;
        const d = c + half;
        const c1 = cos[k * stride]!;
        const s1 = sign * sin[k * stride]!;
        const xb = re[b]! * c1 - im[b]! * s1;
        const yb = re[b]! * s1 + im[b]! * c1;
        const xd = re[d]! * c1 - im[d]! * s1;
        const yd = re[d]! * s1 + im[d]! * c1;
        const ra = re[a]! + xb;
        const ia = im[a]! + yb;
        const rb = re[a]! - xb;
        const ib = im[a]! - yb;
        const rc = re[c]! + xd;
        const ic = im[c]! + yd;
        const rd = re[c]! - xd;
        const id = im[c]! - yd;
        const near = (k * stride) >> 1;
        const far = ((k + half) * stride) >> 1;
        const c2 = cos[near]!;
        const s2 = sign * sin[near]!;
        const c3 = cos[far]!;
        const s3 = sign * sin[far]!;
        const xc = rc * c2 - ic * s2;
        const yc = rc * s2 + ic * c2;
        const xe = rd * c3 - id * s3;
        const ye = rd * s3 + id * c3;
        re[a] = ra + xc;
        im[a] = ia + yc;
        re[c] = ra - xc;
        im[c] = ia - yc;
        re[b] = rb + xe;
        im[b] = ib + ye;
        re[d] = rb - xe;
        im[d] = ib - ye;
      }
    }
  }
  if (size > n) return;
  // An odd round is left.
  const half = n >> 1;
  for (let a = 0, b = half; a < half; a++, b++) {
    const x = re[b]! * cos[a]! - im[b]! * sign * sin[a]!;
    const y = re[b]! * sign * sin[a]! + im[b]! * cos[a]!;
    re[b] = re[a]! - x;
    im[b] = im[a]! - y;
    re[a] = re[a]! + x;
    im[a] = im[a]! + y;
  }
}

/** Harmonics of a cycle: level and place of each, from the first on, as cosine and sine parts. */
export interface Harmonics {
  readonly cos: Float64Array;
  readonly sin: Float64Array;
}

/** The first `count` harmonics of a cycle of a power of two of samples; its mean is left out. */
export function harmonicsOfCycle(samples: ArrayLike<number>, count: number): Harmonics {
  const n = samples.length;
  const re = new Float64Array(samples);
  const im = new Float64Array(n);
  transform(re, im);
  const cos = new Float64Array(count);
  const sin = new Float64Array(count);
  for (let h = 1; h <= count && h < n / 2; h++) {
    cos[h - 1] = (2 * re[h]!) / n;
    sin[h - 1] = (-2 * im[h]!) / n;
  }
  return { cos, sin };
}

/** What a straight line between the samples of a cycle leaves of harmonic h: sinc^2(h / size). */
export function keptBetween(h: number, size: number): number {
  const x = h / size;
  const sinc = sinCycles(x / 2) / (Math.PI * x);
  return sinc * sinc;
}

/**
 * `size` samples of a cycle, a power of two from 4 on, from its first `top` harmonics, each weighted. A cycle is real, so a
 * transform of half its length does: even samples come out as real parts and odd ones as imaginary parts.
 */
export function cycleOf(h: Harmonics, top: number, size: number, weight: (harmonic: number) => number): Float64Array {
  const half = size / 2;
  const re = new Float64Array(half);
  const im = new Float64Array(half);
  const { cos, sin } = turnsOf(size);
  for (let k = 1; k <= Math.min(top, h.cos.length) && k < half; k++) {
    const w = weight(k) / 2;
    const x = h.cos[k - 1]! * w;
    const y = -h.sin[k - 1]! * w;
    // The harmonic and its mirror image in the half transform: X + i e^(2 pi i k / size) X, and the same of its conjugate.
    const c = cos[k]!;
    const s = sin[k]!;
    re[k] = re[k]! + x - s * x - c * y;
    im[k] = im[k]! + y + c * x - s * y;
    re[half - k] = re[half - k]! + x + s * x + c * y;
    im[half - k] = im[half - k]! - y + c * x - s * y;
  }
  transform(re, im, true);
  const cycle = new Float64Array(size);
  for (let i = 0; i < half; i++) {
    cycle[2 * i] = re[i]!;
    cycle[2 * i + 1] = im[i]!;
  }
  return cycle;
}
