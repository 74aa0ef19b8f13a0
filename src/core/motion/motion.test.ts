import { describe, expect, test } from "vitest";
import { playing, run } from "../../../tests/support/live";
import { farthest } from "../../../tests/support/same";
import { RATE, at, columnsOf, ofAddress, ofSource, rise, heard } from "../../../tests/support/heardMotion";
import { AMP_ENVELOPE, makeProject, note, type Made } from "../../../tests/support/projects";
import { peak } from "../../../tests/support/spectrum";
import { compileProject } from "../engine/compile";
import { renderNow } from "../engine/render";
import type { Address } from "../patch/address";
import { newEnvelope, newGate } from "../patch/defaults";
import type { Module } from "../patch/kinds";
import { newLane } from "../patch/lanes";
import { adjusted } from "../patch/kinds/kind";

const one: Made = { notes: [note(0, 3840, 60, 127)], values: { "filter.cutoff": 1000, "amp.level": -12 } };

describe("what a route does to its source", () => {
  const level = (route: object, sec: number, key = 60, velocity = 127): number =>
    at(ofAddress({ ...one, notes: [note(0, 3840, key, velocity)], modules: [rise("r", 1)], routes: [{ source: "r", target: "filter.resonance", amount: 60, ...route }], values: { "filter.resonance": 20 } }, "filter.resonance")[0]!, sec); // prettier-ignore
  test.each([
    ["from rest", {}, 0.25, 20 + 15],
    ["reversed", { reversed: true }, 0.25, 20 + 45],
    ["around rest", { around: true, amount: 20 }, 0.25, 20 - 10],
    ["around rest, reversed", { around: true, reversed: true, amount: 20 }, 0.25, 20 + 10],
    ["held in range", { amount: 100 }, 0.9, 100],
    [
      "bent by a curve",
      {
        curve: [
          { x: 0, y: 0, tension: 0 },
          { x: 0.5, y: 1, tension: 0 },
          { x: 1, y: 0, tension: 0 },
        ],
      },
      0.25,
      20 + 30,
    ],
    [
      "reversed, then bent",
      {
        reversed: true,
        curve: [
          { x: 0, y: 0, tension: 0 },
          { x: 0.5, y: 1, tension: 0 },
          { x: 1, y: 0, tension: 0 },
        ],
      },
      0.1,
      20 + 60 * 0.2,
    ],
    ["taken at the note's start", { source: "velocity", atStart: true }, 0.5, 80],
    ["off", { on: false }, 0.5, 20],
  ] as const)("%s", (_name, route, sec, expected) => {
    expect(level(route, sec)).toBeCloseTo(expected, 1);
  });

  test("a source taken at the start stays, another note takes its own", () => {
    const made: Made = {
      ...one,
      notes: [note(480, 480, 60), note(1440, 480, 62)],
      modules: [rise("r", 1, "bar")],
      routes: [{ source: "r", target: "osc.pitch", amount: 12, atStart: true }],
    };
    const [a, b] = ofAddress(made, "osc.pitch");
    expect(at(a!, 0.01)).toBeCloseTo(60 + 3, 2);
    expect(at(a!, 0.2)).toBeCloseTo(60 + 3, 2);
    expect(at(b!, 0.2)).toBeCloseTo(62 + 9, 2);
  });

  test("an edit of something else changes nothing: not what was taken at a note's start, is smoothed or goes in a circle", () => {
    const wobble = adjusted(rise("wobble", 3), { values: { smoothing: 60 } });
    const start = { source: "bar", target: "osc.pitch", amount: 12, atStart: true } as const;
    const smooth = { source: "wobble", target: "osc.pitch", amount: 5 } as const;
    const circle = [{ source: "one", target: "two.phase", amount: 40 }, { source: "two", target: "one.phase", amount: 40 }, { source: "two", target: "osc.pitch", amount: 7 }] as const;
    const watched = { addresses: ["osc.pitch"], sources: [] } as const;
    // A circle is worked out once more by the edit, and so comes a step nearer to itself.
    for (const [routes, within] of [[[start, smooth], 1e-9], [circle, 1e-3]] as const) {
      const made = (amount: number): Made => ({ ...one, notes: [note(480, 960, 60), note(1920, 480, 62)], modules: [rise("bar", 1, "bar"), wobble, rise("one", 1.7), rise("two", 2.3)], routes: [...routes, { source: "velocity", target: "filter.resonance", amount }] });
      const left = heard(made(0), watched);
      const edited = heard(made(0), watched, { to: made(20), atSec: 0.4 });
      expect(left).toHaveLength(2);
      left.forEach((n, i) => expect(farthest(edited[i]!.rows, n.rows)).toBeLessThan(within));
      expect(new Set(left[0]!.rows).size).toBeGreaterThan(500);
    }
  }); // prettier-ignore

  test("a shape with triggers runs through once at each, the first of a pass after the last of the one before", () => {
    // 120 BPM, one bar of 2 s: 1920 ticks a second; a rise of 0.5 s at 0.25 s and 1 s, the second cut by one at 1.25 s.
    const modules = [rise("r", 2, "triggers", [480, 1920, 2400])];
    const [n] = ofSource({ ...one, modules, routes: [{ source: "r", target: "osc.pitch", amount: 1 }] }, "r");
    for (const [sec, value] of [[0.1, 1], [0.35, 0.2], [0.6, 0.7], [0.9, 1], [1.2, 0.4], [1.5, 0.5], [1.9, 1]] as const)
      expect(at(n!, sec), `${sec} s`).toBeCloseTo(value, 2);
    // Without a trigger it stays at its end; one that falls just before the turn goes on after it.
    const [still] = ofSource({ ...one, modules: [rise("r", 2, "triggers")], routes: [{ source: "r", target: "osc.pitch", amount: 1 }] }, "r");
    expect(at(still!, 0.7)).toBe(1);
    const [over] = ofSource({ ...one, modules: [rise("r", 2, "triggers", [3648])], routes: [{ source: "r", target: "osc.pitch", amount: 1 }] }, "r");
    expect([at(over!, 0.1), at(over!, 1.95)].map((v) => Math.round(100 * v))).toEqual([40, 10]);
    // Twice as fast where its rate is moved by an octave.
    const faster = { ...one, modules: [rise("r", 2, "triggers", [480]), rise("up", 0.001, "song")], routes: [{ source: "r", target: "osc.pitch", amount: 1 }, { source: "up", target: "r.rate", amount: 1, reversed: true }] } as const;
    expect(at(ofSource(faster, "r")[0]!, 0.35)).toBeCloseTo(0.4, 2);
  }); // prettier-ignore

  test("keys of a chord that are let go one after the other release each from there", () => {
    const envelope = adjusted(newEnvelope("e", "E"), {
      values: { sustain: 100, releaseCurve: 0 },
      times: { attack: { unit: "ms", ms: 0 }, release: { unit: "ms", ms: 500 } },
    });
    const modules: Module[] = [envelope];
    const notes = [note(0, 480, 60), note(0, 960, 64)];
    const amp = { release: { unit: "ms", ms: 900 } } as const;
    const made: Made = { ...one, notes, modules, amp, routes: [{ source: "e", target: "osc.pitch", amount: 1 }] };
    const [a, b] = ofSource(made, "e");
    // 1920 ticks a second: let go after a quarter and after half a second.
    for (const [n, sec, value] of [[a, 0.2, 1], [b, 0.4, 1], [a, 0.6, 0.3], [b, 0.6, 0.8], [b, 0.75, 0.5]] as const)
      expect(at(n!, sec), `${n!.key} after ${sec} s`).toBeCloseTo(value, 2);
  }); // prettier-ignore

  test("a smoothed shape of each note begins at its own value, and settles to 95 % in its time", () => {
    const gate = adjusted(rise("g", 1), {
      values: { smoothing: 60 },
      data: { points: [{ x: 0, y: 1, tension: 0 }, { x: 0.25, y: 1, tension: 0 }, { x: 0.25, y: 0, tension: 0 }, { x: 1, y: 0, tension: 0 }] },
    });
    // The second note takes the voice of the first, which had come down to nothing.
    const notes = [note(0, 960, 60), note(1920, 960, 60)];
    const found = ofSource({ ...one, notes, modules: [gate], routes: [{ source: "g", target: "osc.pitch", amount: 1 }] }, "g");
    expect(found).toHaveLength(2);
    for (const n of found) {
      expect(n.rows[0]).toBe(1);
      expect(at(n, 0.2)).toBe(1);
      for (const ms of [20, 60, 120]) expect(at(n, 0.25 + ms / 1000)).toBeCloseTo(Math.exp((-3 * ms) / 60), 1);
    }
  }); // prettier-ignore

  test("a free lane of the arpeggio gives each note the value of its step", () => {
    const lanes = { freeA: { ...newLane("freeA", 3), values: [0, 25, 100] }, freeB: { ...newLane("freeB", 2), values: [50, 10] } }; // prettier-ignore
    const routes = [{ source: "freeA", target: "osc.pitch", amount: 12 } as const, { source: "freeB", target: "filter.resonance", amount: 40 } as const]; // prettier-ignore
    const made: Made = { ...one, arpeggio: { on: true, rate: { num: 1, den: 8 }, gate: 50, lanes }, routes, values: { "filter.resonance": 20 } }; // prettier-ignore
    const values = (address: Address): number[] => ofAddress(made, address).slice(0, 4).map((n) => at(n, 0.05)); // prettier-ignore
    values("osc.pitch").forEach((v, i) => expect(v).toBeCloseTo([60, 63, 72, 60][i]!, 9));
    values("filter.resonance").forEach((v, i) => expect(v).toBeCloseTo([40, 24, 40, 24][i]!, 9));
  });

  test("a detune that is moved below nothing stays at nothing, while a fine pitch may pass what is set by hand", () => {
    const moved = (target: Address, amount: number): number =>
      at(ofAddress({ ...one, notes: [note(0, 960, 60, 127)], values: { "osc.detune": 10, "osc.fine": 50 }, routes: [{ source: "velocity", target, amount }] }, target === "osc.fine" ? "osc.pitch" : target)[0]!, 0.1); // prettier-ignore
    expect(moved("osc.detune", -40)).toBe(0);
    expect(moved("osc.detune", 20)).toBeCloseTo(30, 9);
    expect(moved("osc.fine", 100)).toBeCloseTo(61.5, 9);
  });

  test("the key counts both ways from middle C, the velocity from nothing; both turn when reversed", () => {
    const pitch = (source: string, key: number, velocity: number, reversed = false): number =>
      at(ofAddress({ ...one, notes: [note(0, 960, key, velocity)], routes: [{ source, target: "osc.pitch", amount: 12, reversed }] }, "osc.pitch")[0]!, 0.1) - key; // prettier-ignore
    expect(pitch("key", 90, 100)).toBeCloseTo(6, 9);
    expect(pitch("key", 30, 100)).toBeCloseTo(-6, 9);
    expect(pitch("key", 90, 100, true)).toBeCloseTo(-6, 9);
    // No further than an amount goes, however high the key.
    expect(pitch("key", 127, 100)).toBeCloseTo(12, 9);
    expect(pitch("key", 0, 100)).toBeCloseTo(-12, 9);
    expect(pitch("velocity", 60, 127)).toBeCloseTo(12, 9);
    expect(pitch("velocity", 60, 64, true)).toBeCloseTo((12 * 63) / 127, 9);
    // A patch without a rule of playing takes velocities as they are.
    const p = makeProject({ ...one, notes: [note(0, 960, 60, 64)], routes: [{ source: "velocity", target: "osc.pitch", amount: 127 }] }); // prettier-ignore
    const bare = { ...p, parts: p.parts.map((q) => ({ ...q, patch: { ...q.patch, modules: q.patch.modules.filter((m) => m.kind !== "playing") } })) }; // prettier-ignore
    expect(columnsOf(bare, "osc.pitch").high(0.1) - 60).toBeCloseTo(64, 6);
  });

  test("scaled by another source", () => {
    expect(level({ scaledBy: "velocity" }, 0.5, 60, 127)).toBeCloseTo(50, 1);
    expect(level({ scaledBy: "velocity" }, 0.5, 60, 64)).toBeCloseTo(20 + 30 * (64 / 127), 1);
    // A source that goes both ways scales from nothing at its lowest to all at its highest.
    expect(level({ scaledBy: "key" }, 0.5, 0)).toBeCloseTo(20, 1);
    expect(level({ scaledBy: "key" }, 0.5, 60)).toBeCloseTo(35, 1);
  });

  test("levels in dB add up, in percent of amplitude they multiply: half-way up from silence is -6.02 dB", () => {
    const db = (route: object): number =>
      at(ofAddress({ ...one, modules: [rise("r", 1)], routes: [{ source: "r", target: "amp.level", amount: -12, ...route }] }, "amp.level")[0]!, 0.5); // prettier-ignore
    expect(db({})).toBeCloseTo(-18, 1);
    expect(db({ amplitude: true, amount: -100 })).toBeCloseTo(-12 - 6.02, 1);
    expect(db({ amplitude: true, amount: 100 })).toBeCloseTo(-12 + 3.52, 1);
  });
});

describe("a gate", () => {
  const made = newGate("gate", "Gate");
  const gate: Module = { ...made, values: { attack: 100, hold: 60, tail: 200, swing: 50 }, times: { step: { unit: "note", num: 1, den: 2 } }, data: { steps: [1, 0] } }; // prettier-ignore
  test("over the level: open it is as it was, half open 6.02 dB less, closed silent; the second bar is the first", () => {
    const route = { source: "gate", target: "amp.level" as const, amount: -100, amplitude: true, reversed: true };
    const [n] = ofAddress({ ...one, song: { loopBars: 2 }, notes: [note(0, 7680, 60, 127)], modules: [gate], routes: [route] }, "amp.level"); // prettier-ignore
    // A half note lasts a second: 100 ms up, open until 600 ms, closed from 800 ms on.
    expect(at(n!, 0.3)).toBeCloseTo(-12, 2);
    expect(at(n!, 0.05)).toBeCloseTo(-18.02, 1);
    expect(at(n!, 0.7)).toBeCloseTo(-18.02, 1);
    expect(at(n!, 0.9)).toBeLessThanOrEqual(-90);
    expect(at(n!, 1.5)).toBeLessThanOrEqual(-90);
  });
});

describe("where a shape starts", () => {
  test.each(["note", "once", "song", "bar"] as const)(
    "restarting with the %s: a quarter in, at 90 degrees",
    (restart) => {
      const shape = adjusted(rise("r", 0.5, restart), { values: { phase: 90 } });
      const [n] = ofAddress(
        { ...one, modules: [shape], routes: [{ source: "r", target: "osc.pitch", amount: 12 }] },
        "osc.pitch",
      );
      expect(at(n!, 0.001) - 60).toBeCloseTo(3, 1);
      expect(at(n!, 1) - 60).toBeCloseTo(9, 1);
      // Once through, it stays at its end; else it begins again.
      expect(at(n!, 1.9) - 60).toBeCloseTo(restart === "once" ? 12 : 12 * 0.2, 1);
    },
  );
});

describe("playing from the middle gives what playing on gives", () => {
  const made: Made = {
    song: { tempoBpm: 120, loopBars: 4 },
    notes: [0, 1, 2, 3].map((bar) => note(bar * 3840, 3000, 48 + bar)),
    values: { "filter.cutoff": 400 },
    modules: [adjusted(rise("slow", 0.21, "song"), { values: { phase: 30, smoothing: 120 } }), rise("fast", 1.3, "song"), rise("bar", 2.1, "bar")],
    routes: [{ source: "slow", target: "fast.rate", amount: 2 }, { source: "fast", target: "bar.rate", amount: 1.5 }, { source: "fast", target: "filter.cutoff", amount: 3 }, { source: "bar", target: "osc.pitch", amount: 5 }, { source: "slow", target: "amp.pan", amount: 90 }],
  }; // prettier-ignore
  let whole: Float32Array | null = null;
  test.each([1, 2, 3])("from bar %d, to the last sample but rounding", (bar) => {
    whole ??= run(playing(makeProject(made)), 4 * 96_000);
    const middle = run(playing(makeProject(made), bar * 3840), 90_000);
    expect(peak(middle)).toBeGreaterThan(0.05);
    let apart = 0;
    for (let i = 0; i < middle.length; i++) apart = Math.max(apart, Math.abs(middle[i]! - whole[bar * 96_000 + i]!));
    expect(20 * Math.log10(apart)).toBeLessThan(-90);
  });
});

test("what stands with its note moves as what scales it moves", () => {
  const made: Made = { notes: [note(0, 3840, 60, 127)], values: { "filter.cutoff": 400 }, modules: [rise("r", 0.5)], routes: [{ source: "velocity", target: "filter.cutoff", amount: 2, scaledBy: "r" }] }; // prettier-ignore
  const [n] = ofAddress(made, "filter.cutoff");
  for (const sec of [0.2, 0.5, 1.1]) expect(Math.log2(at(n!, sec) / 400)).toBeCloseTo(2 * 0.5 * sec, 2);
});

describe("modules and cables", () => {
  const base = makeProject({ notes: [note(0, 1920, 45)], values: { "filter.cutoff": 200, "amp.level": -20 } });
  const part = base.parts[0]!;
  const render = (patch: Partial<typeof part.patch>): Float32Array =>
    renderNow(compileProject({ ...base, parts: [{ ...part, patch: { ...part.patch, ...patch } }] }), {
      sampleRate: RATE,
      bars: 1,
      tail: "cut",
    }).left;
  const apart = (a: Float32Array, b: (i: number) => number): number =>
    a.reduce((worst, v, i) => Math.max(worst, Math.abs(v - b(i))), 0);
  const direct = render({ cables: [{ from: "osc", to: "amp" }] });
  const filtered = render({});

  test("a cable that branches gives the sum of both ways", () => {
    const both = render({ cables: [...part.patch.cables, { from: "osc", to: "amp" }] });
    expect(apart(both, (i) => direct[i]! + filtered[i]!)).toBeLessThan(1e-6);
    expect(apart(direct, (i) => filtered[i]!)).toBeGreaterThan(0.01);
  });
  test("a filter that is off lets the sound through, an oscillator that is off makes none", () => {
    const off = (id: string) => part.patch.modules.map((m) => (m.id === id ? { ...m, on: false } : m));
    expect(apart(render({ modules: off("filter") }), (i) => direct[i]!)).toBe(0);
    expect(peak(render({ modules: off("osc") }))).toBe(0);
    expect(peak(render({ cables: [] }))).toBe(0);
  });
  test("two oscillators into one filter, and two filters in a row", () => {
    const osc = part.patch.modules.find((m) => m.id === "osc")!;
    const filter = part.patch.modules.find((m) => m.id === "filter")!;
    const two = render({
      modules: [...part.patch.modules, { ...osc, id: "osc2" }],
      cables: [...part.patch.cables, { from: "osc2", to: "filter" }],
    });
    expect(apart(two, (i) => 2 * filtered[i]!)).toBeLessThan(1e-6);
    const row = render({ modules: [...part.patch.modules, { ...filter, id: "filter2" }], cables: [{ from: "osc", to: "filter" }, { from: "filter", to: "filter2" }, { from: "filter2", to: "amp" }] }); // prettier-ignore
    const power = (x: Float32Array): number => x.reduce((s, v) => s + v * v, 0);
    expect(power(row)).toBeLessThan(power(filtered));
    expect(power(row)).toBeGreaterThan(power(filtered) / 10);
  });
  test("a modulator that is off moves nothing", () => {
    const made = {
      ...one,
      modules: [{ ...rise("r", 1), on: false }],
      routes: [{ source: "r", target: "osc.pitch" as const, amount: 12 }],
    };
    expect(at(ofAddress(made, "osc.pitch")[0]!, 0.5)).toBe(60);
  });
});

test("what nothing needs is not compiled; what nothing moves is a constant", () => {
  const program = compileProject(makeProject({ ...one, modules: [rise("idle", 1)] }));
  const { motion } = program.parts[0]!.sound;
  // The envelope of the level, and the idle shape because it is drawn.
  expect(motion.voice.map((o) => o.id).sort()).toEqual([AMP_ENVELOPE, "idle"]);
  expect(motion.uses.filter((u) => u.form === "plain").every((u) => typeof u.value === "object")).toBe(true);
});
