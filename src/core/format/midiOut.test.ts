import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { evenly } from "../../../tests/support/evenly";
import { curveMessages, type MidiCurve, type MidiCurveForm } from "./midiCurve";
import { readMidi } from "./midi";
import { writeMidiSong, type MidiSong } from "./midiOut";

/** What midicsv, a command-line tool of Debian's, reads in a file: rows of track, tick, kind and numbers. */
function csvOf(bytes: Uint8Array): (string | number)[][] {
  const folder = mkdtempSync(path.join(tmpdir(), "midi-"));
  try {
    writeFileSync(path.join(folder, "x.mid"), bytes);
    const text = execFileSync("/usr/bin/midicsv", [path.join(folder, "x.mid")], { encoding: "latin1" });
    return text.trim().split("\n").map((line) => line.split(", ").map((f) => (/^-?\d+$/.test(f) ? Number(f) : f))); // prettier-ignore
  } finally {
    rmSync(folder, { recursive: true });
  }
}

const note = (onTick: number, offTick: number, key: number, velocity: number) => ({ onTick, offTick, key, velocity });
const SONG: MidiSong = {
  name: "Night crossing",
  tempoBpm: 122,
  meter: { beats: 7, unit: 8 },
  endTick: 3360,
  format: 1,
  tracks: [
    { name: "Rigging", notes: [note(0, 480, 60, 100), note(480, 4000, 67, 127)], curves: [] },
    {
      name: "Hull",
      notes: [note(0, 960, 36, 90)],
      curves: [
        { form: { kind: "7 bit", controller: 74 }, error: 0, points: [{ tick: 0, value: 0 }, { tick: 480, value: 0.5 }, { tick: 960, value: 1 }] },
        { form: { kind: "14 bit", controller: 1 }, error: 0, points: [{ tick: 240, value: 0.25 }] },
        { form: { kind: "bend" }, error: 0, points: [{ tick: 0, value: 0 }, { tick: 720, value: -1 }, { tick: 960, value: 1 }] },
      ],
    },
  ],
}; // prettier-ignore

describe("a song as MIDI", () => {
  test("midicsv reads format 1: a track a part, with tempo, meter, names, notes and curves", () => {
    const rows = csvOf(writeMidiSong(SONG));
    expect(rows.find((r) => r[2] === "Header")).toEqual([0, 0, "Header", 1, 3, 960]);
    expect(rows.filter((r) => r[2] === "Title_t").map((r) => [r[0], r[1], r[3]])).toEqual([[1, 0, '"Night crossing"'], [2, 0, '"Rigging"'], [3, 0, '"Hull"']]); // prettier-ignore
    expect(rows.find((r) => r[2] === "Tempo")).toEqual([1, 0, "Tempo", Math.round(60_000_000 / 122)]);
    // The denominator is a power of two.
    expect(rows.find((r) => r[2] === "Time_signature")!.slice(0, 5)).toEqual([1, 0, "Time_signature", 7, 3]);
    const of = (track: number) => rows.filter((r) => r[0] === track && /^(Note|Control|Pitch)/.test(String(r[2])));
    expect(of(2)).toEqual([
      [2, 0, "Note_on_c", 0, 60, 100],
      [2, 480, "Note_off_c", 0, 60, 0],
      [2, 480, "Note_on_c", 0, 67, 127],
      [2, 3360, "Note_off_c", 0, 67, 0],
    ]);
    // A quarter of 16383 is 4096 = 32 * 128: the coarse half and the fine one.
    expect(of(3)).toEqual([
      [3, 0, "Control_c", 1, 74, 0],
      [3, 0, "Pitch_bend_c", 1, 8192],
      [3, 0, "Note_on_c", 1, 36, 90],
      [3, 240, "Control_c", 1, 1, 32],
      [3, 240, "Control_c", 1, 33, 0],
      [3, 480, "Control_c", 1, 74, 64],
      [3, 720, "Pitch_bend_c", 1, 0],
      [3, 960, "Note_off_c", 1, 36, 0],
      [3, 960, "Control_c", 1, 74, 127],
      [3, 960, "Pitch_bend_c", 1, 16383],
    ]);
    for (const track of [1, 2, 3]) expect(rows.find((r) => r[0] === track && r[2] === "End_track")![1]).toBe(3360);
  });
  test("midicsv reads format 0: all in one track, a channel a part; our own reader finds the same notes", () => {
    const bytes = writeMidiSong({ ...SONG, format: 0 });
    const rows = csvOf(bytes);
    expect(rows.find((r) => r[2] === "Header")).toEqual([0, 0, "Header", 0, 1, 960]);
    expect(rows.filter((r) => r[2] === "Note_on_c").map((r) => r[3])).toEqual([0, 1, 0]);
    const opened = readMidi(bytes);
    expect(opened.ok && opened.file.notes.map((n) => [n.onTick, n.offTick, n.key])).toEqual([[0, 960, 36], [0, 480, 60], [480, 3360, 67]]); // prettier-ignore
  });
  test("eight parts keep off the channel of drums", () => {
    const tracks = Array.from({ length: 11 }, (_, i) => ({
      name: `${i}`,
      notes: [note(0, 10, 40 + i, 80)],
      curves: [],
    }));
    const channels = csvOf(writeMidiSong({ ...SONG, format: 0, tracks })).filter((r) => r[2] === "Note_on_c").map((r) => r[3]); // prettier-ignore
    expect(channels).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 10, 11]);
  });
});

describe("thinned curves", () => {
  const forms = fc.constantFrom<MidiCurveForm>({ kind: "7 bit", controller: 74 }, { kind: "14 bit", controller: 1 }, { kind: "bend" }); // prettier-ignore
  /** What a receiver holds at each place, by MIDI 1.0: the fine half goes to nothing with each coarse one. */
  function received({ form, points }: MidiCurve, sent: ReturnType<typeof curveMessages>): number[] {
    let [coarse, fine, value] = [0, 0, 0];
    let at = 0;
    return points.map((p) => {
      for (; at < sent.length && sent[at]!.tick <= p.tick; at++) {
        const m = sent[at]!;
        if (form.kind === "bend") value = m.value < 0 ? m.value / 8192 : m.value / 8191;
        else if (form.kind === "7 bit") value = m.value / 127;
        else {
          if (m.controller === form.controller) [coarse, fine] = [m.value, 0];
          else fine = m.value;
          value = (coarse * 128 + fine) / 16_383;
        }
      }
      return value;
    });
  }
  test("never miss a place by more than their error, or half a step", () => {
    const values = fc.array(evenly(-1, 1), { minLength: 1, maxLength: 60 });
    fc.assert(
      fc.property(forms, values, evenly(0, 0.2), (form, list, error) => {
        const range = form.kind === "bend" ? 2 : 1;
        const points = list.map((v, i) => ({ tick: 10 * i, value: form.kind === "bend" ? v : Math.abs(v) }));
        const curve = { form, points, error };
        const step = form.kind === "7 bit" ? 1 / 127 : form.kind === "14 bit" ? 1 / 16_383 : 1 / 8191;
        received(curve, curveMessages(curve)).forEach((v, i) =>
          expect(Math.abs(v - points[i]!.value)).toBeLessThanOrEqual(Math.max(error * range, step / 2) + 1e-9),
        );
      }),
    );
  });
  test("as few as can be: no value could have been held for longer, and the first place is sent", () => {
    const values = fc.array(evenly(-1.2, 1.2), { minLength: 1, maxLength: 12 });
    fc.assert(
      fc.property(forms, values, evenly(0, 0.3), (form, list, error) => {
        const bend = form.kind === "bend";
        const [least, most] = bend ? [-8192, 8191] : [0, form.kind === "7 bit" ? 127 : 16_383];
        const points = list.map((v, i) => ({ tick: 10 * i, value: bend ? v : Math.abs(v) }));
        const worth = (n: number): number => n / (n < 0 ? 8192 : most);
        // Every number that serves a place: near enough, or else the nearest one.
        const serving = points.map(({ value }) => {
          const v = Math.min(1, Math.max(bend ? -1 : 0, value));
          const around = Math.round(v * (v < 0 ? 8192 : most));
          const reach = Math.ceil(error * (bend ? 2 : 1) * 8192 * 2) + 2;
          const near: number[] = [];
          for (let n = Math.max(least, around - reach); n <= Math.min(most, around + reach); n++)
            if (Math.abs(worth(n) - v) <= error * (bend ? 2 : 1) + 1e-12) near.push(n);
          return new Set(near.length > 0 ? near : [around]);
        });
        let runs = 0;
        let common = new Set<number>();
        for (const set of serving) {
          const both = new Set([...common].filter((n) => set.has(n)));
          if (both.size === 0) runs++;
          common = both.size === 0 ? set : both;
        }
        const sent = curveMessages({ form, points, error });
        expect(sent[0]!.tick).toBe(0);
        expect(new Set(sent.map((m) => m.tick)).size).toBe(runs);
        expect(sent.every((m) => (bend ? m.value >= -8192 && m.value <= 8191 : m.value >= 0 && m.value <= 127))).toBe(true);
      }),
      { numRuns: 40 },
    );
  }); // prettier-ignore
  test("the fine half goes alone where the coarse one stays, and ends are sent past the ends", () => {
    const values = (form: MidiCurveForm, list: number[]) => curveMessages({ form, points: list.map((value, i) => ({ tick: i, value })), error: 0 }).map((m) => [m.controller, m.value]); // prettier-ignore
    const of = (coarse: number, fine: number): number => (128 * coarse + fine) / 16_383;
    expect(values({ kind: "14 bit", controller: 3 }, [of(5, 7), of(5, 9), of(6, 9)])).toEqual([[3, 5], [35, 7], [35, 9], [3, 6], [35, 9]]); // prettier-ignore
    expect(values({ kind: "7 bit", controller: 3 }, [-0.5, 0.5, 1.5])).toEqual([[3, 0], [3, 64], [3, 127]]); // prettier-ignore
    expect(values({ kind: "bend" }, [-3, 0, 3, -0.5, 0.5])).toEqual([-8192, 0, 8191, -4096, 4096].map((v) => [null, v])); // prettier-ignore
  });
  test("send little: a level curve once, a ramp in steps of the error", () => {
    const ramp = Array.from({ length: 1001 }, (_, i) => ({ tick: i, value: i / 1000 }));
    const count = (error: number) => curveMessages({ form: { kind: "7 bit", controller: 74 }, points: ramp, error }).length; // prettier-ignore
    expect(curveMessages({ form: { kind: "bend" }, points: ramp.map((p) => ({ ...p, value: 0.3 })), error: 0 })).toHaveLength(1); // prettier-ignore
    expect(count(0)).toBe(128);
    // Within 5 % either way, each value serves a tenth of the way.
    expect(count(0.05)).toBeLessThanOrEqual(12);
    expect(count(0.05)).toBeGreaterThanOrEqual(10);
  });
});
