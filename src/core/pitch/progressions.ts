import type { Key } from "./note";

/** Chord progressions to start from, by degrees of the key (small letters are minor). Common practice; the names are ours. */
export const PROGRESSIONS: readonly {
  readonly name: string;
  readonly scale: Key["scale"];
  readonly degrees: readonly string[];
}[] = [
  { name: "Night crossing", scale: "minor", degrees: ["i", "VI", "III", "VII"] },
  { name: "Harbour wall", scale: "minor", degrees: ["i", "VII", "VI", "V"] },
  { name: "Slow tide", scale: "minor", degrees: ["i", "iv", "VII", "III"] },
  { name: "Lamp on the water", scale: "minor", degrees: ["i", "v", "VI", "iv"] },
  { name: "Last boat", scale: "minor", degrees: ["VI", "VII", "i", "i"] },
  { name: "Morning quay", scale: "major", degrees: ["I", "V", "vi", "IV"] },
  { name: "Open water", scale: "major", degrees: ["I", "iii", "IV", "V"] },
  { name: "Low sun", scale: "major", degrees: ["vi", "IV", "I", "V"] },
  { name: "Ferry bell", scale: "major", degrees: ["I", "IV", "ii", "V"] },
  { name: "Rope and tar", scale: "major", degrees: ["I", "bVII", "IV", "I"] },
];
