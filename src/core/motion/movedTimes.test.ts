import { expect, test } from "vitest";
import { ofSource } from "../../../tests/support/heardMotion";
import { note, withStages } from "../../../tests/support/projects";
import { newEnvelope, newMacro } from "../patch/defaults";
import { adjusted } from "../patch/kinds/kind";
import type { Envelope } from "../patch/kinds/envelope";

/** Seconds between the tops of a decay that loops by itself: a sixteenth long, moved by so many octaves at 120 BPM. */
function between(octaves: number, movedTimes: Envelope["choices"]["movedTimes"]): number {
  const decay = withStages(newEnvelope("e", "E"), { attack: { unit: "ms", ms: 0 }, decay: { unit: "note", num: 1, den: 16 }, sustain: 0 }); // prettier-ignore
  const envelope = adjusted(decay, { choices: { loop: "decay", movedTimes } });
  const macro = adjusted(newMacro("m", "M"), { values: { value: 100 } });
  const [n] = ofSource({ notes: [note(0, 3800, 60)], modules: [envelope, macro], routes: [{ source: "m", target: "e.decay", amount: octaves }] }, "e"); // prettier-ignore
  const tops = [...n!.frames].filter((_, i) => i > 1 && n!.rows[i]! > n!.rows[i - 1]! + 0.4);
  expect(tops.length).toBeGreaterThan(1);
  return (tops.at(-1)! - tops[0]!) / (tops.length - 1) / 48_000;
}

// A quarter of a quarter is a sixteenth: 125 ms at 120 BPM. Rows lie 16 frames apart.
test.each([
  [0, 1],
  [0.4, 1],
  [0.7, 2],
  [1.2, 2],
  [1.6, 3],
  [1.95, 4],
  [-3, 1],
])("moved by %d octaves, a decay comes to %d sixteenths", (octaves, sixteenths) => {
  expect(between(octaves, "sixteenths")).toBeCloseTo(0.125 * sixteenths, 3);
  if (octaves > 0) expect(between(octaves, "anywhere")).toBeCloseTo(0.125 * 2 ** octaves, 3);
});
