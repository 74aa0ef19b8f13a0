/**
 * Loudness by ITU-R BS.1770-4: the two filters of its tables 1 and 2 for 48 kHz (written from memory; engine/loudness.test.ts
 * checks them against the standard's own test tone), mean square, sum of both sides. Ungated.
 */
const SHELF = { b: [1.53512485958697, -2.69169618940638, 1.19839281085285], a: [-1.69065929318241, 0.73248077421585] } as const; // prettier-ignore
const HIGH_PASS = { b: [1, -2, 1], a: [-1.99004745483398, 0.99007225036621] } as const;

/** Mean square of a side through both filters. */
function weightedPower(x: Float32Array): number {
  const [b0, b1, b2] = SHELF.b;
  const [a1, a2] = SHELF.a;
  const [d0, d1, d2] = HIGH_PASS.b;
  const [c1, c2] = HIGH_PASS.a;
  let [x1, x2, y1, y2, z1, z2, sum] = [0, 0, 0, 0, 0, 0, 0];
  for (let i = 0; i < x.length; i++) {
    const x0 = x[i]!;
    const y0 = b0 * x0 + b1 * x1 + b2 * x2 - a1 * y1 - a2 * y2;
    const z0 = d0 * y0 + d1 * y1 + d2 * y2 - c1 * z1 - c2 * z2;
    sum += z0 * z0;
    x2 = x1;
    x1 = x0;
    y2 = y1;
    y1 = y0;
    z2 = z1;
    z1 = z0;
  }
  return sum / x.length;
}

/** LUFS of a whole stretch at 48 kHz. */
export function loudness(...sides: readonly Float32Array[]): number {
  const power = sides.reduce((sum, side) => sum + weightedPower(side), 0);
  return -0.691 + 10 * Math.log10(power);
}
