import FFT from "fft.js";

/** What is made for a length, made once: tables of sines take longer than a transform. */
function once<T>(make: (n: number) => T): (n: number) => T {
  const made = new Map<number, T>();
  return (n) => {
    const found = made.get(n) ?? make(n);
    made.set(n, found);
    return found;
  };
}

/** fft.js for a length that is a power of two. */
export const fftOf = once((n) => new FFT(n));

/** The spectrum of a stretch (a power of two long) by fft.js: real and imaginary parts in turn, up to half the rate. */
export function spectrumOf(x: ArrayLike<number>): Float64Array {
  // Arrays of one kind: the transform is several times faster so.
  const out = new Float64Array(2 * x.length);
  fftOf(x.length).realTransform(out, x instanceof Float64Array ? x : new Float64Array(x));
  return out;
}

const windowOf = once((n) =>
  Float64Array.from({ length: n }, (_, i) => {
    const a = (2 * Math.PI * i) / n;
    return 0.35875 - 0.48829 * Math.cos(a) + 0.14128 * Math.cos(2 * a) - 0.01168 * Math.cos(3 * a);
  }),
);

/**
 * Amplitudes of a stretch of sound (a power of two long) by fft.js, in dB, Blackman-Harris window (Harris 1978): its side
 * lobes lie below -92 dB. Bin k of a sine of amplitude 1 reads 0.
 */
export function spectrumDb(x: Float32Array): (k: number) => number {
  const n = x.length;
  const window = windowOf(n);
  const windowed = new Float64Array(n);
  for (let i = 0; i < n; i++) windowed[i] = x[i]! * window[i]!;
  const out = spectrumOf(windowed);
  return (k) => 20 * Math.log10((2 * Math.hypot(out[2 * k]!, out[2 * k + 1]!)) / (n * 0.35875) + 1e-12);
}

export const peak = (x: ArrayLike<number>): number => {
  let top = 0;
  for (let i = 0; i < x.length; i++) top = Math.max(top, Math.abs(x[i]!));
  return top;
};

export const toDb = (gain: number): number => 20 * Math.log10(gain);
