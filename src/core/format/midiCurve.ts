/** How a curve is said in MIDI 1.0: a controller of 7 bits, one of 14 in two messages, or pitch bend. */
export type MidiCurveForm =
  | { readonly kind: "7 bit"; readonly controller: number }
  /** Controllers 0 to 31 have their fine half 32 above. */
  | { readonly kind: "14 bit"; readonly controller: number }
  | { readonly kind: "bend" };

/** A curve as it was read at some places; it holds its value between them, as a controller does. */
export interface MidiCurve {
  readonly form: MidiCurveForm;
  /** In order of ticks; values 0 to 1, or -1 to 1 for a bend. */
  readonly points: readonly { readonly tick: number; readonly value: number }[];
  /** How far what is sent may be from the curve, as a share of its range; never less than half of a step of the form. */
  readonly error: number;
}

/** One message: a controller, or a bend where that is null (-8192 to 8191). */
export interface CurveMessage {
  readonly tick: number;
  readonly controller: number | null;
  readonly value: number;
}

/** A value within what a form can say. */
const inRange = (form: MidiCurveForm, value: number): number =>
  Math.min(1, Math.max(form.kind === "bend" ? -1 : 0, value));

/** A value within range as a form counts it; a bend has 8192 steps down and 8191 up, so that its middle is exact. */
function counted(form: MidiCurveForm, value: number): number {
  switch (form.kind) {
    case "7 bit":
      return 127 * value;
    case "14 bit":
      return 16_383 * value;
    case "bend":
      return (value < 0 ? 8192 : 8191) * value;
    default:
      return form satisfies never;
  }
}

/** The lowest and the highest whole number whose values lie within the error of one: at least the nearest. */
function numbersNear({ form, error }: MidiCurve, wanted: number): { from: number; to: number } {
  const value = inRange(form, wanted);
  const reach = form.kind === "bend" ? 2 * error : error;
  const from = Math.ceil(counted(form, inRange(form, value - reach)));
  const to = Math.floor(counted(form, inRange(form, value + reach)));
  const nearest = Math.round(counted(form, value));
  return from > to ? { from: nearest, to: nearest } : { from, to };
}

/**
 * The messages that say a curve. Each value is held for as long as one can lie within the error of all the places that were
 * read: so none of them is missed by more, with as few messages as holding values allows.
 */
export function curveMessages(curve: MidiCurve): CurveMessage[] {
  const { form } = curve;
  const runs: { tick: number; from: number; to: number }[] = [];
  for (const p of curve.points) {
    const { from, to } = numbersNear(curve, p.value);
    const run = runs.at(-1);
    if (run && from <= run.to && to >= run.from) {
      run.from = Math.max(run.from, from);
      run.to = Math.min(run.to, to);
    } else runs.push({ tick: p.tick, from, to });
  }
  const out: CurveMessage[] = [];
  let sent: number | null = null;
  for (const { tick, from, to } of runs) {
    const value = Math.round((from + to) / 2);
    if (form.kind === "bend") out.push({ tick, controller: null, value });
    else if (form.kind === "7 bit") out.push({ tick, controller: form.controller, value });
    else {
      // The coarse half sets the fine one back to nothing (MIDI 1.0), so the fine one follows; it goes alone where it can.
      if (sent === null || sent >> 7 !== value >> 7) out.push({ tick, controller: form.controller, value: value >> 7 });
      out.push({ tick, controller: form.controller + 32, value: value & 127 });
      sent = value;
    }
  }
  return out;
}
