import type { CurvePoint } from "@/core/curve/curve";
import { automationOf, writtenPoints } from "@/core/patch/automation";
import type { Address } from "@/core/patch/address";
import { AUTOMATION } from "@/core/patch/kinds/automation";
import type { Part } from "@/core/patch/project";
import { toNorm, type Parameter } from "@/core/patch/row";
import { loopTicks } from "@/core/pattern/events";
import { editModule } from "@/state/edits";
import { newGesture } from "@/ui/gesture";
import type { Studio } from "@/views/studio/studio";

/** What a hand has written since it took hold, over which points. */
interface Writing {
  readonly gesture: string;
  readonly over: readonly CurvePoint[];
  readonly places: { x: number; y: number }[];
}

let writing: Writing | null = null;

/**
 * Writes a value that a hand sets while it plays into the automation of that value, at the place that is heard now. False
 * where nothing is to be written: the value is then set at rest.
 */
export function writeMove({ view, session, workspace }: Studio, part: Part, address: Address, row: Parameter, value: number, gesture: string | undefined): boolean {
  const automation = automationOf(part.patch, address);
  const now = session.snapshot();
  if (!view.getState().writing || !automation?.on || !now?.playing) return false;
  const { song } = workspace.store.getState().project;
  const x = Math.min(1, Math.max(0, now.loopTick / loopTicks(song)));
  const y = Math.min(1, Math.max(0, toNorm(row, value)));
  const goesOn = gesture !== undefined && writing?.gesture === gesture && writing.places.at(-1)!.x < x;
  // Round the loop's end the hand writes over what it has just written.
  if (!goesOn) writing = { gesture: gesture ?? newGesture(), over: automation.data.points, places: [] };
  writing!.places.push({ x, y });
  const points = writtenPoints(writing!.over, writing!.places);
  workspace.store.edit(`Write ${automation.name}`, editModule(part.id, AUTOMATION, automation.id, (m) => ({ ...m, data: { ...m.data, points } })), gesture);
  return true;
} // prettier-ignore
