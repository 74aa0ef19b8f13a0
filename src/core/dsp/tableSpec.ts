import type { Recording } from "../format/wavRead";
import type { Corner, DrawnFrame, HarmonicWeights } from "../patch/kinds/oscillator";
import type { FrameTable } from "./frameTables";
import type { OwnTable } from "./ownTableIds";
import type { RecordingTable } from "./recordingTable";
import type { WaveName, WaveTable } from "./waveTables";

/** Samples that a cycle of a recording may have. */
export const FRAME_LENGTHS = { min: 8, max: 8192 } as const;

/** What a wave table is made from: plain data, so that it can be posted to another thread. */
export type TableSpec =
  | { readonly kind: "wave"; readonly wave: WaveName }
  | { readonly kind: "own"; readonly id: OwnTable }
  | { readonly kind: "drawn"; readonly frames: readonly DrawnFrame[] }
  | { readonly kind: "corners"; readonly corners: readonly Corner[] }
  | { readonly kind: "harmonics"; readonly weights: HarmonicWeights }
  /** A recording as it is; or cut into cycles of so many samples, each made as loud as the others or left as it is. */
  | { readonly kind: "recording"; readonly hash: string }
  | { readonly kind: "cycles"; readonly hash: string; readonly length: number; readonly even: boolean };

/** What sources read: made outside of the audio thread. */
export type SoundTable = WaveTable | FrameTable | RecordingTable;
/** Recordings by the SHA-256 of their bytes. */
export type Recordings = ReadonlyMap<string, Recording>;

/** Names a table: two that are made from the same have the same name. */
export function tableName(spec: TableSpec): string {
  switch (spec.kind) {
    case "wave":
      return spec.wave;
    case "own":
      return `own ${spec.id}`;
    case "drawn":
      return JSON.stringify(spec.frames);
    case "corners":
      return JSON.stringify(spec.corners);
    case "harmonics":
      return `harmonics ${JSON.stringify(spec.weights)}`;
    case "recording":
      return `recording ${spec.hash}`;
    case "cycles":
      return `cycles ${spec.length} ${spec.even ? "even" : "as they are"} ${spec.hash}`;
    default:
      return spec satisfies never;
  }
}
