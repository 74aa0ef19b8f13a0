import { describe, expect, test } from "vitest";
import { expectSame } from "../../../tests/support/same";
import { RATE, at, ofAddress, heard } from "../../../tests/support/heardMotion";
import { AMP_ENVELOPE, makeProject, note, type Made } from "../../../tests/support/projects";
import { compileProject } from "../engine/compile";
import { renderNow } from "../engine/render";
import { newEnvelope, newMacro } from "../patch/defaults";
import { adjusted } from "../patch/kinds/kind";
import type { Envelope } from "../patch/kinds/envelope";
import type { Module } from "../patch/kinds";

const one: Made = { notes: [note(0, 3840, 60, 127)], values: { "filter.cutoff": 1000, "amp.level": -12 } };

test("an edit while a note rises moves the corner of its envelope, to the frame", () => {
  const made = (ms: number): Made => ({ notes: [note(0, 1920, 60)], amp: { attack: { unit: "ms", ms } } });
  const frames = (before: number, after?: number): number[] => {
    const edited = after === undefined ? null : { to: made(after), atSec: 0.01 };
    return [...heard(made(before), { addresses: ["amp.level"], sources: [] }, edited)[0]!.frames];
  };
  // Rows lie 16 frames apart; the corner is 1573 frames after the note's start.
  const corner = Math.round((32.77 / 1000) * RATE);
  expect(corner % 16).not.toBe(0);
  expect(frames(32.77)).toContain(corner);
  expect(frames(60)).not.toContain(corner);
  expect(frames(60, 32.77)).toContain(corner);
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

  test("shared by all notes, it waits out its delay at nothing, whatever its curves", () => {
    const waits = { ...stages("bar"), times: { ...(stages("bar") as Envelope).times, delay: { unit: "ms", ms: 300 } } } as Module; // prettier-ignore
    for (const sec of [0.02, 0.15, 0.29]) expect(value(waits, 0, sec)).toBeCloseTo(0, 6);
    expect(value(waits, 0, 0.32)).toBeCloseTo(0.5, 1);
  });

  test.each([["bar", []], ["triggers", [903, 2881]]] as const)("shared with %s, what a macro moves by an octave is as if it were set to twice as long", (restart, triggers) => {
    const full = adjusted(newMacro("full", "Full"), { values: { value: 100 } });
    for (const loop of ["none", "decay", "all"])
      for (const key of ["attack", "decay"] as const) {
        const env = stages(restart, loop, triggers) as Envelope;
        const longer = { ...env, times: { ...env.times, [key]: { unit: "ms", ms: key === "attack" ? 80 : 400 } } } as Envelope;
        const made = moved(env);
        const plain = { ...made, notes: [note(0, 3800, 60, 127)] };
        const [by] = ofAddress({ ...plain, modules: [env, full], routes: [...made.routes!, { source: "full", target: `env.${key}`, amount: 1 }] }, "filter.resonance");
        const [set] = ofAddress({ ...plain, modules: [longer] }, "filter.resonance");
        let sum = 0;
        by!.rows.forEach((v, i) => (sum += Math.abs(v - set!.rows[i]!)));
        expect(sum / by!.rows.length, `${loop} ${key}`).toBeLessThan(0.7);
        expect(Math.max(...set!.rows) - Math.min(...set!.rows)).toBeGreaterThan(50);
      }
  }); // prettier-ignore

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
