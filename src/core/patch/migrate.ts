import type * as z from "./zod";
import { firstReason, openCurrent, versionOf, type Opened } from "./openCurrent";
import { VERSION } from "./project";
import { ProjectV1, upgradeV1 } from "./versions/v1";

/** A version's own check and the pure function that turns a checked document into the next version. */
interface Upgrade {
  readonly schema: z.Schema;
  readonly run: (checked: never) => object;
}

const UPGRADES: Readonly<Record<number, Upgrade>> = { 1: { schema: ProjectV1, run: upgradeV1 } };

/** Checks a document of any known version and brings it to the current one; says where and why when it cannot. */
export function openProject(data: unknown): Opened {
  const version = versionOf(data);
  if (typeof version !== "number") return version;
  let document = data as object;
  for (let v = version; v < VERSION; v++) {
    const { schema, run } = UPGRADES[v]!;
    const checked = schema.safeParse(document);
    if (!checked.success) return firstReason(checked.error);
    document = run(checked.data as never);
  }
  return openCurrent(document);
}
