import { describe, expect, test } from "vitest";
import { engineWith, run } from "../../../tests/support/live";
import { nextHeap } from "../../../tests/support/nextHeap";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { farthest } from "../../../tests/support/same";
import { peak } from "../../../tests/support/spectrum";
import { withoutRecordings } from "../dsp/tables";
import { compileProject } from "./compile";
import { Engine } from "./engine";
import { NoteLog } from "./render";

const RATE = 48_000;
/** A sixteenth at 120 BPM. */
const STEP = 6000;

/** One bar of sixteenths, each a key of its own, and a bass that is held for the whole bar. */
const line: Made = {
  song: { loopBars: 1, tempoBpm: 120 },
  notes: [...Array.from({ length: 16 }, (_, i) => note(i * 240, 120, 60 + i)), note(0, 3840, 36)],
};

function engineOf(made: Made): { engine: Engine; notes: () => number[][]; run: (frames: number) => Float32Array } {
  const project = makeProject(made);
  const log = new NoteLog(project.parts.map((p) => p.id));
  const engine = engineWith(project, { listener: log });
  return {
    engine,
    notes: () => log.notes.map((n) => [n.onSample, n.key]),
    run: (frames) => run(engine, frames),
  };
}

describe("a stretch of the loop", () => {
  test("is repeated on its frames; what is held at its start sounds at once", () => {
    const { engine, notes, run } = engineOf(line);
    engine.repeat({ from: 960, to: 1680 });
    engine.play(960);
    run(7 * STEP - 100);
    // Steps 5, 6 and 7 of the bar over and over, the bass with each time round.
    expect(notes()).toEqual([
      [0, 36], [0, 64], [STEP, 65], [2 * STEP, 66],
      [3 * STEP, 36], [3 * STEP, 64], [4 * STEP, 65], [5 * STEP, 66],
      [6 * STEP, 36], [6 * STEP, 64],
    ]); // prettier-ignore
    // The bass is held from one time round to the next, and no longer.
    const { lanes } = engine.parts[0]!.bank;
    const bass = (): boolean =>
      lanes.key.some((key, v) => key === 36 && lanes.active[v] === 1 && lanes.offFrame[v] === Infinity);
    for (let time = 2; time < 6; time++) {
      expect(bass()).toBe(true);
      run(3 * STEP);
    }
  });
  test("set while the song stands behind it, the song first goes on to its end; taken away, the whole loop plays", () => {
    const { engine, notes, run } = engineOf(line);
    engine.repeat({ from: 0, to: 480 });
    engine.play(14 * 240);
    run(4 * STEP - 100);
    expect(notes().map(([, key]) => key)).toEqual([36, 74, 75, 36, 60, 61]);
    // Repeated from the loop's start, what was held at its end is let go, and held anew.
    const first = engineOf(line);
    first.engine.repeat({ from: 0, to: 480 });
    first.engine.play(0);
    first.run(7 * 2 * STEP - 100);
    const { lanes } = first.engine.parts[0]!.bank;
    expect(
      lanes.key.filter((key, v) => key === 36 && lanes.active[v] === 1 && lanes.offFrame[v] === Infinity),
    ).toHaveLength(1);
    engine.repeat(null);
    run(2 * STEP);
    expect(notes().map(([, key]) => key).slice(-2)).toEqual([62, 63]); // prettier-ignore
    expect(engine.loopTick).toBeCloseTo((4 * STEP - 100) * 0.04, 6);
  });
  test("no stretch is empty or longer than the loop", () => {
    const { engine, notes, run } = engineOf(line);
    for (const region of [{ from: 480, to: 480 }, { from: 0, to: 9999 }]) engine.repeat(region); // prettier-ignore
    engine.play(0);
    run(17 * STEP - 100);
    expect(notes()).toHaveLength(19);
  });
});

test("played from anywhere, held notes sound at once and end where they are written", () => {
  const { engine, notes, run } = engineOf({ song: { loopBars: 1, tempoBpm: 120 }, notes: [note(240, 960, 50), note(2000, 100, 70)] });
  engine.play(600);
  const left = run(Math.round((600 / 1920) * RATE) + 4 * 4800);
  expect(notes()).toEqual([[0, 50]]);
  // From between two ticks: what began just before sounds once.
  const between = engineOf({ song: { loopBars: 1, tempoBpm: 120 }, notes: [note(100, 50, 50), note(101, 50, 52)] });
  between.engine.play(100.6);
  between.run(4800);
  expect(between.notes()).toEqual([[0, 50], [10, 52]]); // prettier-ignore
  // What ends there does not begin again.
  const after = engineOf({ song: { loopBars: 1, tempoBpm: 120 }, notes: [note(240, 960, 50), note(2000, 100, 70)] });
  after.engine.play(1200);
  after.run(4800);
  expect(after.notes()).toEqual([]);
  // It ends 600 ticks later: 312.5 ms at 120 BPM.
  expect(Math.max(...left.subarray(0, 14_000).map(Math.abs))).toBeGreaterThan(0.01);
  expect(Math.max(...left.subarray(left.length - 4800).map(Math.abs))).toBeLessThan(1e-3);
}); // prettier-ignore

/** Frames at which a silence ends, and how often the sound then crosses zero in 5 ms. */
function strikes(x: Float32Array): { at: number; hz: number }[] {
  const found: { at: number; hz: number }[] = [];
  let quiet = 2000;
  x.forEach((v, i) => {
    if (Math.abs(v) > 0.003 && quiet > 1500) {
      const piece = x.subarray(i, i + 480);
      const crossings = piece.filter((p, k) => k > 0 && p >= 0 !== piece[k - 1]! >= 0).length;
      found.push({ at: i, hz: (crossings / 2) * 100 });
    }
    quiet = Math.abs(v) > 0.003 ? 0 : quiet + 1;
  });
  return found;
}

test("played from another place while it plays, what sounded there is let go", () => {
  const engine = engineWith(makeProject({ notes: [note(0, 1900, 60), note(1920, 1900, 67)] }));
  engine.play(0);
  run(engine, 9600);
  engine.play(2400);
  run(engine, 4800);
  expect(engine.voiceCount).toBe(1);
  engine.play(100);
  run(engine, 4800);
  expect(engine.voiceCount).toBe(1);
});

describe("the click", () => {
  test("falls on every beat, with another pitch on the bar", () => {
    const { engine, run } = engineOf({ song: { loopBars: 2, tempoBpm: 120, meter: { beats: 3, unit: 4 } }, notes: [] });
    engine.click.on = true;
    engine.play(0);
    const heard = strikes(run(7 * 24_000 - 100));
    // A sine needs a few frames to rise over the threshold.
    expect(heard.map((h) => Math.round(h.at / 100) * 100)).toEqual([0, 1, 2, 3, 4, 5, 6].map((b) => b * 24_000));
    heard.forEach((h, b) => expect(Math.abs(h.hz - (b % 3 === 0 ? 1760 : 1174.66))).toBeLessThan(100));
    engine.stop();
    run(2000);
    expect(strikes(run(48_000))).toEqual([]);
    // Where bars do not fall on whole stretches, their first beat is another one all the same; the last bar is no shorter.
    for (const tempoBpm of [131, 97.3]) {
      const odd = engineOf({ song: { loopBars: 2, tempoBpm, meter: { beats: 3, unit: 4 } }, notes: [] });
      odd.engine.click.on = true;
      odd.engine.play(0);
      const beat = (60 / tempoBpm) * RATE;
      const found = strikes(odd.run(Math.round(12.5 * beat)));
      expect(found.map((h) => Math.round(h.at / beat))).toEqual(Array.from({ length: 13 }, (_, b) => b));
      found.forEach((h, b) => expect(Math.abs(h.hz - (b % 3 === 0 ? 1760 : 1174.66))).toBeLessThan(100));
    }
  }); // prettier-ignore
  test("stands in the middle: both sides are one and the same", () => {
    const { engine } = engineOf({ song: { tempoBpm: 120 }, notes: [] });
    engine.click.on = true;
    engine.marks.ticks = Float64Array.of(500);
    engine.play(0);
    const [left, right] = [new Float32Array(30_000), new Float32Array(30_000)];
    engine.process(left, right, 30_000);
    expect(peak(left)).toBeGreaterThan(0.1);
    expect(Buffer.from(right.buffer).equals(Buffer.from(left.buffer))).toBe(true);
  });
  test("begins at -10 dB and falls to a third in 12 ms; a mark at -16 dB", () => {
    const { engine, run } = engineOf({ song: { loopBars: 1, tempoBpm: 120 }, notes: [] });
    engine.click.on = true;
    engine.play(0);
    const click = run(4800);
    const power = (from: number): number => 10 * Math.log10(click.subarray(from, from + 480).reduce((sum, v) => sum + v * v, 0)); // prettier-ignore
    expect(20 * Math.log10(peak(click))).toBeCloseTo(-10, 0);
    const sine = Float32Array.from({ length: 200 }, (_, i) => 10 ** (-10 / 20) * Math.exp(-i / (0.012 * RATE)) * Math.sin((2 * Math.PI * 1760 * i) / RATE)); // prettier-ignore
    expect(farthest(click.slice(0, 200), sine)).toBeLessThan(1e-5);
    expect(Math.abs(power(0) - power(576) - 20 * Math.log10(Math.E))).toBeLessThan(0.2);
    engine.stop();
    engine.click.on = false;
    run(9600);
    engine.marks.ticks = Float64Array.of(0);
    engine.play(0);
    expect(20 * Math.log10(peak(run(480)))).toBeCloseTo(-16, 0);
  });
  test("marks click softly at their ticks in every pass, wherever it is played from", () => {
    const { engine, run } = engineOf({ song: { loopBars: 1, tempoBpm: 120 }, notes: [] });
    engine.marks.ticks = Float64Array.of(0, 700, 1920, 3600);
    engine.play(0);
    // 25 frames a tick.
    const heard = strikes(run(2 * 96_000 - 100));
    expect(heard.map((h) => Math.round(h.at / 100) * 100)).toEqual([0, 17_500, 48_000, 90_000, 96_000, 113_500, 144_000, 186_000]);
    heard.forEach((h) => expect(Math.abs(h.hz - 2637)).toBeLessThan(150));
    engine.stop();
    run(2000);
    engine.play(1900);
    expect(strikes(run(2000)).map((h) => Math.round(h.at / 100) * 100)).toEqual([500]);
    for (const tempoBpm of [131, 97.3]) {
      const odd = engineOf({ song: { loopBars: 1, tempoBpm }, notes: [] });
      odd.engine.marks.ticks = Float64Array.of(0, 1920);
      odd.engine.play(0);
      expect(strikes(odd.run(Math.round((5.25 * 240 * RATE) / tempoBpm)))).toHaveLength(11);
    }
    engine.marks.ticks = new Float64Array(0);
    run(20_000);
    expect(strikes(run(96_000))).toEqual([]);
  }); // prettier-ignore
  test("rings on to the sample before the next one, however fast beats follow", () => {
    const { engine, run } = engineOf({ song: { tempoBpm: 397, meter: { beats: 5, unit: 16 } }, notes: [] });
    engine.click.on = true;
    engine.play(0);
    const x = run(9100);
    const beat = (60 / 397 / 4) * RATE;
    // Each is the first one's or an accent's sine, which falls by its time alone: the sum of all, each cut by the next.
    for (let b = 1; b < 5; b++) {
      const [start, end] = [Math.round(b * beat), Math.round((b + 1) * beat)];
      const one = x.slice(Math.round(beat), Math.round(2 * beat));
      expect(farthest(x.slice(start, end - 1), one.slice(0, end - 1 - start))).toBeLessThan(1e-6);
    }
  });
  test("counts in as many beats as it is asked, then the song starts on its frame; stopped meanwhile, it does not", () => {
    const { engine, run, notes } = engineOf({ song: { loopBars: 1, tempoBpm: 120 }, notes: [note(0, 240, 60)] });
    engine.play(0, 4);
    const heard = strikes(run(4 * 24_000 - 10));
    expect(heard.map((h) => Math.round(h.at / 100) * 100)).toEqual([0, 24_000, 48_000, 72_000]);
    expect(heard.map((h) => h.hz > 1500)).toEqual([true, false, false, false]);
    expect(notes()).toEqual([]);
    run(1000);
    expect(notes()).toEqual([[4 * 24_000, 60]]);
    engine.play(0, 4);
    run(1000);
    engine.stop();
    run(5 * 24_000);
    expect(notes()).toHaveLength(1);
    // A single beat, and none.
    for (const beats of [1, 0]) {
      const short = engineOf({ song: { loopBars: 1, tempoBpm: 120 }, notes: [note(0, 240, 60)] });
      short.engine.play(0, beats);
      short.run(24_100);
      expect(short.notes()).toEqual([[24_000 * beats, 60]]);
    }
    // Asked while it plays, the song stops first; and it starts on its frame wherever that falls.
    const beat = (60 / 131) * RATE;
    const odd = engineOf({
      song: { loopBars: 1, tempoBpm: 131 },
      notes: [0, 960, 1920, 2880].map((t) => note(t, 240, 60)),
    });
    odd.engine.play(0);
    odd.run(2000);
    odd.engine.play(0, 3);
    odd.run(Math.round(4.5 * beat));
    const [first, ...later] = odd.notes().map(([at]) => at!);
    expect(first).toBe(0);
    expect(later).toHaveLength(2);
    // The count began at the end of the stretch that was under way.
    expect(Math.abs(later[0]! - Math.ceil(2000 / 64) * 64 - 3 * beat)).toBeLessThan(1);
    // Every beat is heard, wherever it lies between two frames.
    for (let tempoBpm = 140; tempoBpm < 150; tempoBpm += 0.37) {
      const quick = engineOf({ song: { tempoBpm }, notes: [] });
      quick.engine.play(0, 2);
      expect(strikes(quick.run(Math.floor((2 * 60 * RATE) / tempoBpm) - 20))).toHaveLength(2);
    }
  });
});

test("a loop that becomes shorter while it plays goes on at the place that is as far in its bars", () => {
  const made = (loopBars: number) => makeProject({ song: { loopBars, tempoBpm: 120 }, notes: [note(0, 240, 60)] });
  const engine = engineWith(made(8));
  engine.play(6 * 3840 + 960);
  run(engine, 1000);
  const before = engine.loopTick;
  engine.load(compileProject(made(2)));
  run(engine, 64);
  expect(engine.loopTick - (before - 6 * 3840)).toBeCloseTo(64 * 0.04, 6);
  run(engine, 96_000);
  expect(engine.loopTick).toBeCloseTo(before - 6 * 3840 + 96_064 * 0.04, 6);
  // Its next pass begins where it ends: a bar and a bit more on.
  expect(engine.voiceCount).toBe(0);
  const [, left] = [run(engine, 67_000), run(engine, 6000)];
  expect(peak(left)).toBeGreaterThan(0.01);
  // Each note begins at its place in the shorter loop, and none that lies behind.
  const beats = [0, 960, 1920, 2880].map((t, i) => note(t, 240, 60 + i));
  const later = engineOf({ song: { loopBars: 4, tempoBpm: 120 }, notes: beats });
  later.engine.play(3 * 3840 + 1200);
  later.run(640);
  later.engine.load(compileProject(makeProject({ song: { loopBars: 1, tempoBpm: 120 }, notes: beats })));
  later.run(90_000);
  // 25 frames a tick: the third and the fourth beat, then those of the next pass.
  expect(later.notes()).toEqual([[720 * 25, 62], [1680 * 25, 63], [2640 * 25, 60], [3600 * 25, 61]]); // prettier-ignore
});

test("before anything is loaded it stands at the start, silent; peaks are told once, a side each", () => {
  const engine = new Engine(48_000, nextHeap(), { tables: withoutRecordings });
  const peaks = new Float32Array(3).fill(9);
  run(engine, 256);
  engine.takePeaks(peaks);
  expect([engine.loopTick, engine.voiceCount, ...peaks]).toEqual([0, 0, 0, 0, 9]);
  engine.load(
    compileProject(makeProject({ notes: [note(0, 3840, 57)], values: { "amp.pan": -50, "amp.level": -20 } })),
  );
  engine.play(0);
  run(engine, 9600);
  engine.takePeaks(peaks);
  expect(peaks[0]! > 1.5 * peaks[1]! && peaks[1]! > 0.001).toBe(true);
  engine.stop();
  run(engine, 48_000);
  engine.takePeaks(peaks);
  run(engine, 256);
  engine.takePeaks(peaks);
  expect([peaks[0], peaks[1]]).toEqual([0, 0]);
});

test("the limiter's delay is told in frames: the sound is as much later", () => {
  const made = makeProject({
    notes: [note(0, 960, 69)],
    values: { "amp.level": -24 },
    amp: { attack: { unit: "ms", ms: 0 } },
  });
  const first = (limited: boolean): number => {
    const engine = engineWith(made, { limited });
    engine.play(0);
    return run(engine, 4800).findIndex((v) => Math.abs(v) > 1e-4);
  };
  expect(engineWith(made).delay).toBe(0);
  const { delay } = engineWith(made, { limited: true });
  expect(delay).toBeGreaterThan(10);
  expect(first(true) - first(false)).toBe(delay);
});
