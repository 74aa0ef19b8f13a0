import { createStore } from "zustand/vanilla";
import type { CurvePoint } from "@/core/curve/curve";
import type { Module, Modulator } from "@/core/patch/kinds";
import type { LaneId, StepLane } from "@/core/patch/lanes";
import type { Note, Patch, Route } from "@/core/patch/project";

/** What was copied last: kept while the page lives, across parts and projects. */
export type Clip =
  | { readonly kind: "points"; readonly points: readonly CurvePoint[] }
  | { readonly kind: "modulator"; readonly module: Modulator; readonly routes: readonly Route[] }
  /** A source or a filter. */
  | { readonly kind: "sound"; readonly module: Module }
  | { readonly kind: "voice"; readonly patch: Patch }
  | { readonly kind: "lane"; readonly id: LaneId; readonly lane: StepLane }
  | { readonly kind: "notes"; readonly notes: readonly Note[] }
  | { readonly kind: "route"; readonly route: Route };

export const clipboard = createStore<{ readonly clip: Clip | null }>(() => ({ clip: null }));

export const copy = (clip: Clip): void => clipboard.setState({ clip });

export function clipOf<K extends Clip["kind"]>(kind: K): Extract<Clip, { kind: K }> | null {
  const { clip } = clipboard.getState();
  return clip?.kind === kind ? (clip as Extract<Clip, { kind: K }>) : null;
}
