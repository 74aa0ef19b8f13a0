import { describe, expect, test } from "vitest";
import { makeProject, note } from "../../../tests/support/projects";
import { demoProject } from "../patch/demo";
import type { Address } from "../patch/address";
import { compileProject } from "./compile";
import { framesOfBars, watchLoop, type Watch } from "./watch";
import { packWatch, unpackWatch } from "./watchPack";

const RATE = 48_000;

describe("columns of what is heard", () => {
  const project = demoProject("columns");
  const program = compileProject(project, project.parts[0]!.id);
  const addresses = ["filter.cutoff", "amp.level", "osc.level", "filter.resonance"] as Address[];
  const sources = ["pluck", "swell"];
  const frames = framesOfBars(program, project.song.loopBars, RATE);
  // So many that both are looked at in the shortest sub-blocks, of which each column holds one at least.
  const count = Math.floor(frames / 48);
  const watched = (columns: number): Watch => watchLoop(program, RATE, [{ addresses, sources }], columns);
  const coarse = watched(count);
  const fine = watched(2 * count);

  test("the lowest, the highest and the last of a column are those of its halves", () => {
    expect(coarse.notes.length).toBe(fine.notes.length);
    let between = 0;
    coarse.notes.forEach((note, n) =>
      note.columns.forEach((ours, k) => {
        const halves = fine.notes[n]!.columns[k]!;
        expect(ours.first).toBe(Math.floor(halves.first / 2));
        expect(ours.count).toBe(Math.floor((halves.first + halves.count - 1) / 2) - ours.first + 1);
        let wrong = 0;
        const [of, half] = [coarse.values.subarray(ours.at), fine.values.subarray(halves.at)];
        for (let i = 0; i < ours.count; i++) {
          const second = Math.min(halves.count - 1, 2 * (ours.first + i) + 1 - halves.first);
          const first = Math.max(0, 2 * (ours.first + i) - halves.first);
          const [low, high, last] = [of[i]!, of[ours.count + i]!, of[2 * ours.count + i]!];
          if (low !== Math.min(half[first]!, half[second]!)) wrong++;
          if (high !== Math.max(half[halves.count + first]!, half[halves.count + second]!)) wrong++;
          if (last !== half[2 * halves.count + second]!) wrong++;
          if (low < last || high > last) between++;
        }
        expect(wrong).toBe(0);
      }),
    );
    expect(between).toBeGreaterThan(1000);
  });

  test("what nothing moves has as many as what moves, all alike", () => {
    const { columns } = coarse.notes[3]!;
    const [cutoff, , level] = columns;
    expect(level).toMatchObject({ first: cutoff!.first, count: cutoff!.count });
    const all = coarse.values.subarray(level!.at, level!.at + 3 * level!.count);
    expect(new Set(all).size).toBe(1);
    // In dB, as its row has it.
    expect(all[0]).toBeCloseTo(
      project.parts[0]!.patch.modules.flatMap((m) => (m.kind === "oscillator" ? [m.values.level] : []))[0]!,
      3,
    );
  });
});

test("notes come in the order in which they begin, those of a chord from the lowest up, whichever ends first", () => {
  const made = makeProject({ notes: [note(960, 300, 40), note(0, 900, 60), note(0, 300, 64), note(0, 600, 67), note(0, 200, 55)] }); // prettier-ignore
  const { notes } = watchLoop(compileProject(made), RATE, [{ addresses: ["osc.pitch"], sources: [] }], 64);
  expect(notes.map((n) => n.key)).toEqual([55, 60, 64, 67, 40]);
});

test("a watch is handed to another thread in one piece, and is the same there", () => {
  const project = demoProject("packed");
  const watched = project.parts.map((_, i) => ({ addresses: ["osc.pitch", "amp.level"].slice(0, 1 + (i % 2)) as Address[], sources: i === 0 ? ["pluck"] : [] })); // prettier-ignore
  const watch = watchLoop(compileProject(project), RATE, watched, 64);
  expect(watch.notes.length).toBeGreaterThan(20);
  expect(new Set(watch.notes.map((n) => n.columns.length)).size).toBeGreaterThan(1);
  const packed = packWatch(watch);
  expect(packed.packed).toHaveLength(watch.notes.reduce((sum, n) => sum + 4 + 3 * n.columns.length, 0));
  expect(unpackWatch(structuredClone(packed))).toEqual(watch);
});
