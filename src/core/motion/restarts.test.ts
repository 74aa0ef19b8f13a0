import { describe, expect, test } from "vitest";
import { at, columnsOf, ofAddress, ofSource, rise } from "../../../tests/support/heardMotion";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { Compiler } from "../engine/compile";
import { newArpeggio, newPart, newSilent, newSteps } from "../patch/defaults";
import { adjusted } from "../patch/kinds/kind";
import type { Restart, Shape } from "../patch/kinds/shape";
import type { Project } from "../patch/project";
import { chordStarts, restStarts } from "../pattern/starts";
import { shapeProgram } from "./modulators";
import type { Span } from "../time/span";
import { notePhase, sharedPhase, type CompiledShape } from "./shape";

/** 120 BPM: 1920 ticks a second, a bar of 2 s. */
const held: Made = { notes: [note(0, 3840, 60, 127)], values: { "amp.level": -12 } };
const hits = (...ticks: number[]) => ticks.map((tick) => ({ ...note(tick, 100, 36), id: `hit ${tick}` }));
const moves = { source: "r", target: "osc.pitch", amount: 12 } as const;

describe("where notes start", () => {
  test("chords and notes, each once; past the end of the pass none", () => {
    const notes = [note(960, 480, 60), note(0, 480, 60), note(0, 960, 64), note(5000, 100, 60)];
    expect(chordStarts(notes, 3840)).toEqual([0, 960]);
  });
  test.each([
    ["notes with gaps", [[0, 480], [960, 480], [1440, 240]], [0, 960]],
    ["a long note covers the gap of others", [[0, 3000], [960, 10], [3200, 100]], [0, 3200]],
    ["what is held over the end leaves no rest before the start", [[0, 480], [960, 2880]], [960]],
    ["without any rest, the first of the pass", [[0, 1920], [1920, 1920]], [0]],
    ["no notes", [], []],
  ] as const)("%s", (_name, list, expected) => {
    expect(restStarts(list.map(([start, length]) => note(start, length, 60)), 3840)).toEqual(expected);
  });
}); // prettier-ignore

describe("restarts with notes", () => {
  test("each chord as it is written, which an arpeggio over it does not change; round and round, or once", () => {
    const notes = [note(0, 1920, 60), note(0, 1920, 64), note(1920, 1920, 62)];
    const arpeggio = { ...newArpeggio(), on: true };
    // 1.25 cycles in the second between two chords.
    const run = (goes: "round" | "once"): number[] => {
      const shape = adjusted(rise("r", 1.25, "chord"), { choices: { goes } });
      const [n] = ofSource({ ...held, notes: [note(0, 3840, 48), ...notes], modules: [shape], routes: [moves] }, "r");
      return [0.4, 0.9, 1.4].map((sec) => at(n!, sec));
    };
    expect(run("round")).toEqual([0.5, 0.125, 0.5].map((v) => expect.closeTo(v, 2) as number));
    expect(run("once")).toEqual([0.5, 1, 0.5].map((v) => expect.closeTo(v, 2) as number));
    const played = ofAddress({ ...held, notes, arpeggio, modules: [rise("r", 1, "chord")], routes: [moves] }, "osc.pitch"); // prettier-ignore
    // The fifth sixteenth begins half a second after the chord.
    expect(at(played[4]!, 0.001) - played[4]!.key).toBeCloseTo(6, 1);
    expect(played).toHaveLength(16);
  });

  test("those of another part, whose edit compiles only what listens to it; a sequence too", () => {
    const base = makeProject({ ...held, modules: [rise("r", 1, "chord")], routes: [moves] });
    const listening = (project: Project, notesOf: string | null): Project => {
      const [first, ...others] = project.parts;
      const modules = first!.patch.modules.map((m) => (m.kind === "shape" ? adjusted(m, { data: { notesOf } }) : m));
      return { ...project, parts: [{ ...first!, patch: { ...first!.patch, modules } }, ...others] };
    };
    const kick = { ...newPart("kick", "Kick"), notes: hits(480, 2400) };
    const project = listening({ ...base, parts: [...base.parts, kick] }, "kick");
    const value = (p: Project, x: number): number => columnsOf(p, "osc.pitch").high(x);
    expect(value(project, 0.25) - 60).toBeCloseTo(12 * 0.25, 1);
    expect(value(listening(project, "gone"), 0.25) - 60).toBeCloseTo(12 * 0.5, 1);
    const compiler = new Compiler();
    const before = compiler.compile(project);
    const edited = { ...project, parts: [project.parts[0]!, { ...kick, notes: hits(960) }] };
    const after = compiler.compile(edited);
    expect(after.parts[0]!.sound).not.toBe(before.parts[0]!.sound);
    expect(value(edited, 0.5) - 60).toBeCloseTo(12 * 0.5, 1);
    const deaf = new Compiler();
    const own = deaf.compile(listening(project, null));
    expect(deaf.compile(listening(edited, null)).parts[0]!.events).toBe(own.parts[0]!.events);
    const seq = adjusted(newSteps("r", "R"), { choices: { restart: "chord" }, values: { smoothing: 0 }, times: { rate: { unit: "note", num: 1, den: 4 } } }); // prettier-ignore
    const [n] = ofSource({ ...held, notes: [note(0, 3840, 48), note(960 * 1.5, 100, 60)], modules: [seq], routes: [moves] }, "r"); // prettier-ignore
    // Steps 0, 4, 8 of twelve a quarter each; begun anew at a beat and a half.
    expect([0.1, 0.6, 0.8, 1.3].map((sec) => Math.round(12 * at(n!, sec)))).toEqual([0, 4, 0, 4]);
  });
});

describe("a shape of each note's own", () => {
  test("goes with the key, and with how it is bent: an octave up twice as fast", () => {
    const rate = (key: number, keyFollow: number): number => {
      const shape = adjusted(rise("r", 0.25, "note"), { values: { keyFollow } });
      const [n] = ofSource({ ...held, notes: [note(0, 3840, key)], modules: [shape], routes: [moves] }, "r");
      return at(n!, 0.4) / 0.4;
    };
    for (const [key, follow, hz] of [[60, 100, 0.25], [72, 100, 0.5], [48, 100, 0.125], [72, 50, 0.3536], [72, 0, 0.25]] as const)
      expect(rate(key, follow), `key ${key}, ${follow} %`).toBeCloseTo(hz, 3);
    // C4 eight octaves down is 1.022 Hz.
    expect(newSilent("s", "S").times.rate).toEqual({ unit: "hz", hz: Number((440 * 2 ** (-9 / 12 - 8)).toFixed(3)) });
  }); // prettier-ignore

  test("starts where the note's draw says, over as much of the cycle as is set", () => {
    const starts = (scatter: number): number[] => {
      const notes = Array.from({ length: 32 }, (_, i) => note(i * 120, 100, 60));
      const shape = adjusted(rise("r", 0.01, "note"), { values: { scatter } });
      return ofSource({ ...held, notes, modules: [shape], routes: [moves] }, "r").map((n) => at(n, 0));
    };
    expect(Math.max(...starts(0))).toBeLessThan(0.001);
    const half = starts(50);
    expect(half).toEqual(starts(50));
    expect(new Set(half.map((v) => v.toFixed(4))).size).toBeGreaterThan(28);
    expect(Math.max(...half)).toBeLessThan(0.501);
    expect(half.filter((v) => v < 0.25).length).toBeGreaterThan(8);
    expect(half.filter((v) => v > 0.25).length).toBeGreaterThan(8);
  });

  test("comes in from where it starts over its fade, with the note or with the bar", () => {
    for (const restart of ["note", "bar"] as const) {
      const shape = adjusted(rise("r", 4, restart), { values: { phase: 180 }, times: { fadeIn: { unit: "ms", ms: 1000 } } });
      const [n] = ofSource({ ...held, modules: [shape], routes: [moves] }, "r");
      // Rises of a quarter second, from the middle on: 0.5 + (rise - 0.5) x seconds.
      for (const [sec, rises] of [[0.02, 0.58], [0.3, 0.7], [0.6, 0.9], [1.5, 0.5], [1.6, 0.9]] as const)
        expect(at(n!, sec), `${restart} ${sec} s`).toBeCloseTo(0.5 + (rises - 0.5) * Math.min(1, sec), 1);
      // In note values, of a note that begins later: a quarter lasts half a second.
      const times = { rate: { unit: "note", num: 1, den: 8 }, fadeIn: { unit: "note", num: 1, den: 4 } } as const;
      const [late] = ofSource({ ...held, notes: [note(restart === "note" ? 960 : 0, 1920, 60)], modules: [adjusted(shape, { times })], routes: [moves] }, "r");
      for (const [sec, rises] of [[0.02, 0.58], [0.15, 0.1], [0.3, 0.7], [0.6, 0.9], [0.9, 0.1]] as const)
        expect(at(late!, sec), `${restart} ${sec} s`).toBeCloseTo(0.5 + (rises - 0.5) * Math.min(1, 2 * sec), 1);
    }
  }); // prettier-ignore
});

test("a route reads its shape so many degrees ahead, whatever moves its phase and rate", () => {
  const routes = [moves, { ...moves, target: "filter.resonance", amount: 100, tap: 90 } as const, { source: "velocity", target: "r.phase", amount: 36 } as const]; // prettier-ignore
  const made = { ...held, values: { "filter.resonance": 0 }, modules: [rise("r", 0.5, "note")], routes };
  const [pitch] = ofAddress(made, "osc.pitch");
  const [ahead] = ofAddress(made, "filter.resonance");
  for (const sec of [0, 0.4, 1, 1.4]) {
    expect((at(pitch!, sec) - 60) / 12, `${sec} s`).toBeCloseTo((0.1 + sec / 2) % 1, 2);
    expect(at(ahead!, sec) / 100, `${sec} s`).toBeCloseTo((0.35 + sec / 2) % 1, 2);
  }
});

test("notes tell whether they are held and how many onsets came before; hands press and bend", () => {
  const read = (source: string, notes = held.notes!) =>
    ofAddress({ ...held, notes, values: { "filter.resonance": 0 }, routes: [{ source, target: "filter.resonance", amount: 100 }] }, "filter.resonance"); // prettier-ignore
  const [n] = read("held", [note(0, 960, 60)]);
  expect([0.1, 0.48, 0.504].map((sec) => at(n!, sec))).toEqual([100, 100, 0]);
  const chords = Array.from({ length: 18 }, (_, i) => [note(i * 120, 100, 60), note(i * 120, 100, 64)]).flat();
  const counted = read("count", chords).filter((v) => v.key === 64).map((v) => at(v, 0.001)); // prettier-ignore
  expect(counted).toEqual(Array.from({ length: 18 }, (_, i) => expect.closeTo((100 * (i % 16)) / 15, 6) as number));
});

describe("a shape that goes once with its note, while that is held", () => {
  /** A second from 0 to 1; a note of 0.625 s that is let go, or of an eighth of a second. */
  type WhileHeld = "runs" | "stands" | "loops";
  interface How {
    rate?: "moved";
    synced?: boolean;
    phase?: number;
    scatter?: number;
  }
  const shapeOf = (whileHeld: WhileHeld, how: How): Shape =>
    adjusted(rise("r", 1, "once"), {
      values: { heldFrom: 12.5, heldTo: 25, phase: how.phase ?? 0, scatter: how.scatter ?? 0 },
      choices: { whileHeld },
      ...(how.synced ? { times: { rate: { unit: "note", num: 1, den: 2 } as const } } : {}),
    });
  const going = (whileHeld: WhileHeld, ticks: number, how: How = {}) => {
    const shape = shapeOf(whileHeld, how);
    // A rate that is moved is integrated; a macro at nothing moves it by nothing.
    const moved = how.rate ? [{ source: "velocity", target: "r.rate", amount: 1 } as const] : [];
    const made = { notes: [note(0, ticks, 60, how.rate ? 127 : 100)], amp: { sustain: 100, release: { unit: "ms", ms: 2000 } }, modules: [shape], routes: [moves, ...moved] } as const;
    const [n] = ofSource(made, "r");
    return (sec: number): number => at(n!, sec);
  };
  const near = (value: number): unknown => expect.closeTo(value, 2);

  test.each([
    ["stands", false],
    ["stands", true],
    ["loops", true],
    ["runs", true],
  ] as const)("is shown where it is heard (%s, following the tempo: %s)", (whileHeld, synced) => {
    for (const ticks of [1200, 240, 2880]) {
      const heardAt = going(whileHeld, ticks, { synced });
      const { song } = makeProject({});
      const shown = shapeProgram(shapeOf(whileHeld, { synced }), song, 0);
      // 1920 ticks a second.
      for (const sec of [0.06, 0.2, 0.33, 0.52, 0.7, 0.9, 1.3, 1.7]) {
        const phase = notePhase(shown, 1920 * sec, sec, ticks / 1920 < sec ? ticks / 1920 : Infinity);
        expect(phase, `${ticks} ${sec}`).toEqual(near(heardAt(sec)));
      }
    }
  });

  test.each([[false], [true]])("stands at its place, and goes on from there when it is let go (following the tempo: %s)", (synced) => {
    const held = going("stands", 1200, { synced });
    expect([0.125, 0.225, 0.3, 0.6, 0.725, 1.125, 1.35].map(held)).toEqual([0.125, 0.225, 0.25, 0.25, 0.35, 0.75, 0.975].map(near));
    // Let go before: it never stands.
    expect([0.1, 0.3, 0.5].map(going("stands", 240, { synced }))).toEqual([0.1, 0.3, 0.5].map(near));
  });

  test("repeats a stretch", () => {
    // From 1/8 to 1/4 in an eighth of a second, then again; let go at 5/8 s it is at 1/8, after four rounds.
    const held = going("loops", 1200);
    expect([0.125, 0.225, 0.275, 0.35, 0.4, 0.575, 0.75, 1.225].map(held)).toEqual([0.125, 0.225, 0.15, 0.225, 0.15, 0.2, 0.25, 0.725].map(near));
  });

  test("at a rate that is moved, too", () => {
    // Twice as fast: it stands from an eighth of a second on.
    expect([0.05, 0.15, 0.6, 0.725, 0.875].map(going("stands", 1200, { rate: "moved" }))).toEqual([0.1, 0.25, 0.25, 0.45, 0.75].map(near));
    expect([0.1, 0.1375, 0.175].map(going("loops", 1200, { rate: "moved" }))).toEqual([0.2, 0.15, 0.225].map(near));
  });

  test("from a start that is drawn, it goes on from where it is let go", () => {
    const held = going("loops", 1200, { scatter: 12 });
    const drawn = held(0);
    expect(drawn).toBeGreaterThan(0.01);
    const place = (sec: number): number => {
      const until = drawn + Math.min(sec, 0.625);
      return until < 0.25 ? drawn + sec : 0.125 + ((until - 0.125) % 0.125) + Math.max(0, sec - 0.625);
    };
    const times = [0.05, 0.2, 0.3, 0.45, 0.6, 0.7, 0.8, 1];
    expect(times.map(held)).toEqual(times.map((sec) => near(place(sec))));
  });

  test("counts its places from the start of the cycle, wherever it starts; else it runs on", () => {
    expect([0.025, 0.15, 0.6].map(going("stands", 1200, { phase: 36 }))).toEqual([0.125, 0.25, 0.25].map(near));
    expect([0.25, 0.75, 0.975, 1.25].map(going("runs", 1200))).toEqual([0.25, 0.75, 0.975, 1].map(near));
  });
}); // prettier-ignore

describe("restarts by hand", () => {
  const byHand = (triggers: number[], goes: "round" | "once" = "round") => {
    const shape = adjusted(rise("r", 0.5, "hand", triggers), { choices: { goes } });
    const [n] = ofSource({ ...held, notes: [note(0, 3840, 48)], modules: [shape], routes: [moves] }, "r");
    return [0.25, 0.75, 1.25, 1.75].map((sec) => at(n!, sec));
  };
  test("run with the song until there is one, then from each on, round the loop's end", () => {
    expect(byHand([])).toEqual([0.125, 0.375, 0.625, 0.875].map((v) => expect.closeTo(v, 2) as number));
    // Half a second in, and at 1.5 s: what came before runs on from the pass before.
    expect(byHand([960, 2880])).toEqual([0.375, 0.125, 0.375, 0.125].map((v) => expect.closeTo(v, 2) as number));
    const steady = byHand([960], "once");
    expect(steady).toEqual([0.875, 0.125, 0.375, 0.625].map((v) => expect.closeTo(v, 2) as number));
  });
});

test("where a shape stands, by the song or by a note, is told as it is played: what editors draw", () => {
  const base = { tempoBpm: 96, meter: { beats: 4, unit: 4 } } as const;
  const song = { loopTicks: 4 * 3840, barTicks: 3840, ticksPerSec: 96 * 16 };
  const wrap = (x: number): number => x - Math.floor(x);
  const shape = (restart: Restart, rate: Span, more: Partial<Shape["values"]> = {}): CompiledShape =>
    shapeProgram(adjusted(rise("r", 1, restart), { values: { phase: 72, ...more }, times: { rate } }), base, 0);
  for (const tick of [0, 500, 3839, 3841, 9000, 15_359]) {
    for (const every of [1, 2]) {
      const since = tick % (3840 * every);
      expect(sharedPhase(shape("bar", { unit: "note", num: 3, den: 8 }, { every }), tick, song)).toBeCloseTo(wrap(since / 1440 + 0.2), 9);
      expect(sharedPhase(shape("bar", { unit: "hz", hz: 1.7 }, { every }), tick, song)).toBeCloseTo(wrap((1.7 * since) / 1536 + 0.2), 9);
    }
    expect(sharedPhase(shape("song", { unit: "hz", hz: 1.7 }), tick, song)).toBeCloseTo(wrap((1.7 * tick) / 1536 + 0.2), 9);
  }
  for (const sec of [0, 0.3, 1.9]) {
    expect(notePhase(shape("note", { unit: "hz", hz: 1.7 }), 1536 * sec, sec, Infinity)).toBeCloseTo(wrap(1.7 * sec + 0.2), 9);
    expect(notePhase(shape("note", { unit: "note", num: 1, den: 4 }), 1536 * sec, sec, Infinity)).toBeCloseTo(wrap((1536 * sec) / 960 + 0.2), 9);
    expect(notePhase(shape("once", { unit: "note", num: 1, den: 4 }), 1536 * sec, sec, Infinity)).toBeCloseTo(Math.min(1, (1536 * sec) / 960 + 0.2), 9);
  }
}); // prettier-ignore
