import { row } from "../row";
import { defineKind, newModule, type ModuleOf } from "./kind";

/** How loud a part is among the others, and where: all of its notes together. Below its lowest level it is silent. */
export const MIX = defineKind({
  kind: "mix",
  label: "Part",
  role: "mix",
  least: 0,
  most: 1,
  rows: {
    level: row({ label: "Level", unit: "dB", min: -60, max: 12, default: 0, digits: 1, offAtMin: true, move: { unit: "dB", reach: 60, first: -12 } }),
    pan: row({ label: "Pan", unit: "%", min: -100, max: 100, default: 0, step: 5, fine: 1, move: { unit: "%", reach: 200, first: 50 } }),
  },
  choices: {},
  times: {},
  data: {},
}); // prettier-ignore

export type Mix = ModuleOf<typeof MIX>;

/** The id that it has in every part, unless an older file has given that away. */
const MIX_ID = "part";

export const newMix = (id: string = MIX_ID): Mix => newModule(MIX, id, "the part", {});
