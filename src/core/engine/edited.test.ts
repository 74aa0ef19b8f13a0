import { describe, expect, test } from "vitest";
import { engineWith, playing, run } from "../../../tests/support/live";
import { makeProject, note, withSettings, type Made } from "../../../tests/support/projects";
import { farthest } from "../../../tests/support/same";
import { peak } from "../../../tests/support/spectrum";
import { newEnvelope, newRoute, newShape } from "../patch/defaults";
import type { Project } from "../patch/project";
import { compileProject } from "./compile";
import { NoteLog } from "./render";
import { adjusted } from "../patch/kinds/kind";

describe("types of filters in the engine", () => {
  test.each([
    ["lp24", "hp12"],
    ["hp12", "bp12"],
    ["bp12", "ladder"],
    ["ladder", "vowel"],
    ["vowel", "combUp"],
    ["combUp", "lp24"],
  ])("a type that changes from %s to %s while a note is held sounds as if it had always been so", (before, after) => {
    const held = (type: string): Project =>
      makeProject({
        notes: [note(0, 3840, 45)],
        values: { "filter.cutoff": 600, "filter.resonance": 30 },
        choices: { "filter.type": type },
        amp: { sustain: 100 },
      });
    const engine = playing(held(before));
    run(engine, 20_000);
    engine.load(compileProject(held(after)));
    const changed = run(engine, 28_000).slice(-16_384);
    const always = run(playing(held(after)), 48_000).slice(-16_384);
    const power = (x: Float32Array): number => 10 * Math.log10(x.reduce((s, v) => s + v * v, 0) / x.length);
    expect(power(changed)).toBeCloseTo(power(always), 1);
  });
});

test.each([
  ["a plain wave", { "osc.wave": "sine" }],
  ["a table", { "osc.wave": "table" }],
  ["a bent wave", { "osc.wave": "sine", "osc.bend1": "fold" }],
] as const)("the blend of a unison is heard at once, without a step: %s", (_, choices) => {
  const blended = (blend: number): Project =>
    makeProject({
      notes: [note(0, 3840, 45)],
      choices,
      values: { "osc.unison": 5, "osc.detune": 30, "osc.width": 0, "osc.blend": blend, "osc.bend1": 20, "amp.level": -18 },
    }); // prettier-ignore
  const step = (x: Float32Array): number => x.reduce((most, v, i) => (i === 0 ? 0 : Math.max(most, Math.abs(v - x[i - 1]!))), 0); // prettier-ignore
  const engine = playing(blended(100));
  run(engine, 9600);
  const before = run(engine, 9600);
  engine.load(compileProject(blended(0)));
  const after = run(engine, 19_200);
  // The middle voice alone, as loud as all of them: no dip, no beating.
  expect(step(Float32Array.from([...before.slice(-1), ...after.slice(0, 2000)]))).toBeLessThan(1.6 * step(before));
  const rms = (x: Float32Array): number => Math.hypot(...x) / Math.sqrt(x.length);
  const windows = Array.from({ length: 8 }, (_, i) => rms(after.slice(2400 + 2000 * i, 4400 + 2000 * i)));
  expect(20 * Math.log10(Math.max(...windows) / Math.min(...windows))).toBeLessThan(0.6);
  const alone = run(playing(makeProject({ notes: [note(0, 3840, 45)], choices, values: { "osc.unison": 1, "osc.bend1": 20, "amp.level": -18 } })), 19_200); // prettier-ignore
  expect(20 * Math.log10(rms(after.slice(9600)) / rms(alone.slice(9600)))).toBeCloseTo(0, 0);
});

test("notes that are edited while they sound follow their own events, whatever else starts there", () => {
  const chord = (lengths: readonly number[]): Project =>
    makeProject({ notes: [60, 64, 67, 71].map((key, i) => note(0, lengths[i]!, key)) });
  const engine = playing(chord([3000, 3000, 3000, 3000]));
  run(engine, 4800);
  engine.load(compileProject(chord([3000, 600, 3000, 1500])));
  const { lanes } = engine.parts[0]!.bank;
  const sounding = (): number[] => [...lanes.key].filter((_, v) => lanes.active[v] === 1).sort((a, b) => a - b);
  run(engine, 6400);
  expect(sounding()).toEqual([60, 64, 67, 71]);
  // 25 frames a tick.
  run(engine, 9600);
  expect(sounding()).toEqual([60, 67, 71]);
  run(engine, 20_000);
  expect(sounding()).toEqual([60, 67]);
});

test("a note that is deleted while it sounds is let go, though the same key comes again later", () => {
  const two = [note(0, 3000, 60), note(3200, 300, 60)];
  const engine = playing(makeProject({ notes: two }));
  run(engine, 9600);
  engine.load(compileProject(makeProject({ notes: two.slice(1) })));
  run(engine, 4800);
  expect(engine.voiceCount).toBe(0);
});

test("a key that is let go by hand leaves the note alone that the song plays instead", () => {
  const made = makeProject({ notes: [note(480, 1900, 60)], playing: { choices: { voices: "one" } } });
  const engine = playing(made);
  engine.noteOn(made.parts[0]!.id, 48, 100);
  run(engine, 19_200);
  engine.noteOff(made.parts[0]!.id, 48);
  run(engine, 9600);
  const { lanes } = engine.parts[0]!.bank;
  expect([...lanes.key].filter((_, v) => lanes.active[v] === 1 && lanes.offFrame[v] === Infinity)).toEqual([60]);
});

describe("edits while notes sound", () => {
  const held: Made = {
    notes: [note(0, 3840, 45)],
    song: { tempoBpm: 60 },
    choices: { "osc.wave": "sine" },
    values: { "amp.level": -6, "filter.cutoff": 2000 },
  };
  const base = makeProject(held);
  const withPatch = (change: (p: Project["parts"][number]["patch"]) => Project["parts"][number]["patch"]): Project => ({
    ...base,
    parts: [{ ...base.parts[0]!, patch: change(base.parts[0]!.patch) }],
  });

  test("two waves chosen within one dip: the last one sounds, and the part goes on", () => {
    const engine = playing(base);
    const wave = (w: string, unison = 1): Project =>
      withPatch((p) => withSettings(p, { "osc.unison": unison }, { "osc.wave": w }));
    run(engine, 12_800);
    engine.load(compileProject(wave("saw")));
    // Both sides dip alike.
    const [left, right] = [new Float32Array(128), new Float32Array(128)];
    engine.process(left, right, 128);
    expect(peak(left)).toBeGreaterThan(0.01);
    expect(farthest(left, right)).toBe(0);
    engine.load(compileProject(wave("triangle", 3)));
    run(engine, 64);
    // A change that needs no dip comes in the middle of one.
    engine.load(
      compileProject(
        withPatch((p) => withSettings(p, { "osc.unison": 3, "amp.level": -9 }, { "osc.wave": "triangle" })),
      ),
    );
    run(engine, 4800);
    expect(peak(run(engine, 4800))).toBeGreaterThan(0.1);
    expect(engine.parts[0]!.bank.sound.modules[0]).toMatchObject({ tableName: "triangle", unison: 3 });
    // Back to what sounds while it dips: the dip turns round.
    engine.load(compileProject(wave("sine")));
    run(engine, 64);
    engine.load(compileProject(wave("triangle", 3)));
    run(engine, 4800);
    expect(peak(run(engine, 4800))).toBeGreaterThan(0.1);
    expect(engine.parts[0]!.bank.sound.modules[0]).toMatchObject({ tableName: "triangle" });
    // So it does for the very program that sounds.
    const now = compileProject(wave("triangle", 3));
    engine.load(now);
    run(engine, 4800);
    engine.load(compileProject(wave("sine")));
    run(engine, 64);
    engine.load(now);
    run(engine, 4800);
    expect(engine.parts[0]!.bank.sound.modules[0]).toMatchObject({ tableName: "triangle" });
    expect(peak(run(engine, 4800))).toBeGreaterThan(0.1);
  });

  test("a value that is edited glides in as 1 - e^(-3 t / 10 ms) does", () => {
    const at = (cutoff: number): Project => makeProject({ ...held, values: { ...held.values, "filter.cutoff": cutoff } }); // prettier-ignore
    const engine = playing(at(2000));
    run(engine, 24_000);
    const { bank } = engine.parts[0]!;
    const use = bank.sound.motion.uses.findIndex((u) => u.form === "log2hz");
    const before = bank.value(use, 0);
    engine.load(compileProject(at(500)));
    for (let frame = 64; frame <= 960; frame += 64) {
      run(engine, 64);
      // Two octaves down.
      expect(before - bank.value(use, 0)).toBeCloseTo(2 * (1 - Math.exp((-3 * frame) / 480)), 3);
    }
    run(engine, 4800);
    expect(before - bank.value(use, 0)).toBeCloseTo(2, 6);
  });

  test("a shape that moves nothing goes: what another smooths stays where it was", () => {
    const shape = (id: string) => adjusted(newShape(id, id), { values: { smoothing: 150 } });
    const both = makeProject({
      ...held,
      modules: [shape("idle"), shape("busy")],
      routes: [{ source: "busy", target: "filter.cutoff", amount: -4 }],
    });
    const part = both.parts[0]!;
    const one: Project = {
      ...both,
      parts: [{ ...part, patch: { ...part.patch, modules: part.patch.modules.filter((m) => m.id !== "idle") } }],
    };
    const cutoffs = (edit: boolean): number[] => {
      const engine = playing(both);
      run(engine, 19_200);
      if (edit) engine.load(compileProject(one));
      return Array.from({ length: 40 }, () => {
        run(engine, 64);
        const { bank } = engine.parts[0]!;
        return bank.value(
          bank.sound.motion.uses.findIndex((u) => u.form === "log2hz"),
          0,
        );
      });
    };
    const plain = cutoffs(false);
    cutoffs(true).forEach((v, i) => expect(v).toBeCloseTo(plain[i]!, 6));
    expect(new Set(plain).size).toBeGreaterThan(20);
  });

  test("a chord goes on, voice by voice, when a route comes that does next to nothing", () => {
    const chord = makeProject({ notes: [40, 47, 55, 62].map((key, i) => ({ ...note(0, 3840, key), velocity: 127 - 30 * i })), values: { "filter.cutoff": 900, "filter.keyFollow": 70 }, routes: [{ source: "velocity", target: "amp.level", amount: 12 }] }); // prettier-ignore
    const part = chord.parts[0]!;
    const patch = { ...part.patch, modules: [...part.patch.modules, newShape("s", "S")], routes: [...part.patch.routes, newRoute("r", "s", "amp.pan", 0.001)] }; // prettier-ignore
    const more: Project = { ...chord, parts: [{ ...part, patch }] };
    const sound = (edited: boolean): Float32Array => {
      const engine = playing(chord);
      run(engine, 6400);
      if (edited) engine.load(compileProject(more));
      return run(engine, 3200);
    };
    const [after, on] = [sound(true), sound(false)];
    expect(farthest(after, on) / peak(on)).toBeLessThan(1e-4);
  });

  test("a modulator keeps its memory when others come: no value jumps", () => {
    const shape = adjusted(newShape("s", "S"), {
      choices: { restart: "note" },
      times: { rate: { unit: "hz", hz: 2 } },
    });
    const first = makeProject({ ...held, modules: [shape], routes: [{ source: "s", target: "s.rate", amount: 1 }, { source: "s", target: "filter.cutoff", amount: -3 }] }); // prettier-ignore
    const more: Project = {
      ...first,
      parts: [
        {
          ...first.parts[0]!,
          patch: { ...first.parts[0]!.patch, modules: [newEnvelope("e", "E"), ...first.parts[0]!.patch.modules] },
        },
      ],
    };
    const engine = playing(first);
    run(engine, 24_000);
    const cutoff = (): number => {
      const { bank } = engine.parts[0]!;
      return bank.value(
        bank.sound.motion.uses.findIndex((u) => u.form === "log2hz"),
        0,
      );
    };
    const before = cutoff();
    engine.load(compileProject(more));
    run(engine, 16);
    expect(Math.abs(cutoff() - before)).toBeLessThan(0.02);
  });

  test("another project is opened while notes sound: the old one fades, nothing steps", () => {
    const engine = playing(base);
    const before = run(engine, 24_000);
    const other = makeProject({ ...held, notes: [] });
    engine.load(compileProject({ ...other, parts: [{ ...other.parts[0]!, id: "elsewhere" }] }));
    const after = run(engine, 4800);
    const all = Float32Array.from([...before.subarray(20_000), ...after]);
    let step = 0;
    for (let i = 1; i < all.length; i++) step = Math.max(step, Math.abs(all[i]! - all[i - 1]!));
    let usual = 0;
    for (let i = 12_001; i < 20_000; i++) usual = Math.max(usual, Math.abs(before[i]! - before[i - 1]!));
    expect(step).toBeLessThan(usual * 1.05);
    expect(peak(after.subarray(480))).toBe(0);
    expect(engine.voiceCount).toBe(0);
  });

  test("notes that come before and behind the playing position: the past is not played again, the future is", () => {
    const log = new NoteLog(["part-1"]);
    const with_ = (...ticks: number[]): Project => ({
      ...base,
      parts: [{ ...base.parts[0]!, notes: ticks.map((t) => ({ ...note(t, 120, 50), id: `n${t}` })) }],
    });
    const engine = engineWith(with_(0, 960, 1920), { listener: log });
    engine.play(0);
    // At 60 BPM a quarter lasts a second: tick 1200 now.
    run(engine, 60_032);
    engine.load(compileProject(with_(0, 240, 480, 960, 1440, 1920)));
    run(engine, 60_032);
    expect(log.notes.map((n) => n.onTick)).toEqual([0, 960, 1440, 1920]);
    engine.load(compileProject(with_(0, 3000)));
    run(engine, 60_032);
    expect(log.notes.map((n) => n.onTick)).toEqual([0, 960, 1440, 1920, 3000]);
  });

  test("a hundred parts that come and go take no more memory than a few", () => {
    const engine = playing(base);
    for (let i = 0; i < 100; i++) {
      engine.load(compileProject({ ...base, parts: [{ ...base.parts[0]!, id: `part-${i}` }] }));
      engine.play(0);
      run(engine, 1280);
    }
    expect(peak(run(engine, 4800))).toBeGreaterThan(0.1);
  });
});
