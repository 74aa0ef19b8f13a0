import { exp2 } from "../dsp/portableMath";
import type { VoiceLanes } from "../motion/lanes";
import type { Ref } from "../motion/program";
import { read } from "../motion/run/voiceRun";

/** Glides that have just begun take as many times as long as what moves their time says now: `glide` holds octaves. */
export function stretchGlides(
  lanes: VoiceLanes,
  glide: Ref,
  list: Int32Array,
  count: number,
  slots: Float64Array,
  shared: Float64Array,
): void {
  const { slideOpen, slideFrames } = lanes;
  for (let k = 0; k < count; k++) {
    const v = list[k]!;
    if (slideOpen[v] === 0) continue;
    slideOpen[v] = 0;
    slideFrames[v] = slideFrames[v]! * exp2(read(glide, v, slots, shared));
  }
}
