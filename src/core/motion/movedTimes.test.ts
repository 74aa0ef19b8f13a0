import { describe, expect, test } from "vitest";
import { ofAddress, ofSource, rise } from "../../../tests/support/heardMotion";
import { expectSame } from "../../../tests/support/same";
import { note, withStages, type Made } from "../../../tests/support/projects";
import type { HeardNote } from "../engine/watch";
import type { Address } from "../patch/address";
import { automatable } from "../patch/automation";
import { newEnvelope, newFollower, newGate, newMacro } from "../patch/defaults";
import type { Module } from "../patch/kinds";
import { AUTOMATION } from "../patch/kinds/automation";
import { adjusted, newModule } from "../patch/kinds/kind";
import type { Envelope } from "../patch/kinds/envelope";
import type { Restart } from "../patch/kinds/shape";
import type { Span } from "../time/span";

/** Seconds between the tops of a decay that loops by itself: a sixteenth long, moved by so many octaves at 120 BPM. */
function between(octaves: number, movedTimes: Envelope["choices"]["movedTimes"]): number {
  const decay = withStages(newEnvelope("e", "E"), { attack: { unit: "ms", ms: 0 }, decay: { unit: "note", num: 1, den: 16 }, sustain: 0 }); // prettier-ignore
  const envelope = adjusted(decay, { choices: { loop: "decay", movedTimes } });
  const macro = adjusted(newMacro("m", "M"), { values: { value: 100 } });
  const [n] = ofSource({ notes: [note(0, 3800, 60)], modules: [envelope, macro], routes: [{ source: "m", target: "e.decay", amount: octaves }] }, "e"); // prettier-ignore
  const tops = [...n!.frames].filter((_, i) => i > 1 && n!.rows[i]! > n!.rows[i - 1]! + 0.4);
  expect(tops.length).toBeGreaterThan(1);
  return (tops.at(-1)! - tops[0]!) / (tops.length - 1) / 48_000;
}

// A quarter of a quarter is a sixteenth: 125 ms at 120 BPM. Rows lie 16 frames apart.
test.each([
  [0, 1],
  [0.4, 1],
  [0.7, 2],
  [1.2, 2],
  [1.6, 3],
  [1.95, 4],
  [-3, 1],
])("moved by %d octaves, a decay comes to %d sixteenths", (octaves, sixteenths) => {
  expect(between(octaves, "sixteenths")).toBeCloseTo(0.125 * sixteenths, 3);
  if (octaves > 0) expect(between(octaves, "anywhere")).toBeCloseTo(0.125 * 2 ** octaves, 3);
});

const ms = (n: number): Span => ({ unit: "ms", ms: n });
const HITS = [note(0, 480, 60), note(1440, 240, 64), note(2400, 900, 55, 80)];
const macro = adjusted(newMacro("m", "M"), { values: { value: 100 } });
const gate = adjusted(newGate("x", "X"), { values: { attack: 10, hold: 40, tail: 60, swing: 55 } });
const follower = adjusted(newFollower("x", "X"), { times: { attack: ms(40), release: ms(300) } });
const fading = (restart: Restart) => adjusted(rise("x", 3, restart), { times: { fadeIn: ms(400) } });

/** What a source does while notes sound. */
const played = (x: Module, modules: readonly Module[] = [], routes: Made["routes"] = []): readonly HeardNote[] =>
  ofSource({ notes: HITS, modules: [x, ...modules], routes }, "x");

function expectAlike(one: readonly HeardNote[], other: readonly HeardNote[], within: number): void {
  let furthest = 0;
  let span = 0;
  one.forEach((n, i) => {
    expectSame(n.frames, other[i]!.frames);
    n.rows.forEach((value, k) => (furthest = Math.max(furthest, Math.abs(value - other[i]!.rows[k]!))));
    span = Math.max(span, Math.max(...n.rows) - Math.min(...n.rows));
  });
  expect(furthest).toBeLessThan(within);
  expect(span).toBeGreaterThan(0.3);
}

describe("times of gates, followers and fades", () => {
  test.each<[string, Module, Module, Address, number, number]>([
    ["attack of a gate", gate, adjusted(gate, { values: { attack: 40 } }), "x.attack", 2, 1e-9],
    ["hold of a gate", gate, adjusted(gate, { values: { hold: 65 } }), "x.hold", 25, 1e-9],
    ["tail of a gate", gate, adjusted(gate, { values: { tail: 15 } }), "x.tail", -2, 1e-9],
    ["swing of a gate", gate, adjusted(gate, { values: { swing: 66 } }), "x.swing", 11, 1e-9],
    [
      "steps of a gate",
      gate,
      adjusted(gate, { times: { step: { unit: "note", num: 1, den: 8 } } }),
      "x.step",
      -1,
      1e-6,
    ],
    ["attack of a follower", follower, adjusted(follower, { times: { attack: ms(160) } }), "x.attack", 2, 1e-6],
    ["release of a follower", follower, adjusted(follower, { times: { release: ms(75) } }), "x.release", -2, 1e-6],
    [
      "fade of a shape with the bar",
      fading("bar"),
      adjusted(fading("bar"), { times: { fadeIn: ms(800) } }),
      "x.fadeIn",
      1,
      1e-9,
    ],
    [
      "fade of a shape of each note's own",
      fading("note"),
      adjusted(fading("note"), { times: { fadeIn: ms(200) } }),
      "x.fadeIn",
      -1,
      1e-9,
    ],
  ])("%s: moved by a macro it is what it would be as set", (_, moved, set, target, amount, within) => {
    const plain = played(moved);
    const other = played(moved, [macro], [{ source: "m", target, amount }]);
    expectAlike(other, played(set), within);
    // And it does move.
    expect(other.some((n, i) => n.rows.some((v, k) => Math.abs(v - plain[i]!.rows[k]!) > 0.05))).toBe(true);
  });

  /**
   * What a follower with times of its own at each place comes to: steps of an eighth of a tick, round and round, with 5 %
   * left after the time. Values at a frame of the pass.
   */
  function stepped(
    hits: typeof HITS,
    ms: (tick: number) => [attack: number, release: number],
  ): (frame: number) => number {
    const per = 8;
    const all = 3840 * per;
    const goals = Float64Array.from({ length: 3840 }, (_, tick) => Math.max(0, ...hits.filter((n) => n.startTick <= tick && tick < n.startTick + n.lengthTicks).map((n) => n.velocity / 127))); // prettier-ignore
    const values = new Float64Array(all);
    let value = 0;
    for (let i = 0; i < 4 * all; i++) {
      const tick = (i % all) / per;
      values[i % all] = value;
      const goal = goals[Math.floor(tick)]!;
      const [attack, release] = ms(tick);
      value = goal + (value - goal) * Math.exp(-3 / (((goal > value ? attack : release) / 1000) * 1920 * per));
    }
    // 25 frames of 48 kHz are a tick at 120 BPM.
    return (frame) => values[Math.round((frame / 25) * per) % all]!;
  }
  const furthest = (notes: readonly HeardNote[], from: (frame: number) => number): number =>
    Math.max(...notes.flatMap((n) => Array.from(n.rows, (v, k) => Math.abs(v - from(n.frames[k]!)))));

  test("moved along the loop by an automation, it is what steps come to", () => {
    const points = [{ x: 0, y: 0.3, tension: 0 }, { x: 1, y: 0.9, tension: 0 }] as const; // prettier-ignore
    const line = newModule(AUTOMATION, "line", "Line", { target: "x.release", points });
    const { min, max } = automatable({ modules: [follower] }, "x.release", { tempoBpm: 120, meter: { beats: 4, unit: 4 } })!.row; // prettier-ignore
    const notes = played(follower, [line]);
    expect(furthest(notes, stepped(HITS, (tick) => [40, min * (max / min) ** (0.3 + (0.6 * tick) / 3840)]))).toBeLessThan(0.01); // prettier-ignore
  });

  test("moved by what each note brings, it takes after the newest one", () => {
    const hits = [note(960, 480, 60, 127), note(1920, 480, 60, 64)];
    const routes = [{ source: "velocity", target: "x.attack", amount: 2 }, { source: "velocity", target: "x.release", amount: 1 }] as const; // prettier-ignore
    const notes = ofSource({ notes: hits, modules: [follower], routes }, "x");
    // While nothing sounds, nothing is brought: notes end 5 ms after they were let go. What one brings is known to what all
    // notes share a sub-block of 16 frames later, and moves it from the next one on.
    const late = 32 / 25;
    const octaves = (tick: number): number =>
      Math.max(0, ...hits.map((n) => (n.startTick + late <= tick && tick < n.startTick + 490 ? n.velocity / 127 : 0)));
    const from = stepped(hits, (tick) => [40 * 4 ** octaves(tick), 300 * 2 ** octaves(tick)]);
    expect(furthest(notes, from)).toBeLessThan(0.01);
  });
});

describe("an envelope that all notes share", () => {
  const stages = {
    delay: ms(20),
    attack: ms(60),
    hold: ms(40),
    decay: ms(200),
    sustain: 30,
    attackCurve: -20,
    decayCurve: 40,
  };
  const shared = (wanted: Parameters<typeof withStages>[1], loop: Envelope["choices"]["loop"] = "none", restart: "bar" | "song" | "triggers" = "bar") =>
    adjusted(withStages(newEnvelope("x", "X"), { ...stages, ...wanted }), { choices: { loop, restart }, data: { triggers: [700, 2000] } }); // prettier-ignore

  test.each<
    [string, Parameters<typeof withStages>[1], Address, number, Envelope["choices"]["loop"], "bar" | "triggers"]
  >([
    ["attack", { attack: ms(240) }, "x.attack", 2, "none", "bar"],
    ["hold", { hold: ms(160) }, "x.hold", 2, "none", "triggers"],
    ["decay", { decay: ms(50) }, "x.decay", -2, "none", "bar"],
    ["sustain", { sustain: 80 }, "x.sustain", 50, "none", "bar"],
    ["decay that loops", { decay: ms(400) }, "x.decay", 1, "decay", "bar"],
    ["attack of a loop", { attack: ms(30) }, "x.attack", -1, "all", "triggers"],
    ["attack's curve", { attackCurve: 70 }, "x.attackCurve", 90, "none", "bar"],
  ])("%s: moved by a macro it is what it would be as set", (_, wanted, target, amount, loop, restart) => {
    const other = played(shared({}, loop, restart), [macro], [{ source: "m", target, amount }]);
    const set = played(shared(wanted, loop, restart));
    // A decay that loops jumps back to full; smoothing of 1 ms stands for the way back of the other.
    expectAlike(other, set, loop === "none" ? 1e-3 : 0.7);
    const far = (list: readonly HeardNote[]): number =>
      list.reduce(
        (sum, n, i) => sum + n.rows.reduce((all, v, k) => all + Math.abs(v - set[i]!.rows[k]!), 0) / n.rows.length,
        0,
      );
    expect(far(other)).toBeLessThan(0.02);
    expect(far(played(shared({}, loop, restart)))).toBeGreaterThan(0.1);
  });

  test("whose decay is moved by a shape is what one of each note's own is for a note that starts with the bar", () => {
    const slow = adjusted(rise("s", 1.3, "bar"), {});
    const own = adjusted(shared({}), { choices: { restart: "note" } });
    const routes = [{ source: "s", target: "x.decay", amount: 2 }, { source: "s", target: "x.attack", amount: 1 }] as const; // prettier-ignore
    const of = (x: Module): readonly HeardNote[] =>
      ofSource({ notes: [note(0, 3800, 60)], modules: [x, slow], routes }, "x");
    const [one] = of(shared({}));
    const [other] = of(own);
    // It is smoothed by 1 ms, from where the pass before has left it, and its place is known every 8 ticks. The note is let
    // go at frame 95 000.
    const held = (frame: number): boolean => frame > 240 && frame < 95_000;
    const apart = Array.from(one!.rows, (v, k) => (!held(one!.frames[k]!) ? 0 : Math.abs(v - other!.rows[k]!)));
    expect(Math.max(...apart)).toBeLessThan(0.02);
    expect(Math.max(...one!.rows)).toBeGreaterThan(0.98);
  });
});

describe("a glide", () => {
  /** The pitch over a second note, whose glide takes 100 ms as set, in rows of 16 frames. */
  const glide = (amount: number, source = "m", velocity = 127): HeardNote =>
    ofAddress(
      {
        notes: [note(0, 960, 60), note(960, 1900, 72, velocity)],
        playing: { choices: { voices: "one" }, glide: ms(100) },
        modules: [macro],
        routes: amount === 0 ? [] : [{ source, target: "playing.glide", amount }],
      },
      "osc.pitch",
    )[1]!;
  /** Seconds until it is half-way. */
  const half = (n: HeardNote): number => (n.frames[n.rows.findIndex((key) => key >= 66)]! - n.onFrame) / 48_000;

  test.each([
    [0, "m", 127, 0.05],
    [1, "m", 127, 0.1],
    [-2, "m", 127, 0.0125],
    [2, "velocity", 127, 0.2],
    [2, "velocity", 32, 0.05 * 2 ** (2 * (32 / 127))],
  ])("moved by %d octaves of %s at velocity %d, it is half-way after %d s", (octaves, source, velocity, sec) => {
    expect(half(glide(octaves, source, velocity))).toBeCloseTo(sec, 3);
  });
});

describe("copies", () => {
  /** Pitches in cents from the key and places of three copies, sorted. */
  const copies = (made: Partial<Made>): { cents: number[]; places: number[] } => {
    const all: Made = { notes: [note(0, 960, 60)], ...made, values: { "playing.copies": 3, ...made.values } };
    const of = (address: Address): number[] =>
      ofAddress(all, address)
        .map((n) => n.rows[0]!)
        .sort((a, b) => a - b);
    return { cents: of("osc.pitch").map((key) => Math.round((key - 60) * 1000) / 10), places: of("amp.pan") };
  };

  test("lie as far apart as what moves their detune and width says", () => {
    const values = { "playing.copiesDetune": 10, "playing.copiesWidth": 20 };
    expect(copies({ values })).toEqual({ cents: [-10, 0, 10], places: [-20, 0, 20] });
    expect(copies({ values: { "playing.copiesDetune": 1, "playing.copiesWidth": 1 } })).toEqual({ cents: [-1, 0, 1], places: [-1, 0, 1] }); // prettier-ignore
    expect(copies({})).toEqual({ cents: [0, 0, 0], places: [0, 0, 0] });
    const routes = [{ source: "m", target: "playing.copiesDetune", amount: 15 }, { source: "m", target: "playing.copiesWidth", amount: 60 }] as const; // prettier-ignore
    expect(copies({ values, modules: [macro], routes })).toEqual({ cents: [-25, 0, 25], places: [-80, 0, 80] });
    expect(copies({ modules: [macro], routes })).toEqual({ cents: [-15, 0, 15], places: [-60, 0, 60] });
  });
});
