import { loopTicks } from "@/core/pattern/events";
import { MAX_TRIGGERS, SHAPE } from "@/core/patch/kinds/shape";
import { adjusted } from "@/core/patch/kinds/kind";
import { STEPS } from "@/core/patch/kinds/steps";
import type { Part } from "@/core/patch/project";
import { editModule } from "@/state/edits";
import type { Studio } from "@/views/studio/studio";

/** What a hand that restarts something is told where it cannot. */
const NOTHING_CHOSEN = 'Choose a shape or a step sequence that restarts "by hand" first.';

/**
 * Lets the chosen modulator start again at the place that is heard now, or where Play starts while nothing plays. The place is
 * written down: it is drawn, and heard again in every pass.
 */
export function restartNow({ view, workspace, session, tell }: Studio, part: Part): void {
  const { store } = workspace;
  const { project, readOnly } = store.getState();
  const { strip, startTick } = view.getState();
  const id = strip.kind === "module" ? strip.id : null;
  const m = [...part.patch.modules, ...project.modules].find((own) => own.id === id);
  if ((m?.kind !== "shape" && m?.kind !== "steps") || m.choices.restart !== "hand")
    return tell({ kind: "info", text: NOTHING_CHOSEN });
  if (readOnly !== null) return;
  const now = session.snapshot();
  const at = Math.floor(now?.playing ? now.loopTick : startTick) % loopTicks(project.song);
  const triggers = [...new Set([...m.data.triggers, at])].sort((a, b) => a - b);
  if (triggers.length > MAX_TRIGGERS)
    return tell({ kind: "info", text: `${m.name} holds ${MAX_TRIGGERS} restarts, and no more.` });
  store.edit(
    `Restart ${m.name}`,
    m.kind === "shape"
      ? editModule(part.id, SHAPE, m.id, (s) => adjusted(s, { data: { triggers } }))
      : editModule(part.id, STEPS, m.id, (s) => adjusted(s, { data: { triggers } })),
  );
}
