import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { runs } from "../../../tests/support/runs";
import { compileProject } from "../engine/compile";
import { demoProject } from "../patch/demo";
import { partEvents } from "../pattern/events";
import { midiOf } from "../../../tests/support/midi";
import { readMidi } from "./midi";
import { parseProjectFile, projectFileText } from "./projectFile";

/** Damaged files: whatever was done to them, they are read or refused, and never more than that. */

const TEXT = projectFileText(demoProject("d"));
const { song, parts, seed } = demoProject("d");
const MIDI = midiOf({
  name: "d",
  notes: partEvents(parts[0]!, song, seed),
  tempoBpm: 122,
  meter: song.meter,
  endTick: 4 * 3840,
});

const NUMBERS = ["0", "-1", "1e308", "0.5", "null", '"x"', "[]", "{}", "99999999", "4097"];
const textChange = fc.oneof(
  fc.tuple(fc.constant("cut"), fc.nat(), fc.nat(400)),
  fc.tuple(fc.constant("number"), fc.nat(), fc.nat(NUMBERS.length - 1)),
  fc.tuple(fc.constant("double"), fc.nat(), fc.nat(2000)),
);

function changedText(text: string, [how, where, what]: readonly [string, number, number]): string {
  const at = where % text.length;
  if (how === "cut") return text.slice(0, at) + text.slice(at + what);
  if (how === "double") return text.slice(0, at) + text.slice(at, at + what) + text.slice(at);
  const all = [...text.matchAll(/-?\d+(\.\d+)?/g)];
  const found = all[where % all.length]!;
  return text.slice(0, found.index) + NUMBERS[what]! + text.slice(found.index + found[0].length);
}

/** Runs one file through a reader that may not hang on it: a good one takes milliseconds. */
function read<T>(reader: () => T): T {
  const from = performance.now();
  const result = reader();
  expect(performance.now() - from).toBeLessThan(3000);
  return result;
}

describe("damaged files", () => {
  test("a project is read as a valid one or refused with a place and a reason", () => {
    fc.assert(
      fc.property(fc.array(textChange, { minLength: 1, maxLength: 3 }), (changes) => {
        const text = changes.reduce(changedText, TEXT);
        const opened = read(() => parseProjectFile(text));
        if (opened.ok) {
          // What was read can be written, read again and played.
          expect(parseProjectFile(projectFileText(opened.project)).ok).toBe(true);
          expect(compileProject(opened.project).parts.length).toBeGreaterThan(0);
        } else expect([opened.path.length > 0, opened.reason.length > 0]).toEqual([true, true]);
      }),
      runs(100),
    );
  });

  test("a MIDI file is read with notes in range or refused with a reason", () => {
    const change = fc.tuple(fc.nat(MIDI.length - 1), fc.nat(255));
    fc.assert(
      fc.property(fc.array(change, { minLength: 1, maxLength: 12 }), fc.nat(MIDI.length), (changes, keep) => {
        const bytes = MIDI.slice(0, changes.length % 3 === 0 ? keep : undefined);
        for (const [at, value] of changes) if (at < bytes.length) bytes[at] = value;
        const opened = read(() => readMidi(bytes));
        if (!opened.ok) {
          expect(opened.reason).toMatch(/^(?!.*Error).+/);
          return;
        }
        for (const n of opened.file.notes) {
          expect(Number.isInteger(n.onTick) && n.onTick >= 0 && n.offTick > n.onTick).toBe(true);
          expect(n.key >= 0 && n.key <= 127 && n.velocity >= 0 && n.velocity <= 127).toBe(true);
        }
      }),
      runs(100),
    );
  });

  test("many notes of one key that are never let go are read in time that grows with their number", () => {
    // A list that was shifted for each note took minutes for so many: more than a test may take.
    const file = (count: number): Uint8Array => {
      const noteOn = new Uint8Array([1, 0x90, 60, 100]);
      const body = new Uint8Array(count * 4 + 4).map((_, i) => noteOn[i % 4]!);
      body.set([0, 0xff, 0x2f, 0], count * 4);
      const head = [0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 1, 3, 0xc0, 0x4d, 0x54, 0x72, 0x6b];
      const size = new Uint8Array(4);
      new DataView(size.buffer).setUint32(0, body.length);
      const whole = new Uint8Array(head.length + 4 + body.length);
      whole.set(head);
      whole.set(size, head.length);
      whole.set(body, head.length + 4);
      return whole;
    };
    const opened = readMidi(file(400_000));
    expect(opened).toMatchObject({ ok: true, file: { notesLeftOut: 400_000 - 4096 } });
  });
});
