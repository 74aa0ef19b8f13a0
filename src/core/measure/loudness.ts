/**
 * Loudness by ITU-R BS.1770-4: the two filters of its tables 1 and 2 for 48 kHz (written from memory; engine/loudness.test.ts
 * checks them against the standard's own test tone), mean square, sum of both sides. Ungated.
 */
const SHELF = { b: [1.53512485958697, -2.69169618940638, 1.19839281085285], a: [-1.69065929318241, 0.73248077421585] };
const HIGH_PASS = { b: [1, -2, 1], a: [-1.99004745483398, 0.99007225036621] };

function biquad(x: Float64Array, { b, a }: typeof SHELF): Float64Array {
  const y = new Float64Array(x.length);
  for (let i = 0; i < x.length; i++)
    y[i] =
      b[0]! * x[i]! +
      b[1]! * (x[i - 1] ?? 0) +
      b[2]! * (x[i - 2] ?? 0) -
      a[0]! * (y[i - 1] ?? 0) -
      a[1]! * (y[i - 2] ?? 0);
  return y;
}

/** LUFS of a whole stretch at 48 kHz. */
export function loudness(...sides: readonly Float32Array[]): number {
  const power = sides.reduce((sum, side) => {
    const weighted = biquad(biquad(Float64Array.from(side), SHELF), HIGH_PASS);
    return sum + weighted.reduce((s, v) => s + v * v, 0) / side.length;
  }, 0);
  return -0.691 + 10 * Math.log10(power);
}
