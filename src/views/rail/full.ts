import { MAX_PARTS } from "@/core/patch/project";

/** Why no part can be added. */
export const FULL = `A project holds ${MAX_PARTS} parts`;
