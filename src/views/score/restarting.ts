import { adjusted } from "@/core/patch/kinds/kind";
import { ENVELOPE, type Envelope } from "@/core/patch/kinds/envelope";
import { SHAPE, type Shape } from "@/core/patch/kinds/shape";
import { STEPS, type Steps } from "@/core/patch/kinds/steps";
import type { Project } from "@/core/patch/project";
import { editModule } from "@/state/edits";

/** What can be told when to start again. */
export type Restarting = Shape | Steps | Envelope;

/** An edit of where one of them starts again, or with whose notes. */
export function editRestarts(
  partId: string,
  m: Restarting,
  data: Partial<Pick<Restarting["data"], "triggers" | "notesOf">>,
): (p: Project) => Project {
  switch (m.kind) {
    case "shape":
      return editModule(partId, SHAPE, m.id, (old) => adjusted(old, { data }));
    case "steps":
      return editModule(partId, STEPS, m.id, (old) => adjusted(old, { data }));
    case "envelope":
      return editModule(partId, ENVELOPE, m.id, (old) => adjusted(old, { data }));
  }
}
