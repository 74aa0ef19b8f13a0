import { describe, expect, test } from "vitest";
import { expectSame } from "../../../tests/support/same";
import { RATE, at, ofAddress, ofSource, rise } from "../../../tests/support/heardMotion";
import { AMP_ENVELOPE, makeProject, note, withStages, type Made } from "../../../tests/support/projects";
import { peak } from "../../../tests/support/spectrum";
import { nextHeap } from "../../../tests/support/nextHeap";
import { withoutRecordings } from "../dsp/tables";
import { compileProject } from "../engine/compile";
import { Engine } from "../engine/engine";
import type { Program } from "../engine/program";
import { Sequencer } from "../engine/sequencer";
import { renderNow } from "../engine/render";
import { HeardLog, type HeardNote, type Watched } from "../engine/watch";
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
    expect(pitch("velocity", 60, 127)).toBeCloseTo(12, 9);
    expect(pitch("velocity", 60, 64, true)).toBeCloseTo((12 * 63) / 127, 9);
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

describe("modulators whose own values move", () => {
  test("an octave on the rate doubles it; half an octave is 1.414 times", () => {
    for (const [amount, factor] of [
      [1, 2],
      [-1, 0.5],
      [0.5, Math.SQRT2],
    ] as const) {
      // prettier-ignore
      const [n] = ofSource({ ...one, modules: [rise("r", 0.3)], routes: [{ source: "velocity", target: "r.rate", amount }, { source: "r", target: "osc.pitch", amount: 1 }] }, "r"); // prettier-ignore
      for (const sec of [0.2, 0.9, 1.5]) expect(at(n!, sec)).toBeCloseTo((0.3 * factor * sec) % 1, 3);
    }
  });

  test("a rate that moves is integrated: cycles are the integral of 2^x", () => {
    // x rises from 0 to 1 in 2 s, so that cycles(t) = (2^(t/2) - 1) * 2 / ln 2 at 0.4 Hz.
    const made: Made = { ...one, song: { tempoBpm: 120 }, modules: [rise("slow", 0.5), rise("r", 0.4)], routes: [{ source: "slow", target: "r.rate", amount: 1 }, { source: "r", target: "osc.pitch", amount: 1 }] }; // prettier-ignore
    const [n] = ofSource(made, "r");
    for (const sec of [0.3, 0.8, 1.4, 1.9])
      expect(at(n!, sec)).toBeCloseTo(((0.4 * 2 * (2 ** (sec / 2) - 1)) / Math.LN2) % 1, 3);
    const shared: Made = { ...made, modules: [rise("slow", 0.5, "song"), rise("r", 0.4, "song")] };
    const [s] = ofAddress(
      { ...shared, routes: [...shared.routes!.slice(0, 1), { source: "r", target: "osc.pitch", amount: 10 }] },
      "osc.pitch",
    );
    for (const sec of [0.3, 0.8, 1.4, 1.9])
      expect(at(s!, sec) - 60).toBeCloseTo((10 * ((0.4 * 2 * (2 ** (sec / 2) - 1)) / Math.LN2)) % 10, 1);
  });

  test("phase and smoothing move", () => {
    const [n] = ofSource({ ...one, modules: [rise("r", 0.5)], routes: [{ source: "velocity", target: "r.phase", amount: 90 }, { source: "r", target: "osc.pitch", amount: 1 }] }, "r"); // prettier-ignore
    expect(at(n!, 0.5)).toBeCloseTo(0.5, 3);
    const step = adjusted(rise("r", 1), { data: { points: [{ x: 0, y: 0, tension: 0 }, { x: 0.5, y: 0, tension: 0 }, { x: 0.5, y: 1, tension: 0 }, { x: 1, y: 1, tension: 0 }] } }); // prettier-ignore
    const [s] = ofSource({ ...one, modules: [step], routes: [{ source: "velocity", target: "r.smoothing", amount: 100 }, { source: "r", target: "osc.pitch", amount: 1 }] }, "r"); // prettier-ignore
    // 95 % within the smoothing of 100 ms: 1 - e^-3; 63 % after a third of it.
    expect(at(s!, 0.6)).toBeCloseTo(1 - Math.exp(-3), 2);
    expect(at(s!, 0.5 + 0.1 / 3)).toBeCloseTo(1 - Math.exp(-1), 1);
  });

  const envelope = (wanted: object): Module => ({ ...withStages(newEnvelope("e", "E"), { attack: { unit: "ms", ms: 100 }, decay: { unit: "ms", ms: 200 }, sustain: 40, release: { unit: "ms", ms: 300 }, attackCurve: 0, decayCurve: 0, releaseCurve: 0, ...wanted }) }); // prettier-ignore
  const moved = (target: Address, amount: number): HeardNote =>
    ofSource({ ...one, notes: [note(0, 960, 60)], modules: [envelope({})], amp: { release: { unit: "ms", ms: 900 } }, routes: [{ source: "velocity", target, amount }, { source: "e", target: "osc.pitch", amount: 1 }] }, "e")[0]!; // prettier-ignore
  test("stages an octave longer last twice as long", () => {
    expect(at(moved("e.attack", 1), 0.1)).toBeCloseTo(0.5, 2);
    expect(at(moved("e.attack", 1), 0.2)).toBeCloseTo(1, 2);
    expect(at(moved("e.decay", 1), 0.1 + 0.2)).toBeCloseTo(0.7, 2);
    expect(at(moved("e.decay", -1), 0.1 + 0.05)).toBeCloseTo(0.7, 2);
    expect(at(moved("e.release", 1), 0.5 + 0.3)).toBeCloseTo(0.2, 2);
    expect(at(moved("e.release", 1), 0.5 + 0.61)).toBeCloseTo(0, 3);
  });
  test("sustain and curves move", () => {
    expect(at(moved("e.sustain", 30), 0.45)).toBeCloseTo(0.7, 3);
    // Tension 50 % is an exponent of 4: half-way (1 - e^-2) / (1 - e^-4).
    expect(at(moved("e.attackCurve", 50), 0.05)).toBeCloseTo((1 - Math.exp(-2)) / (1 - Math.exp(-4)), 2);
    expect(at(moved("e.decayCurve", 50), 0.2)).toBeCloseTo(1 - 0.6 * ((1 - Math.exp(-2)) / (1 - Math.exp(-4))), 2);
    expect(at(moved("e.releaseCurve", -50), 0.5 + 0.15)).toBeCloseTo(
      0.4 * (1 - (1 - Math.exp(2)) / (1 - Math.exp(4))),
      2,
    );
  });
  test("an envelope that nothing moves, integrated or looked up, is the same", () => {
    const still = ofSource({ ...one, notes: [note(0, 960, 60)], modules: [envelope({ decayCurve: 60 })], amp: { release: { unit: "ms", ms: 900 } }, routes: [{ source: "e", target: "osc.pitch", amount: 1 }] }, "e")[0]!; // prettier-ignore
    const zero = ofSource({ ...one, notes: [note(0, 960, 60)], modules: [envelope({ decayCurve: 60 })], amp: { release: { unit: "ms", ms: 900 } }, routes: [{ source: "velocity", target: "e.decay", amount: 1e-12 }, { source: "e", target: "osc.pitch", amount: 1 }] }, "e")[0]!; // prettier-ignore
    for (const sec of [0.05, 0.15, 0.25, 0.4, 0.55, 0.7]) expect(at(zero, sec)).toBeCloseTo(at(still, sec), 3);
  });
});

describe("routes on routes, circles, the song's modulators", () => {
  test("an amount is moved by a source of its own", () => {
    const [n] = ofAddress({ ...one, modules: [rise("r", 0.5)], routes: [{ id: "vibrato", source: "velocity", target: "osc.pitch", amount: 1 }, { source: "r", target: "vibrato.amount", amount: 10 }] }, "osc.pitch"); // prettier-ignore
    expect(at(n!, 1)).toBeCloseTo(60 + 1 + 5, 2);
  });

  test("a circle is closed by the value of the sub-block before: it runs, is finite and repeats", () => {
    const made: Made = { ...one, modules: [rise("a", 2, "song"), rise("b", 3, "song"), rise("c", 5)], routes: [{ source: "a", target: "b.rate", amount: 2 }, { source: "b", target: "a.rate", amount: 2 }, { source: "c", target: "c.rate", amount: 1 }, { source: "c", target: "osc.pitch", amount: 5 }, { source: "b", target: "osc.pitch", amount: 5 }] }; // prettier-ignore
    const [n] = ofAddress(made, "osc.pitch");
    expect(n!.rows.every((v) => Number.isFinite(v) && v >= 60 && v <= 70)).toBe(true);
    expect(new Set(n!.rows).size).toBeGreaterThan(1000);
    expect(ofAddress(made, "osc.pitch")[0]!.rows).toEqual(n!.rows);
  });

  test("a shape of the song moves every part alike", () => {
    const made = makeProject({
      ...one,
      songModules: [rise("tide", 0.5, "song")],
      routes: [{ source: "tide", target: "osc.pitch", amount: 12 }],
    });
    const program = compileProject({
      ...made,
      parts: [made.parts[0]!, { ...made.parts[0]!, id: "second", notes: [{ ...note(1920, 960, 40), id: "n" }] }],
    });
    const notes: HeardNote[] = [];
    const watched: Watched = { addresses: ["osc.pitch"], sources: [] };
    const log = new HeardLog(program, [watched, watched], (n) => notes.push(n));
    const sequencer = new Sequencer(RATE, log);
    sequencer.load(program);
    sequencer.play(0);
    sequencer.run(90_000);
    log.finish();
    for (const n of notes)
      for (const sec of [0.1, 0.4]) expect(at(n, sec) - n.key).toBeCloseTo(12 * (0.5 * (n.onFrame / RATE + sec)), 1);
    expect(notes.map((n) => n.part).sort()).toEqual([0, 1]);
  });

  test("what all notes share and a note moves follows the newest note", () => {
    const made: Made = { ...one, notes: [note(0, 3840, 60, 127), note(1920, 1920, 72, 32)], modules: [rise("r", 0.5, "song")], routes: [{ source: "velocity", target: "r.phase", amount: 180 }, { source: "r", target: "osc.pitch", amount: 12 }] }; // prettier-ignore
    const [first] = ofAddress(made, "osc.pitch");
    expect(at(first!, 0.5) - 60).toBeCloseTo(12 * (0.25 + 0.5), 1);
    expect(at(first!, 1.5) - 60).toBeCloseTo(12 * ((0.75 + (0.5 * 32) / 127) % 1), 1);
  });

  test("a rate in note values that a note moves runs as fast as that note says", () => {
    const bar = adjusted(rise("r", 1, "bar"), { times: { rate: { unit: "bars", bars: 2 } } });
    const made: Made = { ...one, notes: [note(0, 1920, 60, 127), note(1920, 1920, 60, 1)], modules: [bar], routes: [{ source: "velocity", target: "r.rate", amount: 1 }, { source: "r", target: "osc.pitch", amount: 12 }] }; // prettier-ignore
    const [loud, soft] = ofAddress(made, "osc.pitch");
    // Two bars last four seconds; an octave up, two. The second note hardly moves it.
    expect(at(loud!, 0.5) - 60).toBeCloseTo(12 * 0.25, 1);
    expect(at(loud!, 0.9) - 60).toBeCloseTo(12 * 0.45, 1);
    expect(at(soft!, 0.8) - at(soft!, 0.1)).toBeCloseTo((12 * 0.7 * 2 ** (1 / 127)) / 4, 1);
  });
});

test("an edit while a note rises moves the corner of its envelope, to the frame", () => {
  const program = (ms: number): Program => compileProject(makeProject({ song: { tempoBpm: 120 }, notes: [note(0, 1920, 60)], amp: { attack: { unit: "ms", ms } } })); // prettier-ignore
  const frames = (...[first, then]: Program[]): number[] => {
    const notes: HeardNote[] = [];
    const log = new HeardLog(first!, [{ addresses: ["amp.level"], sources: [] }], (n) => notes.push(n));
    const sequencer = new Sequencer(RATE, log);
    sequencer.load(first!);
    sequencer.play(0);
    sequencer.run(480);
    if (then) sequencer.load(then);
    sequencer.run(4800);
    log.finish();
    return [...notes[0]!.frames];
  };
  // Rows lie 16 frames apart; the corner is 1573 frames after the note's start.
  const corner = Math.round((32.77 / 1000) * RATE);
  expect(corner % 16).not.toBe(0);
  expect(frames(program(32.77))).toContain(corner);
  expect(frames(program(60))).not.toContain(corner);
  expect(frames(program(60), program(32.77))).toContain(corner);
});

describe("playing from the middle gives what playing on gives", () => {
  const made: Made = {
    song: { tempoBpm: 120, loopBars: 4 },
    notes: [0, 1, 2, 3].map((bar) => note(bar * 3840, 3000, 48 + bar)),
    values: { "filter.cutoff": 400 },
    modules: [adjusted(rise("slow", 0.21, "song"), { values: { phase: 30, smoothing: 120 } }), rise("fast", 1.3, "song"), rise("bar", 2.1, "bar")],
    routes: [{ source: "slow", target: "fast.rate", amount: 2 }, { source: "fast", target: "bar.rate", amount: 1.5 }, { source: "fast", target: "filter.cutoff", amount: 3 }, { source: "bar", target: "osc.pitch", amount: 5 }, { source: "slow", target: "amp.pan", amount: 90 }],
  }; // prettier-ignore
  test.each([1, 2, 3])("from bar %d, to the last sample but rounding", (bar) => {
    const program = compileProject(makeProject(made));
    const play = (from: number, frames: number): Float32Array => {
      const engine = new Engine(RATE, nextHeap(), { tables: withoutRecordings, limited: false });
      engine.load(program);
      engine.play(from);
      const left = new Float32Array(frames);
      engine.process(left, new Float32Array(frames), frames);
      return left;
    };
    const whole = play(0, 4 * 96_000);
    const middle = play(bar * 3840, 90_000);
    expect(peak(middle)).toBeGreaterThan(0.05);
    let apart = 0;
    for (let i = 0; i < middle.length; i++) apart = Math.max(apart, Math.abs(middle[i]! - whole[bar * 96_000 + i]!));
    expect(20 * Math.log10(apart)).toBeLessThan(-90);
  });
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

describe("where an envelope starts", () => {
  const stages = (restart: string, loop = "none", triggers: readonly number[] = []): Module => {
    const made = newEnvelope("env", "Env");
    const ms = (n: number) => ({ unit: "ms", ms: n }) as const;
    return {
      ...made,
      values: { ...made.values, sustain: 20, decayCurve: 0 },
      choices: { restart, loop } as typeof made.choices,
      times: { delay: ms(20), attack: ms(40), hold: ms(30), decay: ms(200), release: ms(50) },
      data: { triggers, notesOf: null },
    };
  };
  // Straight lines between the corners, from the stages as they are set.
  const line = (sec: number): number =>
    sec < 0.02
      ? 0
      : sec < 0.06
        ? (sec - 0.02) / 0.04
        : sec < 0.09
          ? 1
          : sec < 0.29
            ? 1 - (0.8 * (sec - 0.09)) / 0.2
            : 0.2;
  const moved = (env: Module): Made => ({ ...one, notes: [note(0, 3840, 60, 127), note(960, 480, 64, 127)], song: { tempoBpm: 120 }, modules: [env], routes: [{ source: "env", target: "filter.resonance", amount: 100 }], values: { "filter.resonance": 0 } }); // prettier-ignore
  const value = (env: Module, index: number, sec: number): number => at(ofAddress(moved(env), "filter.resonance")[index]!, sec) / 100; // prettier-ignore

  test.each([0.01, 0.05, 0.08, 0.15, 0.28, 0.4])("each note has its own; one of the bar is shared: %d s", (sec) => {
    for (const index of [0, 1]) expect(value(stages("note"), index, sec)).toBeCloseTo(line(sec), 1);
    expect(value(stages("bar"), 0, sec)).toBeCloseTo(line(sec), 1);
    // The second note starts a beat later, when the bar's has run down.
    expect(value(stages("bar"), 1, sec)).toBeCloseTo(0.2, 2);
  });

  test("at triggers it starts again, whatever notes do", () => {
    const env = stages("triggers", "none", [960, 2880]);
    expect(value(env, 0, 0.5 + 0.15)).toBeCloseTo(line(0.15), 1);
    expect(value(env, 0, 1.5 + 0.05)).toBeCloseTo(line(0.05), 1);
    expect(value(env, 1, 0.15)).toBeCloseTo(line(0.15), 1);
    // Before the first trigger the last one of the pass before has run down.
    expect(value(env, 0, 0.2)).toBeCloseTo(0.2, 2);
  });

  /** The value by the newest note of an arpeggio of sixteenths over two chords, at a time of the pass. */
  const overArpeggio = (env: Module, sec: number, song: Made["song"] = {}): number => {
    const chords = [[0, 60], [0, 64], [1920, 62], [1920, 65]].map(([t, key]) => note(t!, 1800, key!)); // prettier-ignore
    const made = { ...moved(env), song: { tempoBpm: 120, ...song }, notes: chords, arpeggio: { on: true, rate: { num: 1, den: 16 } } }; // prettier-ignore
    const notes = ofAddress(made, "filter.resonance");
    const on = notes.findLast((n) => n.onFrame / RATE <= sec)!;
    return at(on, sec - on.onFrame / RATE) / 100;
  };

  test.each([0.05, 0.15, 0.28, 0.6, 1.05, 1.15, 1.28, 1.6])(
    "with each chord as it is written, over an arpeggio's sixteenths: %d s",
    (sec) => {
      expect(overArpeggio(stages("chord"), sec)).toBeCloseTo(line(sec % 1), 1);
      // With the first note after a rest: the second chord comes after one.
      expect(overArpeggio(stages("rest"), sec)).toBeCloseTo(line(sec % 1), 1);
      // By hand, where that was said: at the second beat.
      expect(overArpeggio(stages("hand", "none", [960]), sec)).toBeCloseTo(sec < 0.5 ? 0.2 : line(sec - 0.5), 1);
      // Nothing was said by hand: with the song. Two bars apart: in one bar it starts once.
      expect(overArpeggio(stages("hand"), sec)).toBeCloseTo(line(sec), 1);
    },
  );

  test("every second bar it starts again in every second bar alone", () => {
    const env = stages("bar");
    const apart = { ...env, values: { ...env.values, every: 2 } } as Module;
    const notes = [0, 3840, 7680].map((t) => note(t, 1900, 60));
    const of = (m: Module) => ofAddress({ ...moved(m), notes, song: { tempoBpm: 400, loopBars: 3 } }, "filter.resonance").map((n) => at(n, 0.08) / 100); // prettier-ignore
    [1, 1, 1].forEach((v, i) => expect(of(env)[i]).toBeCloseTo(v, 2));
    [1, 0.2, 1].forEach((v, i) => expect(of(apart)[i]).toBeCloseTo(v, 2));
  });

  test("without a trigger it stands at its end, looped or not", () => {
    for (const loop of ["none", "decay", "all"]) expect(value(stages("triggers", loop), 0, 0.3)).toBeCloseTo(0.2, 6);
  });

  test("a loop that all notes share keeps its time: attack, hold and decay again and again", () => {
    const env = stages("song", "all");
    // 270 ms a cycle, from the sustain up.
    for (const cycle of [1, 4]) {
      expect(value(env, 0, cycle * 0.27 + 0.02)).toBeCloseTo(0.6, 1);
      expect(value(env, 0, cycle * 0.27 + 0.055)).toBeCloseTo(1, 1);
      expect(value(env, 0, cycle * 0.27 + 0.17)).toBeCloseTo(0.6, 1);
    }
  });

  test("a note's loop, looked up and integrated, is the same to the last cycle", () => {
    for (const loop of ["decay", "all"]) {
      const env = stages("note", loop);
      const plain = ofAddress(moved(env), "filter.resonance")[0]!;
      // A route that moves nothing makes it integrate.
      const made = moved(env);
      const integrated = ofAddress({ ...made, routes: [...made.routes!, { source: "velocity", target: "env.decay", amount: 1e-9 }] }, "filter.resonance")[0]!; // prettier-ignore
      for (const sec of [0.05, 0.2, 0.33, 0.61, 1.13, 1.7]) expect(at(integrated, sec)).toBeCloseTo(at(plain, sec), 0);
    }
  });

  test("the level's envelope starts with each note, whatever it says", () => {
    const p = makeProject({ ...one, notes: [note(0, 900, 60), note(1920, 900, 60)] });
    const part = p.parts[0]!;
    const modules = part.patch.modules.map((m) => (m.id === AMP_ENVELOPE ? ({ ...m, choices: { restart: "bar", loop: "none" } } as Module) : m)); // prettier-ignore
    const render = (q: typeof p): Float32Array => renderNow(compileProject(q), { sampleRate: RATE, bars: 1, tail: "cut" }).left; // prettier-ignore
    expectSame(render({ ...p, parts: [{ ...part, patch: { ...part.patch, modules } }] }), render(p));
  });
});
