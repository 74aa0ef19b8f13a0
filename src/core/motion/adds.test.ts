import { describe, expect, test } from "vitest";
import { heard, rise } from "../../../tests/support/heardMotion";
import { note, type Made } from "../../../tests/support/projects";
import { newMacro } from "../patch/defaults";
import { adjusted } from "../patch/kinds/kind";
import { addedName } from "./program";

const BEND = [{ x: 0, y: 0, tension: 0.4 }, { x: 1, y: 1, tension: 0 }]; // prettier-ignore
const rate = rise("r", 1.3);
const song = rise("s", 0.7, "song");
const macro = adjusted(newMacro("m", "m"), { values: { value: 40 } });
const notes = [note(0, 1900, 60, 100), note(700, 1500, 67, 40), note(1920, 1900, 55, 127)];

/** Routes of every way in which one may be compiled. */
const WAYS = [
  { source: "r", amount: 5 },
  { source: "r", amount: -3, reversed: true },
  { source: "r", amount: 2, around: true, reversed: true },
  { source: "s", amount: 4, tap: 75 },
  { source: "s", amount: 4, atStart: true },
  { source: "r", amount: 7, scaledBy: "m" },
  { source: "s", amount: 6, curve: BEND },
  { source: "velocity", amount: 3 },
  { source: "key", amount: 9, reversed: true },
] as const;

describe("what routes add", () => {
  test("adds up to what is heard of a pitch, at every row", () => {
    const routes = [
      ...WAYS.map((w, i) => ({ ...w, id: `way${i}`, target: "osc.pitch" as const })),
      { id: "more", source: "s", target: "way0.amount", amount: 4 } as const,
    ];
    const made: Made = { notes, modules: [rate, song, macro], values: { "osc.pitch": 2 }, routes };
    const adds = WAYS.map((_, i) => addedName(`way${i}`, false));
    const rows = heard(made, { addresses: ["osc.pitch"], adds, sources: [] });
    const width = 1 + adds.length;
    expect(rows).toHaveLength(3);
    let furthest = 0;
    for (const n of rows) {
      for (let r = 0; r < n.rows.length; r += width) {
        const sum = n.rows.slice(r + 1, r + width).reduce((a, b) => a + b, 0);
        furthest = Math.max(furthest, Math.abs(n.rows[r]! - (n.key + 2 + sum)));
      }
    }
    expect(furthest).toBeLessThan(5e-10);
    const reached = adds.map((_, i) => Math.max(...rows.flatMap((n) => [...n.rows].filter((_, k) => k % width === 1 + i).map(Math.abs)))); // prettier-ignore
    expect(Math.min(...reached)).toBeGreaterThan(0.3);
  });

  test("of a shape whose sides are apart, each side adds its own", () => {
    const sided = adjusted(rise("r", 0.5, "bar"), { values: { sides: 120 } });
    const routes = [
      { id: "a", source: "r", target: "filter.cutoff", amount: 2 },
      { id: "b", source: "r", target: "filter.cutoff", amount: 1, curve: BEND },
      { id: "c", source: "velocity", target: "filter.cutoff", amount: 1 },
    ] as const;
    const made: Made = { notes, modules: [sided], values: { "filter.cutoff": 400 }, routes };
    const adds = ["a", "b"].flatMap((id) => [addedName(id, false), addedName(id, true)]);
    const addresses = ["filter.cutoff", "filter.apart"] as const;
    const notesHeard = heard(made, { addresses, adds: [...adds, "c", addedName("c", true)], sources: [] });
    expect(notesHeard).toHaveLength(notes.length);
    let furthest = 0;
    for (const n of notesHeard) {
      for (let r = 0; r < n.rows.length; r += 8) {
        const [cutoff, apart, aLeft, aRight, bLeft, bRight, c, none] = n.rows.slice(r, r + 8) as unknown as number[];
        const [left, right] = [aLeft! + bLeft!, aRight! + bRight!];
        furthest = Math.max(
          furthest,
          Math.abs(Math.log2(cutoff! / 400) - ((left + right) / 2 + c!)),
          // In semitones.
          Math.abs(apart! - 12 * (right - left)),
          Math.abs(none!),
        );
      }
    }
    expect(furthest).toBeLessThan(5e-10);
  });

  test("a route that is off, or whose source is, adds nothing", () => {
    const routes = [
      { id: "off", source: "r", target: "osc.pitch", amount: 5, on: false },
      { id: "asleep", source: "s", target: "osc.pitch", amount: 5 },
      { id: "on", source: "velocity", target: "osc.pitch", amount: 1 },
    ] as const;
    const made: Made = { notes, modules: [rate, { ...song, on: false }], routes };
    const rows = heard(made, { addresses: [], adds: ["off", "asleep", "on"], sources: [] }).flatMap((n) => [...n.rows]);
    expect(rows.length).toBeGreaterThan(0);
    expect(rows.every((v, i) => (i % 3 === 2 ? v > 0 : v === 0))).toBe(true);
  });
});
