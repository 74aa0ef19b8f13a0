/**
 * Seeded chance without state: every draw is addressed by whole numbers (seed, part, step, ...), so the order of calls
 * never matters. Each word is stirred in with the 32-bit finaliser of MurmurHash3 (Appleby, public domain); its full
 * avalanche keeps neighbouring addresses apart, which chance.test.ts measures.
 */
export function hash32(...words: readonly number[]): number {
  let h = 0x9e3779b9;
  for (const word of words) {
    h = Math.imul(h ^ (word | 0), 0x85ebca6b) + 0x6d2b79f5;
    h ^= h >>> 16;
    h = Math.imul(h, 0x85ebca6b);
    h ^= h >>> 13;
    h = Math.imul(h, 0xc2b2ae35);
    h ^= h >>> 16;
  }
  return h >>> 0;
}

/** Uniform in [0, 1). */
export const hash01 = (...words: readonly number[]): number => hash32(...words) / 0x1_0000_0000;

/** A whole number that stands for a text in an address (FNV-1a, 32 bits). */
export function hashText(text: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  return h >>> 0;
}
