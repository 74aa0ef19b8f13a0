import * as z from "../zod";
import { row } from "../row";
import { EVERY, notesOfSchema, triggersSchema } from "./shape";
import { defineKind, type ModuleOf, type TimeRow } from "./kind";

const stage = (label: string, ms: number): TimeRow => ({
  label,
  default: { unit: "ms", ms },
  min: 0,
  max: 60_000,
  hz: false,
  move: { unit: "oct", reach: 8, first: 1 },
});

const bendRow = (label: string, given: number) =>
  row({ label, unit: "%", min: -100, max: 100, default: given, step: 5, fine: 1, move: { unit: "%", reach: 200, first: 50 } }); // prettier-ignore

/**
 * Rises from 0 to 1, falls to its sustain, and to 0 when the key is let go. Where all notes share it, routes do not move its
 * times and curves.
 */
export const ENVELOPE = defineKind({
  kind: "envelope",
  label: "Envelope",
  role: "modulator",
  least: 1,
  most: 24,
  rows: {
    sustain: row({ label: "Sustain", unit: "%", min: 0, max: 100, default: 60, digits: 1, move: { unit: "%", reach: 100, first: 20 } }),
    attackCurve: bendRow("Attack curve", 0),
    decayCurve: bendRow("Decay curve", 50),
    releaseCurve: bendRow("Release curve", 50),
    every: EVERY,
  },
  choices: {
    /** With each note; or as shapes start again, for all notes together: then nothing lets it go. */
    restart: { label: "Starts", options: ["note", "song", "bar", "triggers", "chord", "rest", "hand"], default: "note" },
    /** What runs again and again while the key is held. */
    loop: { label: "Loops", options: ["none", "decay", "all"], default: "none" },
    /** Where times come to that something moves: anywhere, or to whole sixteenths. */
    movedTimes: { label: "Moved times", options: ["anywhere", "sixteenths"], default: "anywhere" },
  },
  times: { delay: stage("Delay", 0), attack: stage("Attack", 2), hold: stage("Hold", 0), decay: stage("Decay", 200), release: stage("Release", 120) },
  data: { triggers: z._default(z.readonly(triggersSchema), []), notesOf: notesOfSchema },
}); // prettier-ignore

export type Envelope = ModuleOf<typeof ENVELOPE>;
