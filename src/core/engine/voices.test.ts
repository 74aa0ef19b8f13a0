import { describe, expect, test } from "vitest";
import { RATE, engineWith, playing, run } from "../../../tests/support/live";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { farthest } from "../../../tests/support/same";
import { peak, spectrumDb } from "../../../tests/support/spectrum";
import { newShape } from "../patch/defaults";
import { adjusted } from "../patch/kinds/kind";
import type { Project } from "../patch/project";
import { compileProject } from "./compile";
import { NoteLog, renderNow } from "./render";

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

test("a note that is silent for a while, or begins silent, is still there", () => {
  // Silent in the first and third quarter of the bar: all of the amplitude is taken away.
  const points = [0, 0.5, 0.5, 1].map((x, i) => ({ x, y: i < 2 ? 1 : 0, tension: 0 }));
  const gate = adjusted(newShape("gate", "Gate"), { values: { smoothing: 0 }, choices: { restart: "song" }, times: { rate: { unit: "hz", hz: 1 } }, data: { points } }); // prettier-ignore
  const engine = playing(makeProject({ notes: [note(0, 3840, 57)], amp: { sustain: 100 }, modules: [gate], routes: [{ source: "gate", target: "amp.level", amount: -100, amplitude: true }] })); // prettier-ignore
  const quarters = [0, 1, 2, 3].map(() => peak(run(engine, 24_000).slice(4800, 23_000)));
  expect([quarters[0], quarters[2]]).toEqual([0, 0]);
  expect(quarters[1]).toBeGreaterThan(0.1);
  expect(quarters[3]).toBeCloseTo(quarters[1]!, 2);
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
      const engine = engineWith(makeProject({ choices: { "osc.wave": "sine" }, values: { "amp.level": -30 }, amp: { sustain: 100 } })); // prettier-ignore
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

  test("released ones go first, then the oldest; a stolen voice is gone in 6 ms", () => {
    const engine = engineWith(makeProject({ amp: { release: { unit: "ms", ms: 5000 } } }));
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
    // 40 dB lie between the softest velocity and the hardest.
    const engine = engineWith(makeProject({ choices: { "playing.makesWay": makesWay, "osc.wave": "sine" }, values: { "amp.level": -50 }, routes: [{ source: "velocity", target: "amp.level", amount: 40 }] })); // prettier-ignore
    for (let k = 0; k < 16; k++) engine.noteOn("part-1", 40 + k, k === 5 ? 20 : 100);
    run(engine, 1280);
    const { lanes } = engine.parts[0]!.bank;
    engine.noteOn("part-1", 90, 1);
    const sound = run(engine, 2560);
    expect([...lanes.key].filter((_, v) => lanes.active[v] === 1).sort((a, b) => a - b)).toEqual([...Array.from({ length: 16 }, (_, k) => 40 + k).filter((k) => k !== gone), 90]); // prettier-ignore
    expect(clickDb(sound)).toBeLessThan(-60);
  });
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

test("keys played by hand are counted in rounds of sixteen", () => {
  const engine = engineWith(makeProject({}));
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
  const engine = playing(spread(4));
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
    return 10 * Math.log10((left.reduce((s, v) => s + v * v, 0) + right.reduce((s, v) => s + v * v, 0)) / left.length);
  };
  expect(Math.abs(power(spread(4), log) - power(spread(1)))).toBeLessThan(1);
  expect(log.notes).toHaveLength(1);
  expect(log.notes[0]!.offSample).toBe(48_000);
});

test("copies that start at a set phase start a golden section of the cycle apart, as loud as copies that know nothing of each other", () => {
  const top = (copies: number): number => {
    const x = run(playing(makeProject({ notes: [note(0, 3840, 57)], values: { "playing.copies": copies, "amp.level": -18, "osc.unison": 1 }, choices: { "osc.wave": "sine", "osc.start": "fixed" }, amp: { sustain: 100 } })), 12_000); // prettier-ignore
    return Math.max(...x.subarray(6000).map(Math.abs));
  };
  const one = top(1);
  for (const copies of [2, 3, 5]) {
    // Sines of one pitch, each turned by 0.381966 of a cycle more than the one before, at the power of one.
    const angle = Math.PI * 0.381966;
    const sum = Math.abs(Math.sin(copies * angle) / Math.sin(angle)) / Math.sqrt(copies);
    expect(top(copies) / one).toBeCloseTo(sum, 2);
  }
});
