import { isDeepStrictEqual } from "node:util";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { arbitraryProject } from "../../../tests/support/arbitraryProject";
import { madeTable } from "../../../tests/support/recordings";
import { runs } from "../../../tests/support/runs";
import { peak } from "../../../tests/support/spectrum";
import { expectSame } from "../../../tests/support/same";
import { makeProject, note, withSettings } from "../../../tests/support/projects";
import { nextHeap } from "../../../tests/support/nextHeap";
import { curveAt, compileCurve } from "../curve/curve";
import { CEILING_DB } from "../dsp/limiter";
import { demoProject } from "../patch/demo";
import { newEnvelope, newShape } from "../patch/defaults";
import { kindOf } from "../patch/kinds";
import type { Shape } from "../patch/kinds/shape";
import type { Project } from "../patch/project";
import { compileProject } from "./compile";
import { Engine, type EngineOptions } from "./engine";
import { Sequencer } from "./sequencer";
import type { Program } from "./program";
import { renderNow } from "./render";
import { HeardLog, framesOfBars, watchLoop, type HeardNote, type Watched } from "./watch";
import { packWatch, unpackWatch } from "./watchPack";
import { adjusted } from "../patch/kinds/kind";

const RATE = 48_000;
const DEMO = demoProject("demo");

const newEngine = (options: EngineOptions = {}): Engine =>
  new Engine(RATE, nextHeap(), { tables: madeTable, ...options });

/** Plays a program for some frames in blocks of one size. */
function play(
  project: Project,
  frames: number,
  block = 128,
  act?: (engine: Engine, frame: number) => void,
): { left: Float32Array; right: Float32Array } {
  const engine = newEngine();
  engine.load(compileProject(project));
  engine.play(0);
  const left = new Float32Array(frames);
  const right = new Float32Array(frames);
  const l = new Float32Array(block);
  const r = new Float32Array(block);
  for (let at = 0; at < frames; at += block) {
    act?.(engine, at);
    engine.process(l, r, block);
    left.set(l.subarray(0, frames - at), at);
    right.set(r.subarray(0, frames - at), at);
  }
  return { left, right };
}

interface Sides {
  left: Float32Array;
  right: Float32Array;
}

/** Everything of a program that can be watched. */
const everything = (program: Program): Watched[] =>
  program.parts.map((p) => ({
    addresses: [
      ...new Set([
        ...p.sound.motion.uses.map((u) => u.address),
        ...(Object.keys(p.sound.motion.targets) as Watched["addresses"]),
      ]),
    ],
    sources: Object.keys(p.sound.motion.sources),
  }));

/** What every note of one pass used, at every end of a sub-block. */
function heardNotes(program: Program, audible: boolean, watched = everything(program)): HeardNote[] {
  const notes: HeardNote[] = [];
  const log = new HeardLog(program, watched, (n) => notes.push(n));
  const player = audible ? newEngine({ listener: log }) : new Sequencer(RATE, log);
  player.load(program);
  player.play(0);
  player.finishAfter(program.song.loopTicks);
  const frames = framesOfBars(program, program.song.loopTicks / program.song.barTicks, RATE);
  if (player instanceof Engine) player.process(new Float32Array(frames), new Float32Array(frames), frames);
  else player.run(frames);
  log.finish();
  return notes;
}

describe("properties of random projects", () => {
  test("blocks of 64, 128 and 100 give the same samples; never NaN, never over the ceiling", () => {
    fc.assert(
      fc.property(arbitraryProject, (project) => {
        const [a, b, c] = [64, 128, 100].map((block) => play(project, 4800, block)) as [Sides, Sides, Sides];
        expectSame(b, a);
        expectSame(c, a);
        expect(peak(a.left)).toBeLessThanOrEqual(10 ** (CEILING_DB / 20));
        expect(a.left.every(Number.isFinite) && a.right.every(Number.isFinite)).toBe(true);
      }),
      runs(3),
    );
  });

  test("what is drawn is what the engine used, at every sub-block", () => {
    fc.assert(
      fc.property(arbitraryProject, (project) => {
        const program = compileProject(project);
        const used = heardNotes(program, true);
        const evaluated = heardNotes(program, false);
        expectSame(evaluated, used);
        // The columns of the screen hold the lowest, highest and last of those values.
        const watched = everything(program);
        // Narrow enough that every sub-block is looked at.
        const columns = Math.ceil(framesOfBars(program, 1, RATE) / 50);
        const watch = watchLoop(program, RATE, watched, columns);
        expectSame(unpackWatch(packWatch(watch)), watch);
        const inOrder = [...used].sort((x, y) => x.onFrame - y.onFrame || x.key - y.key);
        expect(watch.notes.map((n) => [n.part, n.key, n.onFrame])).toEqual(
          inOrder.map((n) => [n.part, n.key, n.onFrame]),
        );
        watch.notes.forEach((n, i) => {
          const { addresses, sources } = watched[n.part]!;
          const width = addresses.length + sources.length;
          const note = inOrder[i]!;
          if (
            inOrder.filter((o) => o.part === note.part && o.key === note.key && o.onFrame === note.onFrame).length > 1
          )
            return;
          addresses.forEach((_, w) => {
            const c = n.columns[w]!;
            const inside = new Map<number, [number, number, number]>();
            note.frames.forEach((f, row) => {
              const k = Math.floor((f * columns) / watch.frames) - c.first;
              const v = Math.fround(note.rows[row * width + w]!);
              const [low, high] = inside.get(k) ?? [v, v];
              inside.set(k, [Math.min(low, v), Math.max(high, v), v]);
            });
            for (const [k, expected] of inside) {
              if (k >= c.count) continue;
              const found = [0, 1, 2].map((j) => watch.values[c.at + j * c.count + k]!);
              if (found.some((v, j) => v !== expected[j]))
                throw new Error(`column ${k}: ${found.join()}, not ${expected.join()}`);
            }
          });
        });
      }),
      runs(3),
    );
  });

  test("no value that a module reads leaves its range", () => {
    fc.assert(
      fc.property(arbitraryProject, (project) => {
        const program = compileProject(project);
        const watched = program.parts.map((p) => ({
          addresses: p.sound.motion.uses.map((u) => u.address),
          sources: [],
        }));
        for (const n of heardNotes(program, false, watched)) {
          const { addresses } = watched[n.part]!;
          const { patch } = project.parts[n.part]!;
          addresses.forEach((address, i) => {
            const [owner, key] = address.split(".") as [string, string];
            const { unit, min, max } = kindOf(patch.modules.find((m) => m.id === owner)!).rows[key]!;
            const low = unit === "dB" ? -96 : unit === "st" ? -Number.MAX_VALUE : min - 1e-6 * Math.abs(min) - 1e-9;
            const high = unit === "dB" ? Infinity : unit === "st" ? Number.MAX_VALUE : max + 1e-6 * Math.abs(max) + 1e-9; // prettier-ignore
            for (let r = i; r < n.rows.length; r += addresses.length) {
              const v = n.rows[r]!;
              // Asked so that what is no number fails, too.
              if (!(v >= low && v <= high)) throw new Error(`${address}: ${v}`);
            }
          });
        }
      }),
      runs(3),
    );
  });

  test("the same seed gives the same samples, another seed others where chance is used", () => {
    const random = makeProject({
      notes: [note(0, 1920, 50)],
      values: { "osc.unison": 7, "osc.detune": 20 },
      choices: { "osc.start": "random" },
    });
    const first = renderNow(compileProject(random), { sampleRate: RATE, bars: 1, tail: "cut" });
    const again = renderNow(compileProject(random), { sampleRate: RATE, bars: 1, tail: "cut" });
    const other = renderNow(compileProject({ ...random, seed: 8 }), { sampleRate: RATE, bars: 1, tail: "cut" });
    expectSame(again.left, first.left);
    expect(isDeepStrictEqual(other.left, first.left)).toBe(false);
  });
});

describe("the as-heard curve against its own formula", () => {
  test("a shape on the cutoff, restarting each bar: rest times 2 to the amount times the drawn curve", () => {
    const made = newShape("s", "S");
    const shape: Shape = adjusted(made, {
      values: { smoothing: 0, phase: 90 },
      times: { rate: { unit: "note", num: 1, den: 2 } },
    });
    const project = makeProject({
      notes: [note(0, 3840, 48)],
      values: { "filter.cutoff": 300 },
      modules: [shape],
      routes: [{ source: "s", target: "filter.cutoff", amount: 3, reversed: true }],
    });
    const [heard] = heardNotes(compileProject(project), false, [{ addresses: ["filter.cutoff"], sources: [] }]);
    const curve = compileCurve(shape.data.points);
    expect(heard!.frames.length).toBeGreaterThan(1000);
    const shares = Array.from(heard!.frames, (frame, row) => {
      const phase = (frame / RATE / 1 + 0.25) % 1;
      return heard!.rows[row]! / (300 * 2 ** (3 * (1 - curveAt(curve, phase))));
    });
    expect(Math.min(...shares)).toBeCloseTo(1, 9);
    expect(Math.max(...shares)).toBeCloseTo(1, 9);
  });
});

describe("edits while it plays", () => {
  const held = makeProject({
    notes: [note(0, 3840, 45)],
    song: { tempoBpm: 60 },
    choices: { "osc.wave": "sine" },
    values: { "amp.level": -6, "filter.cutoff": 2000 },
    modules: [
      adjusted(newShape("s", "S"), { times: { rate: { unit: "hz", hz: 0.4 } }, choices: { restart: "song" } }),
      newEnvelope("e", "E"),
    ],
    routes: [{ source: "s", target: "amp.level", amount: -9 }],
  });
  const part = held.parts[0]!;
  const withValues = (values: Record<string, number>, choices: Record<string, string> = {}): Project => ({
    ...held,
    parts: [{ ...part, patch: withSettings(part.patch, values, choices) }],
  });
  /** A click is a jump in the third difference of a low sine. */
  const roughness = (x: Float32Array, from: number, to: number): number => {
    let worst = 0;
    for (let i = from + 3; i < to; i++)
      worst = Math.max(worst, Math.abs(x[i]! - 3 * x[i - 1]! + 3 * x[i - 2]! - x[i - 3]!));
    return worst;
  };

  test.each([
    ["level down 30 dB", withValues({ "amp.level": -36 })],
    ["cutoff closed", withValues({ "filter.cutoff": 150 })],
    ["pan hard left", withValues({ "amp.pan": -100 })],
    ["another wave", withValues({}, { "osc.wave": "triangle" })],
    ["another filter", withValues({}, { "filter.type": "bp12" })],
    ["more voices", withValues({ "osc.unison": 4, "osc.detune": 3 })],
    ["another tempo, a free-running shape", { ...held, song: { ...held.song, tempoBpm: 171.3 } }],
    ["a shape moved", withValues({ "s.phase": 200 })],
    ["detune and width of a lone voice", withValues({ "osc.detune": 90, "osc.width": 0 })],
    ["another project", { ...withValues({}), parts: [{ ...part, id: "other", notes: [] }] }],
    ["the trim", { ...held, outputTrim: -20 }],
  ])("%s: no click", (_name, edited) => {
    const at = 48_000 - (48_000 % 128);
    const compiled = compileProject(edited);
    const { left } = play(held, at + 9_600, 128, (engine, frame) => {
      if (frame === at) engine.load(compiled);
    });
    const cut = left.slice();
    cut.fill(0, at + 37);
    // Fifty times less than what a plain cut of the same sound does.
    expect(roughness(left, at - 10, at + 9_500)).toBeLessThan(roughness(cut, at, at + 100) / 50);
  });

  test("a deleted note is let go, a stretched one ends at its new end, and the loop goes on where it was", () => {
    const engine = newEngine();
    const out = new Float32Array(128);
    const run = (blocks: number): void => {
      for (let b = 0; b < blocks; b++) engine.process(out, new Float32Array(128), 128);
    };
    const two = makeProject({ notes: [note(0, 1920, 60), note(0, 1920, 64)] });
    const one = makeProject({ notes: [note(0, 3000, 60)] });
    engine.load(compileProject(two));
    engine.play(0);
    run(100);
    expect(engine.voiceCount).toBe(2);
    const tick = engine.loopTick;
    engine.load(compileProject(one));
    expect(engine.loopTick).toBe(tick);
    run(20);
    expect(engine.voiceCount).toBe(1);
    run(Math.floor((0.5 * 3000 * RATE) / 960 / 128) - 130);
    expect(engine.voiceCount).toBe(1);
    run(30);
    expect(engine.voiceCount).toBe(0);
  });

  test("stop lets every note go; nothing hangs", () => {
    const engine = newEngine();
    engine.load(compileProject(DEMO));
    engine.play(5000);
    const out = new Float32Array(512);
    for (let i = 0; i < 40; i++) engine.process(out, new Float32Array(512), 512);
    expect(engine.sounding).toBe(true);
    engine.stop();
    for (let i = 0; i < 40; i++) engine.process(out, new Float32Array(512), 512);
    expect(engine.sounding).toBe(false);
    expect(peak(out)).toBe(0);
  });

  test("more notes than voices: the oldest are taken, sixteen go on", () => {
    const many = makeProject({
      notes: Array.from({ length: 30 }, (_, i) => note(i * 60, 3000, 40 + i)),
      values: { "amp.level": -24 },
    });
    const engine = newEngine();
    engine.load(compileProject(many));
    engine.play(0);
    const out = new Float32Array(128);
    for (let i = 0; i < 500; i++) {
      engine.process(out, new Float32Array(128), 128);
      expect(engine.voiceCount).toBeLessThanOrEqual(64);
    }
    expect(engine.voiceCount).toBe(16);
  });
});

test("the demo is loud enough, clean, and lasts four bars", () => {
  const { left, right, barFrames, peakDb, limited } = renderNow(compileProject(DEMO), {
    sampleRate: RATE / 2,
    bars: 4,
    tail: "cut",
  });
  expect(barFrames).toBe(Math.round((16 * 60 * RATE) / 2 / 122));
  expect(limited).toBe(false);
  expect(peakDb).toBeGreaterThan(-10);
  expect(peakDb).toBeLessThan(-3);
  expect(isDeepStrictEqual(left, right)).toBe(false);
});
