declare module "fourier-transform" {
  /** Magnitudes of a real signal's spectrum, half as many as it has values (a power of two); the array is reused. */
  export default function rfft(input: ArrayLike<number>): Float64Array;
}
