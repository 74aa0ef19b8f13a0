import { evenSpread } from "./fill";
import { DRUMS, MAX_KIT_STEPS, type Drum, type KitStep } from "../patch/kinds/kit";

/** How hard a stroke of a groove is, and a soft one. */
export const FULL_STROKE = 110;
export const SOFT_STROKE = 64;

const SILENT: KitStep = { kick: 0, clap: 0, hat: 0 };

/** A bar of sixteenths from a line for each drum: x is a stroke, o a soft one. */
const bar = (lines: Partial<Record<Drum, string>>): readonly KitStep[] =>
  Array.from({ length: 16 }, (_, i): KitStep => {
    const struck = (drum: Drum): number => ({ x: FULL_STROKE, o: SOFT_STROKE })[lines[drum]?.[i] ?? "-"] ?? 0;
    return { kick: struck("kick"), clap: struck("clap"), hat: struck("hat") };
  });

/** A few rhythms to start from: common practice, each a bar of sixteenths. */
export const GROOVES: readonly { readonly name: string; readonly steps: readonly KitStep[] }[] = [
  { name: "Four on the floor", steps: bar({ kick: "x---x---x---x---", clap: "----x-------x---", hat: "--x---x---x---x-" }) },
  { name: "Kick alone", steps: bar({ kick: "x---x---x---x---" }) },
  { name: "Half time", steps: bar({ kick: "x---------x-----", clap: "--------x-------", hat: "x-o-x-o-x-o-x-o-" }) },
  { name: "Broken", steps: bar({ kick: "x-----x---x-----", clap: "----x-------x---", hat: "x-ooxoxox-ooxoxo" }) },
  { name: "Two step", steps: bar({ kick: "x---------x-----", clap: "----x-------x---", hat: "--x-x-x---x-x-xo" }) },
]; // prettier-ignore

/** The steps with one drum's stroke set, 0 for none. */
export const withStroke = (steps: readonly KitStep[], at: number, drum: Drum, velocity: number): readonly KitStep[] =>
  steps[at] && steps[at][drum] !== velocity ? steps.with(at, { ...steps[at], [drum]: velocity }) : steps;

/** A round of another length, 1 to 64: it goes on with its own start, or ends earlier. */
export const withSteps = (steps: readonly KitStep[], length: number): readonly KitStep[] =>
  Array.from(
    { length: Math.min(MAX_KIT_STEPS, Math.max(1, Math.round(length))) },
    (_, i) => steps[i % steps.length] ?? SILENT,
  );

/** Every stroke so many steps later; what falls off the end comes in at the start. */
export const turned = (steps: readonly KitStep[], by: number): readonly KitStep[] =>
  steps.map((_, i) => steps[(((i - by) % steps.length) + steps.length) % steps.length]!);

/** So many strokes of one drum, spread over the round as evenly as whole steps allow. */
export function spread(steps: readonly KitStep[], drum: Drum, hits: number): readonly KitStep[] {
  const struck = evenSpread(hits, steps.length);
  return steps.map((s, i) => ({ ...s, [drum]: struck[i] ? s[drum] || FULL_STROKE : 0 }));
}

/** No strokes at all, or none of one drum. */
export const cleared = (steps: readonly KitStep[], drum?: Drum): readonly KitStep[] =>
  steps.map((s) => ({ ...s, ...Object.fromEntries((drum ? [drum] : DRUMS).map((d) => [d, 0])) }));
