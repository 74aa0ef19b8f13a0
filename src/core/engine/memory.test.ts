import fc from "fast-check";
import { expect, test } from "vitest";
import { arbitraryProject } from "../../../tests/support/arbitraryProject";
import { rise } from "../../../tests/support/heardMotion";
import { project as oscillator } from "../../../tests/support/oneOscillator";
import { note } from "../../../tests/support/projects";
import { HASH, madeTable } from "../../../tests/support/recordings";
import { tableName } from "../dsp/tableSpec";
import { newOscillator } from "../patch/defaults";
import { demoProject } from "../patch/demo";
import { FILTER } from "../patch/kinds/filter";
import type { Module } from "../patch/kinds";
import { newModule } from "../patch/kinds/kind";
import { NOISE } from "../patch/kinds/noise";
import { OSCILLATOR, type Oscillator } from "../patch/kinds/oscillator";
import { RECORDING } from "../patch/kinds/recording";
import type { Patch, Project } from "../patch/project";
import { compileProject } from "./compile";
import { Engine } from "./engine";
import { Heap } from "./heap";
import { tablesOf } from "./program";

const GUARD = 16_384;
/** What lies before all that the compiler keeps: an address that is missing leads there. */
const NOWHERE = 1024;
const MARKS = new Uint8Array(GUARD).fill(0x5a);

/** Puts marked bytes behind each block: who writes past its own leaves a trace. */
class GuardedHeap extends Heap {
  private readonly guards = new Map<number, number>();
  /** What was given back and never taken, or taken with another size. */
  readonly strange: string[] = [];

  override take(bytes: number): number {
    const size = Math.ceil(bytes / 16) * 16;
    const at = super.take(size + GUARD);
    new Uint8Array(this.buffer, at + size, GUARD).set(MARKS);
    this.guards.set(at, size);
    return at;
  }
  override give(at: number, bytes: number): void {
    if (this.guards.get(at) !== Math.ceil(bytes / 16) * 16) this.strange.push(`${bytes} bytes at ${at}`);
    this.guards.delete(at);
    super.give(at, Math.ceil(bytes / 16) * 16 + GUARD);
  }
  /** Sizes of the blocks that were written past. */
  broken(): number[] {
    return [...this.guards].flatMap(([at, size]) =>
      Buffer.from(this.buffer, at + size, GUARD).equals(MARKS) ? [] : [size],
    );
  }
  get blocks(): number {
    return this.guards.size;
  }
}

test("no kernel writes past the memory that it was given, whatever it plays", () => {
  // Tables between their frames at the lowest key, where a level is longest: as they are, and bent.
  const tables = (["table", "corners"] as const).flatMap((wave) =>
    ["none", "fold"].map(
      (bend) =>
      oscillator({ notes: [note(0, 3840, 0), note(0, 3840, 127)], choices: { "osc.wave": wave, "osc.bend1": bend }, values: { "osc.unison": 16, "osc.position": 37, "osc.upward": 61, "osc.octave": -2, "osc.bend1": 40 }, modules: [rise("r", 7)], routes: [{ source: "r", target: "osc.position", amount: 50 }] }), // prettier-ignore
    ),
  );
  // A source that goes nowhere, and turns another one.
  const aside = oscillator({ notes: [note(0, 3840, 60)], modules: [newOscillator("other", "Other")] }, { pmFrom: "other" }, (p) => ({ ...p, cables: p.cables.filter((c) => c.from !== "other") })); // prettier-ignore
  const projects = [demoProject("d"), ...tables, aside, ...fc.sample(arbitraryProject, { numRuns: 3, seed: 11 })];
  for (const project of projects) {
    const heap = new GuardedHeap();
    const engine = new Engine(48_000, heap, { tables: madeTable });
    engine.load(compileProject(project));
    engine.play(0);
    engine.process(new Float32Array(1024), new Float32Array(1024), 1024);
    for (const part of project.parts) engine.noteOn(part.id, 2, 127);
    engine.process(new Float32Array(1024), new Float32Array(1024), 1024);
    expect(heap.blocks).toBeGreaterThan(10);
    expect(heap.broken()).toEqual([]);
    expect(Buffer.from(heap.buffer, 0, NOWHERE).equals(Buffer.alloc(NOWHERE))).toBe(true);
  }
});

test("what comes and goes while ten voices sound writes to nothing but its own, and gives all of it back", () => {
  const heap = new GuardedHeap();
  const engine = new Engine(48_000, heap, { tables: madeTable, limited: false });
  const base = { notes: [], values: { "filter.drive": 6, "filter.mix": 80, "amp.feedback": -30, "osc.bend1": 20 } };
  const filtered = (p: Patch): Patch => ({ ...p, cables: [{ from: "osc", to: "filter" }, { from: "filter", to: "amp" }] }); // prettier-ignore
  const more = (m: Module, data: Partial<Oscillator["data"]> = {}): Project =>
    oscillator({ ...base, modules: [m] }, data, (p) => ({ ...filtered(p), cables: [...filtered(p).cables, { from: m.id, to: "filter" }] })); // prettier-ignore
  const recording = newModule(RECORDING, "rope", "Rope", { recording: HASH });
  const other = (p: Project): Project => ({ ...p, parts: p.parts.map((part) => ({ ...part, id: "part-2" })) });
  const plain = oscillator(base);
  const projects = [
    ...[
      ...FILTER.choices.type.options.map((type) => ({ "filter.type": type })),
      ...OSCILLATOR.choices.wave.options.map((wave) => ({ "osc.wave": wave })),
      { "osc.wave": "table", "osc.bend1": "fold" },
    ].map((choices) => oscillator({ ...base, choices }, {}, filtered)),
    // Nothing drives, nothing mixes, nothing comes back.
    oscillator({ notes: [] }, {}, filtered),
    more(newModule(NOISE, "hiss", "Hiss", {})),
    more(newModule(NOISE, "hiss", "Hiss", {}), { pmFrom: "hiss" }),
    more(recording),
    more(recording, { pmFrom: "rope", ringFrom: "rope" }),
    other(plain),
    plain,
  ];
  // Tables that came in the first round stay for the next ones.
  const [, before, after] = [1, 2, 3].map(() =>
    projects.map((made) => {
      const part = made.parts[0]!.id;
      engine.load(compileProject(made));
      for (let k = 0; k < 10; k++) engine.noteOn(part, 40 + k, 90);
      engine.process(new Float32Array(960), new Float32Array(960), 960);
      for (let k = 0; k < 10; k++) engine.noteOff(part, 40 + k);
      // Another project's parts fade away before they are forgotten.
      engine.process(new Float32Array(4800), new Float32Array(4800), 4800);
      expect(heap.broken(), JSON.stringify(made.parts[0]!.patch.modules)).toEqual([]);
      return heap.blocks;
    }),
  );
  expect(after).toEqual(before);
  // A module's memory goes with it: that of noise, of its channel for others, and of a part.
  const without = before!.at(-1)!;
  expect(before!.at(-6)! - without).toBeGreaterThanOrEqual(3);
  expect(heap.strange).toEqual([]);
  // Tables that nothing reads any more go when they are told to.
  const held = heap.blocks;
  const tables = tablesOf(compileProject(projects[9]!)).map(tableName);
  engine.dropTables(tables);
  expect(heap.blocks).toBeLessThanOrEqual(held - 2 * tables.length);
  expect(tables.map((name) => heap.tableAt(name))).toEqual(tables.map(() => 0));
  engine.dropTables(["there is none"]);
  expect(heap.strange).toEqual([]);
});
