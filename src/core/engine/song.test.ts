import { describe, expect, test } from "vitest";
import { makeProject, note } from "../../../tests/support/projects";
import { farthest } from "../../../tests/support/same";
import { newShape } from "../patch/defaults";
import type { Project } from "../patch/project";
import { Clock } from "./clock";
import { compileProject } from "./compile";
import { NoteLog, renderNow } from "./render";
import { framesOfBars, watchLoop } from "./watch";
import { adjusted } from "../patch/kinds/kind";

const RATE = 48_000;

describe("the clock", () => {
  test("a change of tempo bends the line of ticks and does not break it", () => {
    const clock = new Clock();
    clock.setRate(0.04, 0);
    expect(clock.tickAt(1000)).toBeCloseTo(40, 9);
    clock.setRate(0.08, 1000);
    expect(clock.tickAt(1000)).toBeCloseTo(40, 9);
    expect(clock.tickAt(2000)).toBeCloseTo(120, 9);
    expect(clock.frameOf(120)).toBe(2000);
  });
  test("a position wraps with the loop, and silence counts anew", () => {
    const clock = new Clock();
    clock.setRate(0.04, 0);
    clock.locate(960, 50_000, true);
    expect(clock.tickAt(50_000)).toBe(0);
    expect(clock.loopTickAt(50_000, 3840)).toBe(960);
    expect(clock.loopTickAt(50_000 + 72_000, 3840)).toBeCloseTo(0, 6);
  });
});

describe("odd meters", () => {
  test("in 7/8 a bar lasts seven eighths, and a shape restarts with it", () => {
    const shape = adjusted(newShape("s", "S"), {
      values: { smoothing: 0 },
      times: { rate: { unit: "note", num: 1, den: 2 } },
    });
    const made = makeProject({
      song: { tempoBpm: 120, meter: { beats: 7, unit: 8 }, loopBars: 2 },
      notes: [note(0, 6720, 60)],
      modules: [shape],
      routes: [{ source: "s", target: "amp.pan", amount: 100 }],
    });
    const program = compileProject(made);
    // Seven eighths at 120 BPM are 1.75 s.
    expect(framesOfBars(program, 2, RATE)).toBe(2 * 1.75 * RATE);
    const perBar = (1.75 * RATE) / 16;
    const watch = watchLoop(program, RATE, [{ addresses: [], sources: ["s"] }], 2 * perBar);
    const values = watch.shared[0]![0]!;
    const last = watch.values.subarray(values.at + 2 * values.count);
    expect(values.count).toBe(2 * perBar - 1);
    for (const at of [10, 500, 2000, 5000]) expect(last[at + perBar]).toBeCloseTo(last[at]!, 6);
    expect(new Set(last).size).toBeGreaterThan(1000);
  });
});

describe("several parts", () => {
  const one = makeProject({ notes: [note(0, 960, 48)], values: { "amp.level": -20 } });
  const two: Project = {
    ...one,
    parts: [one.parts[0]!, { ...one.parts[0]!, id: "second", notes: [{ ...note(960, 960, 60), id: "n" }] }],
  };
  const render = (part?: string) => {
    const program = compileProject(two, part);
    const log = new NoteLog(program.parts.map((p) => p.id));
    return { ...renderNow(program, { sampleRate: RATE, bars: 1, tail: "cut", listener: log }), notes: log.notes };
  };

  test("sound together as the sum of each alone", () => {
    const [both, first, second] = [render(), render("part-1"), render("second")];
    expect(both.notes.map((n) => n.part)).toEqual(["part-1", "second"]);
    expect(first.notes).toHaveLength(1);
    expect(
      farthest(
        both.left,
        first.left.map((v, i) => v + second.left[i]!),
      ),
    ).toBeLessThan(1e-6);
    expect(Math.max(...second.left.subarray(0, 20_000).map(Math.abs))).toBe(0);
  });

  test("a part that does not exist is named", () => {
    expect(() => compileProject(two, "gone")).toThrow(/there is no part "gone"; parts: part-1, second/);
  });
});
