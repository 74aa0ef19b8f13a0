import { LANES, SLIDE_NOTE, type LaneId, type LaneKind, type StepLane } from "@/core/patch/lanes";
import { formatAmount } from "@/core/patch/valueText";
import { noteValueName } from "@/core/time/noteValue";

/** A lane's value as it reads: a word where it has one, else a number with its unit; signed where it counts both ways. */
export function laneValueText(id: LaneId, value: number): string {
  const kind: LaneKind = LANES[id];
  // Sixty-fourths read as the note value that they make; halves of them as they are.
  if (id === "slide")
    return value === 0 ? "none" : noteValueName({ num: Math.round(value * 2), den: 2 * SLIDE_NOTE.den });
  return kind.names?.[value] ?? formatAmount(value, kind.row.unit, kind.row.digits, kind.around);
}

export const DIRECTION_TEXT: Record<StepLane["direction"], string> = {
  forward: "forward",
  backward: "backward",
  pendulum: "there and back",
  random: "random",
};
