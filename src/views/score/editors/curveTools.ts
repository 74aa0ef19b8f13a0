import type { CurvePoint } from "@/core/curve/curve";
import { firstHalf, flipped, holding, onGrid, onSteps, onValues, repeated, reversed, rotated, scaled, shaken, smoothed, stepped } from "@/core/curve/transform"; // prettier-ignore
import { newSeed } from "@/state/ids";
import { LOCKED, type MenuEntry } from "@/ui/menu";

/**
 * What can be done with a whole curve; `snap` is one step of time and of value as shares of the whole, 0 for none, and `inKey`
 * the nearest place that is a note of the song's key.
 */
export function curveTools(
  points: readonly CurvePoint[],
  { inKey, ...snap }: { readonly x: number; readonly y: number; readonly inKey: ((y: number) => number) | null },
  editable: boolean,
  set: (points: readonly CurvePoint[], label: string) => void,
): MenuEntry[] {
  const steps = snap.x > 0 ? Math.round(1 / snap.x) : 0;
  const tool = (text: string, make: () => readonly CurvePoint[], why: string | null = null): MenuEntry => ({
    text,
    why: editable ? why : LOCKED,
    run: () => set(make(), text),
  });
  const noSnap = snap.x > 0 ? null : "There is no snap in time";
  return [
    tool("Reverse", () => reversed(points)),
    tool("Turn upside down", () => flipped(points)),
    tool("A step later", () => rotated(points, snap.x), noSnap),
    tool("A step earlier", () => rotated(points, -snap.x), noSnap),
    tool("Twice in the same time", () => repeated(points)),
    tool("Its first half over all of the time", () => firstHalf(points)),
    tool("Half as high", () => scaled(points, 0.5)),
    tool("Half as high again", () => scaled(points, 1.5)),
    tool("Values on the snap", () => onSteps(points, snap.y), snap.y > 0 ? null : "There is no snap of values"),
    tool("Values on notes of the key", () => onValues(points, inKey!), inKey ? null : "It moves no pitch"),
    tool("Points on the snap in time", () => onGrid(points, snap.x), noSnap),
    tool(
      steps > 0 ? `Into ${Math.min(64, steps)} steps` : "Into steps",
      () => stepped(points, Math.min(64, steps)),
      noSnap,
    ),
    tool("Hold each value until the next point", () => holding(points)),
    tool("Smooth", () => smoothed(points, 0.08)),
    tool("Shake its values", () => shaken(points, 0.15, newSeed())),
  ];
}
