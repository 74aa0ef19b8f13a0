import type { Route } from "@/core/patch/project";

/** The bend that a curve is; null for one that was drawn otherwise. */
export function bendOf(curve: Route["curve"]): number | null {
  if (curve === null) return 0;
  const [a, b, ...others] = curve;
  const straight = others.length === 0 && a?.y === 0 && b?.y === 1;
  return straight ? a.tension : null;
}

/** A bend in a word. */
export function bendText(curve: Route["curve"]): string {
  const bent = bendOf(curve);
  if (bent === null) return "drawn";
  return bent === 0 ? "straight" : bent > 0 ? "early" : "late";
}
