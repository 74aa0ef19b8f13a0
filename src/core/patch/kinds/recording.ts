import * as z from "../zod";
import { row, wholeRow } from "../row";
import { defineKind, type DataOf, type ModuleOf } from "./kind";
import { SOURCE_ROWS } from "./source";

/** The SHA-256 of a thing's bytes, which the document names among its binaries; null for none yet. */
export const binaryId = z._default(
  z.nullable(z.string().check(z.regex(/^[0-9a-f]{64}$/, "a SHA-256 has 64 hexadecimal digits"))),
  null,
);

const place = (label: string, given: number, hint: string) =>
  row({ label, unit: "%", min: 0, max: 100, default: given, digits: 1, step: 1, fine: 0.1, hint, move: { unit: "%", reach: 100, first: 10 } }); // prettier-ignore

/** A recorded sound, once or round and round, at its own pitch or by the keys. */
export const RECORDING = defineKind({
  kind: "recording",
  label: "Recording",
  role: "source",
  least: 0,
  most: 2,
  rows: {
    ...SOURCE_ROWS,
    pitch: row({ label: "Pitch", unit: "st", min: -24, max: 48, default: 0, digits: 2, move: { unit: "st", reach: 48, first: 12 } }),
    fine: row({ label: "Fine", unit: "ct", min: -100, max: 100, default: 0, digits: 1, move: { unit: "ct", reach: 1200, first: 20 } }),
    /** The key at which it sounds as it was recorded. */
    root: wholeRow({ label: "Root key", unit: "key", min: 0, max: 127, default: 60, hint: "The key at which it sounds as it was recorded." }),
    from: place("From", 0, "Where it begins with each note; a route to it counts at the note's start."),
    scatter: row({ label: "Drawn start", unit: "%", min: 0, max: 100, default: 0, digits: 1, hint: "How much further each note may begin, drawn from the project's seed." }),
    to: place("To", 100, "Where it ends, or goes back."),
    back: place("Back to", 0, "Where a loop goes back to."),
    seam: row({ label: "Seam", unit: "ms", min: 0, max: 500, default: 10, digits: 1, hint: "The end of a loop is blended into what comes before its start over this time, so that it does not click." }),
  },
  choices: {
    plays: { label: "Plays", options: ["once", "looped"], default: "once" },
    keys: { label: "Keys", options: ["follows", "fixed"], default: "follows" },
  },
  times: {},
  data: { recording: binaryId },
}); // prettier-ignore

export type RecordingModule = ModuleOf<typeof RECORDING>;

/** What files without it mean. */
export const RECORDING_DATA: DataOf<typeof RECORDING> = { recording: null };
