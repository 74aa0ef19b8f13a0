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
  { name: "Grey gulls", scale: "dorian", degrees: ["i", "IV", "i", "VII"] },
  { name: "Fog bank", scale: "phrygian", degrees: ["i", "II", "i", "vii"] },
  { name: "Strings of lamps", scale: "lydian", degrees: ["I", "II", "I", "vii"] },
  { name: "Barge dance", scale: "mixolydian", degrees: ["I", "VII", "IV", "I"] },
  { name: "Under the pier", scale: "locrian", degrees: ["i°", "II", "iii", "i°"] },
  { name: "Iron bell", scale: "harmonicMinor", degrees: ["i", "iv", "V", "i"] },
  { name: "Tower clock", scale: "melodicMinor", degrees: ["i", "IV", "V", "i"] },
  { name: "Morning quay", scale: "major", degrees: ["I", "V", "vi", "IV"] },
  { name: "Open water", scale: "major", degrees: ["I", "iii", "IV", "V"] },
  { name: "Low sun", scale: "major", degrees: ["vi", "IV", "I", "V"] },
  { name: "Ferry bell", scale: "major", degrees: ["I", "IV", "ii", "V"] },
  { name: "Rope and tar", scale: "major", degrees: ["I", "bVII", "IV", "I"] },
];

/** Those of a scale; a mode or altered minor has those of the plain major or minor as well, which it colours. */
export const progressionsIn = (scale: Key["scale"]): typeof PROGRESSIONS => [
  ...PROGRESSIONS.filter((p) => p.scale === scale),
  ...(scale === "harmonicMinor" || scale === "melodicMinor" ? PROGRESSIONS.filter((p) => p.scale === "minor") : []),
];
