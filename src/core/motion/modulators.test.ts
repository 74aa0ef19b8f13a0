import { describe, expect, test } from "vitest";
import { withStages } from "../../../tests/support/projects";
import { farthest } from "../../../tests/support/same";
import { step, steps } from "../../../tests/support/steps";
import { curveAt } from "../curve/curve";
import { compileEnvelope, envelopeAt, heldAt } from "../curve/envelope";
import { newEnvelope, newFollower, newGate, newRandom, newShape } from "../patch/defaults";
import { adjusted } from "../patch/kinds/kind";
import { FOLLOWER } from "../patch/kinds/follower";
import type { Random } from "../patch/kinds/random";
import type { Restart } from "../patch/kinds/shape";
import type { Span } from "../time/span";
import { drawnAt } from "./drawn";
import { compileFollower } from "./follower";
import { barsOf, drawsProgram, followerProgram, gateProgram, restartingAtJumps, roundTicks, sequenceProgram, shapeProgram, sharedEnvelopeProgram } from "./modulators"; // prettier-ignore
import { heldCycles, restartTick } from "./shape";

/** What modulators become for those who evaluate them: 120 BPM, 4/4, so that a tick lasts 1/1920 s. */
const BASE = { tempoBpm: 120, meter: { beats: 4, unit: 4 } } as const;
const ms = (n: number) => ({ unit: "ms", ms: n }) as const;
const FRACTIONS = Array.from({ length: 199 }, (_, i) => (i + 1) / 200);

describe("an envelope that all notes share", () => {
  const stages = { delay: ms(40), attack: ms(100), hold: ms(60), decay: ms(300), sustain: 35, attackCurve: 40, decayCurve: -30 }; // prettier-ignore
  const made = (loop: "none" | "decay" | "all", more = {}) =>
    sharedEnvelopeProgram(adjusted(withStages(newEnvelope("e", "E"), { ...stages, ...more }), { choices: { loop } }), BASE); // prettier-ignore
  const plain = { attackSec: 0.1, holdSec: 0.06, decaySec: 0.3, sustain: 0.35, releaseSec: 0.1, attackCurve: 40, decayCurve: -30, releaseCurve: 0 } as const; // prettier-ignore

  test.each([
    ["none", 0.5, { delaySec: 0.04 }, 0],
    ["decay", 0.3, { attackSec: 0, holdSec: 0 }, 0],
    ["all", 0.46, {}, 0.46],
  ] as const)("loops %s: one round of it is that of a note that is held", (loop, period, more, from) => {
    const shape = made(loop);
    const e = compileEnvelope({ ...plain, ...more, loop: loop === "decay" ? "none" : loop });
    expect(shape).toMatchObject({ period: expect.closeTo(period, 12) as number, synced: false, once: loop === "none", phase: 0 }); // prettier-ignore
    const is = FRACTIONS.map((x) => curveAt(shape.curve, x));
    expect(farthest(is, FRACTIONS.map((x) => heldAt(e, from + x * period)))).toBeLessThan(1e-9); // prettier-ignore
    expect([curveAt(shape.curve, 0), curveAt(shape.curve, 1)].map((v) => Number(v.toFixed(9)))).toEqual([loop === "none" ? 0 : loop === "decay" ? 1 : 0.35, 0.35]); // prettier-ignore
  });
  test("without length it is at its sustain at once", () => {
    const none = made("none", { delay: ms(0), attack: ms(0), hold: ms(0), decay: ms(0) });
    expect(none.period).toBe(1e-4);
    expect(curveAt(none.curve, 1)).toBe(0.35);
  });
});

describe("where shapes start again", () => {
  const shape = (restart: Restart, every = 1, triggers: number[] = []) =>
    shapeProgram(adjusted(newShape("s", "S"), { choices: { restart }, values: { every, phase: 90 }, data: { triggers } }), BASE, 1); // prettier-ignore
  const song = { loopTicks: 4 * 3840, barTicks: 3840, ticksPerSec: 1920 };
  test("at jumps of what moves them, beside their own restarts", () => {
    const at = (restart: Restart, every = 1) => restartingAtJumps(shape(restart, every, [100, 5000]), [700, 5000], { ...BASE, loopTicks: song.loopTicks }); // prettier-ignore
    expect(at("song").triggers).toEqual([0, 700, 5000]);
    expect(at("bar").triggers).toEqual([0, 700, 3840, 5000, 7680, 11_520]);
    expect(at("bar", 3).triggers).toEqual([0, 700, 5000, 11_520]);
    expect(at("triggers").triggers).toEqual([100, 700, 5000]);
    expect([at("song").restart, at("note").restart]).toEqual(["triggers", "note"]);
    expect(shape("song").phase).toBe(0.25);
  });
  test("before the first trigger with the last one of the pass before; never where there is none", () => {
    const at = (tick: number, ...triggers: number[]) => restartTick(shape("triggers", 1, triggers), tick, song);
    expect([at(99, 100, 5000), at(100, 100, 5000), at(4999, 100, 5000), at(5000, 100, 5000)]).toEqual([5000 - 15_360, 100, 100, 5000]); // prettier-ignore
    // One on the last tick counts, one on the end is that of the next pass.
    expect([at(0, 15_359), at(0, 100, 15_360), at(0, 15_360), at(7)]).toEqual([-1, 100 - 15_360, -Infinity, -Infinity]);
    const every = shape("bar", 3);
    expect([0, 11_519, 11_520].map((t) => restartTick(every, t, song))).toEqual([0, 0, 11_520]);
  });
  test("held, it repeats its stretch and goes on from where it is let go", () => {
    const stretch = { from: 0.25, to: 0.5 };
    expect([0.4, 0.5, 0.6, 0.75, 0.9, 1.1].map((c) => Number(heldCycles(stretch, c, Infinity).toFixed(9)))).toEqual([0.4, 0.25, 0.35, 0.25, 0.4, 0.35]); // prettier-ignore
    // Let go after 0.6 cycles, at 0.35.
    expect([0.6, 0.7, 1.6].map((c) => Number(heldCycles(stretch, c, 0.6).toFixed(9)))).toEqual([0.35, 0.45, 1.35]);
    expect(heldCycles(stretch, 0.45, 0.3)).toBeCloseTo(0.45, 12);
    const stands = { from: 0.5, to: 0.5 };
    expect([heldCycles(stands, 0.3, Infinity), heldCycles(stands, 5, Infinity), heldCycles(stands, 5, 4.75)]).toEqual([0.3, 0.5, 0.75]); // prettier-ignore
  });
});

describe("sequences and gates", () => {
  const row = (count: number) => Array.from({ length: count }, (_, i) => step(i / count));
  const sequence = (count: number, rateOf: "step" | "all", rate: Parameters<typeof steps>[2], values = {}) => steps(row(count), { rateOf }, rate, values); // prettier-ignore
  const quarter = { unit: "note", num: 1, den: 4 } as const;
  test("rounds and the bars that they take, by steps or by all of them", () => {
    expect(roundTicks(sequence(6, "step", quarter), BASE)).toBe(6 * 960);
    expect(roundTicks(sequence(6, "all", quarter), BASE)).toBe(960);
    const bars = (count: number, every = 0) => barsOf(sequence(count, "step", quarter, { every }), BASE);
    expect([bars(1), bars(4), bars(5), bars(8), bars(9), bars(9, 2)]).toEqual([1, 1, 2, 2, 3, 2]);
  });
  test("in ticks where the rate is in note values, in seconds else; from their phase on", () => {
    const of = (rateOf: "step" | "all", rate: Parameters<typeof steps>[2]) => sequenceProgram(sequence(6, rateOf, rate, { phase: 90, smoothing: 25 }), BASE, 3); // prettier-ignore
    expect(of("step", quarter)).toMatchObject({ period: 5760, synced: true, phase: 0.25, smoothingSec: 0.025 });
    expect(of("all", quarter)).toMatchObject({ period: 960, synced: true });
    expect(of("step", ms(50))).toMatchObject({ period: expect.closeTo(0.3, 12) as number, synced: false });
  });
  test("a gate's steps last as long as they are set, also in milliseconds", () => {
    const of = (stepLength: Span) => gateProgram(adjusted(newGate("g", "G"), { times: { step: stepLength }, data: { steps: [1, 0, 1] } }), BASE).period; // prettier-ignore
    expect([of({ unit: "note", num: 1, den: 8 }), of(ms(100))]).toEqual([1440, expect.closeTo(576, 9)]);
  });
});

/** Values of a seed, as they were when they were released: projects are alike in every version. */
const RELEASED = {
  even: [0.970719, 0.707471, 0.702703, 0.326623, 0.130609],
  middle: [0.806088, 0.522615, 0.727357, 0.199335, 0.367914],
};

describe("draws", () => {
  const of = (choices: Partial<Random["choices"]>, rate: Random["times"]["rate"], loopTicks = 7680) => drawsProgram(adjusted(newRandom("r", "R"), { choices, times: { rate } }), BASE, loopTicks, 77); // prettier-ignore
  const eighth = { unit: "note", num: 1, den: 8 } as const;
  test("go round with the loop where a whole number of them fills it, and only then", () => {
    expect(of({}, eighth).draws!.around).toBe(16);
    expect(of({}, { unit: "note", num: 3, den: 8 }).draws!.around).toBe(0);
    // Half a second would go into the ticks of the loop by chance.
    expect([of({}, ms(500)).draws!.around, of({ draws: "note" }, eighth).draws!.around, of({}, eighth, 0).draws!.around]).toEqual([0, 0, 0]); // prettier-ignore
    const { draws } = of({}, eighth);
    expect([0, 5, 15].map((n) => drawnAt(draws!, n + 16, 0))).toEqual([0, 5, 15].map((n) => drawnAt(draws!, n, 0)));
  });
  test("bring the same values back, in this version and the next: each of its restart and its place", () => {
    const at = (likely: Random["choices"]["likely"]) => [[0, 0], [1, 0], [2, 0], [0, 960], [1, 960]].map(([n, epoch]) => Number(drawnAt(of({ likely }, ms(500)).draws!, n!, epoch!).toFixed(6))); // prettier-ignore
    expect(at("even")).toEqual(RELEASED.even);
    expect(at("middle")).toEqual(RELEASED.middle);
    // Half a turn of a cosine.
    expect(at("ends")).toEqual(RELEASED.even.map((u): unknown => expect.closeTo(0.5 - 0.5 * Math.cos(Math.PI * u), 5)));
  });
  test("that are smooth are half-way on half a turn of a cosine", () => {
    const { draws } = of({ moves: "smooth" }, ms(500));
    const [a, b] = [drawnAt(draws!, 3, 0), drawnAt(draws!, 4, 0)];
    for (const t of [0.25, 0.5, 0.9]) expect(drawnAt(draws!, 3 + t, 0)).toBeCloseTo(a + (b - a) * (0.5 - 0.5 * Math.cos(Math.PI * t)), 12); // prettier-ignore
  });
});

describe("followers", () => {
  const noteAt = (onTick: number, lengthTicks: number, velocity = 127, key = 60) => ({ onTick, offTick: onTick + lengthTicks, key, velocity }); // prettier-ignore
  const how = { loopTicks: 7680, heldTicks: Infinity, attackTicks: 600, releaseTicks: 0, alike: false, shape: null, ticksPerSec: 1920 }; // prettier-ignore
  const e = compileEnvelope({ attackSec: 0.3, decaySec: 0.4, sustain: 0.4, releaseSec: 1.2, attackCurve: 30, decayCurve: 40, releaseCurve: 50 }); // prettier-ignore

  test.each([Infinity, 1700])("as shaped, they go in each step of 8 ticks to the loudest in its middle, heard for %d ticks at the most", (heldTicks) => {
    const notes = [noteAt(4, 900), noteAt(1203, 2400, 60), noteAt(6000, 1500, 90), noteAt(7000, 680, 127, 40)];
    for (const alike of [false, true]) {
      const f = compileFollower(notes, { ...how, shape: e, heldTicks, alike });
      const goal = (k: number): number =>
        Math.max(
          0,
          ...notes.flatMap((n) =>
            [0, 1, 2].map((pass) => {
              const since = 8 * k + 4 + pass * 7680 - n.onTick;
              const length = n.offTick - n.onTick;
              const heard = Math.min(length + 1.2 * 1920, heldTicks);
              return since < 0 || since >= heard ? 0 : (alike ? 1 : n.velocity / 127) * envelopeAt(e, since / 1920, length / 1920);
            }),
          ),
        );
      expect(farthest(f.goals, Array.from({ length: 960 }, (_, k) => goal(k)))).toBeLessThan(1e-12);
      expect(farthest(f.ticks, Array.from({ length: 960 }, (_, k) => 8 * k))).toBe(0);
      // Never faster than two steps, or they would be heard.
      expect([f.up, f.down, f.fastest].map((v) => Number(v.toFixed(9)))).toEqual([3 / 600, 3 / 16, 3 / 16]);
    }
  }); // prettier-ignore
  test("of very many notes they look half as often", () => {
    const many = Array.from({ length: 600 }, (_, i) => noteAt(12 * i, 4000, 1 + (i % 100)));
    const [every, less] = [many.slice(0, 200), many].map((notes) => compileFollower(notes, { ...how, shape: compileEnvelope({ attackSec: 0, decaySec: 0, sustain: 1, releaseSec: 0, attackCurve: 0, decayCurve: 0, releaseCurve: 0 }) })); // prettier-ignore
    expect([every!.ticks[1], less!.ticks[1], less!.fastest]).toEqual([8, 16, expect.closeTo(3 / 32, 12)]);
  });
  test("hear held notes to their end where that is as far as it goes", () => {
    const goalsOf = (held: number) => followerProgram(adjusted(newFollower("f", "F"), { values: { held } }), BASE, 7680, [noteAt(0, 6000)], null).follower!; // prettier-ignore
    const { max } = FOLLOWER.rows.held;
    expect([...goalsOf(max).ticks]).toEqual([0, 6000]);
    expect([...goalsOf(max - 1).ticks]).toEqual([0, expect.closeTo((max - 1) * 1.92, 9)]);
  });
});
