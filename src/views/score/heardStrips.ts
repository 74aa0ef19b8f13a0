import { splitAddress, type Address } from "@/core/patch/address";
import { automationOf } from "@/core/patch/automation";
import { addressOfRow, kindOf, modulesOf, type Module } from "@/core/patch/kinds";
import { AMP } from "@/core/patch/kinds/amp";
import { AUTOMATION } from "@/core/patch/kinds/automation";
import { FILTER } from "@/core/patch/kinds/filter";
import { MIX } from "@/core/patch/kinds/mix";
import { NOISE } from "@/core/patch/kinds/noise";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import { RECORDING } from "@/core/patch/kinds/recording";
import { SUB } from "@/core/patch/kinds/sub";
import type { Part, Patch } from "@/core/patch/project";
import { sourcesOf } from "@/core/patch/targets";
import type { TimeBase } from "@/core/time/span";
import { heardValue } from "./heardTracks";

/** Which values stand on the grid as they are heard, and what they are called. */

/** Addresses of values that something moves, each once. */
export const movedAddresses = (patch: Patch): Address[] => [
  ...new Set([...patch.routes.map((r) => r.target), ...modulesOf(patch.modules, AUTOMATION).map((a) => a.data.target)]),
];

/** Addresses whose as-heard curves are strips: the filters' cutoffs, the sources' pitches, the level, and that of the part where something moves it. */
export const heardAddresses = (patch: Patch): Address[] => [
  ...modulesOf(patch.modules, FILTER).map((m) => addressOfRow(m, FILTER.rows.cutoff)),
  ...modulesOf(patch.modules, OSCILLATOR).map((m) => addressOfRow(m, OSCILLATOR.rows.pitch)),
  ...modulesOf(patch.modules, NOISE).map((m) => addressOfRow(m, NOISE.rows.level)),
  ...modulesOf(patch.modules, SUB).map((m) => addressOfRow(m, SUB.rows.pitch)),
  ...modulesOf(patch.modules, RECORDING).map((m) => addressOfRow(m, RECORDING.rows.pitch)),
  ...modulesOf(patch.modules, AMP).map((m) => addressOfRow(m, AMP.rows.level)),
  ...modulesOf(patch.modules, MIX)
    .map((m) => addressOfRow(m, MIX.rows.level))
    .filter((a) => movedAddresses(patch).includes(a)),
];

/** Addresses of all strips of what is heard: the usual ones, and those that were asked for besides, where they are moved still. */
export const heardStripAddresses = (patch: Patch, asked: readonly Address[], base: TimeBase): Address[] => {
  const usual = heardAddresses(patch);
  const moved = asked.length > 0 ? movedAddresses(patch) : [];
  return [...usual, ...asked.filter((a) => !usual.includes(a) && moved.includes(a) && heardValue(patch, a, base))];
};

/** The label of a value, with its module's name where there are several of the kind. */
export function heardTitle(patch: Patch, address: Address): string {
  const { owner, parameter } = splitAddress(address);
  const module = patch.modules.find((m) => m.id === owner);
  if (!module) return "";
  const { rows, times } = kindOf(module);
  const label = (rows[parameter] ?? times[parameter])!.label;
  const alone =
    ["source", "effect", "output", "rule"].includes(kindOf(module).role) &&
    patch.modules.filter((m) => m.kind === module.kind).length === 1;
  return alone ? label : `${label} of ${module.name}`;
}

/** What moves a value, by name. */
export function moversOf(part: Part, songModules: readonly Module[], address: Address): string {
  const { patch } = part;
  const sources = sourcesOf(patch, songModules);
  const names = patch.routes
    .filter((r) => r.target === address && r.on)
    .map((r) => {
      const source = sources.find((s) => s.id === r.source);
      return source?.module ? source.name : (source?.name.toLowerCase() ?? r.source);
    });
  const { owner } = splitAddress(address);
  const module = patch.modules.find((m) => m.id === owner);
  if (module?.kind === "amp") names.unshift(patch.modules.find((m) => m.id === module.data.envelope)?.name ?? "");
  if (automationOf(patch, address)?.on) names.unshift("automation");
  if (module?.kind === "filter" && module.values.keyFollow > 0) names.push("key follow");
  return names.length > 0 ? names.join(" + ") : "nothing moves it";
}
