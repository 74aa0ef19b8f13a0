import { MAX_POINTS, compileCurve, curveAt } from "../curve/curve";
import { compileSequence, sequenceAt } from "../motion/sequence";
import { newShape, newSteps } from "./defaults";
import type { Shape } from "./kinds/shape";
import type { Steps } from "./kinds/steps";
import { MAX_NOTE_VALUE } from "../time/noteValue";
import { spanMs, type Span, type TimeBase } from "../time/span";

/** Jumps that a curve has room for. */
const MOST_PARTS = MAX_POINTS / 2;
/** Steps that a cycle of a shape becomes. */
const COUNT = 16;

/** A shape's cycle as sixteen steps, each at the value of its middle, in the same time. */
export function asSteps(shape: Shape, id: string, name: string): Steps {
  const curve = compileCurve(shape.data.points);
  const made = newSteps(id, name);
  const steps = Array.from({ length: COUNT }, (_, i) => ({
    ...made.data.steps[0]!,
    value: curveAt(curve, (i + 0.5) / COUNT),
  }));
  return {
    ...made,
    values: { ...made.values, phase: shape.values.phase, smoothing: shape.values.smoothing },
    choices: { restart: shape.choices.restart, rateOf: "all", atJumps: shape.choices.atJumps },
    times: { rate: shape.times.rate },
    data: { steps, triggers: shape.data.triggers, notesOf: shape.data.notesOf },
  };
}

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));

/** So many times a length: a note value where there is one, else milliseconds. */
function times(span: Span, count: number, base: TimeBase): Span {
  if (span.unit === "note") {
    const by = gcd(span.num * count, span.den);
    const num = (span.num * count) / by;
    if (num <= MAX_NOTE_VALUE.num) return { unit: "note", num, den: span.den / by };
  }
  if (span.unit === "bars" && span.bars * count <= 32) return { unit: "bars", bars: span.bars * count };
  return { unit: "ms", ms: Math.min(60_000, spanMs(span, base) * count) };
}

/** A sequence's first row as a shape of one round: as it is without chance. */
export function asShape(m: Steps, id: string, name: string, base: TimeBase): Shape {
  const count = m.data.steps.length;
  const sure = compileSequence(
    m.data.steps.map((s) => ({ ...s, chance: 100 })),
    0,
  );
  // Flat steps are as many jumps; others are followed by small ones.
  const flat = m.data.steps.every((s) => s.form === "flat" && s.glide === 0);
  const parts = flat ? count : MOST_PARTS;
  const points = Array.from({ length: parts }, (_, i) => sequenceAt(sure, (i + 0.5) / parts, 0, 0)).flatMap((y, i) =>
    [i, i + 1].map((k) => ({ x: k / parts, y, tension: 0 })),
  );
  const made = newShape(id, name);
  return {
    ...made,
    values: { ...made.values, phase: m.values.phase, smoothing: m.values.smoothing },
    choices: { ...made.choices, restart: m.choices.restart },
    times: { ...made.times, rate: m.choices.rateOf === "all" ? m.times.rate : times(m.times.rate, count, base) },
    data: { points, triggers: m.data.triggers, notesOf: m.data.notesOf },
  };
}
