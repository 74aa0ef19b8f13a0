import type { Address } from "@/core/patch/address";
import { useSize } from "@/ui/useSize";
import { usePart, useProject } from "@/views/studio/studio";
import { heardValue } from "../heardTracks";
import { Playhead } from "../Playhead";
import { moversOf } from "../stripList";
import { GUTTER, LABEL_WIDTH } from "../layout";
import { HeardCanvas } from "../StripCanvases";
import type { Timeline } from "../timeline";
import { EditorFrame } from "./EditorFrame";

/** An as-heard curve, large. */
export function HeardEditor({ address, timeline }: { address: Address; timeline: Timeline }) {
  const part = usePart();
  const songModules = useProject((s) => s.project.modules);
  const [size, sizeRef] = useSize();
  return (
    <EditorFrame
      title={`${heardValue(part.patch, address)?.row.label ?? ""}, as heard`}
      subtitle={`${moversOf(part, songModules, address)}; the newest note is strong, the others faint`}
    >
      <div className="absolute inset-0 flex">
        <div className="shrink-0 border-r border-line bg-paper" style={{ width: LABEL_WIDTH }} />
        <div ref={sizeRef} className="relative min-w-0 flex-1" style={{ marginRight: GUTTER }}>
          <HeardCanvas address={address} timeline={timeline} large />
          <Playhead timeline={{ ...timeline, width: size.width }} left={0} />
        </div>
      </div>
    </EditorFrame>
  );
}
