import { describe, expect, test } from "vitest";
import { engineWith, playing, run } from "../../../tests/support/live";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import { HASH, madeTable } from "../../../tests/support/recordings";
import { peak } from "../../../tests/support/spectrum";
import { newEnvelope } from "../patch/defaults";
import { newModule } from "../patch/kinds/kind";
import { adjusted } from "../patch/kinds/kind";
import { NOISE } from "../patch/kinds/noise";
import { RECORDING } from "../patch/kinds/recording";
import { SUB } from "../patch/kinds/sub";
import type { Module } from "../patch/kinds";
import type { Project } from "../patch/project";

const FRAMES = 7_000;

function rendered(project: Project): Float32Array {
  const engine = engineWith(project, { tables: madeTable });
  engine.play(0);
  return run(engine, FRAMES);
}

/**
 * Peak of the difference between notes that are played together, starting at all sorts of frames, and the sum of each by
 * itself, against the peak of the sound: voices share nothing, whatever kernel works on four of them at once.
 */
function apart(keys: readonly number[], project: (notes: NonNullable<Made["notes"]>) => Project): number {
  const notes = keys.map((key, i) => note(37 * i, 400 - 21 * i, key));
  const together = rendered(project(notes));
  const alone = notes.map((n) => rendered(project([n])));
  const difference = together.map((v, i) => v - alone.reduce((sum, one) => sum + one[i]!, 0));
  expect(peak(together)).toBeGreaterThan(1e-3);
  return peak(difference) / peak(together);
}

const KEYS = [40, 47, 52, 59, 64, 69];

test("voices of a group turn their corners alone", () => {
  const stages = { attack: { unit: "ms", ms: 3 }, decay: { unit: "ms", ms: 11 }, sustain: 40, release: { unit: "ms", ms: 7 } } as const; // prettier-ignore
  const keys = [40, 43, 47, 50, 54, 57, 61, 64, 68];
  expect(apart(keys, (notes) => makeProject({ amp: stages, values: { "amp.level": -30 }, notes }))).toBeLessThan(1e-5);
});

describe("filters of notes that are played together", () => {
  const plain = newEnvelope("pluck", "Pluck");
  const envelope = { ...plain, times: { ...plain.times, attack: { unit: "ms", ms: 4 }, decay: { unit: "ms", ms: 90 }, release: { unit: "ms", ms: 50 } } } as const; // prettier-ignore
  test.each(["hp24", "bp24", "notch24", "allpass", "vowel", "ladder", "combUp", "combDown"])("%s", (type) => {
    const made = (notes: NonNullable<Made["notes"]>): Project =>
      makeProject({
        notes,
        modules: [envelope],
        routes: [{ source: "pluck", target: "filter.cutoff", amount: 3 }],
        values: { "amp.level": -30, "filter.cutoff": 400, "filter.resonance": 50, "filter.apart": 5 },
        choices: { "filter.type": type },
      });
    // Where a neighbour has a corner the cutoff runs straight in octaves, elsewhere in the coefficients.
    expect(apart(KEYS, made)).toBeLessThan(1e-3);
  });
});

describe("sources of notes that are played together", () => {
  /** A source of its own beside an oscillator that is silent. */
  const beside = (source: Module): Made & { cable: string } => ({
    values: { "osc.level": -60 },
    modules: [source],
    cable: source.id,
  });
  const noise = (choices: Parameters<typeof adjusted<ReturnType<typeof plainNoise>>>[1]["choices"], rate = 20_000) =>
    beside(adjusted(plainNoise(), { choices: choices ?? {}, values: { rate } }));
  const plainNoise = () => newModule(NOISE, "noise", "Noise", {});
  const cases: Record<string, Made & { readonly cable?: string }> = {
    "white noise": noise({ colour: "white" }),
    "pink noise": noise({ colour: "pink" }),
    "brown noise, sampled and held": noise({ colour: "brown" }, 900),
    "a recording": beside(newModule(RECORDING, "rope", "Rope", { recording: HASH })),
    "a sub": beside(adjusted(newModule(SUB, "sub", "Sub", {}), { choices: { wave: "saw" } })),
    "unison of seven": { values: { "osc.unison": 7 } },
    "a pulse": { choices: { "osc.wave": "pulse" }, values: { "osc.pulseWidth": 20 } },
    "a table": { choices: { "osc.wave": "table" }, values: { "osc.position": 30, "osc.unison": 3 } },
    "a fold in hard sync": {
      choices: { "osc.wave": "sine", "osc.bend1": "fold", "osc.bend2": "sync" },
      values: { "osc.bend1": 60, "osc.bend2": 40 },
    },
    "turned within and by itself": {
      choices: { "osc.wave": "sine" },
      values: { "osc.inner": 3, "osc.ratio": 2.5, "osc.feedback": 1 },
    },
    "what comes back from behind the amp": { values: { "amp.feedback": 6, "filter.cutoff": 900 } },
    "a table whose voices start apart": {
      choices: { "osc.wave": "table", "osc.start": "fixed" },
      values: { "osc.unison": 5, "osc.phase": 70 },
    },
    "bent, and started where it is set": {
      choices: { "osc.wave": "saw", "osc.bend1": "fold", "osc.start": "fixed" },
      values: { "osc.bend1": 30, "osc.phase": 100, "osc.unison": 3 },
    },
    "a driven filter": { values: { "filter.drive": 18, "filter.cutoff": 900 } },
  };

  test.each(Object.keys(cases))("%s", (name) => {
    const { cable, ...made } = cases[name]!;
    const project = (notes: NonNullable<Made["notes"]>): Project => {
      const p = makeProject({ ...made, values: { "osc.unison": 1, "amp.level": -24, ...made.values }, notes });
      if (cable === undefined) return p;
      const [part] = p.parts;
      const cables = [...part!.patch.cables, { from: cable, to: "filter" }];
      return { ...p, parts: [{ ...part!, patch: { ...part!.patch, cables } }] };
    };
    expect(apart(KEYS, project)).toBeLessThan(1e-4);
  });
});

test("where more corners fall into a stretch than there are rows, none is lost: each waits no longer than its sub-block", () => {
  // At 400 BPM a tick is 7.5 frames: 16 notes, as many as sound, start one after the other, and each turns three corners within 4 ms.
  const stages = { attack: { unit: "ms", ms: 67 / 48 }, hold: { unit: "ms", ms: 71 / 48 }, decay: { unit: "ms", ms: 73 / 48 }, sustain: 50, decayCurve: 0, release: { unit: "ms", ms: 5 } } as const; // prettier-ignore
  const project = (notes: NonNullable<Made["notes"]>): Project =>
    makeProject({ song: { tempoBpm: 400 }, amp: stages, choices: { "osc.wave": "sine" }, values: { "amp.level": -40, "osc.unison": 1 }, notes }); // prettier-ignore
  const notes = Array.from({ length: 16 }, (_, i) => note(i, 380, 40 + 2 * i));
  const short = (p: Project): Float32Array => run(playing(p), 3200);
  const together = short(project(notes));
  const alone = notes.map((n) => short(project([n])));
  const off = together.map((v, i) => v - alone.reduce((sum, one) => sum + one[i]!, 0));
  const top = peak(together);
  // A rise of 67 frames whose corner waits for up to 16 is off by as much of its height, in every voice at the most.
  expect(peak(off) / top).toBeLessThan(16 / 67);
  // Once all corners are turned, none has left a trace.
  expect(peak(off.subarray(800)) / top).toBeLessThan(1e-4);
});
