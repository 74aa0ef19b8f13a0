import { newEnvelope, newRoute, newShape } from "@/core/patch/defaults";
import { kindOf } from "@/core/patch/kinds";
import { demoProject } from "@/core/patch/demo";
import {
  MAX_MODULATORS,
  MAX_NOTES,
  MAX_PARTS,
  MAX_ROUTES,
  type Note,
  type Part,
  type Project,
} from "@/core/patch/project";

/** The largest valid documents, each in one way. */

const demo = demoProject("largest");
const first = demo.parts[0]!;
const withParts = (change: (part: Part, index: number) => Part, song: Partial<Project["song"]> = {}): Project => ({
  ...demo,
  song: { ...demo.song, loopBars: 32, ...song },
  parts: Array.from({ length: MAX_PARTS }, (_, i) => change({ ...first, id: `part-${i}`, name: `Part ${i + 1}` }, i)),
});

const LONG_BAR = { beats: 32, unit: 2 } as const;
const BAR_TICKS = 32 * 2 * 960;
const id = (part: number, note: number): string =>
  `00000000-0000-4000-8000-${String(part * 100_000 + note).padStart(12, "0")}`;
const held = (part: number, count: number): Note[] =>
  Array.from({ length: count }, (_, i) => ({
    id: id(part, i),
    startTick: 0,
    lengthTicks: 32 * BAR_TICKS,
    key: 20 + 5 * i,
    velocity: 100,
  }));

export const LARGEST: Readonly<Record<string, () => Project>> = {
  /** Every step of a chord of sixteen over four octaves, for two hours. */
  "a chord arpeggio": () =>
    withParts(
      (part, p) => ({
        ...part,
        notes: held(p, 16),
        arpeggio: { ...part.arpeggio, on: true, order: "chord", octaves: 4, rate: { num: 1, den: 96 } },
      }),
      { meter: LONG_BAR, tempoBpm: 20 },
    ),
  "notes held for two hours": () =>
    withParts((part, p) => ({ ...part, notes: held(p, 16), arpeggio: { ...part.arpeggio, on: false } }), {
      meter: LONG_BAR,
      tempoBpm: 20,
    }),
  "as many notes as parts hold": () =>
    withParts((part, p) => ({
      ...part,
      notes: Array.from({ length: MAX_NOTES }, (_, i) => ({
        id: id(p, i),
        startTick: 30 * i,
        lengthTicks: 1920,
        key: i % 128,
        velocity: 1 + (i % 127),
      })),
    })),
  "as many modulators and routes as parts hold": () =>
    withParts((part) => {
      const own = part.patch.modules.filter((m) => kindOf(m).role !== "modulator");
      const kept = part.patch.modules.filter((m) => m.kind === "envelope").slice(0, 1);
      const more = Array.from({ length: MAX_MODULATORS - kept.length }, (_, i) =>
        i % 2 ? newEnvelope(`m${i}`, `Modulator ${i}`) : newShape(`m${i}`, `Modulator ${i}`),
      );
      const modules = [
        ...own.map((m) => (m.kind === "amp" ? { ...m, data: { envelope: kept[0]!.id } } : m)),
        ...kept,
        ...more,
      ];
      const routes = Array.from({ length: MAX_ROUTES }, (_, i) =>
        newRoute(`r${i}`, `m${i % more.length}`, i % 2 ? "filter.cutoff" : "osc.pitch", 1),
      );
      return { ...part, patch: { ...part.patch, modules, routes } };
    }),
};
