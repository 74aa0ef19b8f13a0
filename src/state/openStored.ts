import { openCurrent, versionOf, type Opened } from "@/core/patch/openCurrent";
import { VERSION } from "@/core/patch/project";

/** Checks a stored document and brings it to the current version; what older versions need is loaded when one is met. */
export async function openStored(document: unknown): Promise<Opened> {
  if (versionOf(document) === VERSION) return openCurrent(document);
  const { openProject } = await import("@/core/patch/migrate");
  return openProject(document);
}
