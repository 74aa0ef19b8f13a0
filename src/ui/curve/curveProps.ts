import type { Kind } from "../ValueRow";
import type { Points, Snaps } from "./curveDrag";

export interface AxisMark {
  /** 0 to 1. */
  readonly at: number;
  readonly text: string;
  readonly strong: boolean;
  /** A second reading on the far side of the axis. */
  readonly far?: string;
  /** Without a line of its own: a mark of the far side alone. */
  readonly bare?: boolean;
}

/** What a place (0 to 1) on an axis is called, and where a name lies. */
export interface AxisReading {
  readonly marks: readonly AxisMark[];
  readonly text: (at: number) => string;
  /** Null when the text cannot be read. */
  readonly read: (text: string) => number | null;
}

/** A stretch of the axis that means something, what it means, and what moves its ends. */
export interface CurveStretch {
  readonly from: number;
  readonly to: number;
  readonly text: string;
  readonly ends: readonly {
    readonly name: string;
    readonly at: number;
    readonly move: (at: number, gesture: string) => void;
  }[];
}

export interface CurveEditorProps {
  readonly label: string;
  readonly kind: Kind;
  readonly points: Points;
  readonly time: AxisReading;
  readonly value: AxisReading;
  readonly snaps: Snaps;
  /** One Shift-arrow. */
  readonly fine: Snaps;
  readonly onChange: (points: Points, label: string, gesture: string) => void;
  readonly editable: boolean;
  /** Where copied points are kept. */
  readonly clips: { readonly take: () => Points | null; readonly keep: (points: Points) => void };
  readonly stretch?: CurveStretch | null;
  /** Phase of the newest sound, 0 to 1; null when nothing plays. */
  readonly playPhase: () => number | null;
}
