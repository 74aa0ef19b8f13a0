import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { bandsOf } from "../../../tests/support/bands";
import { columnsOf } from "../../../tests/support/heardMotion";
import { run } from "../../../tests/support/live";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { peak, spectrumDb, toDb } from "../../../tests/support/spectrum";
import { nextHeap } from "../../../tests/support/nextHeap";
import { newFollower, newKit, newPart, newShape } from "../patch/defaults";
import { adjusted } from "../patch/kinds/kind";
import type { Kit, KitStep } from "../patch/kinds/kit";
import { drumEnvelope, kitHits } from "../pattern/backing";
import { envelopeAt } from "../curve/envelope";
import { envelopeProgram } from "../motion/modulators";
import { openProject } from "../patch/migrate";
import type { Project } from "../patch/project";
import { changesBetween } from "./changes";
import { Compiler, compileProject } from "./compile";
import { Engine } from "./engine";
import { renderNow } from "./render";

const NONE: KitStep = { kick: 0, clap: 0, hat: 0 };
/** Steps from a letter each: k, c, h, a comma for nothing; hard, or soft in small letters. */
const stepsOf = (text: string): KitStep[] =>
  Array.from(text, (c) => {
    const drum = ({ k: "kick", c: "clap", h: "hat" } as const)[c.toLowerCase()];
    return drum ? { ...NONE, [drum]: c === c.toUpperCase() ? 127 : 64 } : NONE;
  });
const kitOf = (steps: string, values: Partial<Kit["values"]> = {}): Kit => adjusted(newKit("drums", stepsOf(steps)), { values: { level: -12, ...values } }); // prettier-ignore
const withKit = (backing: Kit, made: Made = {}): Project => ({ ...makeProject({ notes: [], song: { loopBars: 1, tempoBpm: 120 }, ...made }), backing }); // prettier-ignore

const render = (project: Project, sampleRate = 48_000, bars = 1): Float32Array =>
  renderNow(compileProject(project), { sampleRate, bars, tail: "append", backing: true }).left;

/** Frames at which something begins after silence. */
function onsets(x: Float32Array, quietFrames = 500): number[] {
  const found: number[] = [];
  let quiet = Infinity;
  x.forEach((v, i) => {
    if (Math.abs(v) > 1e-4 && quiet > quietFrames) found.push(i);
    quiet = Math.abs(v) > 1e-4 ? 0 : quiet + 1;
  });
  return found;
}

const levelDb = (x: Float32Array, from: number, frames: number): number =>
  toDb(Math.sqrt(x.subarray(from, from + frames).reduce((sum, v) => sum + v * v, 0) / frames) + 1e-12);

describe("the sound of drums", () => {
  test.each([44_100, 48_000, 96_000])("at %d Hz a kick is a sine that falls from six times its pitch", (rate) => {
    const x = render(withKit(kitOf("K,,,,,,,,,,,,,,,", { kickPitch: 55, kickDecay: 300, kickLevel: -3 })), rate);
    const gain = 10 ** ((-12 - 3) / 20);
    let worst = 0;
    for (let i = 0; i < 0.25 * rate; i++) {
      const t = i / rate;
      // The phase is the integral of 55 (1 + 5 e^(-t / 18 ms)), by hand.
      const cycles = 55 * (t + 5 * 0.018 * (1 - Math.exp(-t / 0.018)));
      const y = gain * 10 ** ((-60 * t) / 0.3 / 20) * Math.sin(2 * Math.PI * cycles);
      worst = Math.max(worst, Math.abs(x[i]! - y));
    }
    expect(toDb(worst / gain)).toBeLessThan(-90);
    expect(toDb(peak(x.subarray(0.4 * rate)) / gain)).toBeLessThan(-75);
  });
  test("claps and hats fall by 60 dB in their time, a clap after four strokes", () => {
    const hat = render(withKit(kitOf("H,,,,,,,,,,,,,,,", { hatDecay: 400, hatLevel: 0 })));
    expect(levelDb(hat, 0, 960) - levelDb(hat, 9600, 960)).toBeCloseTo(30, -0.5);
    const clap = render(withKit(kitOf("C,,,,,,,,,,,,,,,", { clapDecay: 500, clapLevel: 0 })));
    const last = 0.027 * 48_000;
    expect(levelDb(clap, last, 960) - levelDb(clap, last + 12_000, 960)).toBeCloseTo(30, -0.5);
    // Each stroke is a good deal louder than what is left of the one before.
    for (const hand of [1, 2, 3]) {
      const at = hand * 0.009 * 48_000;
      expect(levelDb(clap, at, 96) - levelDb(clap, at - 96, 96)).toBeGreaterThan(6);
    }
  });
  test("a clap lies about 1.25 kHz and a hat above 5 kHz, as loud at any rate", () => {
    const bandsAt = (rate: number) => {
      const n = rate === 96_000 ? 16_384 : 8192;
      const bands = (x: Float32Array) => {
        const at = spectrumDb(x.slice(0, n));
        return (low: number, high: number): number => {
          let sum = 0;
          for (let k = Math.ceil((low * n) / rate); k <= (high * n) / rate; k++) sum += 10 ** (at(k) / 10);
          return 10 * Math.log10(sum);
        };
      };
      return {
        hat: bands(render(withKit(kitOf("H,,,,,,,,,,,,,,,", { hatDecay: 1000 })), rate)),
        clap: bands(render(withKit(kitOf("C,,,,,,,,,,,,,,,", { clapDecay: 1000 })), rate)),
      };
    };
    const [slow, fast] = [bandsAt(48_000), bandsAt(96_000)];
    for (const { hat, clap } of [slow, fast]) {
      expect(hat(5000, 20_000) - hat(20, 2500)).toBeGreaterThan(20);
      expect(clap(600, 2600) - clap(5000, 20_000)).toBeGreaterThan(6);
      expect(clap(600, 2600) - clap(20, 250)).toBeGreaterThan(12);
    }
    expect(fast.hat(8000, 16_000)).toBeCloseTo(slow.hat(8000, 16_000), -0.5);
    expect(fast.clap(600, 2600)).toBeCloseTo(slow.clap(600, 2600), -0.5);
  });
  test("every stroke of a drum is alike, wherever it falls, softer ones as much as their velocity says", () => {
    for (const d of ["K", "C", "H"]) {
      const soft = d.toLowerCase();
      const x = render(withKit(kitOf(`${d},,,,${soft},,${d},,${soft},,,,`, { kickDecay: 100, clapDecay: 80, hatDecay: 80 }))); // prettier-ignore
      // As long as even the softer one is not over.
      const first = x.subarray(0, 2400);
      for (const [step, share] of [[5, 64 / 127], [8, 1], [11, 64 / 127]] as const) {
        const other = x.subarray(step * 6000, step * 6000 + 2400);
        let off = 0;
        for (let i = 0; i < 2400; i++) off = Math.max(off, Math.abs(other[i]! - first[i]! * share));
        expect(off, `${d} at step ${step}`).toBeLessThan(1e-6);
      }
    }
  }); // prettier-ignore
  test.each([
    ["K", { kickDecay: 1000, kickPitch: 40 }],
    ["C", { clapDecay: 1000, clapLevel: 0 }],
    ["H", { hatDecay: 1000, hatLevel: 0 }],
  ] as const)("a stroke of %s that is cut by the next one is gone in a moment, without a click", (d, values) => {
    // A 64th later at 300 BPM, 12.5 ms: the hands of a clap still come.
    const step = { times: { step: { unit: "note", num: 1, den: 64 } } } as const;
    const strokes = (which: string): Float32Array => render(withKit(adjusted(kitOf(`${which}${",".repeat(62)}`, values), step), { notes: [], song: { loopBars: 1, tempoBpm: 300 } }));
    const [twice, alone] = [strokes(`${d}${d}`), strokes(`,${d}`)];
    let left = 0;
    for (let i = 600 + 480; i < 9600; i++) left = Math.max(left, Math.abs(twice[i]! - alone[i]!));
    expect(left).toBeLessThan(0.0005);
    if (d !== "K") return;
    // Nothing above 2 kHz that one alone does not have.
    const above = (x: Float32Array): number => {
      const at = spectrumDb(x.slice(600 - 512, 600 + 1536));
      let top = -Infinity;
      for (let k = 86; k < 1024; k++) top = Math.max(top, at(k));
      return top;
    };
    expect(above(twice)).toBeLessThan(Math.max(-85, above(alone) + 3));
  }); // prettier-ignore
});

test("drums stand in the middle: both sides are one and the same", () => {
  const program = compileProject(withKit(kitOf("KCHK", { kickDecay: 90, clapDecay: 80, hatDecay: 30 })));
  const { left, right } = renderNow(program, { sampleRate: 48_000, bars: 1, tail: "cut", backing: true });
  expect(peak(left)).toBeGreaterThan(0.1);
  expect(Buffer.from(right.buffer).equals(Buffer.from(left.buffer))).toBe(true);
});

describe("where drums are struck", () => {
  const short = { kickDecay: 50, hatDecay: 10 };
  test("rounds of steps run through the pass and begin again with it", () => {
    // Twelve sixteenths against sixteen: 6000 frames each.
    const x = render(withKit(kitOf("K,,,,,,,,,,,", short)), 48_000, 2);
    expect(onsets(x).map((f) => Math.round(f / 50) * 50)).toEqual([0, 72_000, 96_000, 168_000]);
  });
  test.each([131, 97.3, 122, 333.3])(
    "the first of each pass is struck, wherever that falls between two frames: %d BPM",
    (tempoBpm) => {
      const bar = (240 / tempoBpm) * 48_000;
      const x = render(withKit(kitOf("K,,,", short), { song: { loopBars: 1, tempoBpm } }), 48_000, 6);
      const found = onsets(x, 3000);
      expect(found).toHaveLength(24);
      found.forEach((f, i) => expect(Math.abs(f - (i * bar) / 4)).toBeLessThan(30));
    },
  );
  test("as followers hear them, drums are there at once and fall by 60 dB in their decay, to nothing", () => {
    for (const [drum, ms] of [["kick", 333], ["clap", 222], ["hat", 111]] as const) {
      const e = drumEnvelope(kitOf("K", { kickDecay: 333, clapDecay: 222, hatDecay: 111 }), drum);
      expect(e.times).toMatchObject({ attack: { unit: "ms", ms: 0 }, hold: { unit: "ms", ms: 0 }, decay: { unit: "ms", ms }, release: { unit: "ms", ms } });
      expect(e.values.sustain).toBe(0);
      const compiled = envelopeProgram(e, { tempoBpm: 120, meter: { beats: 4, unit: 4 } });
      expect(20 * Math.log10(envelopeAt(compiled, ms / 2000, Infinity))).toBeCloseTo(-30, 0);
    }
  }); // prettier-ignore
  test("the song's swing moves them, its pairs counted from each bar", () => {
    const swing = { percent: 66.6667, grid: 16 } as const;
    const x = render(withKit(kitOf("HHHH", short), { song: { loopBars: 2, tempoBpm: 120, meter: { beats: 3, unit: 16 }, swing } }), 48_000, 2);
    // Of three sixteenths the second falls on the triplet, 8000 frames into the pair; the third begins a half pair, straight.
    expect(onsets(x, 300).map((f) => Math.round(f / 100) * 100)).toEqual([0, 8000, 12_000, 18_000, 26_000, 30_000]);
  }); // prettier-ignore
  test("strokes are the same lists while steps, their length and the song are, and others with any of them", () => {
    const kit = kitOf("K,,,");
    const { song } = withKit(kit, { song: { loopBars: 2, tempoBpm: 120 } });
    const known = kitHits(kit, song);
    expect(kitHits({ data: kit.data, times: kit.times }, { ...song, key: { tonic: 3, scale: "major" } })).toBe(known);
    const times = (k: Kit, s: typeof song) => kitHits(k, s).kick.map((h) => h.startTick);
    expect(times(kit, song)).toEqual([0, 960, 1920, 2880, 3840, 4800, 5760, 6720]);
    const eighths = { ...kit, times: { step: { unit: "note", num: 1, den: 8 } } } as const;
    expect(times(eighths, song)).toEqual([0, 1920, 3840, 5760]);
    expect(times(kit, { ...song, loopBars: 1 })).toEqual([0, 960, 1920, 2880]);
    expect(times(kit, { ...song, meter: { beats: 3, unit: 4 } })).toEqual([0, 960, 1920, 2880, 3840, 4800]);
    const swung = kitOf(",K");
    expect(times(swung, song).slice(0, 2)).toEqual([240, 720]);
    expect(times({ ...swung, data: swung.data }, { ...song, swing: { percent: 75, grid: 16 } }).slice(0, 2)).toEqual([360, 840]);
    const timed = { ...kit, times: { step: { unit: "ms", ms: 250 } } } as const;
    expect(times(timed, song)[1]).toBe(1920);
    expect(times(timed, { ...song, tempoBpm: 60 })[1]).toBe(960);
    // Seven steps in a bar are seven, however they are rounded.
    expect(times({ ...kitOf("K"), times: { step: { unit: "note", num: 1, den: 7 } } }, { ...song, loopBars: 3 })).toHaveLength(21);
    // One that would be rounded to the end of the pass is the first of the next one.
    const long = { ...kitOf("K"), times: { step: { unit: "ms", ms: 3999.9 } } } as const;
    expect(times(long, song)).toEqual([0]);
  }); // prettier-ignore
  test("parts that are soloed are heard alone", () => {
    const compiler = new Compiler();
    const project = withKit(kitOf("K"));
    const [part] = project.parts;
    const soloed = { ...project, parts: [{ ...part!, mix: { mute: false, solo: true } }] };
    expect(compiler.compile(project).song.kit).not.toBeNull();
    expect(compiler.compile(soloed).song.kit).toBeNull();
    expect(compiler.compile(project).song.kit).not.toBeNull();
  });
  test("steps of a seventh of a bar do not drift", () => {
    const sevenths = adjusted(kitOf("H", short), { times: { step: { unit: "note", num: 1, den: 7 } } });
    const x = render(withKit(sevenths, { song: { loopBars: 32, tempoBpm: 240 } }), 48_000, 32);
    const found = onsets(x);
    expect(found).toHaveLength(32 * 7);
    // A bar lasts a second; a tick is 12.5 frames.
    found.forEach((f, i) => expect(Math.abs(f - (i * 48_000) / 7)).toBeLessThan(25));
  });
  test("a file has them only where it is asked for, to the end of their sound", () => {
    const project = withKit(kitOf(",,,,,,,,,,,,,,,K", { kickDecay: 500 }));
    const program = compileProject(project);
    const asked = renderNow(program, { sampleRate: 48_000, bars: 1, tail: "append", backing: true });
    expect(asked.frames).toBeGreaterThan(90_000 + 0.5 * 48_000);
    const plain = renderNow(program, { sampleRate: 48_000, bars: 1, tail: "append" });
    expect(peak(plain.left)).toBe(0);
    // Round into the start, the file loops: what the kick still does past the end is there.
    const wrapped = renderNow(program, { sampleRate: 48_000, bars: 1, tail: "wrap", backing: true });
    expect(wrapped.frames).toBe(96_000);
    expect(levelDb(wrapped.left, 0, 4800)).toBeCloseTo(levelDb(asked.left, 96_000, 4800), 1);
  });
  test("played on, switched off and stopped, they end without a word of the parts", () => {
    const heap = nextHeap();
    const engine = new Engine(48_000, heap, { limited: false });
    const on = withKit(kitOf("K,,,,,,,,,,,,,,,", { kickDecay: 1000 }));
    engine.load(compileProject(on));
    engine.play(480);
    expect(peak(run(engine, 1000))).toBe(0);
    run(engine, 96_000 - 12_000 - 1000);
    expect(peak(run(engine, 4800))).toBeGreaterThan(0.1);
    engine.stop();
    // By 60 dB in 80 ms.
    expect(peak(run(engine, 1000))).toBeGreaterThan(0.03);
    run(engine, 2840);
    expect(peak(run(engine, 480))).toBeLessThan(0.001 * 0.4);
    engine.play(0);
    expect(peak(run(engine, 4800))).toBeGreaterThan(0.1);
    engine.load(compileProject({ ...on, backing: { ...on.backing!, on: false } }));
    run(engine, 480);
    expect(peak(run(engine, 480))).toBeLessThan(1e-4);
    expect(engine.sounding).toBe(false);
    // A clap that is stopped before its last hand does not strike it.
    engine.load(compileProject(withKit(kitOf("C,,,,,,,,,,,,,,,", { clapLevel: 0 }))));
    engine.play(0);
    const before = run(engine, 960);
    engine.stop();
    const after = run(engine, 960);
    expect(levelDb(after, 350, 96)).toBeLessThan(levelDb(before, 864, 96) - 12);
  });
});

describe("what hears the backing", () => {
  const follower = adjusted(newFollower("f", "F"), { data: { notesOf: "drums.kick" }, times: { attack: { unit: "ms", ms: 0 }, release: { unit: "note", num: 1, den: 4 } } }); // prettier-ignore
  const route = { source: "f", target: "filter.resonance", amount: -60 } as const;
  const made: Made = { notes: [note(0, 3840, 60)], values: { "filter.resonance": 80 }, modules: [follower], routes: [route] }; // prettier-ignore

  test("a follower hears a drum for its step, by its velocity, heard or not", () => {
    const kit = kitOf("K,,,,,,,k,,,,,,,");
    for (const on of [true, false]) {
      const { low } = columnsOf(withKit({ ...kit, on }, made), "filter.resonance");
      expect(low(0.03)).toBeCloseTo(20, 1);
      // A quarter after the stroke's step is over, 95 % of the way back.
      expect(low((240 + 960) / 3840)).toBeCloseTo(80 - 60 * Math.exp(-3), 0);
      expect(low(0.53)).toBeCloseTo(80 - (60 * 64) / 127, 0);
    }
    // Nothing but the part's own notes where the drum is not there.
    expect(columnsOf(withKit({ ...kit, id: "other" }, made), "filter.resonance").low(0.3)).toBeCloseTo(20, 1);
  });
  test("as its level falls, it hears a drum fall by 60 dB in its time", () => {
    const falls = adjusted(follower, { choices: { level: "shaped" }, times: { release: { unit: "ms", ms: 0 } } });
    const kit = kitOf("K,,,,,,,,,,,,,,,", { kickDecay: 500 });
    const { low } = columnsOf(withKit(kit, { ...made, modules: [falls] }), "filter.resonance");
    const falling = (sec: number): number => 80 - 60 * 10 ** ((-60 * sec) / 0.5 / 20);
    // It hears a shape every 4 ms, and goes along within two of these.
    for (const sec of [0.02, 0.08, 0.2]) {
      expect(low(sec / 2)).toBeLessThan(falling(sec) + 0.5);
      expect(low(sec / 2)).toBeGreaterThan(falling(sec - 0.006) - 0.5);
    }
  });
  test("a shape restarts with its strokes", () => {
    const shape = adjusted(newShape("s", "S"), { data: { notesOf: "drums.kick", points: [{ x: 0, y: 1, tension: 0 }, { x: 1, y: 0, tension: 0 }] }, choices: { restart: "chord" }, values: { smoothing: 0 }, times: { rate: { unit: "bars", bars: 1 } } }); // prettier-ignore
    const { high } = columnsOf(withKit(kitOf("K,,,,K,,,,,,,,,,"), { ...made, modules: [shape], values: { "filter.resonance": 0 }, routes: [{ source: "s", target: "filter.resonance", amount: 80 }] }), "filter.resonance"); // prettier-ignore
    expect(high(0.2)).toBeCloseTo(80 * 0.8, 0);
    expect(high(5 / 16 + 0.2)).toBeCloseTo(80 * 0.8, 0);
  });
  test("what the backing changes is worked out anew, and nothing else", () => {
    const base = withKit(kitOf("K,,,,,,,,,,,,,,,"), made);
    const project: Project = { ...base, parts: [...base.parts, newPart("deaf", "Deaf")] };
    const compiler = new Compiler();
    const before = compiler.compile(project);
    const louder = compiler.compile({ ...project, backing: adjusted(project.backing!, { values: { kickLevel: 3 } }) });
    expect(louder.parts[0]).toBe(before.parts[0]);
    expect(louder.parts[1]).toBe(before.parts[1]);
    expect(louder.song).not.toBe(before.song);
    expect(changesBetween(before, louder).map((c) => c.type)).toEqual(["song"]);
    const other = compiler.compile({ ...project, backing: kitOf(",,,,K,,,,,,,,,,,") });
    expect(other.parts[0]!.sound).not.toBe(before.parts[0]!.sound);
    expect(other.parts[1]).toBe(before.parts[1]);
  });
});

test("a project has one kit, beside its parts, whose id is its own", () => {
  const project = withKit(kitOf("K"));
  expect(openProject(JSON.parse(JSON.stringify(project)))).toMatchObject({ ok: true, project: { backing: { id: "drums", data: { steps: [{ kick: 127, clap: 0, hat: 0 }] } } } }); // prettier-ignore
  expect(openProject({ ...project, backing: undefined })).toMatchObject({ ok: true, project: { backing: null } });
  const part = project.parts[0]!;
  const inPart = { ...project, parts: [{ ...part, patch: { ...part.patch, modules: [...part.patch.modules, { ...project.backing!, id: "own" }] } }] }; // prettier-ignore
  expect(openProject(inPart)).toMatchObject({ ok: false });
  expect(openProject({ ...project, modules: [{ ...project.backing!, id: "own" }] })).toMatchObject({ ok: false });
  expect(openProject({ ...project, backing: { ...project.backing!, id: "osc" } })).toMatchObject({ ok: false });
});

test("the drums sound as they were released: levels of a kick, a clap, a hat and softer ones, each in its bands", () => {
  const released = JSON.parse(readFileSync("tests/fixtures/kit.json", "utf8")) as number[][];
  const { left, right } = renderNow(compileProject(withKit(kitOf("K,,,C,,,H,,,kch,"))), { sampleRate: 48_000, bars: 1, tail: "cut", backing: true }); // prettier-ignore
  const { levels } = bandsOf(left, right, 48_000, 24_000);
  levels.forEach((row, beat) =>
    row.forEach((db, band) =>
      expect(Math.abs(db - released[beat]![band]!), `beat ${beat}, band ${band}`).toBeLessThan(0.05),
    ),
  );
});
