import { describe, expect, test } from "vitest";
import type { HeardNote } from "../engine/watch";
import { at, heard, ofAddress, rise } from "../../../tests/support/heardMotion";
import { note, type Made } from "../../../tests/support/projects";

const notes = [note(0, 3800, 60, 127), note(960, 1900, 67, 64)];

describe("the pitch of a part", () => {
  test("goes to all that follows the keys, filters included, and to nothing else", () => {
    const made: Made = {
      notes,
      values: { "playing.pitch": 7.5, "osc.pitch": 1, "filter.cutoff": 400, "filter.keyFollow": 50 },
    };
    const found = heard(made, { addresses: ["osc.pitch", "filter.cutoff"], sources: [] });
    for (const n of found) {
      expect(n.rows[0]).toBeCloseTo(n.key + 7.5 + 1, 9);
      // Half of an octave's way an octave, counted from middle C.
      expect(Math.log2(n.rows[1]! / 400)).toBeCloseTo((0.5 * (n.key + 7.5 - 60)) / 12, 9);
    }
    const fixed = ofAddress({ ...made, choices: { "osc.keys": "fixed" }, values: { ...made.values, "osc.fixed": 440 } }, "osc.pitch"); // prettier-ignore
    for (const n of fixed) expect(n.rows[0]).toBeCloseTo(69 + 1, 6);
  });

  test("is moved while notes sound and glide: by what all share, and by what each note brings", () => {
    const routes = [
      { source: "r", target: "playing.pitch", amount: 12 },
      { source: "velocity", target: "playing.pitch", amount: -5 },
    ] as const;
    const made: Made = { notes, modules: [rise("r", 0.5, "song")], routes, values: { "filter.cutoff": 400, "filter.keyFollow": 100 } }; // prettier-ignore
    const pitches = ofAddress(made, "osc.pitch");
    const cutoffs = ofAddress(made, "filter.cutoff");
    pitches.forEach((n, i) => {
      for (const sec of [0.1, 0.4]) {
        const added = 12 * 0.5 * (n.onFrame / 48_000 + sec) - 5 * (n.key === 60 ? 1 : 64 / 127);
        expect(at(n, sec) - n.key).toBeCloseTo(added, 1);
        expect(12 * Math.log2(at(cutoffs[i]!, sec) / 400) + 60 - n.key).toBeCloseTo(added, 1);
      }
    });
    // One note at a time, gliding over 200 ms: half-way after half of it.
    const gliding: Made = {
      ...made,
      notes: [note(0, 960, 48), note(960, 1900, 60)],
      routes: [{ source: "r", target: "playing.pitch", amount: 12 }],
      playing: { choices: { voices: "one" }, glide: { unit: "ms", ms: 200 } },
    };
    const second = ofAddress(gliding, "osc.pitch").find((n) => n.key === 60)!;
    expect(at(second, 0.1)).toBeCloseTo(54 + 12 * 0.5 * 0.6, 1);
  });
});

test("the level rises in half a millisecond at the soonest, and falls in four: sooner would click", () => {
  const [n] = ofAddress({ notes: [note(0, 960, 60)], values: { "amp.level": 0 }, amp: { attack: { unit: "ms", ms: 0 }, release: { unit: "ms", ms: 0 } } }, "amp.level"); // prettier-ignore
  const level = (frame: number): number => n!.rows[n!.frames.indexOf(frame)]!;
  // At 48 kHz: 24 frames, and 192 after the note was let go at half a second.
  expect([n!.frames[0], level(24), level(24_000)]).toEqual([0, 0, 0]);
  expect(n!.frames.filter((f) => f > 0 && f < 24).every((f) => level(f) < -1)).toBe(true);
  expect(n!.frames.filter((f) => f > 24_000 && f < 24_192).every((f) => level(f) < -0.1 && level(f) > -60)).toBe(true);
  expect(n!.frames.at(-1)! - 24_192).toBeLessThan(16);
});

test("what is taken at a note's start stays as it stood then, of what all notes share as well", () => {
  const found = ofAddress({ notes, modules: [rise("r", 0.5, "song")], routes: [{ source: "r", target: "osc.pitch", amount: 12, atStart: true }] }, "osc.pitch"); // prettier-ignore
  for (const n of found) {
    expect(Math.max(...n.rows) - Math.min(...n.rows)).toBe(0);
    expect(n.rows[0]! - n.key).toBeCloseTo((12 * 0.5 * n.onFrame) / 48_000, 2);
  }
});

test("a glide that a note moves takes so much longer, as it begins", () => {
  const made: Made = { notes: [note(0, 960, 48), note(960, 1900, 60)], playing: { choices: { voices: "one" }, glide: { unit: "ms", ms: 200 } } }; // prettier-ignore
  for (const [amount, half] of [
    [0, 0.1],
    [1, 0.2],
    [-1, 0.05],
  ] as const) {
    // prettier-ignore
    const second = ofAddress({ ...made, routes: [{ source: "velocity", target: "playing.glide", amount }] }, "osc.pitch").find((n) => n.key === 60)!; // prettier-ignore
    expect(at(second, half)).toBeCloseTo(54, 1);
  }
});

test("what notes say of themselves ends at the ends: keys, and whether they are held", () => {
  const said = (source: string, key: number): HeardNote =>
    ofAddress({ notes: [note(0, 960, key)], values: { "filter.resonance": 40 }, amp: { release: { unit: "ms", ms: 400 } }, routes: [{ source, target: "filter.resonance", amount: 30 }] }, "filter.resonance")[0]!; // prettier-ignore
  expect([127, 96, 60, 24, 0].map((key) => said("key", key).rows[0])).toEqual([70, 58, 40, 22, 10].map((v) => expect.closeTo(v, 6) as number)); // prettier-ignore
  const held = said("held", 60);
  expect([at(held, 0.3), at(held, 0.7)]).toEqual([70, 40]);
});

describe("how velocities are taken", () => {
  const louder = (curve: number): number[] =>
    ofAddress(
      { notes, values: { "playing.velocityCurve": curve }, routes: [{ source: "velocity", target: "osc.pitch", amount: 12 }] }, // prettier-ignore
      "osc.pitch",
    ).map((n) => (n.rows[0]! - n.key) / 12);

  test.each([0, 50, 100, -50, -100])("by a curve of %i %%: ends stay where they are", (curve) => {
    const [full, half] = louder(curve);
    expect(full).toBeCloseTo(1, 9);
    // Exponential segments, as every curve here: (1 - e^-kt) / (1 - e^-k) with k = 8 at the most.
    const [t, k] = [64 / 127, (8 * curve) / 100];
    expect(half).toBeCloseTo(k === 0 ? t : (1 - Math.exp(-k * t)) / (1 - Math.exp(-k)), 9);
  });
});
