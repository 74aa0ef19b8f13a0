import type * as z from "./zod";
import { ProjectSchema } from "./schema";
import { modulesOf } from "./kinds";
import { MIX, newMix } from "./kinds/mix";
import { FORMAT, VERSION, type Part, type PartMix, type Project } from "./project";

export type Opened =
  | { readonly ok: true; readonly project: Project }
  | { readonly ok: false; readonly path: string; readonly reason: string };

const refuse = (path: string, reason: string): Extract<Opened, { ok: false }> => ({ ok: false, path, reason });

const pathText = (path: readonly PropertyKey[]): string =>
  path.reduce<string>(
    (text, p) => (typeof p === "number" ? `${text}[${p}]` : text ? `${text}.${String(p)}` : String(p)),
    "",
  ) || "file";

/** Refuses a document for the first thing that its check found. */
export function firstReason(error: z.core.$ZodError): Opened {
  const issue = error.issues[0];
  return issue ? refuse(pathText(issue.path), issue.message) : refuse("file", "not a project");
}

/** What a part's mix may hold that was read from a file. */
type MixOfFile = PartMix & { readonly level?: number; readonly pan?: number };

/** A part whose level and place in the mix are a module, as the newest files have them. */
function withMix(part: Part): Part {
  const { level, pan, ...mix }: MixOfFile = part.mix;
  if (modulesOf(part.patch.modules, MIX).length > 0) return { ...part, mix };
  const { modules } = part.patch;
  const taken = (id: string): boolean => [...modules, ...part.patch.routes].some((m) => m.id === id);
  let made = newMix();
  for (let n = 2; taken(made.id); n++) made = newMix(`${newMix().id}${n}`);
  const values = { level: level ?? made.values.level, pan: pan ?? made.values.pan };
  const at = modules.findLastIndex((m) => m.kind === "amp") + 1;
  return { ...part, mix, patch: { ...part.patch, modules: modules.toSpliced(at, 0, { ...made, values }) } };
}

/**
 * The version of a document that may be a project's; refused, with where and why, when it is none or of a newer Clovik.
 */
export function versionOf(data: unknown): number | Extract<Opened, { ok: false }> {
  if (typeof data !== "object" || data === null || Array.isArray(data))
    return refuse("file", "not a Clovik project: an object is expected");
  const { format, version } = data as Record<string, unknown>;
  if (format !== FORMAT) return refuse("format", `not a Clovik project: "${FORMAT}" is expected`);
  const number = version as number;
  if (!Number.isInteger(version) || number < 1) return refuse("version", "a whole number from 1 is expected");
  if (number > VERSION)
    return refuse(
      "version",
      `made by a newer Clovik (version ${number}; this one reads up to ${VERSION}). Update Clovik to open it.`,
    );
  return number;
}

/** Checks a document of the current version; says where and why when it cannot be opened. */
export function openCurrent(data: unknown): Opened {
  const result = ProjectSchema.safeParse(data);
  if (!result.success) return firstReason(result.error);
  return { ok: true, project: { ...result.data, parts: result.data.parts.map(withMix) } };
}
