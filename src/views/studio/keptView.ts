import { ADDRESS, ID, type Address } from "@/core/patch/address";
import type { Project } from "@/core/patch/project";
import * as z from "@/core/patch/zod";
import { loopTicks } from "@/core/pattern/events";
import { tabView } from "@/state/remember";
import { MAX_ZOOM, clampScroll, type StripId, type ViewState } from "./viewStore";

const id = z.string().check(z.regex(ID));
const address = z.string().check(z.regex(ADDRESS)) as unknown as z.Schema<Address>;
const strip = z.discriminatedUnion("kind", [
  z.object({ kind: z.enum(["part", "notes", "arpeggio", "backing"]) }),
  z.object({ kind: z.literal("module"), id }),
  z.object({ kind: z.literal("heard"), address }),
]);
const keptSchema = z.object({
  project: id,
  partId: id,
  strip,
  zoom: z.within(1, MAX_ZOOM),
  scrollTick: z.number(),
  startTick: z.number(),
  /** Of the part that was looked at. */
  heardStrips: z.listOf(address, 0, 64),
});

/** Writes down where the eyes are, so that this tab finds itself there again when it is loaded anew. */
export function keepView(project: Project, v: ViewState): void {
  const { partId, zoom, scrollTick, startTick } = v;
  const heardStrips = v.heardStrips[partId] ?? [];
  tabView.set(
    JSON.stringify({ project: project.id, partId, strip: v.strip, zoom, scrollTick, startTick, heardStrips }),
  );
}

/** Where the eyes were in a project; nothing where that is not known, or not of this project as it is now. */
export function keptView(project: Project): Partial<ViewState> {
  let read: z.output<typeof keptSchema>;
  try {
    read = keptSchema.parse(JSON.parse(tabView.get() ?? "null"));
  } catch {
    return {};
  }
  const part = project.parts.find((p) => p.id === read.partId);
  if (read.project !== project.id || !part) return {};
  const end = loopTicks(project.song);
  const { zoom, partId } = read;
  const place = read.strip as StripId;
  const gone =
    place.kind === "module"
      ? ![...part.patch.modules, ...project.modules].some((m) => m.id === place.id)
      : place.kind === "backing" && !project.backing;
  return {
    partId,
    zoom,
    scrollTick: clampScroll(read.scrollTick, zoom, end),
    startTick: Math.min(Math.max(0, read.startTick), end - 1),
    heardStrips: { [partId]: read.heardStrips },
    ...(gone ? {} : { strip: place }),
  };
}
