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
  for (let size = 2; size <= n; size <<= 1) {
    const half = size >> 1;
    const stride = n / size;
    for (let k = 0; k < half; k++) {
      const c = cos[k * stride]!;
      const s = inverse ? sin[k * stride]! : -sin[k * stride]!;
      for (let a = k; a < n; a += size) {
        const b = a + half;
        const x = re[b]! * c - im[b]! * s;
        const y = re[b]! * s + im[b]! * c;
        re[b] = re[a]! - x;
        im[b] = im[a]! - y;
        re[a] = re[a]! + x;
        im[a] = im[a]! + y;
      }
    }
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

/** `size` samples of a cycle from its first `top` harmonics, each weighted. */
export function cycleOf(h: Harmonics, top: number, size: number, weight: (harmonic: number) => number): Float64Array {
  const re = new Float64Array(size);
  const im = new Float64Array(size);
  for (let k = 1; k <= Math.min(top, h.cos.length) && k < size / 2; k++) {
    const w = weight(k);
    re[k] = h.cos[k - 1]! * w;
    im[k] = -h.sin[k - 1]! * w;
  }
  transform(re, im, true);
  return re;
}
