import { LANES } from "../motion/lanes";
import type { Heap } from "./heap";
import type { AudioModule } from "./program";

/** A stretch of one group of four voices, as the kernels see it. */
export interface GroupStretch {
  /** Address of the group's part of the first row, and bytes from row to row and from use to use. */
  rows: number;
  rowBytes: number;
  useBytes: number;
  segments: number;
  segmentCount: number;
  /** All of the stretch as one segment: for what stands still in it. */
  whole: number;
  /** 1 for each use that differs from row to row. */
  moves: Uint8Array;
  /** First frame of each lane, -1 for a silent one. */
  starts: number;
  /** Whether a voice of the group has just started. */
  fresh: boolean;
  left: number;
  right: number;
  /** Highest peak of each source since it was last taken, by its place among the sources; null where nobody looks. */
  peaks: Float32Array | null;
  /** The place of the source that renders. */
  source: number;
}

/** What a note that starts tells the modules. */
export interface NoteStart {
  readonly seed: number;
  /** Names the note for seeded draws: the same note of every pass starts alike. */
  readonly address: number;
  readonly key: number;
  readonly copy: number;
}

/** Sound of one module, for all voices of a part. Its memory is its own and stays when other modules come and go. */
export interface Runtime {
  readonly kind: AudioModule["kind"];
  /** Address of what other sources hear of it: 64 frames of a group's four lanes. */
  readonly tap?: number;
  /** Takes over what it is to be; `tapOf` gives the taps of modules that run before it, 0 where there is none. */
  install(module: AudioModule, tapOf: (id: string) => number): void;
  begin(lane: number, note: NoteStart): void;
  render(group: number, buses: number, at: GroupStretch): void;
  dispose(): void;
}

export const GROUPS = LANES / 4;
/** A row at which every lane of a group has a value of its own: the end of a sub-block. */
export const EVERY_LANE = 0b1111;
/** Both sides of a bus: 64 frames of four lanes. */
export const BUS_BYTES = 2 * 64 * 16;

/** Where a kernel finds a use in a row; below 0 where there is none. */
export const offset = (use: number | null, at: GroupStretch): number => (use === null ? -1 : use * at.useBytes);

/** Whether some uses stand still in a stretch: it is then one segment. */
export const stand = ({ moves }: GroupStretch, a: number, b: number, c = a, d = a): boolean =>
  moves[a] === 0 && moves[b] === 0 && moves[c] === 0 && moves[d] === 0;

/** Adds what a source has played to its bus, at its level and place; one without a bus (-1) is not heard itself. */
export function pour(
  { kernels }: Heap,
  scratch: number,
  { level, pan, bus }: { readonly level: number; readonly pan: number; readonly bus: number },
  at: GroupStretch,
  buses: number,
): void {
  if (bus < 0) return;
  const whole = stand(at, level, pan);
  kernels.pour(scratch, at.starts, at.rows, at.rowBytes, level * at.useBytes, pan * at.useBytes, whole ? at.whole : at.segments, whole ? 1 : at.segmentCount, buses + bus * BUS_BYTES); // prettier-ignore
  if (at.peaks) at.peaks[at.source] = Math.max(at.peaks[at.source]!, kernels.peakOf(scratch, BUS_BYTES));
}
