import type * as z from "./zod";
import { ProjectSchema } from "./schema";
import { FORMAT, VERSION, type Project } from "./project";
import { ProjectV1, upgradeV1 } from "./versions/v1";

export type Opened =
  | { readonly ok: true; readonly project: Project }
  | { readonly ok: false; readonly path: string; readonly reason: string };

/** A version's own check and the pure function that turns a checked document into the next version. */
interface Upgrade {
  readonly schema: z.Schema;
  readonly run: (checked: never) => object;
}

const UPGRADES: Readonly<Record<number, Upgrade>> = { 1: { schema: ProjectV1, run: upgradeV1 } };

const refuse = (path: string, reason: string): Opened => ({ ok: false, path, reason });

const pathText = (path: readonly PropertyKey[]): string =>
  path.reduce<string>(
    (text, p) => (typeof p === "number" ? `${text}[${p}]` : text ? `${text}.${String(p)}` : String(p)),
    "",
  ) || "file";

function firstReason(error: z.core.$ZodError): Opened {
  const issue = error.issues[0];
  return issue ? refuse(pathText(issue.path), issue.message) : refuse("file", "not a project");
}

/** Checks a document of any known version and brings it to the current one; says where and why when it cannot. */
export function openProject(data: unknown): Opened {
  if (typeof data !== "object" || data === null || Array.isArray(data))
    return refuse("file", "not a Clovik project: an object is expected");
  let document = data as Record<string, unknown>;
  if (document["format"] !== FORMAT) return refuse("format", `not a Clovik project: "${FORMAT}" is expected`);
  const version = document["version"];
  if (typeof version !== "number" || !Number.isInteger(version) || version < 1)
    return refuse("version", "a whole number from 1 is expected");
  if (version > VERSION)
    return refuse(
      "version",
      `made by a newer Clovik (version ${version}; this one reads up to ${VERSION}). Update Clovik to open it.`,
    );
  for (let v = version; v < VERSION; v++) {
    const { schema, run } = UPGRADES[v]!;
    const checked = schema.safeParse(document);
    if (!checked.success) return firstReason(checked.error);
    document = run(checked.data as never) as Record<string, unknown>;
  }
  const result = ProjectSchema.safeParse(document);
  return result.success ? { ok: true, project: result.data } : firstReason(result.error);
}
