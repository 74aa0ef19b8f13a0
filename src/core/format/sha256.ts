/** SHA-256 (NIST FIPS 180-4), as 64 hexadecimal digits: the name under which binary things are kept. */

/** The first 32 bits of the fractional part of a root: constants of the standard, worked out as it defines them. */
function fractions(count: number, root: (x: number) => number): Int32Array {
  const primes: number[] = [];
  for (let n = 2; primes.length < count; n++) if (primes.every((p) => n % p !== 0)) primes.push(n);
  return Int32Array.from(primes, (p) => ((root(p) % 1) * 2 ** 32) | 0);
}

const START = fractions(8, Math.sqrt);
const ROUND = fractions(64, Math.cbrt);

const turn = (x: number, by: number): number => (x >>> by) | (x << (32 - by));

function compress(state: Int32Array, view: DataView, at: number, w: Int32Array): void {
  for (let i = 0; i < 16; i++) w[i] = view.getInt32(at + 4 * i);
  for (let i = 16; i < 64; i++) {
    const a = w[i - 15]!;
    const b = w[i - 2]!;
    const s0 = turn(a, 7) ^ turn(a, 18) ^ (a >>> 3);
    const s1 = turn(b, 17) ^ turn(b, 19) ^ (b >>> 10);
    w[i] = (w[i - 16]! + s0 + w[i - 7]! + s1) | 0;
  }
  let [a, b, c, d, e, f, g, h] = state as unknown as [number, number, number, number, number, number, number, number];
  for (let i = 0; i < 64; i++) {
    const s1 = turn(e, 6) ^ turn(e, 11) ^ turn(e, 25);
    const t1 = (h + s1 + ((e & f) ^ (~e & g)) + ROUND[i]! + w[i]!) | 0;
    const s0 = turn(a, 2) ^ turn(a, 13) ^ turn(a, 22);
    const t2 = (s0 + ((a & b) ^ (a & c) ^ (b & c))) | 0;
    [h, g, f, e, d, c, b, a] = [g, f, e, (d + t1) | 0, c, b, a, (t1 + t2) | 0];
  }
  [a, b, c, d, e, f, g, h].forEach((v, i) => (state[i] = (state[i]! + v) | 0));
}

export function sha256(bytes: Uint8Array): string {
  // A one bit, zeros, and the length in bits fill the last blocks of 64 bytes.
  const padded = new Uint8Array(Math.ceil((bytes.length + 9) / 64) * 64);
  padded.set(bytes);
  padded[bytes.length] = 0x80;
  const view = new DataView(padded.buffer);
  view.setUint32(padded.length - 8, Math.floor(bytes.length / 2 ** 29));
  view.setUint32(padded.length - 4, bytes.length * 8);
  const state = START.slice();
  const w = new Int32Array(64);
  for (let at = 0; at < padded.length; at += 64) compress(state, view, at, w);
  return [...state].map((v) => (v >>> 0).toString(16).padStart(8, "0")).join("");
}
