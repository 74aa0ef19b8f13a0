/**
 * Seeded chance without state: every draw is addressed by whole numbers (seed, part, step, ...), so the order of calls
 * never matters. Each word is stirred in with the 32-bit finaliser of MurmurHash3 (Appleby, public domain); its full
 * avalanche keeps neighbouring addresses apart, which chance.test.ts measures.
 */
export function hash32(...words: readonly number[]): number {
  let h = UNSTIRRED;
  for (const word of words) h = stir(h, word);
  return h >>> 0;
}

/** Uniform in [0, 1). */
export const hash01 = (...words: readonly number[]): number => unit(hash32(...words));

/** What no word is stirred in yet. */
export const UNSTIRRED = 0x9e3779b9 | 0;

/** One more word of an address stirred in: what is drawn often keeps what it has of it so far, and makes no list of words. */
export function stir(h: number, word: number): number {
  let x = Math.imul(h ^ (word | 0), 0x85ebca6b) + 0x6d2b79f5;
  x ^= x >>> 16;
  x = Math.imul(x, 0x85ebca6b);
  x ^= x >>> 13;
  x = Math.imul(x, 0xc2b2ae35);
  return x ^ (x >>> 16);
}

/** Uniform in [0, 1), of an address whose words are all stirred in. */
export const unit = (h: number): number => (h >>> 0) / 0x1_0000_0000;

/** A whole number that stands for a text in an address (FNV-1a, 32 bits). */
export function hashText(text: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  return h >>> 0;
}
