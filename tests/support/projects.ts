import { newProject } from "@/core/patch/defaults";
import type { VoiceParameterId } from "@/core/patch/parameters";
import {
  AMP_ENVELOPE,
  type Envelope,
  type Modulator,
  type Note,
  type Part,
  type Patch,
  type Project,
  type Route,
  type Song,
} from "@/core/patch/project";

/** Small hand-made projects for tests. */

export interface Made {
  readonly song?: Partial<Song>;
  readonly notes?: readonly Omit<Note, "id">[];
  readonly arpeggio?: Partial<Part["arpeggio"]>;
  readonly values?: Partial<Record<VoiceParameterId, number>>;
  readonly choices?: Partial<Patch["choices"]>;
  readonly amp?: Partial<Envelope>;
  readonly modulators?: readonly Modulator[];
  readonly routes?: readonly Route[];
  readonly seed?: number;
}

/** 120 BPM, 4/4, one bar; an open filter and a plain gate of an envelope unless said otherwise. */
export function makeProject(made: Made): Project {
  const project = newProject("test", "Test", made.seed ?? 7);
  const part = project.parts[0]!;
  const amp: Envelope = {
    ...(part.patch.modulators.find((m) => m.id === AMP_ENVELOPE) as Envelope),
    attack: { unit: "ms", ms: 1 },
    decay: { unit: "ms", ms: 0 },
    sustain: 100,
    release: { unit: "ms", ms: 5 },
    ...made.amp,
  };
  return {
    ...project,
    song: { ...project.song, loopBars: 1, ...made.song },
    parts: [
      {
        ...part,
        notes: (made.notes ?? []).map((n, i) => ({ ...n, id: `n${i}` })),
        arpeggio: { ...part.arpeggio, ...made.arpeggio },
        patch: {
          values: { ...part.patch.values, "filter.cutoff": 20_000, "filter.resonance": 0, ...made.values },
          choices: { ...part.patch.choices, ...made.choices },
          modulators: [amp, ...(made.modulators ?? [])],
          routes: made.routes ?? [],
        },
      },
    ],
  };
}

export const note = (startTick: number, lengthTicks: number, key: number, velocity = 127): Omit<Note, "id"> => ({
  startTick,
  lengthTicks,
  key,
  velocity,
});
