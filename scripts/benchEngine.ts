/** Runs in a Chromium page: our engine and the browser's own nodes at the same work, in turn, so that ratios hold. */
import { makeTable, tableMaker } from "@/core/dsp/tables";
import { changesBetween } from "@/core/engine/changes";
import { Compiler, compileProject } from "@/core/engine/compile";
import { Engine } from "@/core/engine/engine";
import { Heap } from "@/core/engine/heap";
import { warmUp } from "@/core/engine/warmUp";
import type { Program } from "@/core/engine/program";
import { watchLoop, type Watched } from "@/core/engine/watch";
import { demoProject } from "@/core/patch/demo";
import type { Project } from "@/core/patch/project";
import { busy } from "./benchMotion";
import { RECORDINGS, layered, modules, nativeLayered } from "./benchVoice";
import { DETUNE, KEYS, OCTAVES, REST_HZ, UNISON, longSong, manyTexts, orchestra, stack } from "./benchWork";

const RATE = 48_000;
const BLOCK = 128;
const TABLES = { tables: tableMaker(RECORDINGS) };

/** Seconds of sound per second for a program. */
function ourSpeed(program: Program, seconds: number): number {
  const engine = new Engine(RATE, new Heap(), TABLES);
  const left = new Float32Array(BLOCK);
  const right = new Float32Array(BLOCK);
  engine.load(program);
  engine.play(0);
  const blocks = Math.round((seconds * RATE) / BLOCK);
  const from = performance.now();
  for (let b = 0; b < blocks; b++) engine.process(left, right, BLOCK);
  return seconds / ((performance.now() - from) / 1000);
}

/** The same with native nodes: 128 saws with panners, two biquads a voice with the cutoff moved, a gain. */
async function nativeSpeed(rate: "a-rate" | "k-rate", seconds: number): Promise<number> {
  const context = new OfflineAudioContext(2, seconds * RATE, RATE);
  const lfo = new OscillatorNode(context, { frequency: 1 });
  const depth = new GainNode(context, { gain: OCTAVES * 1200 });
  lfo.connect(depth);
  lfo.start();
  KEYS.forEach((key) => {
    const filters = [0, 1].map(() => {
      const filter = new BiquadFilterNode(context, { type: "lowpass", frequency: REST_HZ });
      filter.detune.automationRate = rate;
      filter.frequency.automationRate = rate;
      depth.connect(filter.detune);
      return filter;
    });
    const pluck = new ConstantSourceNode(context, { offset: 0 });
    pluck.offset.setValueAtTime(1800, 0);
    pluck.offset.setTargetAtTime(0, 0, 0.1);
    filters.forEach((f) => pluck.connect(f.detune));
    pluck.start();
    const amp = new GainNode(context, { gain: 0 });
    amp.gain.linearRampToValueAtTime(0.02, 0.002);
    filters[0]!.connect(filters[1]!).connect(amp).connect(context.destination);
    for (let u = 0; u < UNISON; u++) {
      const place = (2 * u) / (UNISON - 1) - 1;
      const saw = new OscillatorNode(context, {
        type: "sawtooth",
        frequency: 440 * 2 ** ((key - 69) / 12),
        detune: place * DETUNE,
      });
      saw.connect(new StereoPannerNode(context, { pan: place * 0.7 })).connect(filters[0]!);
      saw.start();
    }
  });
  const from = performance.now();
  await context.startRendering();
  return seconds / ((performance.now() - from) / 1000);
}

const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;

/** Milliseconds of the first block that sounds, after a warm-up and without one. */
function firstBlockMs(program: Program, warm: boolean): number {
  const engine = new Engine(RATE, warm ? warmUp(program, RATE, TABLES) : new Heap(), TABLES);
  const out = new Float32Array(BLOCK);
  engine.load(program);
  engine.play(0);
  const from = performance.now();
  engine.process(out, new Float32Array(BLOCK), BLOCK);
  return performance.now() - from;
}

/** How much longer a block takes in the silence after notes than while they sound. */
function silenceRatio(program: Program): number {
  const engine = new Engine(RATE, new Heap(), TABLES);
  const out = new Float32Array(BLOCK);
  const time = (blocks: number): number => {
    const from = performance.now();
    for (let b = 0; b < blocks; b++) engine.process(out, out, BLOCK);
    return performance.now() - from;
  };
  engine.load(program);
  engine.play(0);
  time(400);
  const sounding = time(1500);
  engine.stop();
  time(20);
  return time(1500) / sounding;
}

const usesOf = (program: Program, sources: boolean): Watched[] =>
  program.parts.map((p) => ({
    addresses: p.sound.motion.uses.map((u) => u.address).filter((a) => /pitch|level|cutoff|resonance|pan$/.test(a)),
    sources: sources ? Object.keys(p.sound.motion.sources) : [],
  }));

function timed<T>(run: () => T): { ms: number; result: T } {
  const from = performance.now();
  const result = run();
  return { ms: performance.now() - from, result };
}

/** Milliseconds of an edit of one value in the largest project: compiled, and copied as a message is. */
function editMs(): { ms: number; noteBytes: number } {
  let project: Project = longSong(4096, true);
  const compiler = new Compiler();
  let sent = compiler.compile(project);
  const all: number[] = [];
  let noteBytes = 0;
  for (let i = 0; i < 20; i++) {
    const part = project.parts[3]!;
    const modules = part.patch.modules.map((m) =>
      m.kind === "filter" ? { ...m, values: { ...m.values, cutoff: 500 + i } } : m,
    );
    project = { ...project, parts: project.parts.with(3, { ...part, patch: { ...part.patch, modules } }) };
    const { ms, result } = timed(() => {
      const program = compiler.compile(project);
      const changes = changesBetween(sent, program);
      structuredClone(changes);
      sent = program;
      return changes;
    });
    all.push(ms);
    for (const c of result) if (c.type === "events" || c.type === "part") noteBytes++;
  }
  return { ms: median(all), noteBytes };
}

/** Longest block around a change of wave while the stack sounds. */
function waveChangeMs(): { ms: number; usual: number } {
  const engine = new Engine(RATE, new Heap(), TABLES);
  const project = stack();
  const compiler = new Compiler();
  engine.setTable("saw", makeTable({ kind: "wave", wave: "saw" }));
  engine.setTable("triangle", makeTable({ kind: "wave", wave: "triangle" }));
  engine.load(compiler.compile(project));
  engine.play(0);
  const left = new Float32Array(BLOCK);
  const right = new Float32Array(BLOCK);
  const blocks = (count: number): number[] =>
    Array.from({ length: count }, () => timed(() => engine.process(left, right, BLOCK)).ms);
  blocks(400);
  const usual = median(blocks(200));
  const worst = [0, 1, 2, 3, 4].map((i) => {
    const part = project.parts[0]!;
    const modules = part.patch.modules.map((m) =>
      m.kind === "oscillator"
        ? { ...m, choices: { ...m.choices, wave: i % 2 ? ("saw" as const) : ("triangle" as const) } }
        : m,
    );
    const program = structuredClone(
      compiler.compile({ ...project, parts: [{ ...part, patch: { ...part.patch, modules } }] }),
    );
    const load = timed(() => engine.load(program)).ms;
    return load + Math.max(...blocks(20));
  });
  return { ms: median(worst), usual };
}

/** Nanoseconds that a module takes a voice and sample: both projects in turn, the best of some runs each. */
function moduleCosts(): { name: string; ns: number }[] {
  const VOICES = 16;
  return modules().map(({ name, with: one, without }) => {
    const [a, b] = [compileProject(one), compileProject(without)];
    let [fast, plain] = [0, 0];
    for (let r = 0; r < 4; r++) {
      fast = Math.max(fast, ourSpeed(a, 1));
      plain = Math.max(plain, ourSpeed(b, 1));
    }
    return { name, ns: ((1 / fast - 1 / plain) * 1e9) / (VOICES * RATE) };
  });
}

/** Share of real time that motion takes of 16 voices, and of what the engine takes for them; and 48 curves of four bars. */
function motionCost(): { ofTime: number; ofEngine: number; curvesMs: number } {
  const moving = compileProject({ ...busy(true), song: { ...busy(true).song, loopBars: 4 } });
  const still = compileProject(busy(false));
  warmUp(moving, RATE, TABLES);
  warmUp(still, RATE, TABLES);
  const shares = Array.from({ length: 3 }, () => [1 / ourSpeed(moving, 2), 1 / ourSpeed(still, 2)] as const);
  const all = median(shares.map(([m]) => m));
  const motion = median(shares.map(([m, s]) => m - s));
  const { motion: program } = moving.parts[0]!.sound;
  const moved = [...new Set([...program.uses.map((u) => u.address), ...(Object.keys(program.targets) as Watched["addresses"])])]; // prettier-ignore
  const watched = [{ addresses: moved.slice(0, 48), sources: [] }];
  const curves = Array.from({ length: 5 }, () => timed(() => watchLoop(moving, RATE, watched, 1024)).ms);
  return { ofTime: motion, ofEngine: motion / all, curvesMs: median(curves.slice(1)) };
}

/** As often as the worker of the curves runs before anybody waits for it. */
const WARM_RUNS = 16;

/** Milliseconds of the demo's curves, those of the part in view as in the application; in a page where nothing else has run. */
function curves(): number {
  const demo = demoProject("demo");
  const seen = compileProject(demo, demo.parts[0]!.id);
  const watched = usesOf(seen, true);
  const runs = Array.from({ length: WARM_RUNS + 15 }, () => timed(() => watchLoop(seen, RATE, watched, 1024)).ms);
  return median(runs.slice(WARM_RUNS));
}

async function bench(rounds: number) {
  const coldFirst = firstBlockMs(compileProject(demoProject("cold")), false);
  const program = compileProject(stack());
  const shaken = compileProject(stack(true));
  const demo = compileProject(demoProject("demo"));
  warmUp(program, RATE, TABLES);
  warmUp(shaken, RATE, TABLES);
  const ours: number[] = [];
  const vibrato: number[] = [];
  const perBlock: number[] = [];
  const perSample: number[] = [];
  for (let r = 0; r < rounds; r++) {
    // About as long as the native nodes take for their four seconds.
    ours.push(ourSpeed(program, 24));
    vibrato.push(ourSpeed(shaken, 24));
    perBlock.push(await nativeSpeed("k-rate", 4));
    perSample.push(await nativeSpeed("a-rate", 4));
  }
  const three = compileProject(layered());
  warmUp(three, RATE, TABLES);
  const deep = [];
  for (let r = 0; r < Math.min(3, rounds); r++)
    deep.push({
      ours: ourSpeed(three, 12),
      perBlock: await nativeLayered("k-rate", 2),
      perSample: await nativeLayered("a-rate", 2),
    });
  const long = compileProject(longSong(512, false));
  const longWatched = usesOf(long, false);
  const longMs = timed(() => watchLoop(long, RATE, longWatched, 1024)).ms;
  const many = compileProject(orchestra());
  return {
    ours: median(ours),
    perBlock: median(perBlock),
    perSample: median(perSample),
    ratioPerBlock: median(ours.map((o, i) => o / perBlock[i]!)),
    ratioPerSample: median(ours.map((o, i) => o / perSample[i]!)),
    vibrato: median(vibrato.map((v, i) => v / ours[i]!)),
    orchestra: ourSpeed(many, 1),
    layered: {
      ours: median(deep.map((d) => d.ours)),
      perBlock: median(deep.map((d) => d.ours / d.perBlock)),
      perSample: median(deep.map((d) => d.ours / d.perSample)),
    },
    modules: moduleCosts(),
    motion: motionCost(),
    demoSpeed: median(Array.from({ length: 5 }, () => ourSpeed(demo, 8))),
    longMs,
    edit: editMs(),
    wave: waveChangeMs(),
    coldFirst,
    warmFirst: firstBlockMs(demo, true),
    silence: silenceRatio(program),
  };
}

let running: Engine | null = null;

/** Plays on with the demo for so many blocks. */
function playDemo(blocks: number): void {
  if (!running) {
    running = new Engine(RATE, new Heap(), TABLES);
    running.load(compileProject(demoProject("demo")));
    running.play(0);
  }
  const left = new Float32Array(BLOCK);
  const right = new Float32Array(BLOCK);
  for (let b = 0; b < blocks; b++) running.process(left, right, BLOCK);
}

Object.assign(globalThis, {
  clovikBench: bench,
  clovikCurves: curves,
  clovikDemo: playDemo,
  clovikProjects: manyTexts,
});
