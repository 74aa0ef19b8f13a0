import { describe, expect, test } from "vitest";
import { RATE, at, heard, ofAddress, ofSource, rise } from "../../../tests/support/heardMotion";
import { makeProject, note, withStages, type Made } from "../../../tests/support/projects";
import { compileProject } from "../engine/compile";
import { Sequencer } from "../engine/sequencer";
import { HeardLog, type HeardNote, type Watched } from "../engine/watch";
import type { Address } from "../patch/address";
import { newEnvelope, newMacro } from "../patch/defaults";
import type { Module } from "../patch/kinds";
import { adjusted } from "../patch/kinds/kind";
import type { Restart, Shape } from "../patch/kinds/shape";

const one: Made = { notes: [note(0, 3840, 60, 127)], values: { "filter.cutoff": 1000, "amp.level": -12 } };

/** A shape that stays at full. */
const flat = (id: string): Shape => adjusted(rise(id, 0.5, "song"), { data: { points: [{ x: 0, y: 1, tension: 0 }, { x: 1, y: 1, tension: 0 }] } }); // prettier-ignore

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

  test("what follows the key and is moved as well runs as fast as both say together", () => {
    const follows = adjusted(rise("r", 0.1), { values: { keyFollow: 100 } });
    // An octave above middle C doubles it, and the velocity again.
    const [n] = ofSource({ ...one, notes: [note(0, 3840, 72, 127)], modules: [follows], routes: [{ source: "velocity", target: "r.rate", amount: 1 }, { source: "r", target: "osc.pitch", amount: 1 }] }, "r"); // prettier-ignore
    for (const sec of [0.2, 0.9, 1.5]) expect(at(n!, sec)).toBeCloseTo(0.4 * sec, 3);
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

  test("a rate that moves sets out from the phase that is set, be it of a note, of the song alone or of a newest note", () => {
    const turned = adjusted(rise("r", 0.4, "song"), { values: { phase: 90 } });
    const ownRise = adjusted(rise("r", 0.4), { values: { phase: 90 } });
    // An octave up, all the time.
    for (const [r, source] of [
      [ownRise, "velocity"],
      [turned, "full"],
      [turned, "velocity"],
    ] as const) {
      const made: Made = { ...one, song: { tempoBpm: 120 }, modules: [r, flat("full")], routes: [{ source, target: "r.rate", amount: 1 }, { source: "r", target: "osc.pitch", amount: 10 }] }; // prettier-ignore
      const [n] = ofAddress(made, "osc.pitch");
      for (const sec of [0, 0.3, 0.8, 1.4]) expect(at(n!, sec) - 60, `${source} ${sec}`).toBeCloseTo(10 * ((0.25 + 0.8 * sec) % 1), 1); // prettier-ignore
    }
  });

  test("a rate that moves is added up anew from each bar line where the shape restarts there", () => {
    const r = adjusted(rise("r", 0.4, "bar"), { values: { phase: 90 } });
    for (const source of ["full", "velocity"]) {
      // A bar lasts a second; the note begins with the second one.
      const made: Made = { ...one, song: { tempoBpm: 240, loopBars: 2 }, notes: [note(3840, 3800, 60, 127)], modules: [r, flat("full")], routes: [{ source, target: "r.rate", amount: 1 }, { source: "r", target: "osc.pitch", amount: 10 }] }; // prettier-ignore
      const [n] = ofAddress(made, "osc.pitch");
      for (const sec of [0.05, 0.3, 0.8]) expect(at(n!, sec) - 60, `${source} ${sec}`).toBeCloseTo(10 * (0.25 + 0.8 * sec), 0); // prettier-ignore
    }
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
  test("where all of it loops, an attack that comes again sets out from the sustain as it has been moved", () => {
    const loops = { ...envelope({}), choices: { ...newEnvelope("e", "E").choices, loop: "all" } } as Module;
    const [n] = ofSource({ ...one, modules: [loops], routes: [{ source: "velocity", target: "e.sustain", amount: 30 }, { source: "e", target: "osc.pitch", amount: 1 }] }, "e"); // prettier-ignore
    for (const [sec, value] of [
      [0.1, 1],
      [0.2, 0.85],
      [0.3, 0.7],
      [0.35, 0.85],
      [0.4, 1],
      [0.5, 0.85],
      [0.65, 0.85],
    ] as const)
      // prettier-ignore
      expect(at(n!, sec)).toBeCloseTo(value, 2);
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
    const sequencer = new Sequencer(RATE, log, 32);
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

describe("what is moved by a constant is as if it were set", () => {
  const curve = [{ x: 0, y: 0.1, tension: 40 }, { x: 0.3, y: 1, tension: -20 }, { x: 0.3, y: 0.4, tension: 0 }, { x: 1, y: 0, tension: 0 }]; // prettier-ignore
  const full = adjusted(newMacro("full", "Full"), { values: { value: 100 } });
  const shape = (restart: Restart, values: Partial<Shape["values"]>, times: Partial<Shape["times"]>): Shape =>
    adjusted(rise("r", 1.3, restart, [900, 3000]), { values: { phase: 50, smoothing: 30, ...values }, times, data: { points: curve } }); // prettier-ignore
  const bars = { rate: { unit: "note", num: 3, den: 8 } } as const;
  const fade = { fadeIn: { unit: "ms", ms: 150 } } as const;
  const rates = [{ rate: { unit: "hz", hz: 1.3 } } as const, bars];
  const faster = [{ rate: { unit: "hz", hz: 2.6 } } as const, { rate: { unit: "note", num: 3, den: 16 } } as const];
  /** Where the pitch is: three notes at full velocity, one of them held all the time. */
  const pitches = (r: Module, key: string | null, source: string, amount: number): HeardNote[] =>
    heard({
      notes: [note(0, 3830, 60, 127), note(1000, 700, 64, 127), note(3300, 500, 55, 127)], amp: { release: { unit: "ms", ms: 200 } }, modules: [r, full],
      routes: [{ source: "r", target: "osc.pitch", amount: 12 }, ...(key === null ? [] : [{ source, target: `r.${key}` as Address, amount }])],
    }, { addresses: ["osc.pitch"], sources: [] }, null, source === "full" ? 32 : 16); // prettier-ignore
  const RESTARTS = ["note", "once", "bar", "song", "triggers", "chord", "rest"] as const;
  test.each(RESTARTS.flatMap((restart) => ["full", "velocity"].map((by) => [restart, by] as const)))("restarting with %s, by %s", (restart, by) => {
    for (const i of [0, 1]) {
      const pairs: [string, number, Shape, Shape][] = [
        ["rate", 1, shape(restart, {}, rates[i]!), shape(restart, {}, faster[i]!)],
        ["phase", 100, shape(restart, {}, rates[i]!), shape(restart, { phase: 150 }, rates[i]!)],
        ["smoothing", 55, shape(restart, {}, rates[i]!), shape(restart, { smoothing: 85 }, rates[i]!)],
      ];
      if (restart !== "song") pairs.push(["fadeIn", 1, shape(restart, {}, { ...rates[i]!, ...fade }), shape(restart, {}, { ...rates[i]!, fadeIn: { unit: "ms", ms: 300 } })]); // prettier-ignore
      // By a constant of the song in note values, by what each note brings in Hz; rates in both.
      const both = pairs.filter(([key]) => key === "rate" || (i === 1) === (by === "full"));
      for (const [key, amount, plain, set] of both) {
        const [moved, wanted] = [pitches(plain, key, by, amount), pitches(set, null, by, 0)];
        expect(moved.map((n) => n.key)).toEqual(wanted.map((n) => n.key));
        let [off, span] = [0, 0];
        moved.forEach((n, k) => {
          const other = wanted[k]!;
          n.rows.forEach((v, j) => (off = Math.max(off, Math.abs(v - other.rows[j]!))));
          span = Math.max(span, Math.max(...n.rows) - Math.min(...n.rows));
        });
        // What is added up follows straight lines between rows; a jump may fall into the sub-block before or after.
        const mean = moved.reduce((sum, n, k) => sum + n.rows.reduce((s, v, j) => s + Math.abs(v - wanted[k]!.rows[j]!), 0) / n.rows.length, 0); // prettier-ignore
        // What all notes share hears of a new note a sub-block after it began.
        const late = by === "velocity" && restart !== "note" && restart !== "once";
        expect(mean / moved.length, `${key} ${i}`).toBeLessThan(late ? 0.06 : 0.03);
        expect(span, key).toBeGreaterThan(restart === "triggers" || restart === "once" ? 1 : 3);
        if (key !== "rate" && !late) expect(off, `${key} ${i}`).toBeLessThan(1.5);
      }
    }
  }); // prettier-ignore
});
