import type { Module } from "./kinds";
import type { Binary, Patch, Project } from "./project";

/** The hash of the binary thing that a module refers to, heard or not; null for none. */
const hashOf = (m: Module): string | null =>
  m.kind === "recording" ? m.data.recording : m.kind === "oscillator" ? m.data.cycles.recording : null;

type WithModules = { readonly parts: readonly { readonly patch: Pick<Patch, "modules"> }[] };

/** The hashes that a document's modules refer to. */
export const hashesIn = (p: WithModules): ReadonlySet<string> =>
  new Set(p.parts.flatMap((q) => q.patch.modules.map(hashOf)).filter((h) => h !== null));

/**
 * The document with a list of binaries that names what its modules refer to and nothing else; the same document where it
 * does. What it did not name before is looked up in `known`, and stays unnamed where that does not know it.
 */
export function withBinaries<P extends Pick<Project, "parts" | "binaries">>(
  p: P,
  known: (hash: string) => Binary | null,
): P {
  const used = hashesIn(p);
  const named = new Map(p.binaries.map((b) => [b.hash, b]));
  if (used.size === named.size && [...used].every((h) => named.has(h))) return p;
  const binaries = [...used].map((h) => named.get(h) ?? known(h)).filter((b) => b !== null);
  return binaries.length === p.binaries.length && binaries.every((b, i) => b === p.binaries[i])
    ? p
    : { ...p, binaries };
}
