import { describe, expect, test } from "vitest";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { peak } from "../../../tests/support/spectrum";
import { compileProject } from "../engine/compile";
import { renderNow } from "../engine/render";
import { watchLoop } from "../engine/watch";
import { MAX_POINTS, type CurvePoint } from "../curve/curve";
import type { Address } from "../patch/address";
import { automatable, automationOf, canAutomate, jumpsOf, withAutomation, writtenPoints } from "../patch/automation";
import { newEnvelope, newMacro, newShape } from "../patch/defaults";
import { withoutModule } from "../patch/edit";
import { AUTOMATION, type Automation } from "../patch/kinds/automation";
import { adjusted, newModule } from "../patch/kinds/kind";
import { openProject } from "../patch/migrate";

const RATE = 48_000;
const BASE = { tempoBpm: 120, meter: { beats: 4, unit: 4 } } as const;
const line = (target: Address, points: readonly (readonly [x: number, y: number])[], on = true): Automation => ({
  ...newModule(AUTOMATION, `line-${target.replace(".", "-")}`, "Line", {
    target,
    points: points.map(([x, y]) => ({ x, y, tension: 0 })),
  }),
  on,
});

/** The highest value of an address in a column at a place of the loop. */
function heard(made: Made, address: Address): (at: number) => number {
  const program = compileProject(makeProject({ notes: [note(0, 3840, 60, 127)], ...made }));
  const watch = watchLoop(program, RATE, [{ addresses: [address], sources: [] }], 2048);
  const c = watch.notes[0]!.columns[0]!;
  return (at) => watch.values[c.at + c.count + Math.floor(at * 2048) - c.first]!;
}

test("a jump at the end of the pass is none; what cannot be let go has no release to be automated", () => {
  const points = [[0, 0], [1, 0], [1, 1]].map(([x, y]) => ({ x: x!, y: y!, tension: 0 })); // prettier-ignore
  expect(jumpsOf(points, 3840)).toEqual([]);
  const patchWith = (restart: "note" | "bar") => makeProject({ modules: [adjusted(newEnvelope("e", "E"), { choices: { restart } }), newShape("s", "S")] }).parts[0]!.patch; // prettier-ignore
  const can = (restart: "note" | "bar", address: Address) => [canAutomate(patchWith(restart), address), automatable(patchWith(restart), address, BASE) !== null]; // prettier-ignore
  expect([can("note", "e.release"), can("bar", "e.release"), can("bar", "e.attack"), can("bar", "s.fadeIn"), can("bar", "s.rate")]).toEqual([[true, true], [false, false], [true, true], [true, true], [true, true]]); // prettier-ignore
});

describe("an automated rate", () => {
  /** A rise of the resonance with a shape whose rate goes from 1/4 to 1/8 in the middle of the bar, at its seventh eighth. */
  const rising = (atJumps: "goesOn" | "restarts", restart: "song" | "bar" = "bar") => {
    const shape = adjusted(newShape("s", "S"), {
      values: { smoothing: 0 },
      choices: { atJumps, restart },
      data: { points: [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }] },
    }); // prettier-ignore
    // Cycles of a whole note from 1/32 to 64 are eleven octaves: 4 lies at 7/11, 8 at 8/11.
    const rate = line("s.rate", [[0, 7 / 11], [0.4375, 7 / 11], [0.4375, 8 / 11], [1, 8 / 11]]); // prettier-ignore
    return heard({ modules: [shape, rate], routes: [{ source: "s", target: "filter.resonance", amount: 100 }], values: { "filter.resonance": 0 } }, "filter.resonance"); // prettier-ignore
  };

  test("keeps its phase where it changes: from then on it goes faster", () => {
    const at = rising("goesOn");
    // 1.75 cycles of a quarter until then; half-way to the next quarter 0.5 cycles of an eighth more.
    for (const [x, value] of [
      [0.2, 80],
      [0.42, 68],
      [0.5, 25],
      [0.55, 65],
      [0.9375, 75],
    ] as const)
      expect(at(x), `${x}`).toBeCloseTo(value, -0.5);
  });

  test("or starts again there, and with its own restarts too", () => {
    for (const restart of ["bar", "song"] as const) {
      const at = rising("restarts", restart);
      for (const [x, value] of [
        [0.2, 80],
        [0.42, 68],
        [0.46, 18],
        [0.5, 50],
        [0.6, 30],
      ] as const)
        expect(at(x), `${restart} ${x}`).toBeCloseTo(value, -0.5);
    }
  });

  test("or starts again there, beside its own restarts every so many bars", () => {
    const shape = adjusted(newShape("s", "S"), { values: { smoothing: 0, every: 2 }, choices: { atJumps: "restarts", restart: "bar" }, data: { points: [{ x: 0, y: 0, tension: 0 }, { x: 1, y: 1, tension: 0 }] } }); // prettier-ignore
    // A cycle of 16 bars at place 1/11, of 8 at 2/11 from 0.4375 of the loop of four bars on.
    const rate = line("s.rate", [[0, 1 / 11], [0.4375, 1 / 11], [0.4375, 2 / 11], [1, 2 / 11]]); // prettier-ignore
    const program = compileProject(makeProject({ song: { loopBars: 4, tempoBpm: 240 }, notes: [note(0, 4 * 3840, 60, 127)], modules: [shape, rate], routes: [{ source: "s", target: "filter.resonance", amount: 100 }], values: { "filter.resonance": 0 } })); // prettier-ignore
    const watch = watchLoop(program, RATE, [{ addresses: ["filter.resonance"], sources: [] }], 2048);
    const c = watch.notes[0]!.columns[0]!;
    const at = (x: number): number => watch.values[c.at + c.count + Math.floor(x * 2048) - c.first]!;
    // Of the loop.
    const [slow, fast] = [4, 2];
    for (const x of [0.1, 0.24, 0.26, 0.42]) expect(at(x)).toBeCloseTo((100 * x) / slow, 0);
    for (const x of [0.46, 0.49]) expect(at(x)).toBeCloseTo((100 * (x - 0.4375)) / fast, 0);
    for (const x of [0.51, 0.74, 0.76, 0.98]) expect(at(x)).toBeCloseTo((100 * (x - 0.5)) / fast, 0);
  });

  test("is told and read in note values; a free one in Hz; a length in ms, where notes have their own", () => {
    const modules = [newShape("s", "S"), adjusted(newShape("free", "Free"), { times: { rate: { unit: "ms", ms: 250 } } }), newEnvelope("e", "E")]; // prettier-ignore
    const synced = automatable({ modules }, "s.rate", BASE)!;
    expect([4, 1 / 4, 6, 16 / 3, 4.3].map(synced.text)).toEqual(["1/4", "4/1", "1/4T", "1/8D", "about 1/4"]);
    expect(["1/8", "1/8T", "2 bars", "4 Hz", "soon"].map(synced.read)).toEqual([8, expect.closeTo(12, 9), 0.5, null, null]); // prettier-ignore
    expect(synced.rest).toBe(4);
    expect(automatable({ modules }, "free.rate", BASE)).toMatchObject({ rest: 4, row: { unit: "Hz" } });
    const attack = automatable({ modules }, "e.attack", BASE)!;
    expect(["80 ms", "1/16", "soon"].map(attack.read)).toEqual([80, 125, null]);
    expect([attack.rest, attack.row.min, attack.text(250)]).toEqual([2, 0.1, "250 ms"]);
    const shared = [adjusted(newEnvelope("e", "E"), { choices: { restart: "bar" } })];
    expect(automatable({ modules: shared }, "e.release", BASE)).toBeNull();
    expect(["e.release", "e.attack"].map((a) => canAutomate({ modules: shared }, a as Address))).toEqual([false, true]);
    expect(canAutomate({ modules }, "s.every")).toBe(false);
    expect(jumpsOf([[0, 0], [0.5, 0], [0.5, 1], [0.75, 1], [0.75, 1], [1, 0]].map(([x, y]) => ({ x: x!, y: y!, tension: 0 })), 3840)).toEqual([1920]); // prettier-ignore
  });
});

describe("automation", () => {
  test("gives an envelope another length from note to note; one of nothing grows, too", () => {
    // Of 0.1 ms to a minute: 10 ms, then 400 ms, on a logarithmic scale.
    const place = (ms: number): number => Math.log(ms / 0.1) / Math.log(60_000 / 0.1);
    const made = (attackMs: number): Made => ({
      notes: [note(0, 960, 60, 127), note(1920, 960, 60, 127)],
      modules: [
        adjusted(newEnvelope("e", "E"), { values: { attackCurve: 0 }, times: { attack: { unit: "ms", ms: attackMs } } }),
        line("e.attack", [[0, place(10)], [0.4, place(10)], [0.4, place(400)], [1, place(400)]]),
      ],
      routes: [{ source: "e", target: "filter.resonance", amount: 100 }],
      values: { "filter.resonance": 0 },
    }); // prettier-ignore
    for (const attackMs of [0, 30]) {
      const program = compileProject(makeProject(made(attackMs)));
      const watch = watchLoop(program, RATE, [{ addresses: ["filter.resonance"], sources: [] }], 2048);
      const after = (i: number, ms: number): number => {
        const c = watch.notes[i]!.columns[0]!;
        return watch.values[c.at + c.count + Math.floor((ms / 2000) * 2048)]!;
      };
      expect(after(0, 12)).toBeGreaterThan(95);
      expect(after(1, 200)).toBeCloseTo(50, -0.5);
    }
  });

  test("stands in for the value at rest, on the value's own scale: a frequency goes by octaves", () => {
    // Of 20 Hz to 20 kHz, which are three decades, from one third to two thirds.
    const made = { modules: [line("filter.cutoff", [[0, 1 / 3], [1, 2 / 3]])] }; // prettier-ignore
    const at = heard(made, "filter.cutoff");
    for (const x of [0.1, 0.5, 0.9]) expect(at(x) / (200 * 10 ** x)).toBeCloseTo(1, 2);
    const off = heard({ modules: [line("filter.cutoff", [[0, 0], [1, 0]], false)], values: { "filter.cutoff": 900 } }, "filter.cutoff"); // prettier-ignore
    expect(off(0.5)).toBeCloseTo(900, 2);
  });

  test("routes add to it in their unit, and what is at rest counts no more", () => {
    const made: Made = {
      modules: [line("filter.resonance", [[0, 0.2], [0.5, 0.2], [0.5, 0.6], [1, 0.6]])], // prettier-ignore
      values: { "filter.resonance": 90 },
      routes: [{ source: "velocity", target: "filter.resonance", amount: 10 }],
    };
    const at = heard(made, "filter.resonance");
    expect(at(0.25)).toBeCloseTo(30, 3);
    expect(at(0.75)).toBeCloseTo(70, 3);
  });

  test("moves a macro, and by it what that moves; a level down to silence", () => {
    const macro = { ...newMacro("macro", "Macro"), values: { value: 0, low: 0, high: 100, curve: 0 } };
    const at = heard(
      {
        modules: [macro, line("macro.value", [[0, 0], [1, 1]])], // prettier-ignore
        routes: [{ source: "macro", target: "filter.resonance", amount: 50 }],
        values: { "filter.resonance": 0 },
      },
      "filter.resonance",
    );
    expect(at(0.5)).toBeCloseTo(25, 1);
    const made = { notes: [note(0, 3840, 60, 127)], modules: [line("amp.level", [[0, 1], [0.5, 1], [0.5, 0], [1, 0]])], values: { "amp.level": -60 } }; // prettier-ignore
    const { left } = renderNow(compileProject(makeProject(made)), { sampleRate: RATE, bars: 1, tail: "cut" });
    expect(peak(left.slice(20_000, 40_000))).toBeGreaterThan(0.3);
    expect(peak(left.slice(52_000, 90_000))).toBe(0);
  });

  test("begins as a value stands, once, and goes with its module", () => {
    const { patch } = makeProject({ values: { "filter.cutoff": 200 } }).parts[0]!;
    const made = withAutomation(patch, "filter.cutoff", "a", BASE);
    const { points } = automationOf(made, "filter.cutoff")!.data;
    expect(points.map((p) => [p.x, p.y])).toEqual([[0, expect.closeTo(1 / 3, 9)], [1, expect.closeTo(1 / 3, 9)]]); // prettier-ignore
    expect(withAutomation(made, "filter.cutoff", "b", BASE)).toBe(made);
    // How many voices a unison has cannot be moved.
    expect(withAutomation(patch, "osc.unison", "a", BASE)).toBe(patch);
    expect(withAutomation(patch, "gone.cutoff", "a", BASE)).toBe(patch);
    expect(automationOf(withoutModule(made, "filter"), "filter.cutoff")).toBeNull();
  });

  test("a part has 24 of them at the most; long names are cut at 80 letters, and a value past the scale is its end", () => {
    const { patch } = makeProject({}).parts[0]!;
    const addresses = patch.modules.flatMap((m) => Object.keys(m.values).map((id): Address => `${m.id}.${id}`)).filter((a) => automatable(patch, a, BASE)); // prettier-ignore
    expect(addresses.length).toBeGreaterThan(25);
    const full = addresses.slice(0, 24).reduce((p, a, i) => withAutomation(p, a, `a${i}`, BASE), patch);
    expect(full.modules).toHaveLength(patch.modules.length + 24);
    expect(withAutomation(full, addresses[24]!, "more", BASE)).toBe(full);
    const named = { ...patch, modules: patch.modules.map((m) => (m.id === "filter" ? { ...m, name: "f".repeat(80) } : m)) }; // prettier-ignore
    expect(automationOf(withAutomation(named, "filter.cutoff", "a", BASE), "filter.cutoff")!.name).toBe(`Cutoff of ${"f".repeat(70)}`); // prettier-ignore
    // 1000 bars of 96 wholes are longer than any length lasts.
    const long = makeProject({ amp: { decay: { unit: "note", num: 96, den: 1 } } }).parts[0]!.patch;
    const slow = withAutomation(long, "amp-envelope.decay", "a", { ...BASE, tempoBpm: 20 });
    expect(automationOf(slow, "amp-envelope.decay")!.data.points.map((p) => p.y)).toEqual([1, 1]);
  }); // prettier-ignore

  test("is refused for what cannot be automated, and twice for one value", () => {
    const whole = makeProject({ modules: [line("filter.cutoff", [[0, 0], [1, 1]])] }); // prettier-ignore
    expect(openProject(whole)).toMatchObject({ ok: true });
    const twice = makeProject({ modules: [line("filter.cutoff", [[0, 0], [1, 1]]), { ...line("filter.cutoff", [[0, 0], [1, 1]]), id: "other" }] }); // prettier-ignore
    expect(openProject(twice)).toMatchObject({ ok: false, reason: '"filter.cutoff" is automated twice' });
    const none = makeProject({ modules: [line("osc.unison", [[0, 0], [1, 1]])] }); // prettier-ignore
    expect(openProject(none)).toMatchObject({ ok: false, reason: 'there is no value to automate at "osc.unison"' });
  });

  test("is named after its value; what is written in the middle leaves both ends", () => {
    const made = withAutomation(
      makeProject({ values: { "filter.cutoff": 1200 } }).parts[0]!.patch,
      "filter.cutoff",
      "line",
      BASE,
    );
    // Its value at rest, 1200 Hz between 20 Hz and 20 kHz on a scale of octaves, from end to end.
    const y = expect.closeTo(Math.log(1200 / 20) / Math.log(1000), 9) as number;
    expect(automationOf(made, "filter.cutoff")).toMatchObject({ id: "line", name: "Cutoff of Filter", data: { points: [{ x: 0, y, tension: 0 }, { x: 1, y, tension: 0 }] } }); // prettier-ignore
    const flat: CurvePoint[] = [0, 1].map((x) => ({ x, y: 0.5, tension: 0 }));
    const middle = writtenPoints(flat, [{ x: 0.25, y: 0.9 }, { x: 0.75, y: 0.1 }]); // prettier-ignore
    expect(middle.map((p) => [p.x, p.y])).toEqual([[0, 0.5], [0.25, 0.9], [0.75, 0.1], [1, 0.5]]); // prettier-ignore
  });

  test("what a hand writes takes the place of what was there, no more and no less", () => {
    const before: CurvePoint[] = [[0, 0.5], [0.4, 0.1], [0.6, 0.9], [1, 0.5]].map(([x, y]) => ({ x: x!, y: y!, tension: 20 })); // prettier-ignore
    const after = writtenPoints(before, [{ x: 0.3, y: 0.8 }, { x: 0.5, y: 0.2 }]); // prettier-ignore
    expect(after.map((p) => [p.x, p.y])).toEqual([[0, 0.5], [0.3, 0.8], [0.5, 0.2], [0.6, 0.9], [1, 0.5]]); // prettier-ignore
    // What was there keeps its bends, what a hand wrote has none.
    expect(after.map((p) => p.tension)).toEqual([20, 0, 0, 20, 20]);
    expect(writtenPoints(before, [])).toBe(before);
    const ends = writtenPoints(before, [{ x: 0, y: 0.7 }, { x: 1, y: 0.1 }]); // prettier-ignore
    expect(ends.map((p) => [p.x, p.y])).toEqual([[0, 0.7], [1, 0.1]]); // prettier-ignore
    const many = Array.from({ length: 2000 }, (_, i) => ({ x: i / 1999, y: 0.5 + 0.4 * Math.sin(i / 90) }));
    const thinned = writtenPoints(before, many);
    expect(thinned.length).toBeLessThanOrEqual(MAX_POINTS);
    expect([thinned[0]!.x, thinned.at(-1)!.x]).toEqual([0, 1]);
  });
});
