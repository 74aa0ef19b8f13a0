import { splitAddress, type Address } from "./address";
import { modulesOf, type Module } from "./kinds";
import { AMP } from "./kinds/amp";
import type { Envelope } from "./kinds/envelope";
import type { Filter } from "./kinds/filter";
import type { Oscillator } from "./kinds/oscillator";
import type { Playing } from "./kinds/playing";
import type { Patch } from "./project";

/** Which of a module's values do something as its choices stand: the others may be moved all the same, and are not heard. */

const HAS_POSITION: ReadonlySet<Oscillator["choices"]["wave"]> = new Set(["table", "drawn", "corners", "cycles"]);
const HAS_WIDTH: ReadonlySet<Filter["choices"]["type"]> = new Set(["bp12", "bp24", "notch12", "notch24", "allpass"]);

/** Whether a filter of a type has a width apart from its resonance. */
export const hasWidth = (type: Filter["choices"]["type"]): boolean => HAS_WIDTH.has(type);

function oscillatorUses({ choices, values, data }: Oscillator, key: string): boolean {
  switch (key) {
    case "pulseWidth":
      return choices.wave === "pulse";
    case "position":
      return HAS_POSITION.has(choices.wave);
    case "upward":
      return choices.wave === "corners";
    case "weighting":
      return choices.wave === "harmonics";
    case "bend1":
      return choices.bend1 !== "none";
    case "bend2":
      return choices.bend2 !== "none";
    case "pm":
      return data.pmFrom !== null;
    case "ring":
      return data.ringFrom !== null;
    case "ratio":
      return values.inner > 0 && choices.innerPitch === "ratio";
    case "innerHz":
      return values.inner > 0 && choices.innerPitch === "hz";
    case "detune":
    case "width":
      return values.unison > 1;
    default:
      return true;
  }
}

const filterUses = ({ choices, id }: Filter, key: string, patch: Patch): boolean => {
  if (key === "vowel") return choices.type === "vowel";
  if (key === "width") return hasWidth(choices.type);
  if (key !== "onward") return true;
  return patch.cables.some((c) => c.from === id && patch.modules.some((m) => m.id === c.to && m.kind === "filter"));
};

const playingUses = ({ choices, values }: Playing, key: string): boolean => {
  if (key === "glide") return choices.voices === "one";
  return key === "copiesDetune" || key === "copiesWidth" ? values.copies > 1 : true;
};

/** An envelope that all notes share has no release; the one that shapes the level is each note's own, whatever it says. */
const envelopeUses = (patch: Patch, m: Envelope, key: string): boolean =>
  m.choices.restart === "note" ||
  (key !== "release" && key !== "releaseCurve") ||
  modulesOf(patch.modules, AMP).some((amp) => amp.data.envelope === m.id);

/** Whether the value at an address is heard when it moves; true for what is not in the patch. */
export function inUse(patch: Patch, address: Address): boolean {
  const { owner, parameter } = splitAddress(address);
  const module: Module | undefined = patch.modules.find((m) => m.id === owner);
  switch (module?.kind) {
    case "oscillator":
      return oscillatorUses(module, parameter);
    case "playing":
      return playingUses(module, parameter);
    case "filter":
      return filterUses(module, parameter, patch);
    case "envelope":
      return envelopeUses(patch, module, parameter);
    case "shape":
      return parameter !== "fadeIn" || module.choices.restart !== "song";
    case "random":
      return parameter !== "rate" || module.choices.draws === "rate";
    default:
      return true;
  }
}
