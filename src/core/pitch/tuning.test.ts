import fc from "fast-check";
import { PitchDetector } from "pitchy";
import { describe, expect, test } from "vitest";
import { makeProject, note } from "../../../tests/support/projects";
import { compileProject } from "../engine/compile";
import { renderNow } from "../engine/render";
import { keyToHz } from "./note";
import { parseMapping, parseScale } from "../format/tuningFiles";
import { PLAIN_MAPPING, tuningTable, type KeyMapping, type Tuning } from "./tuning";

/** The example that the format's definition prints: Aaron's meantone of 1523, cents and ratios mixed. */
const MEANTONE = `! meanquar.scl
!
1/4-comma meantone scale. Pietro Aaron's temperament (1523)
 12
!
 76.04900
 193.15686
 310.26471
 5/4
 503.42157
 579.47057
 696.57843
 25/16
 889.73529
 1006.84314
 1082.89214
 2/1
`;

/** White keys play a scale of seven notes, after the definition's description of a mapping. */
const WHITE_KEYS = `! Template for a keyboard mapping
12
0
127
60
69
440.0
7
0
x
1
x
2
3
x
4
x
5
x
6
`;

const tuned = (scl: string, mapping: KeyMapping = PLAIN_MAPPING): Tuning => ({ ...parseScale(scl), ...mapping });
const equal = (steps: number, period: string) =>
  `Equal\n${steps}\n${Array.from({ length: steps - 1 }, (_, i) => ((1200 * Math.log2(Number(period)) * (i + 1)) / steps).toFixed(9)).join("\n")}\n${period}`; // prettier-ignore

describe("scales", () => {
  test("the definition's example: pure thirds, fifths a quarter of a comma narrow, A at 440 Hz", () => {
    const scale = parseScale(MEANTONE);
    expect(scale.name).toBe("1/4-comma meantone scale. Pietro Aaron's temperament (1523)");
    expect(scale.cents).toHaveLength(12);
    const table = tuningTable(tuned(MEANTONE));
    const ratio = (high: number, low: number): number => keyToHz(table[high]!) / keyToHz(table[low]!);
    expect(keyToHz(table[69]!)).toBeCloseTo(440, 9);
    expect(ratio(64, 60)).toBeCloseTo(5 / 4, 9);
    expect(ratio(67, 60)).toBeCloseTo(5 ** (1 / 4), 5);
    expect(ratio(72, 60)).toBeCloseTo(2, 12);
    expect(ratio(48, 36)).toBeCloseTo(2, 12);
  });
  test("twelve equal steps are what plays without a tuning", () => {
    tuningTable(tuned(equal(12, "2"))).forEach((pitch, key) => expect(pitch).toBeCloseTo(key, 6));
  });
  test("any number of steps of any interval: 19 to the octave, 13 to the twelfth", () => {
    const nineteen = tuningTable(tuned(equal(19, "2")));
    expect(nineteen[79]! - nineteen[60]!).toBeCloseTo(12, 6);
    const twelfth = tuningTable(tuned(equal(13, "3")));
    expect(keyToHz(twelfth[73]!) / keyToHz(twelfth[60]!)).toBeCloseTo(3, 6);
    expect(keyToHz(twelfth[47]!) / keyToHz(twelfth[60]!)).toBeCloseTo(1 / 3, 6);
  });
  test("what stands behind a number, empty lines and line ends do not matter", () => {
    expect(
      parseScale("A scale\r\n2 notes\r\n! comment\r\n 3/2 perfect fifth\r\n\r\n 2 octave\r\n").cents.map(Math.round),
    ).toEqual([702, 1200]);
    expect(parseScale("\n1\n2/1").name).toBe("Untitled scale");
    expect(parseScale("Narrow\n1\n0.5").cents).toEqual([0.5]);
    expect(parseScale("High\n1\n24000.0").cents).toEqual([24_000]);
    expect(parseScale(`${"n".repeat(90)}\n1\n2/1`).name).toBe("n".repeat(80));
  });
  test.each([
    ["", "Line 1: the description and the number of notes are missing."],
    ["Name\ntwelve", 'Line 2: "twelve" is no number of notes.'],
    ["Name\n0", "Line 2: a scale holds 1 to 128 notes here, this one has 0."],
    ["Name\n3\n100.0\n200.0", "Line 4: 3 notes are announced, 2 follow."],
    ["Name\n2\n-3/2\n2/1", 'Line 3: "-3/2" is neither cents (with a point) nor a ratio.'],
    ["Name\n1\n1.5e2", 'Line 3: "1.5e2" is no number of cents.'],
    ["Name\n1\n.", 'Line 3: "." is no number of cents.'],
    ["! nothing but this", "Line 1: the description and the number of notes are missing."],
    ["Name\n1\n24000.1", 'Line 3: "24000.1" is no number of cents.'],
    ["Name\n1\n5/0", 'Line 3: "5/0" is neither cents (with a point) nor a ratio.'],
    ["Name\n2\n1.2.3\n2/1", 'Line 3: "1.2.3" is no number of cents.'],
    ["Name\n2\n3/2\n\n1/1\n5/4", "Line 5: the last note must lie above the first: the scale starts again there."],
    ["Name\n1\n1/1", "Line 3: the last note must lie above the first: the scale starts again there."],
  ])("a scale that is none: %j", (text, message) => {
    expect(() => parseScale(text)).toThrow(message);
  });
});

describe("mappings", () => {
  test("white keys play seven notes, black ones nothing", () => {
    const just = "Just major\n7\n9/8\n5/4\n4/3\n3/2\n5/3\n15/8\n2/1";
    const table = tuningTable(tuned(just, parseMapping(WHITE_KEYS)));
    const hz = (key: number): number => keyToHz(table[key]!);
    expect(hz(69)).toBeCloseTo(440, 9);
    // C is 3/5 of A in a just major scale.
    expect(hz(60)).toBeCloseTo(264, 9);
    expect([62, 64, 65, 67, 71, 72, 48].map((k) => hz(k) / 264)).toEqual([9 / 8, 5 / 4, 4 / 3, 3 / 2, 15 / 8, 2, 1 / 2].map((r): unknown => expect.closeTo(r, 9))); // prettier-ignore
    expect([61, 63, 66, 68, 70].every((k) => Number.isNaN(table[k]!))).toBe(true);
  });
  test("a mapping says its numbers as they stand, down to a mapping of no size", () => {
    expect(parseMapping("0\n1\n2\n3\n4\n5.5\n0")).toEqual({ firstKey: 1, lastKey: 2, middleKey: 3, referenceKey: 4, referenceHz: 5.5, octaveDegree: 0, mapping: [] }); // prettier-ignore
  });
  test("keys outside of its range and entries that are missing are not played", () => {
    const table = tuningTable(tuned(equal(12, "2"), parseMapping("12\n48\n72\n60\n60\n300\n12\n0\n1\n2")));
    expect(keyToHz(table[60]!)).toBeCloseTo(300, 6);
    expect([47, 73, 63].map((k) => Number.isNaN(table[k]!))).toEqual([true, true, true]);
    expect(keyToHz(table[50]!)).toBeCloseTo(150 * 2 ** (2 / 12), 5);
  });
  test.each([
    ["", "Line 1: seven numbers stand at the head of a mapping."],
    ["12\n0", "Line 2: seven numbers stand at the head of a mapping."],
    ["0\n128\n127\n60\n69\n440\n0", 'Line 2: the first key must be 0 to 127, not "128".'],
    ["0\n0\n127\n128\n69\n440\n0", 'Line 4: the middle key must be 0 to 127, not "128".'],
    ["0\n0\n127\n60\n-1\n440\n0", 'Line 5: the reference key must be 0 to 127, not "-1".'],
    ["0\n0\n127\n60\n128\n440\n0", 'Line 5: the reference key must be 0 to 127, not "128".'],
    ["0\n0\n200\n60\n69\n440\n0", 'Line 3: the last key must be 0 to 127, not "200".'],
    ["0\n0\n127\n60\n69\n0\n0", 'Line 6: the reference frequency must be 1 to 20000, not "0".'],
    ["0\n0\n127\n60\n69\n440\n-1", 'Line 7: the degree of the octave must be 0 to 128, not "-1".'],
    ["0\n0\n127\n60.5\n69\n440\n0", 'Line 4: the middle key must be 0 to 127, not "60.5".'],
    ["0\n0\n127\n60\n69\nA4\n0", 'Line 6: the reference frequency must be 1 to 20000, not "A4".'],
    ["1\n0\n127\n60\n69\n440\n12\nq", 'Line 8: "q" is neither a degree nor x.'],
  ])("a mapping that is none: %j", (text, message) => {
    expect(() => parseMapping(text)).toThrow(message);
  });
  test("no text brings down the readers", () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom("1", "2", "9", "/", ".", "-", "x", " ", "\n", "!", "0", "e") }), (text) => {
        for (const read of [parseScale, parseMapping]) {
          try {
            read(text);
          } catch (error) {
            expect((error as Error).message).toMatch(/^Line \d+: /);
          }
        }
      }),
    ); // prettier-ignore
  });
});

test("a tuned note is heard at its pitch, as pitchy hears it; a key that is not played is silent", () => {
  const project = (key: number, tuning: Tuning | null) => makeProject({ notes: [note(0, 3840, key)], song: { tuning }, values: { "amp.level": -12 }, choices: { "osc.wave": "sine" } }); // prettier-ignore
  const render = (key: number, tuning: Tuning | null) => renderNow(compileProject(project(key, tuning)), { sampleRate: 48_000, bars: 1, tail: "cut" }).left; // prettier-ignore
  const hz = (left: Float32Array): number => PitchDetector.forFloat32Array(8192).findPitch(left.slice(4096, 12_288), 48_000)[0]; // prettier-ignore
  // E in the meantone of the definition lies 5/4 above a C that is 889.73529 cents below A.
  const e = 440 * 2 ** (-889.73529 / 1200) * (5 / 4);
  expect(1200 * Math.log2(hz(render(64, tuned(MEANTONE))) / e)).toBeCloseTo(0, 0);
  expect(1200 * Math.log2(hz(render(64, null)) / e)).toBeCloseTo(3.42, 0);
  const white = tuned("Seven\n7\n9/8\n5/4\n4/3\n3/2\n5/3\n15/8\n2/1", parseMapping(WHITE_KEYS));
  expect(Math.max(...render(61, white))).toBe(0);
});

test("a reference key that the mapping leaves out is tuned as the middle key is", () => {
  const steps = Array.from({ length: 12 }, (_, i) => 100 * (i + 1));
  const mapping = { ...PLAIN_MAPPING, mapping: [0, null, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11], middleKey: 60, referenceKey: 61, referenceHz: 300 }; // prettier-ignore
  const table = tuningTable({ name: "t", cents: steps, ...mapping });
  expect(table[61]).toBeNaN();
  expect(keyToHz(table[60]!)).toBeCloseTo(300, 9);
  expect(keyToHz(table[72]!)).toBeCloseTo(600, 9);
});
