import { modulesOf } from "@/core/patch/kinds";
import { FILTER } from "@/core/patch/kinds/filter";
import { NOISE } from "@/core/patch/kinds/noise";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import { RECORDING } from "@/core/patch/kinds/recording";
import { SUB } from "@/core/patch/kinds/sub";
import type { Patch } from "@/core/patch/project";

/** What can be added to the sound of a part, by its kind. */
export const ADDABLE_SOUND = { oscillator: OSCILLATOR, noise: NOISE, recording: RECORDING, sub: SUB, filter: FILTER } as const; // prettier-ignore
export type AddableSound = keyof typeof ADDABLE_SOUND;

/** Why no more of a kind can be added; null when one can. */
export function fullOf(patch: Patch, sound: AddableSound): string | null {
  const kind = ADDABLE_SOUND[sound];
  return modulesOf(patch.modules, kind).length >= kind.most ? `A part holds ${kind.most} ${kind.label.toLowerCase()}s` : null; // prettier-ignore
}
