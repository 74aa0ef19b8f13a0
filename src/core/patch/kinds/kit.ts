import * as z from "../zod";
import { row } from "../row";
import { defineKind, type ModuleOf } from "./kind";

/** What a kit strikes. */
export const DRUMS = ["kick", "clap", "hat"] as const;
export type Drum = (typeof DRUMS)[number];

/** Steps that a kit's round has at the most. */
export const MAX_KIT_STEPS = 64;

const velocity = z._default(z.whole(0, 127), 0);

const LEVEL = { unit: "dB", min: -48, max: 6, digits: 1, offAtMin: true } as const;

/** A few drums that stand in for the song while a sound is made: heard with it, and followed like a part. */
export const KIT = defineKind({
  kind: "kit",
  label: "Backing",
  role: "backing",
  least: 0,
  // No part has one: it is the song's.
  most: 0,
  rows: {
    level: row({ ...LEVEL, label: "Level", default: -6, hint: "All drums of the backing together." }),
    kickLevel: row({ ...LEVEL, label: "Kick", default: 0 }),
    kickPitch: row({ label: "Kick pitch", unit: "Hz", min: 30, max: 120, default: 50, digits: 1, taper: "log", step: 2 ** (1 / 12), fine: 2 ** (1 / 120), hint: "Where the kick comes to rest; it begins six times as high." }),
    kickDecay: row({ label: "Kick decay", unit: "ms", min: 50, max: 1000, default: 320, taper: "log", step: 1.1, fine: 1.01, hint: "Time in which the kick falls by 60 dB." }),
    clapLevel: row({ ...LEVEL, label: "Clap", default: -6 }),
    clapDecay: row({ label: "Clap decay", unit: "ms", min: 30, max: 1000, default: 220, taper: "log", step: 1.1, fine: 1.01, hint: "Time in which the clap falls by 60 dB, after its four strokes." }),
    hatLevel: row({ ...LEVEL, label: "Hat", default: -12 }),
    hatDecay: row({ label: "Hat decay", unit: "ms", min: 10, max: 1000, default: 90, taper: "log", step: 1.1, fine: 1.01, hint: "Time in which the hat falls by 60 dB." }),
  },
  choices: {},
  times: {
    step: { label: "Step", default: { unit: "note", num: 1, den: 16 }, min: 50, max: 10_000, hz: false, move: null },
  },
  data: {
    /** How hard each drum is struck on each step of the round, as MIDI velocity; 0 is not at all. */
    steps: z.readonly(z.listOf(z.object({ kick: velocity, clap: velocity, hat: velocity }), 1, MAX_KIT_STEPS)),
  },
}); // prettier-ignore

export type Kit = ModuleOf<typeof KIT>;
export type KitStep = Kit["data"]["steps"][number];
