import { gainToDb } from "@/core/dsp/portableMath";

export const METER_FLOOR_DB = -60;
/** Fall of the bar, as common peak meters have it (about 20 dB in 1.7 s, IEC 60268-10 type I). */
const FALL_DB_PER_MS = 20 / 1700;
const HOLD_MS = 1500;

interface MeterSide {
  readonly levelDb: number;
  readonly holdDb: number;
}

export interface MeterReading {
  readonly sides: readonly MeterSide[];
  /** Since the last reset. */
  readonly highestDb: number;
  /** How far the output has been over full scale since the last reset; null when it was not. */
  readonly overDb: number | null;
}

/** How a peak meter moves: up at once, down slowly, with a mark that holds. */
export class MeterBallistics {
  private sides = [0, 1].map(() => ({ levelDb: METER_FLOOR_DB, holdDb: METER_FLOOR_DB, heldAt: 0 }));
  private highestDb = METER_FLOOR_DB;
  private last: number | null = null;

  /** Takes the peaks (gains) since the last call. */
  update(peaks: readonly [number, number], nowMs: number): MeterReading {
    const fall = this.last === null ? 0 : (nowMs - this.last) * FALL_DB_PER_MS;
    this.last = nowMs;
    this.sides = this.sides.map((side, i) => {
      const peakDb = Math.max(METER_FLOOR_DB, gainToDb(peaks[i]!));
      const levelDb = Math.max(peakDb, side.levelDb - fall, METER_FLOOR_DB);
      const holds = peakDb < side.holdDb && nowMs - side.heldAt < HOLD_MS;
      this.highestDb = Math.max(this.highestDb, peakDb);
      return holds ? { ...side, levelDb } : { levelDb, holdDb: Math.max(peakDb, levelDb), heldAt: nowMs };
    });
    return { sides: this.sides, highestDb: this.highestDb, overDb: this.highestDb > 0 ? this.highestDb : null };
  }

  reset(): void {
    this.highestDb = METER_FLOOR_DB;
    this.sides = this.sides.map((s) => ({ ...s, holdDb: s.levelDb, heldAt: 0 }));
  }
}
