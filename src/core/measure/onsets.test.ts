import { readFileSync } from "node:fs";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { evenly } from "../../../tests/support/evenly";
import { makeProject, note } from "../../../tests/support/projects";
import { runs } from "../../../tests/support/runs";
import { farthest } from "../../../tests/support/same";
import { simplify, simplifyTo } from "../curve/simplify";
import { curveAt, compileCurve } from "../curve/curve";
import { compileProject } from "../engine/compile";
import { renderNow } from "../engine/render";
import { PLAY, REST, TIE } from "../patch/lanes";
import { lanesOfSteps, stepsOfHits, triggersOf } from "../pattern/fromRhythm";
import { MAX_TICK } from "../time/noteValue";
import { findOnsets, guessTempo, levels, type Onset } from "./onsets";

const RATE = 44_100;

function onsetsOf(x: Float32Array, sampleRate = RATE): Onset[] {
  const steps = findOnsets(x, sampleRate);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
    expect(step.value >= 0 && step.value <= 1).toBe(true);
  }
}

/** A generator of noise that needs no library: a linear congruential one (Numerical Recipes' constants). */
function noise(seed: number): () => number {
  let state = seed;
  return () => (state = (1_664_525 * state + 1_013_904_223) >>> 0) / 2 ** 31 - 1;
}

type Voice = (t: number, next: () => number) => number;
const click: Voice = (t) => (t < 0.002 ? Math.sin(2 * Math.PI * 2000 * t) : 0);
const kick: Voice = (t) => Math.exp(-t * 9) * Math.sin(2 * Math.PI * (50 * t - 8 * Math.exp(-t * 30)));
const snare: Voice = (t, next) => Math.exp(-t * 18) * (0.7 * next() + 0.5 * Math.sin(2 * Math.PI * 190 * t));
const hat: Voice = (t, next) => 0.5 * Math.exp(-t * 60) * next();

/** A loop with known beginnings over a bed of steady noise. */
function loop(hits: readonly (readonly [number, Voice])[], sec: number, bedDb: number): Float32Array {
  const next = noise(7);
  const bed = 10 ** (bedDb / 20);
  const x = new Float32Array(Math.round(sec * RATE)).map(() => bed * next());
  for (const [at, voice] of hits)
    for (let i = Math.round(at * RATE), k = 0; i < Math.min(x.length, at * RATE + RATE); i++, k++)
      x[i] = x[i]! + 0.5 * voice(k / RATE, next);
  return x;
}

/** Every known beginning is found within 10 ms, and nothing else is. */
function expectFound(found: readonly Onset[], known: readonly number[]): void {
  const strong = found.filter((o) => o.strength >= 0.15);
  expect(strong.map((o) => o.sec.toFixed(3)).join(" ") && strong.length).toBe(known.length);
  known.forEach((sec, i) => expect(Math.abs(strong[i]!.sec - sec), `${sec} s`).toBeLessThan(0.01));
}

describe("beginnings in a recording", () => {
  test("clicks, at any place and against silence", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 60, max: 400 }), { minLength: 2, maxLength: 8 }), (gaps) => {
        let at = 0;
        const known = gaps.map((g) => (at += g / 1000));
        expectFound(onsetsOf(loop(known.map((t) => [t, click] as const), at + 0.5, -200)), known); // prettier-ignore
      }),
      runs(12),
    );
  });
  test("a drum loop over noise: kick, snare and hats, their peaks 40 dB above the bed and 30", () => {
    const step = 60 / 124 / 4;
    const pattern: readonly (readonly [number, Voice])[] = [[0, kick], [2, hat], [4, snare], [6, hat], [7, kick], [10, kick], [12, snare], [14, hat], [15, hat]]; // prettier-ignore
    const hits = [0, 1].flatMap((bar) => pattern.map(([s, v]) => [0.01 + (16 * bar + s) * step, v] as const));
    const known = hits.map(([t]) => t);
    for (const bed of [-46, -36]) {
      const found = onsetsOf(loop(hits, 32 * step, bed));
      expectFound(found, known);
      const strong = found.filter((o) => o.strength >= 0.15);
      expect(guessTempo(strong, 32 * step)).toEqual({ tempoBpm: 124, beats: 8 });
    }
  });
  test("noise that lies 60 dB below hits far apart begins nothing between them", () => {
    const known = [0.2, 1.1, 2.3, 3.6];
    const found = onsetsOf(loop(known.map((t) => [t, kick] as const), 4.5, -66)); // prettier-ignore
    expectFound(found, known);
    expect(found.filter((o) => o.strength > 0.02)).toHaveLength(4);
  });
  test("plucks of our own engine, at another rate", () => {
    const ticks = [0, 480, 720, 1440, 2400, 2880, 3600];
    const project = makeProject({ notes: ticks.map((t, i) => note(t, 200, 45 + 3 * i)), amp: { attack: { unit: "ms", ms: 1 }, decay: { unit: "ms", ms: 120 }, sustain: 0 } }); // prettier-ignore
    const { left } = renderNow(compileProject(project), { sampleRate: 48_000, bars: 1, tail: "cut" });
    expectFound(onsetsOf(left, 48_000), ticks.map((t) => t / 1920)); // prettier-ignore
  });
  test("silence and steady sound begin nothing, or once", () => {
    expect(onsetsOf(new Float32Array(RATE))).toEqual([]);
    const sine = Float32Array.from({ length: RATE }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 220 * i) / RATE));
    expect(onsetsOf(sine).filter((o) => o.strength >= 0.15).length).toBeLessThanOrEqual(1);
    expect(guessTempo([], 2)).toBeNull();
  });
  test("a tempo where the recording is no whole loop", () => {
    const beat = 60 / 97.5;
    const onsets = [0, 1, 2, 2.5, 3, 4, 5, 6, 6.25, 7, 8, 9].map((b) => ({ sec: 0.31 + b * beat, strength: 1 }));
    expect(guessTempo(onsets, 6.4)!.tempoBpm).toBeCloseTo(97.5, 1);
  });
  test("levels are those of sines: a root of half the amplitude's square", () => {
    const x = Float32Array.from({ length: 8000 }, (_, i) => (i < 4000 ? 1 : 0.25) * Math.sin((2 * Math.PI * i) / 40));
    const [a, b] = levels(x, 2);
    expect(a!).toBeCloseTo(Math.SQRT1_2, 5);
    expect(b!).toBeCloseTo(Math.SQRT1_2 / 4, 5);
  });
});

test("tells how far it is, often and in order, from the start to nearly the end", () => {
  const steps = [...findOnsets(loop([[0.1, click], [4, kick]], 8, -200), RATE)];
  // 8 s are 1600 hops of 5 ms: a word every 256 of them, then every 64.
  const count = Math.floor((8 * RATE - 512) / Math.round(0.005 * RATE)) + 1;
  const first = Array.from({ length: Math.ceil(count / 256) }, (_, i) => (0.9 * 256 * i) / count);
  const second = Array.from({ length: Math.ceil(count / 64) }, (_, i) => 0.9 + (0.1 * 64 * i) / count);
  expect(farthest(steps, [...first, ...second])).toBeLessThan(1e-9);
}); // prettier-ignore

describe("what was found is found again", () => {
  /** Seconds and strengths of what begins in a recording, and tempi of rhythms, as they were when they were released. */
  const released = JSON.parse(readFileSync("tests/fixtures/onsets.json", "utf8")) as {
    readonly found: readonly (readonly [sec: number, strength: number])[][];
    readonly tempi: readonly (readonly [tempoBpm: number, beats: number | null])[];
  };
  test("in drums of unlike strength over a bed, close together and far apart", () => {
    const hits: [number, Voice][] = [[0.1, kick], [0.31, hat], [0.36, hat], [0.5, snare], [0.53, hat], [0.9, (t, n) => 0.3 * snare(t, n)], [1.2, kick], [1.21, hat], [1.9, (t, n) => 0.05 * click(t, n)], [2.2, (t, n) => Math.min(1, t / 0.08) * kick(t, n)]]; // prettier-ignore
    [-30, -55, -200].forEach((bed, i) => {
      const found = onsetsOf(loop(hits, 2.8, bed), [RATE, 48_000, 22_050][i]);
      expect(found).toHaveLength(released.found[i]!.length);
      found.forEach((o, k) => {
        expect(Math.abs(o.sec - released.found[i]![k]![0])).toBeLessThan(1e-4);
        expect(Math.abs(o.strength - released.found[i]![k]![1])).toBeLessThan(1e-3);
      });
    });
  });
  test("the tempo of rhythms, whole loops or not", () => {
    const rhythms = [87.3, 93, 128, 174, 71, 140].flatMap((bpm) => [[0, 4, 8, 12], [0, 3, 6, 10, 12], [0, 2, 5, 7, 8, 14]].map((steps, k) => ({ bpm, steps, k }))); // prettier-ignore
    const tempi = rhythms.map(({ bpm, steps, k }) => {
      const onsets = [0, 1].flatMap((bar) => steps.map((s, i) => ({ sec: ((16 * bar + s) * 15) / bpm + 0.004 * Math.sin(7 * (s + i)), strength: i % 3 === 0 ? 1 : 0.4 }))); // prettier-ignore
      const made = guessTempo(onsets, (480 / bpm) * [1, 1.01, 1.3][k]!)!;
      return [made.tempoBpm, made.beats] as const;
    });
    expect(tempi).toEqual(released.tempi);
    const four = [0, 0.5, 1, 1.5].map((sec) => ({ sec, strength: 1 }));
    expect([guessTempo(four, 2), guessTempo(four.slice(1), 2)]).toEqual([{ tempoBpm: 120, beats: 4 }, null]);
  });
  test("pieces are cut where they divide the whole, one sample at least", () => {
    const x = Float32Array.from({ length: 100 }, (_, i) => i / 100);
    for (const count of [1, 7, 100, 130]) {
      const found = levels(x, count);
      found.forEach((v, i) => {
        const [from, to] = [Math.floor((100 * i) / count), Math.floor((100 * (i + 1)) / count)];
        const piece = Array.from({ length: Math.max(1, to - from) }, (_, k) => (from + k) / 100);
        expect(v).toBeCloseTo(Math.sqrt(piece.reduce((sum, y) => sum + y * y, 0) / piece.length), 6);
      });
    }
  });
});

describe("curves of few points", () => {
  test("what is left out lies within the error of what stays", () => {
    const curves = fc.array(evenly(0, 1), { minLength: 2, maxLength: 60 });
    fc.assert(
      fc.property(curves, evenly(0, 0.5), (ys, error) => {
        const points = ys.map((y, i) => ({ x: i / (ys.length - 1), y, tension: 0 }));
        const few = simplify(points, error);
        const curve = compileCurve(few);
        for (const p of points) expect(Math.abs(curveAt(curve, p.x) - p.y)).toBeLessThanOrEqual(error + 1e-9);
        const eight = simplifyTo(points, 8);
        expect(eight.length).toBeLessThanOrEqual(8);
        // None of so few would have come nearer.
        const drawn = compileCurve(eight);
        const off = Math.max(...points.map((p) => Math.abs(curveAt(drawn, p.x) - p.y)));
        if (off > 1e-5) expect(simplify(points, off - 1e-6).length).toBeGreaterThan(8);
      }),
      { numRuns: 60 },
    );
  });
  test("a straight line is its ends, a corner stays", () => {
    const line = Array.from({ length: 11 }, (_, i) => ({ x: i / 10, y: i < 5 ? i / 5 : 2 - i / 5, tension: 0 }));
    expect(simplify(line, 1e-9).map((p) => p.x)).toEqual([0, 0.5, 1]);
  });
});

describe("a rhythm on steps", () => {
  const hit = (tick: number, offTick: number | null = null, velocity = 100) => ({ tick, offTick, velocity });
  test("plays what begins near a step, ties what is held, rests else; the shortest row that repeats", () => {
    expect(stepsOfHits([hit(5, 500), hit(950, 1000), hit(1700)], 240, 1920).steps).toEqual([PLAY, TIE, REST, REST, PLAY, REST, REST, PLAY]); // prettier-ignore
    // What is shorter than half a step is one.
    expect(stepsOfHits([hit(0)], 240, 100)).toEqual({ steps: [PLAY], velocities: [100] });
    const eighths = Array.from({ length: 8 }, (_, i) => hit(480 * i, null, i % 2 === 0 ? 120 : 60));
    expect(stepsOfHits(eighths, 240, 3840)).toEqual({ steps: [PLAY, REST, PLAY, REST], velocities: [120, 0, 60, 0] });
    // A step is tied whose middle is still held.
    expect(
      [1.49, 1.51, 2.49, 2.51].map(
        (n) => stepsOfHits([hit(0, 240 * n)], 240, 960).steps.filter((s) => s === TIE).length,
      ),
    ).toEqual([0, 1, 1, 2]);
    expect(triggersOf([960.4, -3, 7.6, 960, 8, 0, MAX_TICK + 1, MAX_TICK])).toEqual([0, 8, 960, MAX_TICK]);
    // Just before the end belongs to the start.
    expect(stepsOfHits([hit(3830)], 240, 3840).steps[0]).toBe(PLAY);
    expect(stepsOfHits([], 240, 3840)).toEqual({ steps: [REST], velocities: [0] });
    expect(stepsOfHits([hit(0)], 60, 3840 * 4).steps).toHaveLength(64);
  });
  test("as lanes of an arpeggio", () => {
    const { play, velocity } = lanesOfSteps({ steps: [PLAY, REST, TIE], velocities: [127, 0, 0] });
    expect([play.values, velocity.values, play.on]).toEqual([[PLAY, REST, TIE], [127, 100, 100], true]);
  });
});
