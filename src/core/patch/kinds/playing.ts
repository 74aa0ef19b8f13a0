import { wholeRow } from "../row";
import { defineKind, type ModuleOf } from "./kind";

/** How notes are played. */
export const PLAYING = defineKind({
  kind: "playing",
  label: "Playing",
  role: "rule",
  least: 0,
  most: 1,
  rows: {
    /** Copies of the whole voice that a note starts; the place of each, -1 to 1, is a source. */
    copies: wholeRow({ label: "Copies", unit: "", min: 1, max: 8, default: 1 }),
  },
  choices: {},
  times: {},
  data: {},
});

export type Playing = ModuleOf<typeof PLAYING>;
