import { newModule } from "@/core/patch/kinds/kind";
import { STEPS, type SequenceStep, type Steps } from "@/core/patch/kinds/steps";
import type { Span } from "@/core/time/span";

/** Step sequences for tests, each step at a value and sure to be played, unless more is said. */

export const step = (value: number, more: Partial<SequenceStep> = {}): SequenceStep => ({
  value,
  second: 0,
  form: "flat",
  glide: 0,
  chance: 100,
  hold: false,
  ...more,
});

export const steps = (list: readonly SequenceStep[], choices: Partial<Steps["choices"]> = {}, rate: Span = { unit: "note", num: 1, den: 4 }, values: Partial<Steps["values"]> = {}): Steps => {
  const made = newModule(STEPS, "seq", "Sequence", { steps: list, triggers: [], notesOf: null });
  return { ...made, values: { ...made.values, smoothing: 0, ...values }, choices: { ...made.choices, ...choices }, times: { rate } };
}; // prettier-ignore
