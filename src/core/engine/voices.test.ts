import { describe, expect, test } from "vitest";
import { makeProject, note, withSettings, type Made } from "../../../tests/support/projects";
import { farthest } from "../../../tests/support/same";
import { peak, spectrumDb } from "../../../tests/support/spectrum";
import { nextHeap } from "../../../tests/support/nextHeap";
import { withoutRecordings } from "../dsp/tables";
import { newEnvelope, newShape } from "../patch/defaults";
import type { Project } from "../patch/project";
import { compileProject } from "./compile";
import { Engine } from "./engine";
import { NoteLog, renderNow } from "./render";
import { adjusted } from "../patch/kinds/kind";

const RATE = 48_000;
const newEngine = (): Engine => new Engine(RATE, nextHeap(), { tables: withoutRecordings, limited: false });

/** Runs an engine and hands out its left side. */
function run(engine: Engine, frames: number): Float32Array {
  const left = new Float32Array(frames);
  engine.process(left, new Float32Array(frames), frames);
  return left;
}

/** An engine that plays a project from its start. */
function playing(project: Project): Engine {
  const engine = newEngine();
  engine.load(compileProject(project));
  engine.play(0);
  return engine;
}

/** The loudest line above 6 kHz against the loudest of all, in windows of 2048 frames: what a click leaves of low sines. */
function clickDb(x: Float32Array): number {
  let worst = -Infinity;
  for (let at = 0; at + 2048 <= x.length; at += 512) {
    const db = spectrumDb(x.slice(at, at + 2048));
    let low = -200;
    let high = -200;
    for (let k = 2; k < 1024; k++) {
      if (k * 23.4375 > 6000) high = Math.max(high, db(k));
      else low = Math.max(low, db(k));
    }
    if (low > -60) worst = Math.max(worst, high - low);
  }
  return worst;
}

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

describe("notes that ring on", () => {
  test.each([0, 1, 3])("no more than %d do, whatever is held; the oldest fade, and no click is heard", (most) => {
    // Short notes with long releases, over one that is held.
    const notes = [note(0, 3800, 36), ...Array.from({ length: 10 }, (_, i) => note(200 * i + 100, 60, 60 + i))];
    const engine = playing(makeProject({ notes, values: { "playing.ringing": most, "amp.level": -24 }, choices: { "osc.wave": "sine" }, amp: { release: { unit: "ms", ms: 3000 } } })); // prettier-ignore
    const { lanes } = engine.parts[0]!.bank;
    const heard: number[] = [];
    let worst = 0;
    for (let b = 0; b < 600; b++) {
      heard.push(...run(engine, 64));
      let ringing = 0;
      for (let v = 0; v < lanes.top; v++)
        if (lanes.active[v] === 1 && lanes.offFrame[v]! < Infinity && lanes.stolenFrame[v] === Infinity) ringing++;
      // One that was just let go counts when the next note begins.
      worst = Math.max(worst, ringing);
    }
    expect(worst).toBe(most + 1);
    expect(clickDb(Float32Array.from(heard))).toBeLessThan(-55);
  });
});

test("a synced voice that starts while another one's cycle begins anew is heard, whatever comes back into its filter", () => {
  // As near to a whole cycle as there is: so near that a float32 rounds it up.
  const values = { "osc.bend1": 30, "osc.phase": 359.99999999, "amp.level": -24, "amp.feedback": -20 };
  const played = (notes: NonNullable<Made["notes"]>): Float32Array =>
    run(playing(makeProject({ notes, values, choices: { "osc.bend1": "sync" }, amp: { sustain: 100 } })), 9600);
  const [both, first, second] = [[note(0, 3840, 93), note(10, 3000, 60)], [note(0, 3840, 93)], [note(10, 3000, 60)]].map(played) as [Float32Array, Float32Array, Float32Array]; // prettier-ignore
  expect(peak(second)).toBeGreaterThan(0.01);
  expect(farthest(both, first.map((v, i) => v + second[i]!))).toBeLessThan(1e-6); // prettier-ignore
});

describe("notes that find no room", () => {
  const soft = { attack: { unit: "ms", ms: 40 }, release: { unit: "ms", ms: 3000 } } as const;
  const low: Made = { choices: { "osc.wave": "sine" }, values: { "amp.level": -30 }, amp: soft };
  test.each([
    [
      "sixteen keys at once, over and over",
      {
        ...low,
        notes: Array.from({ length: 16 }, (_, k) => note(0, 3840, 30 + k)),
        arpeggio: { on: true, order: "chord", rate: { num: 1, den: 8 }, gate: 100 },
      },
    ],
    [
      "chords of nine with long releases",
      { ...low, notes: Array.from({ length: 72 }, (_, i) => note(Math.floor(i / 9) * 480, 300, 31 + ((i * 5) % 24))) },
    ],
    [
      "a run of single notes",
      { ...low, notes: Array.from({ length: 64 }, (_, i) => note(i * 60, 50, 33 + ((i * 7) % 20))) },
    ],
  ] as [string, Made][])("%s: no theft is louder than -60 dB", (_name, made) => {
    const log = new NoteLog(["part-1"]);
    const { left } = renderNow(compileProject(makeProject(made)), {
      sampleRate: RATE,
      bars: 1,
      tail: "cut",
      listener: log,
    });
    expect(log.notes.length).toBeGreaterThan(60);
    expect(clickDb(left)).toBeLessThan(-60);
  });

  test("a stolen voice fades by 1 - 3 t² + 2 t³ over 6 ms", () => {
    // Its own sound is what is missing when it is left out: of sixteen held keys it is the oldest.
    const sound = (keys: readonly number[], theft: boolean): Float32Array => {
      const engine = newEngine();
      engine.load(compileProject(makeProject({ choices: { "osc.wave": "sine" }, values: { "amp.level": -30 }, amp: { sustain: 100 } }))); // prettier-ignore
      for (const key of keys) engine.noteOn("part-1", key, 100);
      run(engine, 4800);
      if (theft) engine.noteOn("part-1", 100, 100);
      return run(engine, 320);
    };
    const others = Array.from({ length: 15 }, (_, k) => 40 + k);
    const [all, without, alone] = [sound([83, ...others], true), sound(others, true), sound([83], false)];
    const top = peak(alone);
    const left = Array.from(all, (v, i) => (v - without[i]!) / alone[i]!);
    const clear = left.flatMap((v, i) => (Math.abs(alone[i]!) > top / 2 ? [[v, Math.min(1, i / 288)] as const] : []));
    expect(clear.length).toBeGreaterThan(150);
    expect(farthest(clear.map(([v]) => v), clear.map(([, t]) => 1 - 3 * t ** 2 + 2 * t ** 3))).toBeLessThan(0.01); // prettier-ignore
  });

  test("a note that ends between rows is heard to fall from there", () => {
    const played = (ticks: number): Float32Array =>
      run(playing(makeProject({ notes: [note(0, ticks, 83)], choices: { "osc.wave": "sine" }, amp: { sustain: 100, release: { unit: "ms", ms: 4 }, releaseCurve: 0 } })), 5000); // prettier-ignore
    const on = played(400);
    // How far it has fallen in 2 ms after its end, of 4 in which it falls straight; 25 frames a tick.
    for (const ticks of [188, 189, 190, 191, 192]) {
      const fallen = played(ticks).slice(25 * ticks, 25 * ticks + 96);
      const clear = [...fallen].flatMap((v, i) => {
        const full = on[25 * ticks + i]!;
        return Math.abs(full) > peak(on) / 2 ? [20 * Math.log10(v / full / (1 - i / 192))] : [];
      });
      expect(clear.length).toBeGreaterThan(30);
      expect(farthest(clear, new Array(clear.length).fill(0))).toBeLessThan(0.1);
    }
  });

  test("released ones go first, then the oldest; a stolen voice is gone in 6 ms", () => {
    const engine = newEngine();
    engine.load(compileProject(makeProject({ amp: { release: { unit: "ms", ms: 5000 } } })));
    for (let k = 0; k < 16; k++) engine.noteOn("part-1", 40 + k, 100);
    run(engine, 1280);
    engine.noteOff("part-1", 47);
    run(engine, 1280);
    const { lanes } = engine.parts[0]!.bank;
    const sounding = (): number[] => [...lanes.key].filter((_, v) => lanes.active[v] === 1).sort((a, b) => a - b);
    engine.noteOn("part-1", 90, 100);
    engine.noteOn("part-1", 91, 100);
    run(engine, 512);
    expect(sounding()).toEqual([
      ...Array.from({ length: 16 }, (_, k) => 40 + k).filter((k) => k !== 47 && k !== 40),
      90,
      91,
    ]);
  });

  test.each([
    ["oldest", 40],
    ["quietest", 45],
  ] as const)("of held ones the %s makes way, without a click", (makesWay, gone) => {
    const engine = newEngine();
    // 40 dB lie between the softest velocity and the hardest.
    engine.load(compileProject(makeProject({ choices: { "playing.makesWay": makesWay, "osc.wave": "sine" }, values: { "amp.level": -50 }, routes: [{ source: "velocity", target: "amp.level", amount: 40 }] }))); // prettier-ignore
    for (let k = 0; k < 16; k++) engine.noteOn("part-1", 40 + k, k === 5 ? 20 : 100);
    run(engine, 1280);
    const { lanes } = engine.parts[0]!.bank;
    engine.noteOn("part-1", 90, 1);
    const sound = run(engine, 2560);
    expect([...lanes.key].filter((_, v) => lanes.active[v] === 1).sort((a, b) => a - b)).toEqual([...Array.from({ length: 16 }, (_, k) => 40 + k).filter((k) => k !== gone), 90]); // prettier-ignore
    expect(clickDb(sound)).toBeLessThan(-60);
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

  test("copies lie apart by their rows: in pitch, and from one side to the other", () => {
    const p = makeProject({
      notes: [note(0, 3840, 69)],
      values: { "playing.copies": 3, "playing.copiesDetune": 40, "playing.copiesWidth": 100, "osc.unison": 1, "osc.fine": 10, "amp.level": -12 },
      choices: { "osc.wave": "sine" },
    }); // prettier-ignore
    const { left, right } = renderNow(compileProject(p), { sampleRate: RATE, bars: 1, tail: "cut" });
    const [l, r] = [left, right].map((x) => spectrumDb(x.slice(12_000, 12_000 + 65_536)));
    const at = (db: (k: number) => number, cents: number): number => {
      const k = Math.round((440 * 2 ** ((10 + cents) / 1200) * 65_536) / RATE);
      return Math.max(...[-1, 0, 1].map((d) => db(k + d)));
    };
    // The lowest copy is heard on the left alone, the highest on the right, the one between on both.
    expect(at(l!, -40) - at(r!, -40)).toBeGreaterThan(40);
    expect(at(r!, 40) - at(l!, 40)).toBeGreaterThan(40);
    expect(Math.abs(at(l!, 0) - at(r!, 0))).toBeLessThan(0.5);
    for (const cents of [-20, 20]) for (const side of [l!, r!]) expect(at(side, cents)).toBeLessThan(at(side, 0) - 30);
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

  test("keys played by hand are counted in rounds of sixteen", () => {
    const engine = newEngine();
    engine.load(compileProject(makeProject({})));
    const { lanes } = engine.parts[0]!.bank;
    const counts = Array.from({ length: 34 }, () => {
      engine.noteOn("part-1", 60, 100);
      run(engine, 128);
      const count = lanes.onsets[lanes.newest]!;
      engine.noteOff("part-1", 60);
      run(engine, 2560);
      return count;
    });
    expect(counts).toEqual(Array.from({ length: 34 }, (_, i) => (i + 1) % 16));
  });

  test("copies of a voice: a note starts as many, spread from -1 to 1, as loud as one, and they count as voices", () => {
    const spread = (copies: number): Project =>
      makeProject({
        notes: [note(0, 1920, 50)],
        values: { "playing.copies": copies, "amp.level": -12 },
        choices: { "osc.wave": "sine" },
        routes: [{ source: "copy", target: "amp.pan", amount: 100 }, { source: "copy", target: "osc.fine", amount: 30 }],
      }); // prettier-ignore
    const engine = newEngine();
    engine.load(compileProject(spread(4)));
    engine.play(0);
    run(engine, 640);
    const { lanes, motion } = engine.parts[0]!.bank;
    expect(lanes.count).toBe(4);
    expect([...lanes.copy.slice(0, 4)].map((c) => Number(c.toFixed(4)))).toEqual([-1, -0.3333, 0.3333, 1]);
    expect(motion.slots.length).toBeGreaterThan(0);
    const log = new NoteLog(["part-1"]);
    const power = (p: Project, listener?: NoteLog): number => {
      const { left, right } = renderNow(compileProject(p), {
        sampleRate: RATE,
        bars: 1,
        tail: "cut",
        ...(listener ? { listener } : {}),
      });
      return (
        10 * Math.log10((left.reduce((s, v) => s + v * v, 0) + right.reduce((s, v) => s + v * v, 0)) / left.length)
      );
    };
    expect(Math.abs(power(spread(4), log) - power(spread(1)))).toBeLessThan(1);
    expect(log.notes).toHaveLength(1);
    expect(log.notes[0]!.offSample).toBe(48_000);
  });
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
    const engine = newEngine();
    const wave = (w: string, unison = 1): Project =>
      withPatch((p) => withSettings(p, { "osc.unison": unison }, { "osc.wave": w }));
    engine.load(compileProject(base));
    engine.play(0);
    run(engine, 12_800);
    engine.load(compileProject(wave("saw")));
    run(engine, 128);
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
  });

  test("a value that is edited glides in as 1 - e^(-3 t / 10 ms) does", () => {
    const engine = newEngine();
    const at = (cutoff: number): Project => makeProject({ ...held, values: { ...held.values, "filter.cutoff": cutoff } }); // prettier-ignore
    engine.load(compileProject(at(2000)));
    engine.play(0);
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
      const engine = newEngine();
      engine.load(compileProject(both));
      engine.play(0);
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

  test("a modulator keeps its memory when others come: no value jumps", () => {
    const engine = newEngine();
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
    engine.load(compileProject(first));
    engine.play(0);
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
    const engine = newEngine();
    engine.load(compileProject(base));
    engine.play(0);
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
    const engine = new Engine(RATE, nextHeap(), { tables: withoutRecordings, limited: false, listener: log });
    const with_ = (...ticks: number[]): Project => ({
      ...base,
      parts: [{ ...base.parts[0]!, notes: ticks.map((t) => ({ ...note(t, 120, 50), id: `n${t}` })) }],
    });
    engine.load(compileProject(with_(0, 960, 1920)));
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
    const engine = newEngine();
    for (let i = 0; i < 100; i++) {
      engine.load(compileProject({ ...base, parts: [{ ...base.parts[0]!, id: `part-${i}` }] }));
      engine.play(0);
      run(engine, 1280);
    }
    expect(peak(run(engine, 4800))).toBeGreaterThan(0.1);
  });
});
