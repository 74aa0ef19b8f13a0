import { useCallback, useMemo, useState, type KeyboardEvent, type PointerEvent } from "react";
import { LANES, LANE_IDS, newLane, type LaneKind, type StepLane } from "@/core/patch/lanes";
import { newArpeggio } from "@/core/patch/defaults";
import { partSeed, stepsOfPart } from "@/core/pattern/events";
import { mirror, setRanges, setSteps, shift } from "@/core/pattern/fill";
import { laneValue, writeTake } from "@/core/pattern/lane";
import { formatPosition } from "@/core/time/meter";
import { clipOf, copy } from "@/state/clipboard";
import { editLane } from "@/state/edits";
import { newGesture } from "@/ui/gesture";
import { LOCKED, menuOf, runKeyed, type MenuEntry } from "@/ui/menu";
import { useReadOut } from "@/ui/ReadOut";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useSize } from "@/ui/useSize";
import { useEditable, usePart, useProject, useStudio, useView } from "@/views/studio/studio";
import { paintGrid } from "../paint";
import { Playhead } from "../Playhead";
import { GUTTER, LABEL_WIDTH } from "../layout";
import type { Timeline } from "../timeline";
import { beginStroke, indicesOf, stepAt, stepBox, stroke, valueY, type LaneView, type Stroke } from "./laneDrag";
import { paintPlay } from "./lanePaint";
import { laneValueText } from "./laneText";

/** Lanes that can be chosen, with a mark on those that are on. */
export function LaneTabs() {
  const { view } = useStudio();
  const shown = useView((v) => v.lane);
  const { lanes } = usePart().arpeggio;
  const onKeyDown = (e: KeyboardEvent<HTMLDivElement>): void => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
    if (by === undefined || e.ctrlKey || e.altKey || e.metaKey) return;
    e.preventDefault();
    e.stopPropagation();
    const to = (LANE_IDS.indexOf(shown) + by + LANE_IDS.length) % LANE_IDS.length;
    view.setState({ lane: LANE_IDS[to]!, laneSteps: new Set() });
    e.currentTarget.querySelectorAll("button")[to]?.focus();
  };
  return (
    <div className="flex flex-wrap gap-1" role="tablist" aria-label="Lanes" onKeyDown={onKeyDown}>
      {LANE_IDS.map((id) => (
        <button
          key={id}
          type="button"
          role="tab"
          aria-selected={id === shown}
          tabIndex={id === shown ? 0 : -1}
          title={(LANES[id] as LaneKind).row.hint}
          className="chip aria-selected:border-ink aria-selected:bg-ink aria-selected:text-sheet"
          onClick={() => view.setState({ lane: id, laneSteps: new Set() })}
        >
          {LANES[id].row.label}
          {lanes[id]?.on && (
            <span className="ml-1 inline-block h-[6px] w-[6px] bg-rhythm" role="img" aria-label="on" title="on" />
          )}
        </button>
      ))}
    </div>
  );
}

/** Steps that a lane gets when it is first drawn in. */
const FIRST_STEPS = 16;

/** One lane over the song: every repetition of its steps can be drawn in, and all show the change. */
export function LaneEditor({ timeline }: { timeline: Timeline }) {
  const { workspace, view } = useStudio();
  const part = usePart();
  const song = useProject((s) => s.project.song);
  const seed = useProject((s) => s.project.seed);
  const editable = useEditable();
  const id = useView((v) => v.lane);
  const chosen = useView((v) => v.laneSteps);
  const [size, sizeRef] = useSize();
  const [drag, setDrag] = useState<Stroke | { readonly run: number } | null>(null);
  const known = part.arpeggio.lanes[id];
  // A lane that is locked to a take shows that.
  const lane = useMemo<StepLane>(() => {
    const own = known ?? { ...newLane(id, FIRST_STEPS), on: false };
    return own.locked === null ? own : { ...own, values: writeTake(own, own.locked).values };
  }, [known, id]);
  const kind: LaneKind = LANES[id];
  const own = partSeed(seed, part);
  // What else an arpeggio holds leaves its steps where they are.
  const { rate, restart, latch } = part.arpeggio;
  const walked = useMemo(() => ({ ...newArpeggio(), rate, restart, latch }), [rate, restart, latch]);
  const { notes, noteChord } = part;
  const steps = useMemo(
    () => stepsOfPart({ notes, noteChord, arpeggio: walked }, song),
    [notes, noteChord, walked, song],
  );
  const indices = useMemo(() => indicesOf(lane, id, own, steps), [lane, id, own, steps]);
  const laneView: LaneView = { timeline: { ...timeline, width: size.width }, steps, indices, height: size.height };

  const edit = (label: string, change: (lane: StepLane) => StepLane, gesture?: string): void => {
    workspace.store.edit(
      `${label} of the ${kind.row.label.toLowerCase()} lane`,
      editLane(part.id, id, (l) => change(l ?? newLane(id, FIRST_STEPS))),
      gesture,
    );
  };
  const choose = (list: Iterable<number>): void => view.setState({ laneSteps: new Set(list) });
  const local = (e: PointerEvent<HTMLElement>): { x: number; y: number } => {
    const box = e.currentTarget.getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  };
  const take = (s: Stroke, at: { x: number; y: number }): void => {
    const next = stroke(lane, id, laneView, s, at);
    if (next !== lane) edit(s.what === "values" ? "Draw values" : "Draw ranges", () => ({ ...next, on: true }), s.gesture); // prettier-ignore
    setDrag({ ...s, last: at });
  };
  const onPointerDown = (e: PointerEvent<HTMLElement>): void => {
    if (e.button !== 0) return;
    e.currentTarget.focus();
    const at = local(e);
    const index = laneView.indices[stepAt(laneView, at.x)];
    if (index === undefined) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    if (e.shiftKey) {
      choose([index]);
      return setDrag({ run: index });
    }
    if (!editable) return;
    if (!chosen.has(index)) choose([]);
    take(beginStroke(lane, id, laneView, at, e.altKey, newGesture()), at);
  };
  const describe = (at: { x: number; y: number }): string => {
    const step = steps[stepAt(laneView, at.x)];
    if (!step) return "";
    const value = laneValue(lane, id, own, step);
    const index = laneView.indices[step.ofPass]!;
    const range = lane.ranges[index]!;
    const set = lane.values[index]!;
    return `${formatPosition(Math.round(step.tick), song.meter)}  step ${index + 1}  ${laneValueText(id, set)}${range > 0 ? ` ± ${laneValueText(id, range).replace("+", "")}, here ${laneValueText(id, Math.round(value * 10) / 10)}` : ""}`;
  };
  const readOut = useReadOut(describe);
  const onPointerMove = (e: PointerEvent<HTMLElement>): void => {
    const at = local(e);
    readOut.point(at);
    if (!drag) return;
    if (!("run" in drag)) return take(drag, at);
    const index = laneView.indices[stepAt(laneView, at.x)];
    if (index === undefined) return;
    const [a, b] = [Math.min(drag.run, index), Math.max(drag.run, index)];
    choose(Array.from({ length: b - a + 1 }, (_, i) => a + i));
  };
  const finish = (): void => setDrag(null);

  const n = lane.values.length;
  const locked = editable ? null : LOCKED;
  /** Asked anew each time: what was copied draws nothing here. */
  const actions = (): MenuEntry[] => {
    const clip = clipOf("lane");
    return [
    { text: "Choose all steps", keys: "Ctrl A", run: () => choose(lane.values.keys()) },
    { text: "Copy the lane", keys: "Ctrl C", run: () => copy({ kind: "lane", id, lane }) },
    {
      text: "Paste",
      keys: "Ctrl V",
      why: locked ?? (clip ? (clip.id === id ? null : `A ${LANES[clip.id].row.label.toLowerCase()} lane was copied`) : "No lane was copied"),
      run: () => clip && edit("Paste values", () => ({ ...clip.lane, on: true })),
    },
    { text: "Backward", keys: "R", why: locked, run: () => edit("Turn the steps", mirror) },
    { text: "A step later", keys: "Ctrl ArrowRight", why: locked, run: () => edit("Move the steps", (l) => shift(l, 1)) },
    { text: "A step earlier", keys: "Ctrl ArrowLeft", why: locked, run: () => edit("Move the steps", (l) => shift(l, -1)) },
    {
      text: chosen.size > 0 ? "Chosen steps as they were" : "All steps as they were",
      keys: "Delete",
      why: locked,
      run: () => {
        const which = chosen.size > 0 ? chosen : new Set(lane.values.keys());
        edit("Reset steps", (l) => setRanges(setSteps(l, id, which, kind.row.default), id, which, 0));
      },
    },
  ];
  }; // prettier-ignore
  const onKeyDown = (e: KeyboardEvent): void => {
    if (runKeyed(actions(), e)) return;
    const at = chosen.size > 0 ? Math.max(...chosen) : -1;
    const along = { ArrowRight: 1, ArrowLeft: -1, "]": 1, "[": -1 }[e.key];
    const up = { ArrowUp: 1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[e.key];
    let handled = true;
    if (e.key === "Escape" && chosen.size > 0) choose([]);
    else if (along !== undefined && !e.ctrlKey && !e.metaKey) {
      const to = at === -1 ? (along > 0 ? 0 : n - 1) : (at + along + n) % n;
      choose(e.shiftKey ? [...chosen, to] : [to]);
    } else if (up !== undefined && editable && chosen.size > 0) {
      const by = (e.shiftKey ? kind.row.fine : kind.row.step) * up;
      if (e.altKey) edit("Set ranges", (l) => setRanges(l, id, chosen, (l.ranges[at] ?? 0) + by));
      else edit("Set values", (l) => setSteps(l, id, chosen, (l.values[at] ?? 0) + by));
    } else if (e.key === "Enter" && chosen.size > 0) {
      document.querySelector<HTMLElement>('[role=slider][aria-label="Value of the steps"]')?.focus();
    } else handled = false;
    if (!handled) return;
    e.preventDefault();
    e.stopPropagation();
  };

  const paint = useCallback(
    (s: Surface) => {
      const v: LaneView = { timeline: { ...timeline, width: s.width }, steps, indices, height: s.height };
      paintGrid(s, v.timeline, song.meter, Infinity);
      const base = kind.around ? valueY(v, id, 0) : valueY(v, id, kind.row.min);
      s.g.fillStyle = s.palette.line;
      s.g.fillRect(0, Math.round(base), s.width, 1);
      steps.forEach((step, i) => {
        const { x, width } = stepBox(v, step);
        if (x + width < 0 || x > s.width) return;
        const index = v.indices[i]!;
        const value = lane.values[index]!;
        const range = lane.ranges[index]!;
        const w = Math.max(2, width - (width > 6 ? 2 : 0));
        // The first round is the lane itself; what follows repeats it.
        s.g.globalAlpha = lane.on ? (i < n ? 1 : 0.55) : 0.3;
        if (chosen.has(index)) {
          s.g.fillStyle = s.palette.line2;
          s.g.fillRect(x, 0, width, s.height);
        }
        s.g.fillStyle = s.palette.rhythm;
        const y = valueY(v, id, value);
        if (id === "play") paintPlay(s, x, w, value, v.height * 0.1, v.height * 0.8);
        else s.g.fillRect(x, Math.min(y, base), w, Math.max(2, Math.abs(base - y)));
        if (range > 0) {
          const [high, low] = [Math.max(0, valueY(v, id, Math.min(kind.row.max, value + range))), Math.min(v.height, valueY(v, id, Math.max(kind.row.min, value - range)))]; // prettier-ignore
          s.g.globalAlpha *= 0.3;
          s.g.fillRect(x, high, w, low - high);
          s.g.globalAlpha = 1;
          s.g.fillStyle = s.palette.heard;
          s.g.fillRect(x, Math.round(valueY(v, id, laneValue(lane, id, own, step))) - 1, w, 2);
        }
        s.g.globalAlpha = 1;
        if (i > 0 && step.count % n === 0) {
          s.g.fillStyle = s.palette.ink2;
          s.g.fillRect(Math.round(x) - 1, 0, 1, 5);
        }
      });
    },
    [timeline, song.meter, lane, id, own, steps, indices, chosen, kind, n],
  );
  const canvas = useCanvas(paint);
  const marks = kind.names ? kind.names.map((_, i) => i) : [kind.row.max, middleOf(kind.row), kind.row.min];
  const one = chosen.size === 1 ? [...chosen][0]! : null;
  return (
    <div className="absolute inset-0 flex border-t border-line">
      <div className="relative shrink-0 border-r border-line bg-paper" style={{ width: LABEL_WIDTH }}>
        <span className="absolute top-1 left-3 text-[12px] font-semibold">{kind.row.label}</span>
        <span className="absolute top-[18px] left-3 text-[11px] text-ink2">
          {lane.on ? `${n} step${n === 1 ? "" : "s"}` : "off"}
        </span>
        {marks.map((m) => (
          <span
            key={m}
            aria-hidden
            className="absolute right-2 text-[10px] leading-none text-ink2"
            style={{ top: Math.min(size.height - 10, Math.max(1, valueY(laneView, id, m) - 5)) }}
          >
            {laneValueText(id, Math.round(m))}
          </span>
        ))}
      </div>
      <div
        ref={sizeRef}
        className="relative min-w-0 flex-1 cursor-crosshair touch-none"
        style={{ marginRight: GUTTER }}
        tabIndex={0}
        role="application"
        aria-roledescription="lane editor"
        aria-label={`${kind.row.label} lane, ${n} steps. Arrows left and right choose a step, with Shift several, up and down set it, with Alt how far chance takes it.`}
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={finish}
        onPointerCancel={finish}
        onPointerLeave={() => readOut.point(null)}
        onKeyDown={onKeyDown}
        onContextMenu={menuOf(`${kind.row.label} lane`, actions)}
        data-testid="lane-editor"
      >
        <canvas ref={canvas} className="absolute inset-0 h-full w-full" aria-hidden />
        <Playhead timeline={laneView.timeline} left={0} />
        {readOut.element}
        {!lane.on && (
          <p className="pointer-events-none absolute inset-x-0 top-1/3 text-center text-[12px] text-ink2">
            <span className="bg-sheet px-2">{editable ? "Off. Draw across the steps to use it." : "Off."}</span>
          </p>
        )}
        <span className="sr-only" aria-live="polite">
          {one === null ? "" : `step ${one + 1}: ${laneValueText(id, lane.values[one] ?? 0)}`}
        </span>
      </div>
    </div>
  );
}

/** The value that is named between the ends: the default, or half-way where that is an end. */
const middleOf = ({ min, max, default: rest }: LaneKind["row"]): number =>
  rest > min && rest < max ? rest : Math.round((min + max) / 2);
