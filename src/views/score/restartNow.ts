import { loopTicks } from "@/core/pattern/events";
import { MAX_TRIGGERS } from "@/core/patch/kinds/shape";
import type { Part } from "@/core/patch/project";
import type { Studio } from "@/views/studio/studio";
import { editRestarts } from "./restarting";

/** What a hand that restarts something is told where it cannot. */
const NOTHING_CHOSEN = 'Choose a shape, an envelope or a step sequence that restarts "by hand" first.';

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
  if ((m?.kind !== "shape" && m?.kind !== "steps" && m?.kind !== "envelope") || m.choices.restart !== "hand")
    return tell({ kind: "info", text: NOTHING_CHOSEN });
  if (readOnly !== null) return;
  const now = session.snapshot();
  const at = Math.floor(now?.playing ? now.loopTick : startTick) % loopTicks(project.song);
  const triggers = [...new Set([...m.data.triggers, at])].sort((a, b) => a - b);
  if (triggers.length > MAX_TRIGGERS)
    return tell({ kind: "info", text: `${m.name} holds ${MAX_TRIGGERS} restarts, and no more.` });
  store.edit(`Restart ${m.name}`, editRestarts(part.id, m, { triggers }));
}
