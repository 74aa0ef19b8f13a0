import type { Step } from "@/core/pattern/arpeggio";

/** Steps of a round over the loop, all alike long, begun anew every `restartTicks`. `period` is that of the round, in ticks. */
export function stepsOf(period: number, count: number, restartTicks: number, end: number): Step[] {
  const steps: Step[] = [];
  const length = period / count;
  for (let from = 0; from < end; from += restartTicks)
    for (let i = 0; from + i * length < Math.min(end, from + restartTicks) - 1e-6; i++) {
      const tick = from + i * length;
      steps.push({ tick, end: Math.min(tick + length, from + restartTicks), count: i, ofPass: steps.length, bar: 0 });
    }
  return steps;
}
