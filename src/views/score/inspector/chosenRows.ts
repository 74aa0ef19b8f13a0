import { useRef } from "react";
import { changedWith, shiftedWith, valuesAt, withValues } from "@/core/patch/together";
import type { Address } from "@/core/patch/address";
import type { Parameter } from "@/core/patch/row";
import { editPatch } from "@/state/edits";
import { useStudio, useView } from "@/views/studio/studio";

/** Rows of values that are chosen together: what a hand does to one of them it does to all that have its unit. */
export function useChosen(address: Address, row: Parameter) {
  const { view, workspace, part } = useStudio();
  const chosen = useView((v) => v.chosenValues.includes(address));
  const others = useView((v) => (chosen ? v.chosenValues.length - 1 : 0));
  /** Where the values stood when the hand took hold. */
  const held = useRef<{ gesture: string; began: ReadonlyMap<Address, number> } | null>(null);

  const choose = (): void =>
    view.setState(({ chosenValues }) => ({
      chosenValues: chosen ? chosenValues.filter((a) => a !== address) : [...chosenValues, address],
    }));

  /** A row that was not chosen with the others is edited alone. */
  const alone = (): void => {
    if (!chosen && view.getState().chosenValues.length > 0) view.setState({ chosenValues: [] });
  };

  /** Sets the chosen values, or with a gesture takes them along; false where this one stands alone. */
  const set = (value: number, gesture: string | undefined): boolean => {
    const { patch } = part;
    const together = changedWith(patch, address, view.getState().chosenValues);
    if (!together.includes(address) || together.length < 2) return false;
    const label = `Set ${row.label.toLowerCase()} of ${together.length} values`;
    if (gesture === undefined) {
      const all = new Map(together.map((a) => [a, value]));
      workspace.store.edit(
        label,
        editPatch(part.id, (p) => withValues(p, all)),
      );
      return true;
    }
    if (held.current?.gesture !== gesture) held.current = { gesture, began: valuesAt(patch, together) };
    const shifted = shiftedWith(held.current.began, address, value, row);
    workspace.store.edit(
      label,
      editPatch(part.id, (p) => withValues(p, shifted)),
      gesture,
    );
    return true;
  };

  return { chosen, others, choose, alone, set };
}
