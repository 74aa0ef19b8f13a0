/** What motion costs: 24 modulators of every kind and 48 routes on sixteen held voices. */
import { newEnvelope, newGate, newMacro, newRandom, newRoute, newShape, newSteps } from "@/core/patch/defaults";
import { isModulator, type Modulator } from "@/core/patch/kinds";
import { splitAddress } from "@/core/patch/address";
import type { Project } from "@/core/patch/project";
import { targetsOf } from "@/core/patch/targets";
import { stack } from "./benchWork";
import { adjusted } from "@/core/patch/kinds/kind";

const MODULATORS = 24;
const ROUTES = 48;

const KINDS: readonly ((id: string) => Modulator)[] = [
  (id) => newShape(id, id),
  (id) => adjusted(newShape(id, id), { choices: { restart: "note" } }),
  (id) => newEnvelope(id, id),
  (id) => newSteps(id, id),
  (id) => adjusted(newSteps(id, id), { choices: { restart: "note" } }),
  (id) => newRandom(id, id),
  (id) => newGate(id, id),
  (id) => ({ ...newMacro(id, id), values: { value: 40, low: 0, high: 100, curve: 30 } }),
];

/** Values that, once moved, take a dearer way through oscillator and filter. */
const DEARER: ReadonlySet<string> = new Set(["inner", "feedback", "ratio", "innerHz", "drive", "apart", "mix", "bend1", "bend2", "ring", "pm", "position", "upward"]); // prettier-ignore

/** With its motion, or with the same modulators that move nothing. */
export function busy(moving: boolean): Project {
  const still = stack();
  const part = still.parts[0]!;
  const own = part.patch.modules;
  const kept = own.filter((m) => !isModulator(m) || own.some((a) => a.kind === "amp" && a.data.envelope === m.id));
  const modulators = Array.from({ length: MODULATORS - 1 }, (_, i) => KINDS[i % KINDS.length]!(`m${i}`));
  const patch = { ...part.patch, modules: [...kept, ...modulators], routes: [] };
  // Values that glide at a small amount: how far they go costs nothing. What makes the sound go another way is left out.
  const targets = targetsOf(patch, []).filter((t) => t.role !== "route" && !DEARER.has(splitAddress(t.address).parameter)); // prettier-ignore
  const routes = Array.from({ length: ROUTES }, (_, i) => {
    const source = modulators[i % modulators.length]!.id;
    const free = targets.filter((t) => splitAddress(t.address).owner !== source);
    const { address, move } = free[(i * 7) % free.length]!;
    return { ...newRoute(`r${i}`, source, address, move.reach * 0.02), on: moving };
  });
  return { ...still, parts: [{ ...part, patch: { ...patch, routes } }] };
}
