import { describe, expect, test } from "vitest";
import { MAX_TICK } from "../time/noteValue";
import { readMidi } from "./midi";

/** Files written byte by byte, after the Standard MIDI File 1.0 of the MIDI Manufacturers Association. */

const ascii = (text: string): number[] => [...Buffer.from(text, "latin1")];
const long = (n: number): number[] => [(n >> 24) & 255, (n >> 16) & 255, (n >> 8) & 255, n & 255];
const END = [0, 0xff, 0x2f, 0];
const track = (...events: number[][]): number[] => {
  const body = [...events.flat(), ...END];
  return [...ascii("MTrk"), ...long(body.length), ...body];
};
const file = (tracks: number[][], { format = 1, division = 96, declared = tracks.length } = {}): Uint8Array =>
  Uint8Array.from([
    ...ascii("MThd"),
    ...long(6),
    0,
    format,
    0,
    declared,
    division >> 8,
    division & 255,
    ...tracks.flat(),
  ]);
/** After so many ticks of 96 a quarter, under 128. */
const on = (after: number, key: number, velocity = 100): number[] => [after, 0x90, key, velocity];
const off = (after: number, key: number): number[] => [after, 0x80, key, 0];
const meter = (beats: number, power: number): number[] => [0, 0xff, 0x58, 4, beats, power, 24, 8];
const notesOf = (bytes: Uint8Array): number[][] => {
  const opened = readMidi(bytes);
  if (!opened.ok) throw new Error(opened.reason);
  return opened.file.notes.map((n) => [n.onTick, n.offTick, n.key, n.velocity]);
};
const reasonOf = (bytes: Uint8Array): string => {
  const opened = readMidi(bytes);
  return opened.ok ? "none" : opened.reason;
};

describe("notes of MIDI files", () => {
  test("lie in order of time and key, whichever track they come from; one without length lasts a tick", () => {
    const late = track(on(96, 70), off(48, 70), on(0, 40, 1), off(0, 40));
    const early = track(on(0, 64), on(0, 60), off(48, 64), off(0, 60), on(96, 50), off(1, 50));
    expect(notesOf(file([late, early]))).toEqual([
      [0, 480, 60, 100],
      [0, 480, 64, 100],
      [960, 1440, 70, 100],
      [1440, 1441, 40, 1],
      [1440, 1450, 50, 100],
    ]);
  });
  test("of one key end first come first; a note-on without velocity ends one, on its own channel", () => {
    const other = [0, 0x91, 60, 80];
    const events = track(on(0, 60, 90), on(48, 60, 70), other, on(48, 60, 0), off(48, 60), [48, 0x81, 60, 0]);
    expect(notesOf(file([events]))).toEqual([[0, 960, 60, 90], [480, 1440, 60, 70], [480, 1920, 60, 80]]); // prettier-ignore
    expect(notesOf(file([track(on(0, 60, 90), on(48, 60, 70), [48, 0xff, 1, 0])]))).toEqual([[0, 960, 60, 90], [480, 960, 60, 70]]); // prettier-ignore
  });
  test("the first meter that a song can have is taken: 1 to 32 beats of halves to sixteenths", () => {
    const meterOf = (...meters: number[][]): unknown => {
      const opened = readMidi(file([track(...meters)]));
      return opened.ok && opened.file.meter;
    };
    for (const [beats, power] of [[1, 1], [32, 4], [3, 2], [7, 3]] as const) expect(meterOf(meter(beats, power))).toEqual({ beats, unit: 2 ** power }); // prettier-ignore
    for (const [beats, power] of [[4, 0], [4, 5], [33, 2], [0, 2]] as const) expect(meterOf(meter(beats, power))).toBeNull(); // prettier-ignore
    expect(meterOf(meter(4, 5), meter(5, 3), meter(3, 2))).toEqual({ beats: 5, unit: 8 });
    // What a song of one tempo and one meter cannot follow is told.
    const tempo = (ms: number): number[] => [0, 0xff, 0x51, 3, (1000 * ms) >> 16, ((1000 * ms) >> 8) & 255, (1000 * ms) & 255]; // prettier-ignore
    const leavesOut = (...events: number[][]): unknown => {
      const opened = readMidi(file([track(...events)]));
      return opened.ok && opened.file.changesLeftOut;
    };
    expect([[], [meter(4, 2), meter(4, 2)], [tempo(500), tempo(500)], [meter(4, 2), meter(3, 2)], [tempo(500), tempo(400)]].map((e) => leavesOut(...e))).toEqual([false, false, false, true, true]); // prettier-ignore
  });
});

test("more tracks than a file says are read, too; a track's name is cut at 80 letters", () => {
  const named = [0, 0xff, 3, 100, ...ascii("n".repeat(100))];
  const bytes = file([track(on(0, 60), off(48, 60)), track(named, on(0, 67), off(48, 67))], { declared: 1 });
  expect(notesOf(bytes)).toEqual([[0, 480, 60, 100], [0, 480, 67, 100]]);
  const opened = readMidi(file([track(named, on(0, 67), off(48, 67))]));
  expect(opened.ok && opened.file.name).toBe("n".repeat(80));
}); // prettier-ignore

test("notes behind the last tick are left out, and longer ones end there", () => {
  // Two ticks a quarter: 480 ticks each. A delta of four bytes (variable length).
  const late = (ticks: number): number[] => [0x80 | ((ticks >> 21) & 127), 0x80 | ((ticks >> 14) & 127), 0x80 | ((ticks >> 7) & 127), ticks & 127]; // prettier-ignore
  const most = MAX_TICK / 480;
  expect(Number.isInteger(most)).toBe(true);
  const lies = (on: number, off: number): number[][] =>
    notesOf(file([track([...late(on), 0x90, 60, 100], [...late(off - on), 0x80, 60, 0])], { division: 2 }));
  expect(lies(most, most + 1)).toEqual([[MAX_TICK, MAX_TICK + 480, 60, 100]]);
  expect(lies(most + 1, most + 2)).toEqual([]);
  expect(lies(2, most + 2)).toEqual([[960, MAX_TICK + 960, 60, 100]]);
  expect(lies(2, most + 3)).toEqual([[960, MAX_TICK + 960, 60, 100]]);
  expect(lies(2, most + 1)).toEqual([[960, MAX_TICK + 480, 60, 100]]);
});

test("a tick may be a quarter", () => {
  expect(notesOf(file([track(on(1, 60), off(2, 60))], { division: 1 }))).toEqual([[960, 2880, 60, 100]]);
});

describe("what is no MIDI file is refused with the reason", () => {
  const good = track(on(0, 60), off(48, 60));
  test.each([
    ["does not start like one", Uint8Array.from(file([good])).fill(0, 0, 1), "it does not start like a MIDI file"],
    ["shorter than its head", file([]).slice(0, 13), "it does not start like a MIDI file"],
    ["a head and no track", file([], { declared: 1 }), "it should hold 1 tracks, and holds 0"],
    ["fewer tracks than it says", file([good], { declared: 3 }), "it should hold 3 tracks, and holds 1"],
    ["of format 2", file([good], { format: 2 }), "format 2 is not read, only 0 and 1"],
    ["in frames of video", file([good], { division: 0xe728 }), "it counts time in frames of video, not in beats"],
    ["without ticks", file([good], { division: 0 }), "it counts time in frames of video, not in beats"],
    ["cut in a chunk's head", file([good, good]).slice(0, 14 + good.length + 5), `it is cut short at byte ${14 + good.length + 5}`],
    ["cut in a track", file([good]).slice(0, -3), "it is cut short: 3 bytes are missing"],
    ["a key past 127", file([track([0, 0x90, 128, 90], [48, 0x80, 128, 0])]), "it is damaged inside (a note out of range)"],
    ["a velocity past 127", file([track([0, 0x90, 60, 128], off(48, 60))]), "it is damaged inside (a note out of range)"],
  ] as const)("%s", (_name, bytes, reason) => {
    expect(reasonOf(bytes)).toBe(reason);
  }); // prettier-ignore
  test.each([1, 2, 3])("a track that does not end with FF 2F 00: byte %d from the end", (back) => {
    const bad = good.with(-back, 0x11);
    expect(reasonOf(file([good, bad]))).toBe("track 2 has no end");
  });
  test("what the parser stumbles over is told in its words", () => {
    const reason = reasonOf(file([track([0, 60, 60])]));
    expect(reason).toMatch(/^it is damaged inside \([A-Za-z ]{10,}/);
    expect(reason).not.toMatch(/undefined|Error/);
  });
  test("a chunk of another kind is passed over, and a longer head", () => {
    const other = [...ascii("XYZ1"), ...long(3), 1, 2, 3];
    const plain = file([other, good, other, good], { declared: 2 });
    const short = file([good, [...ascii("XYZ1"), ...long(1), 1]], { declared: 1 });
    expect(notesOf(short)).toEqual([[0, 480, 60, 100]]);
    const longer = Uint8Array.from([...plain.slice(0, 7), 9, ...plain.slice(8, 14), 7, 7, 7, ...plain.slice(14)]);
    for (const bytes of [plain, longer]) expect(notesOf(bytes)).toEqual([[0, 480, 60, 100], [0, 480, 60, 100]]); // prettier-ignore
    expect(reasonOf(plain.with(7, 5))).toBe("its header is too short");
  });
});
