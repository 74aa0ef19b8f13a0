import { newKit } from "@/core/patch/defaults";
import type { Kit, KitStep } from "@/core/patch/kinds/kit";
import type { Edit } from "./projectStore";

/** Pure edits of the backing. Each leaves the project as it is when nothing changes. */

/** Adds a backing where there is none. */
export const addBacking =
  (id: string, steps: readonly KitStep[]): Edit =>
  (p) =>
    p.backing ? p : { ...p, backing: newKit(id, steps) };

export const removeBacking: Edit = (p) => (p.backing ? { ...p, backing: null } : p);

const editBacking =
  (change: (kit: Kit) => Kit): Edit =>
  (p) => {
    const backing = p.backing && change(p.backing);
    return backing === p.backing ? p : { ...p, backing };
  };

/** Whether it is heard; what follows it does so all the same. */
export const setBackingOn = (on: boolean): Edit => editBacking((kit) => (kit.on === on ? kit : { ...kit, on }));

export const setBackingSteps = (change: (steps: readonly KitStep[]) => readonly KitStep[]): Edit =>
  editBacking((kit) => {
    const steps = change(kit.data.steps);
    return steps === kit.data.steps ? kit : { ...kit, data: { steps } };
  });
