import * as z from "zod/mini";
import en from "zod/v4/locales/en.js";

// The small build of Zod: a page loads what it uses. Its policy forbids eval, and Zod's probe for it would count as a
// violation. The settings are read when a schema is made, so that every schema is made from what stands here.
z.config({ jitless: true, ...en() });

export type Schema<T = unknown> = z.ZodMiniType<T>;

/** A number within bounds, both included. */
export const within = (min: number, max: number) => z.number().check(z.minimum(min), z.maximum(max));
/** A whole number within bounds, both included. */
export const whole = (min: number, max: number) => z.int().check(z.minimum(min), z.maximum(max));
/** Text of so many characters. */
export const text = (min: number, max: number) => z.string().check(z.minLength(min), z.maxLength(max));
/** A list of so many things. */
export const listOf = <T extends z.core.SomeType>(item: T, min: number, max: number) =>
  z.array(item).check(z.minLength(min), z.maxLength(max));
/** The name of a thing: something other than space. */
export const nameText = () => z.string().check(z.trim(), z.minLength(1, "a name is needed"), z.maxLength(80));

export {
  _default, boolean, describe, discriminatedUnion, enum, extend, literal, nullable, number, object, optional, prefault, readonly, refine, regex,
  string, superRefine, union, unknown, type core, type output, type ZodMiniNumber,
} from "zod/mini"; // prettier-ignore
