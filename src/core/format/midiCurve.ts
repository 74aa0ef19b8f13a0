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

interface Code {
  /** The whole numbers whose values lie within an error of one, lowest and highest: at least the nearest. */
  readonly within: (value: number, error: number) => readonly [number, number];
}

const scaled =
  (steps: number): Code["within"] =>
  (value, error) => {
    const low = Math.ceil(steps * (value - error) - 1e-9);
    const high = Math.floor(steps * (value + error) + 1e-9);
    const nearest = Math.round(steps * value);
    return low > high ? [nearest, nearest] : [low, high];
  };

/** How values are counted: a bend has 8192 steps down and 8191 up, so that its middle is exact. */
function codeOf(form: MidiCurveForm): { low: number; range: number } & Code {
  switch (form.kind) {
    case "7 bit":
      return { low: 0, range: 1, within: scaled(127) };
    case "14 bit":
      return { low: 0, range: 1, within: scaled(16_383) };
    case "bend":
      return { low: -1, range: 2, within: (v, error) => [scaled(v - error < 0 ? 8192 : 8191)(v, error)[0], scaled(v + error < 0 ? 8192 : 8191)(v, error)[1]] };
    default:
      return form satisfies never;
  }
} // prettier-ignore

/**
 * The messages that say a curve. Each value is held for as long as one can lie within the error of all the places that were
 * read: so none of them is missed by more, with as few messages as holding values allows.
 */
export function curveMessages({ form, points, error }: MidiCurve): CurveMessage[] {
  const { low, range, within } = codeOf(form);
  const most = form.kind === "7 bit" ? 127 : form.kind === "14 bit" ? 16_383 : 8191;
  const least = form.kind === "bend" ? -8192 : 0;
  const runs: { tick: number; from: number; to: number }[] = [];
  for (const p of points) {
    const [a, b] = within(Math.min(1, Math.max(low, p.value)), error * range);
    const [from, to] = [Math.max(least, a), Math.min(most, b)];
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
