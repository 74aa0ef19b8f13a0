import { PLAY, TIE } from "@/core/patch/lanes";
import type { Surface } from "@/ui/useCanvas";

/** A step that plays, holds on or rests: a block, a bar that reaches back, or nothing but the floor. */
export function paintPlay(
  { g, palette }: Surface,
  x: number,
  width: number,
  value: number,
  top: number,
  height: number,
): void {
  g.fillStyle = palette.rhythm;
  if (value === PLAY) g.fillRect(x, top, width, height);
  else if (value === TIE) g.fillRect(x - 3, top + height * 0.35, width + 3, height * 0.3);
  else g.fillRect(x, top + height - 2, width, 2);
}
