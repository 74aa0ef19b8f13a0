import * as z from "../zod";
import { ADDRESS, type Address } from "../address";
import { defineKind, type ModuleOf } from "./kind";
import { pointsSchema } from "./shape";

/** Break points of a value over the loop: they stand in for what it is at rest. */
export const AUTOMATION = defineKind({
  kind: "automation",
  label: "Automation",
  role: "automation",
  least: 0,
  most: 24,
  rows: {},
  choices: {},
  times: {},
  data: {
    /** A number of a module that can be moved. */
    target: z.string().check(z.regex(ADDRESS, "an address is owner.parameter")) as unknown as z.Schema<Address>,
    /** From the loop's start to its end; each on the value's own scale, 0 to 1. */
    points: pointsSchema,
  },
});

export type Automation = ModuleOf<typeof AUTOMATION>;
