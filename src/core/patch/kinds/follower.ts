import { row, wholeRow } from "../row";
import { defineKind, type ModuleOf } from "./kind";
import { notesOfSchema } from "./shape";

/** The level of notes that a part plays, while they are held or as their envelope shapes them, with a time to rise and one to fall. */
export const FOLLOWER = defineKind({
  kind: "follower",
  label: "Follower",
  role: "modulator",
  least: 0,
  most: 24,
  rows: {
    lowest: wholeRow({ label: "From", unit: "key", min: 0, max: 127, default: 0, hint: "The lowest key that it hears." }),
    highest: wholeRow({ label: "To", unit: "key", min: 0, max: 127, default: 127, hint: "The highest key that it hears." }),
    held: row({ label: "Hears", unit: "ms", min: 1, max: 2000, default: 2000, taper: "log", step: 1.25, fine: 1.02, hint: "How long it hears a note that is held on: short for hits." }),
  },
  choices: {
    /** Whether louder notes count more, and whether each is heard as the part's level envelope shapes it. */
    level: { label: "Level", options: ["velocity", "alike", "shaped"], default: "velocity" },
  },
  times: {
    /** In which it comes to 95 % of the way. */
    attack: { label: "Attack", default: { unit: "ms", ms: 5 }, min: 0, max: 60_000, hz: false, move: { unit: "oct", reach: 8, first: 1 } },
    release: { label: "Release", default: { unit: "ms", ms: 120 }, min: 0, max: 60_000, hz: false, move: { unit: "oct", reach: 8, first: 1 } },
  },
  data: {
    /** The part whose notes it hears; null for its own. */
    notesOf: notesOfSchema,
  },
}); // prettier-ignore

export type Follower = ModuleOf<typeof FOLLOWER>;
