import { TICKS_PER_WHOLE } from "./noteValue";

/** A time signature: `beats` per bar of the note 1/`unit` (2, 4, 8 or 16). */
export interface Meter {
  readonly beats: number;
  readonly unit: number;
}

export const beatTicks = (m: Meter): number => TICKS_PER_WHOLE / m.unit;
export const barTicks = (m: Meter): number => m.beats * beatTicks(m);

/** Steps per beat in positions and on the ruler: sixteenths, or thirty-seconds where the beat is a sixteenth. */
export const stepTicks = (m: Meter): number => (m.unit >= 16 ? TICKS_PER_WHOLE / 32 : TICKS_PER_WHOLE / 16);

/** "bar.beat.step", each counted from 1; ticks past the step follow as "+n". `tick` is 0 or more. */
export function formatPosition(tick: number, m: Meter): string {
  const whole = Math.max(0, Math.round(tick));
  const bar = Math.floor(whole / barTicks(m));
  const inBar = whole - bar * barTicks(m);
  const beat = Math.floor(inBar / beatTicks(m));
  const inBeat = inBar - beat * beatTicks(m);
  const step = Math.floor(inBeat / stepTicks(m));
  const rest = inBeat - step * stepTicks(m);
  return `${bar + 1}.${beat + 1}.${step + 1}${rest > 0 ? `+${rest}` : ""}`;
}

/** Reads "2", "1.3", "1.3.2" or "1.3.2+40" as ticks. Null when it is no place of the meter. */
export function parsePosition(text: string, m: Meter): number | null {
  const match = /^(\d{1,4})(?:\.(\d{1,2}))?(?:\.(\d{1,2}))?(?:\+(\d{1,4}))?$/.exec(text.trim());
  if (!match) return null;
  const [bar, beat, step] = [match[1], match[2], match[3]].map((n) => Number(n ?? 1) - 1) as [number, number, number];
  if (bar < 0 || beat < 0 || step < 0 || beat >= m.beats || step * stepTicks(m) >= beatTicks(m)) return null;
  return bar * barTicks(m) + beat * beatTicks(m) + step * stepTicks(m) + Number(match[4] ?? 0);
}
