/** Base 64 (RFC 4648, section 4), for bytes inside of JSON. */

const DIGITS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
const VALUES = new Map(Array.from(DIGITS, (d, i) => [d, i]));

export function toBase64(bytes: Uint8Array): string {
  const out: string[] = [];
  for (let i = 0; i < bytes.length; i += 3) {
    const word = (bytes[i]! << 16) | ((bytes[i + 1] ?? 0) << 8) | (bytes[i + 2] ?? 0);
    const left = bytes.length - i;
    out.push(
      DIGITS[word >> 18]! +
        DIGITS[(word >> 12) & 63]! +
        (left > 1 ? DIGITS[(word >> 6) & 63]! : "=") +
        (left > 2 ? DIGITS[word & 63]! : "="),
    );
  }
  return out.join("");
}

/** Null when the text is not base 64. */
export function fromBase64(text: string): Uint8Array<ArrayBuffer> | null {
  if (text.length % 4 !== 0) return null;
  const padding = text.endsWith("==") ? 2 : text.endsWith("=") ? 1 : 0;
  const bytes = new Uint8Array((text.length / 4) * 3 - padding);
  let at = 0;
  for (let i = 0; i < text.length; i += 4) {
    let word = 0;
    for (let k = 0; k < 4; k++) {
      const value = VALUES.get(text[i + k]!) ?? (i + k >= text.length - padding ? 0 : -1);
      if (value < 0) return null;
      word = (word << 6) | value;
    }
    for (let k = 16; k >= 0 && at < bytes.length; k -= 8) bytes[at++] = (word >> k) & 255;
  }
  return bytes;
}
