import { expect, test } from "vitest";
import { Chord as TonalChord, Interval, Scale } from "tonal";
import {
  CHORD_KINDS,
  chordKeys,
  chordName,
  chordSteps,
  chordText,
  keysOfChord,
  parseChord,
  sameFunction,
} from "./chord";
import { MIDDLE_C_OCTAVES, SCALES, SCALE_STEPS, describeHz, describeKey, hzToKey, inScale, isMinor, keyName, keyToHz, nameMiddleC, noteName, parseNote, usesFlats, type Key } from "./note"; // prettier-ignore
import { PROGRESSIONS, progressionsIn } from "./progressions";

// MIDI 1.0, A4 = 69 = 440 Hz; the other figures are the usual table of equal temperament, to the cent.
test.each([
  [69, 440],
  [60, 261.6256],
  [21, 27.5],
  [108, 4186.009],
  [0, 8.1758],
  [127, 12543.854],
])("key %d is %d Hz", (key, hz) => {
  expect(keyToHz(key) / hz).toBeCloseTo(1, 6);
  expect(hzToKey(hz)).toBeCloseTo(key, 4);
});

test("twelve semitones double, 100 cents are a semitone", () => {
  expect(keyToHz(81)).toBe(880);
  expect(1200 * Math.log2(keyToHz(70) / keyToHz(69))).toBeCloseTo(100, 9);
});

test("names are read back, with sharps, flats and signs", () => {
  for (let key = 0; key <= 127; key++) {
    expect(parseNote(noteName(key))).toBe(key);
    expect(parseNote(noteName(key, true))).toBe(key);
  }
  expect(parseNote("Bb2")).toBe(46);
  expect(parseNote("c#4")).toBe(61);
  expect(parseNote("a3+10ct")).toBeCloseTo(57.1, 9);
  expect(parseNote("A4 −25 cents")).toBeCloseTo(68.75, 9);
  for (const bad of ["", "H2", "A", "G♯9", "C-2", "A44"]) expect(parseNote(bad)).toBeNull();
});

const TONAL_NAMES: Partial<Record<(typeof SCALES)[number], string>> = { harmonicMinor: "harmonic minor", melodicMinor: "melodic minor" }; // prettier-ignore
const tonalScale = (scale: (typeof SCALES)[number]): ReturnType<typeof Scale.get> => Scale.get(`C ${TONAL_NAMES[scale] ?? scale}`); // prettier-ignore

test("every scale holds the notes of tonal's dictionary, and is signed as its relative major", () => {
  for (const scale of SCALES) {
    const steps = tonalScale(scale).intervals.map((i) => Interval.semitones(i));
    expect(SCALE_STEPS[scale], scale).toEqual(steps);
  }
  // D Dorian, E Phrygian, F Lydian, G Mixolydian and B Locrian are the white keys (common practice).
  for (const [tonic, scale] of [[2, "dorian"], [4, "phrygian"], [5, "lydian"], [7, "mixolydian"], [11, "locrian"]] as const) {
    for (let k = 60; k < 72; k++) expect(inScale(k, { tonic, scale })).toBe(inScale(k, { tonic: 0, scale: "major" }));
    expect(usesFlats({ tonic, scale })).toBe(false);
    expect(usesFlats({ tonic: (tonic + 5) % 12, scale })).toBe(true);
  } // prettier-ignore
});

test("major keys with flats are those of F, B flat, E flat, A flat and D flat (the circle of fifths)", () => {
  const flat = Array.from({ length: 12 }, (_, tonic) => tonic).filter((tonic) => usesFlats({ tonic, scale: "major" }));
  expect(flat).toEqual([1, 3, 5, 8, 10]);
});

test("keys", () => {
  expect(keyName({ tonic: 2, scale: "minor" })).toBe("D minor");
  expect(keyName({ tonic: 10, scale: "major" })).toBe("B♭ major");
  expect([62, 64, 65, 67, 69, 70, 72].every((k) => inScale(k, { tonic: 2, scale: "minor" }))).toBe(true);
  expect(inScale(66, { tonic: 2, scale: "minor" })).toBe(false);
});

test("a frequency is told as its note", () => {
  expect(describeHz(440)).toBe("A4");
  expect(describeHz(420)).toBe("G♯4, 19 cents sharp");
  expect([1, -1, 0.4, 49].map((cents) => describeHz(440 * 2 ** (cents / 1200)))).toEqual(["A4, 1 cents sharp", "A4, 1 cents flat", "A4", "A4, 49 cents sharp"]); // prettier-ignore
});

test("every chord kind holds the notes of tonal's dictionary", () => {
  const semitones: Record<string, number> = { "1P": 0, "2M": 2, "3m": 3, "3M": 4, "4P": 5, "5d": 6, "5P": 7, "5A": 8, "7m": 10, "7M": 11, "9M": 14 }; // prettier-ignore
  for (const { symbol } of CHORD_KINDS) {
    const { intervals } = TonalChord.getChord(symbol, "C");
    expect(chordSteps(symbol), symbol).toEqual(intervals.map((i) => semitones[i]));
  }
});

test("chords are read by name and by degree", () => {
  const dMinor = { tonic: 2, scale: "minor" } as const;
  const cMajor = { tonic: 0, scale: "major" } as const;
  const read = (text: string, key: Key = cMajor): string | null => {
    const chord = parseChord(text, key);
    return chord && chordText(chord, true);
  };
  for (const [typed, name] of [
    ["Dm7", "Dm7"],
    ["F#", "G♭"],
    ["bbmaj7", "B♭maj7"],
    ["CM7", "Cmaj7"],
    ["Cm", "Cm"],
    ["g7", "G7"],
    ["A-", "Am"],
    ["Esus", "Esus4"],
    ["B°", "Bdim"],
    ["d5", "D5"],
    ["Am9", "Am9"],
  ] as const)
    // prettier-ignore
    expect(read(typed), typed).toBe(name);
  // The triads of the degrees of major and of natural minor (common practice).
  expect(["I", "ii", "iii", "IV", "V7", "vi", "vii°"].map((t) => read(t))).toEqual(["C", "Dm", "Em", "F", "G7", "Am", "Bdim"]); // prettier-ignore
  expect(["i", "ii°", "III", "iv7", "v", "VI", "VII"].map((t) => read(t, dMinor))).toEqual(["Dm", "Edim", "F", "Gm7", "Am", "B♭", "C"]); // prettier-ignore
  expect([read("bVI"), read("#iv")]).toEqual(["A♭", "G♭m"]);
  for (const bad of ["", "H", "Dx", "viii", "CM9", "m7", "V77"]) expect(read(bad), bad).toBeNull();
});

test("a chord over a bass: read, written, and laid with the bass lowest", () => {
  const key = { tonic: 0, scale: "major" } as const;
  const over = parseChord("F/A", key)!;
  expect([over, chordText(over, false)]).toEqual([{ root: 5, symbol: "M", bass: 9 }, "F/A"]);
  expect(keysOfChord(over, 53)).toEqual([45, 53, 60]);
  expect(keysOfChord(parseChord("Dm7/G", key)!, 50)).toEqual([43, 50, 53, 57, 60]);
  expect(keysOfChord(parseChord("ii/F", key)!, 62)).toEqual([53, 62, 69]);
  expect(parseChord("C/C", key)).toEqual({ root: 0, symbol: "M" });
  expect([parseChord("F/H", key), parseChord("F/", key)]).toEqual([null, null]);
});

test("chords of the same function, on the degrees of the key (common practice)", () => {
  const of = (text: string, key: Key) => sameFunction(parseChord(text, key)!, key).map((c) => chordText(c, true));
  const cMajor = { tonic: 0, scale: "major" } as const;
  expect([of("C", cMajor), of("F", cMajor), of("G", cMajor)]).toEqual([["Em", "Am"], ["Dm"], ["Bdim"]]);
  expect(of("Cmaj7", cMajor)).toEqual(["Em7", "Am7"]);
  expect(of("Fmaj7", cMajor)).toEqual(["Dm7"]);
  // B D F A has no name of its own here: its triad stands for it.
  expect(of("G7", cMajor)).toEqual(["Bdim"]);
  expect(of("Dm", { tonic: 2, scale: "minor" })).toEqual(["F", "B♭"]);
  expect(of("C#", cMajor)).toEqual([]);
  const bMajor = { tonic: 11, scale: "major" } as const;
  expect(sameFunction({ root: 11, symbol: "M" }, bMajor).map((c) => c.root)).toEqual([3, 8]);
});

test("middle C is named as one likes it, in texts that are written and read", () => {
  const named = MIDDLE_C_OCTAVES.map((octave) => {
    nameMiddleC(octave);
    return noteName(60);
  });
  expect(named).toEqual(["C3", "C4", "C5"]);
  nameMiddleC(3);
  expect([noteName(60), parseNote("C3"), parseNote("A3")]).toEqual(["C3", 60, 69]);
  nameMiddleC(5);
  expect([noteName(60), parseNote("C5"), noteName(0)]).toEqual(["C5", 60, "C0"]);
  nameMiddleC(4);
  expect([noteName(60), parseNote("C4")]).toEqual(["C4", 60]);
});

test("triads are root, third and fifth", () => {
  expect(chordSteps("m")).toEqual([0, 3, 7]);
  expect(chordSteps("M")).toEqual([0, 4, 7]);
  expect(chordKeys(125, "M")).toEqual([125]);
});

test("chords are named, inverted too", () => {
  expect(chordName([50, 53, 57])).toBe("Dm");
  expect(chordName([53, 57, 62])).toBe("Dm");
  expect(chordName([46, 50, 53], true)).toBe("B♭");
  expect(chordName([60, 61, 62])).toBeNull();
  for (const { symbol } of CHORD_KINDS) expect(chordName(chordKeys(48, symbol))).not.toBeNull();
});

test("a key says its cents; a scale says whether its third is minor", () => {
  expect([69, 68.2, 67.8, 69.004, 61.5].map((k) => describeKey(k))).toEqual(["A4", "G♯4 +20 ct", "G♯4 −20 ct", "A4", "D4 −50 ct"]); // prettier-ignore
  expect(describeKey(68.2, true)).toBe("A♭4 +20 ct");
  expect([69.01, 68.99].map((k) => describeKey(k))).toEqual(["A4 +1 ct", "A4 −1 ct"]);
  for (const s of SCALES) expect([s, isMinor(s)]).toEqual([s, tonalScale(s).notes[2] === "Eb"]);
});

test("each scale has progressions, those of altered minors the plain minor's as well", () => {
  const names = (s: (typeof SCALES)[number]): string[] => progressionsIn(s).map((p) => p.name);
  for (const s of SCALES) {
    const own = PROGRESSIONS.filter((p) => p.scale === s).map((p) => p.name);
    expect(own.length).toBeGreaterThan(0);
    const altered = s === "harmonicMinor" || s === "melodicMinor";
    expect(names(s)).toEqual(altered ? [...own, ...names("minor")] : own);
  }
});

test("of chords that are several at once the lowest key names the root, in whatever order keys come", () => {
  // An augmented chord and a diminished seventh are alike from each of their notes.
  for (const keys of [[60, 64, 68], [68, 60, 64], [64, 68, 60], [76, 68, 60]]) expect(chordName(keys)).toBe(chordName([60, 64, 68])); // prettier-ignore
  expect(chordName([64, 68, 72])).toBe(chordName([52, 68, 60]));
  expect([60, 61, 62].map((low) => chordName([low, low + 4, low + 8])!.slice(0, 2))).toEqual(["C", "C♯", "D"].map((n) => expect.stringContaining(n) as string)); // prettier-ignore
});

test("a bass that is the root is none; one within the chord inverts it, another comes under the root", () => {
  const keys = (text: string): number[] => keysOfChord(parseChord(text, { tonic: 0, scale: "major" })!, 60);
  expect([keys("C"), keys("C/C"), keys("C/E"), keys("C/G"), keys("C/D"), keys("C/B")]).toEqual([[60, 64, 67], [60, 64, 67], [52, 60, 67], [55, 60, 64], [50, 60, 64, 67], [59, 60, 64, 67]]); // prettier-ignore
  // Where there is no key so low, the chord stays as it is.
  expect(keysOfChord({ root: 0, symbol: "M", bass: 11 }, 0)).toEqual([0, 4, 7]);
  expect(keysOfChord({ root: 5, symbol: "M", bass: 0 }, 5)).toEqual([0, 5, 9]);
});
