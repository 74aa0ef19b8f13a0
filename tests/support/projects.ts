import { newProject, newRoute } from "@/core/patch/defaults";
import type { Module } from "@/core/patch/kinds";
import type { Envelope } from "@/core/patch/kinds/envelope";
import type { Playing } from "@/core/patch/kinds/playing";
import type { Span } from "@/core/time/span";
import type { Note, Part, Patch, Project, Route, Song } from "@/core/patch/project";

/** Small hand-made projects for tests. */

type MadeRoute = Pick<Route, "source" | "target" | "amount"> & Partial<Route>;

export interface Made {
  readonly song?: Partial<Song>;
  readonly notes?: readonly Omit<Note, "id">[];
  readonly arpeggio?: Partial<Part["arpeggio"]>;
  readonly noteChord?: Part["noteChord"];
  /** How one note is played at a time. */
  readonly playing?: { readonly choices?: Partial<Playing["choices"]>; readonly glide?: Span };
  /** Values and choices by their address: "osc.unison", "filter.cutoff". */
  readonly values?: Readonly<Record<string, number>>;
  readonly choices?: Readonly<Record<string, string>>;
  readonly amp?: Partial<Envelope["values"] & Envelope["times"]>;
  readonly modules?: readonly Module[];
  readonly songModules?: readonly Module[];
  readonly routes?: readonly MadeRoute[];
  readonly seed?: number;
}

/** The envelope that shapes the level in every project made here. */
export const AMP_ENVELOPE = "amp-envelope";

const setIn = (m: Module, field: "values" | "choices", wanted: Readonly<Record<string, unknown>>): Module =>
  Object.entries(wanted).reduce<Module>((done, [address, value]) => {
    const [owner, key] = address.split(".") as [string, string];
    return owner === m.id ? { ...done, [field]: { ...done[field], [key]: value } } : done;
  }, m);

/** Sets values and choices of a patch by their addresses. */
export const withSettings = (
  patch: Patch,
  values: Readonly<Record<string, number>>,
  choices: Readonly<Record<string, string>> = {},
): Patch => ({ ...patch, modules: patch.modules.map((m) => setIn(setIn(m, "values", values), "choices", choices)) });

/** Sets stages and values of an envelope. */
export function withStages(e: Envelope, wanted: Partial<Envelope["values"] & Envelope["times"]>): Envelope {
  const pick = (keys: readonly string[]) =>
    Object.fromEntries(Object.entries(wanted).filter(([k]) => keys.includes(k)));
  return {
    ...e,
    values: { ...e.values, ...pick(Object.keys(e.values)) },
    times: { ...e.times, ...pick(Object.keys(e.times)) },
  };
}

const withPlaying = (m: Playing, { choices, glide }: NonNullable<Made["playing"]> = {}): Playing => ({
  ...m,
  choices: { ...m.choices, ...choices },
  times: glide ? { glide } : m.times,
});

/** 120 BPM, 4/4, one bar; an open filter and a plain gate of an envelope unless said otherwise. */
export function makeProject(made: Made): Project {
  const project = newProject("test", "Test", made.seed ?? 7);
  const part = project.parts[0]!;
  const patch = withSettings(
    part.patch,
    { "filter.cutoff": 20_000, "filter.resonance": 0, ...made.values },
    made.choices,
  );
  const gate = {
    attack: { unit: "ms", ms: 1 },
    decay: { unit: "ms", ms: 0 },
    sustain: 100,
    release: { unit: "ms", ms: 5 },
    ...made.amp,
  } as const;
  return {
    ...project,
    song: { ...project.song, loopBars: 1, ...made.song },
    modules: made.songModules ?? [],
    parts: [
      {
        ...part,
        noteChord: made.noteChord ?? null,
        notes: (made.notes ?? []).map((n, i) => ({ ...n, id: `n${i}` })),
        arpeggio: { ...part.arpeggio, ...made.arpeggio },
        patch: {
          ...patch,
          modules: [
            ...patch.modules.map((m) => (m.kind === "envelope" && m.id === AMP_ENVELOPE ? withStages(m, gate) : m.kind === "playing" ? withPlaying(m, made.playing) : m)), // prettier-ignore
            ...(made.modules ?? []),
          ],
          routes: (made.routes ?? []).map((r, i) => ({ ...newRoute(`r${i}`, r.source, r.target, r.amount), ...r })),
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
