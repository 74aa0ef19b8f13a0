import { sinCycles } from "./portableMath";

/** The modified Bessel function of the first kind, order 0, by its series (Abramowitz and Stegun 9.6.12). */
function besselI0(x: number): number {
  let term = 1;
  let sum = 1;
  for (let k = 1; k < 40; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** A sinc that passes up to `cutoff` of the rate, in a window of J. F. Kaiser (1974). `at` and `half` in samples. */
export function windowedSinc(at: number, cutoff: number, half: number, beta: number): number {
  if (Math.abs(at) >= half) return 0;
  const x = 2 * cutoff * at;
  const sinc = Math.abs(x) < 1e-9 ? 1 : sinCycles(x / 2) / (Math.PI * x);
  return 2 * cutoff * sinc * (besselI0(beta * Math.sqrt(1 - (at / half) ** 2)) / besselI0(beta));
}
