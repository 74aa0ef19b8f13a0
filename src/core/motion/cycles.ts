import type { Module } from "../patch/kinds";
import type { Shape } from "../patch/kinds/shape";
import type { Steps } from "../patch/kinds/steps";
import type { Song } from "../patch/project";
import { barTicks } from "../time/meter";
import type { Cycle } from "../time/repeat";
import { spanTicks } from "../time/span";
import { barsOf, roundTicks } from "./modulators";
import { isSharedShape } from "./shape";

/** Whether a list of places restarts it; a hand that has set none lets it run with the song. */
const isTriggered = ({ choices, data }: Pick<Shape | Steps, "choices" | "data">): boolean =>
  choices.restart === "triggers" || (choices.restart === "hand" && data.triggers.length > 0);

/**
 * The cycles of what all notes of a part share, for its report of repeat and drift: shapes, step sequences, gates, looping
 * envelopes. What chance has a say in, and what is automated, comes again with the loop.
 */
export function cyclesOf(modules: readonly Module[], song: Song): Cycle[] {
  const bar = barTicks(song.meter);
  const loop = bar * song.loopBars;
  const restarts = (restart: string, every = 1): number => (restart === "bar" ? Math.min(loop, bar * every) : loop);
  return modules.flatMap((m): Cycle[] => {
    if (!m.on) return [];
    const again = { id: m.id, name: m.name, ticks: loop, restartTicks: loop };
    switch (m.kind) {
      case "shape":
        if (isTriggered(m)) return m.data.triggers.length > 0 ? [again] : [];
        if (!isSharedShape(m.choices.restart)) return [];
        return [
          {
            id: m.id,
            name: m.name,
            ticks: spanTicks(m.times.rate, song),
            restartTicks: restarts(m.choices.restart, m.values.every),
          },
        ];
      case "steps": {
        if (!isSharedShape(m.choices.restart)) return [];
        if (isTriggered(m) || m.data.steps.some((s) => s.chance < 100 && !s.hold)) return [again];
        const whole = roundTicks(m, song);
        return [{ id: m.id, name: m.name, ticks: whole, restartTicks: restarts(m.choices.restart, barsOf(m, song)) }];
      }
      case "gate":
        return [{ id: m.id, name: m.name, ticks: spanTicks(m.times.step, song) * m.data.steps.length, restartTicks: restarts(m.choices.restart) }]; // prettier-ignore
      case "random":
        return m.choices.draws === "rate" ? [again] : [];
      case "follower":
        return [again];
      case "automation":
        return m.data.points.some((p) => p.y !== m.data.points[0]!.y) ? [again] : [];
      default:
        return [];
    }
  });
}
