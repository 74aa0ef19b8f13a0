import { useCallback, useMemo } from "react";
import { compileCurve, curveAt } from "@/core/curve/curve";
import { automatable } from "@/core/patch/automation";
import { modulesOf } from "@/core/patch/kinds";
import { DRUMS } from "@/core/patch/kinds/kit";
import { AUTOMATION, type Automation } from "@/core/patch/kinds/automation";
import { fromNorm } from "@/core/patch/row";
import { kitHits } from "@/core/pattern/backing";
import { loopTicks, partEvents } from "@/core/pattern/events";
import { formatAmount } from "@/core/patch/valueText";
import { noteName, usesFlats } from "@/core/pitch/note";
import { useSame } from "@/ui/steady";
import { useSlowly } from "@/ui/useSlowly";
import { useCanvas, type Surface } from "@/ui/useCanvas";
import { useHeard, useOfPart, usePartIndex, usePattern, useProject } from "@/views/studio/studio";
import { chordLabels, allModulators, type StripInfo, modulatorColour } from "./stripList";
import { HeardCanvas } from "./HeardCanvas";
import { modulatorTracks, sameTracks, valueAt } from "./heardTracks";
import { paintEvents, paintGrid, paintTracks, pitchRange } from "./paint";
import { HoverText } from "./HoverText";
import { PlayDot } from "./Playhead";
import { tickToX, xToTick, type Timeline } from "./timeline";
import { STRIP_CANVAS } from "./layout";

export function StripCanvas({ strip, timeline }: { strip: StripInfo; timeline: Timeline }) {
  switch (strip.id.kind) {
    case "heard":
      return <HeardCanvas address={strip.id.address} timeline={timeline} />;
    case "backing":
      return <BackingCanvas timeline={timeline} />;
    case "module":
      return <ModuleCanvas id={strip.id.id} timeline={timeline} />;
    default:
      return <PatternCanvas strip={strip} timeline={timeline} />;
  }
}

/** So many events are drawn some times a second while they are edited; their editor keeps up with the hand. */
const MANY_EVENTS = 400;

function PatternCanvas({ strip, timeline }: { strip: StripInfo; timeline: Timeline }) {
  const song = useProject((s) => s.project.song);
  const seed = useProject((s) => s.project.seed);
  const isNotes = strip.id.kind === "notes";
  const pattern = usePattern();
  const { notes } = pattern;
  const events = useMemo(
    () =>
      isNotes
        ? notes.map((n) => ({
            onTick: n.startTick,
            offTick: n.startTick + n.lengthTicks,
            key: n.key,
            velocity: n.velocity,
          }))
        : partEvents(pattern, song, seed),
    [isNotes, notes, pattern, song, seed],
  );
  const many = events.length > MANY_EVENTS;
  const shown = useSlowly(events, many);
  const named = useSlowly(notes, many);
  const labels = useMemo(() => (isNotes ? chordLabels(named, song) : []), [isNotes, named, song]);
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      paintGrid(s, t, song.meter, Infinity);
      paintEvents(s, t, shown, pitchRange(shown.map((e) => e.key), 1), isNotes ? s.palette.notes : s.palette.rhythm, isNotes ? 14 : 0); // prettier-ignore
      s.g.fillStyle = s.palette.ink2;
      s.g.font = s.g.font.replace("500", "600");
      for (const label of labels) s.g.fillText(label.text, tickToX(t, label.tick) + 6, 12);
    },
    [timeline, song.meter, shown, isNotes, labels],
  );
  const what = isNotes
    ? `${events.length} notes, ${labels.map((l) => l.text).join(", ")}`
    : `${events.length} notes are played in one pass`;
  const flats = usesFlats(song.key);
  return (
    <>
      <canvas ref={useCanvas(paint)} className={STRIP_CANVAS} role="img" aria-label={`${strip.title}: ${what}`} />
      <HoverText
        timeline={timeline}
        describe={(tick) => {
          const keys = events.filter((e) => e.onTick <= tick && tick < e.offTick).map((e) => e.key);
          return keys.length === 0
            ? null
            : keys
                .slice(0, 6)
                .map((k) => noteName(k, flats))
                .join(" ");
        }}
      />
    </>
  );
}

/** The strokes of the backing, a line for each drum: the kick lies lowest. */
function BackingCanvas({ timeline }: { timeline: Timeline }) {
  const song = useProject((s) => s.project.song);
  const kit = useProject((s) => s.project.backing);
  const hits = useMemo(() => (kit ? kitHits(kit, song) : null), [kit, song]);
  const on = kit?.on ?? false;
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      paintGrid(s, t, song.meter, Infinity);
      s.g.fillStyle = s.palette.rhythm;
      const tall = (s.height - 6) / DRUMS.length;
      DRUMS.forEach((drum, i) => {
        const floor = s.height - 3 - i * tall;
        let last = -Infinity;
        for (const h of hits?.[drum] ?? []) {
          const x = tickToX(t, h.startTick);
          // Where there are many to a pixel, one stands for them.
          if (x < -4 || x > s.width || x < last + 0.5) continue;
          last = x;
          s.g.globalAlpha = (on ? 1 : 0.4) * (0.4 + (0.6 * h.velocity) / 127);
          s.g.fillRect(x, floor - tall + 1, 4, tall - 2);
        }
      });
      s.g.globalAlpha = 1;
    },
    [timeline, song.meter, hits, on],
  );
  const counted = DRUMS.map((d) => `${hits?.[d].length ?? 0} ${d}s`).join(", ");
  return (
    <>
      <canvas ref={useCanvas(paint)} className={STRIP_CANVAS} role="img" aria-label={`Backing: ${counted} in one pass`} />
      <HoverText
        timeline={timeline}
        describe={(tick) =>
          DRUMS.flatMap((d) => (hits?.[d].some((h) => h.startTick <= tick && tick < h.offTick) ? [d] : [])).join(" ") || null
        }
      />
    </>
  );
} // prettier-ignore

function ModuleCanvas({ id, timeline }: { id: string; timeline: Timeline }) {
  const automation = useOfPart((part) => modulesOf(part.patch.modules, AUTOMATION).find((m) => m.id === id));
  return automation ? (
    <AutomationCanvas module={automation} timeline={timeline} />
  ) : (
    <ModulatorCanvas id={id} timeline={timeline} />
  );
}

/** Break points over the loop. */
function AutomationCanvas({ module: m, timeline }: { module: Automation; timeline: Timeline }) {
  const patch = useOfPart((part) => part.patch);
  const song = useProject((s) => s.project.song);
  const curve = useMemo(() => compileCurve(m.data.points), [m.data.points]);
  const found = automatable(patch, m.data.target, song);
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      paintGrid(s, t, song.meter, Infinity);
      const end = loopTicks(song);
      s.g.strokeStyle = s.palette.notes;
      s.g.globalAlpha = m.on ? 1 : 0.4;
      s.g.lineWidth = 1.5;
      s.g.beginPath();
      for (let x = 0; x <= s.width; x++) {
        const at = xToTick(t, x) / end;
        if (at >= 0 && at <= 1) s.g.lineTo(x, s.height - 3 - curveAt(curve, at) * (s.height - 8));
      }
      s.g.stroke();
      s.g.fillStyle = s.palette.notes;
      for (const p of m.data.points) s.g.fillRect(tickToX(t, p.x * end) - 2, s.height - 5 - p.y * (s.height - 8), 4, 4);
      s.g.globalAlpha = 1;
    },
    [timeline, song, curve, m],
  );
  return (
    <>
      <canvas ref={useCanvas(paint)} className={STRIP_CANVAS} role="img" aria-label={`${m.name} over the loop`} />
      <HoverText
        timeline={timeline}
        describe={(tick) => (found ? found.text(fromNorm(found.row, curveAt(curve, Math.min(1, tick / loopTicks(song))))) : null)}
      />
    </>
  );
} // prettier-ignore

function ModulatorCanvas({ id, timeline }: { id: string; timeline: Timeline }) {
  const song = useProject((s) => s.project.song);
  const partIndex = usePartIndex();
  const { heard, program } = useHeard();
  const modulator = useOfPart((part, project) => allModulators(part.patch, project.modules).find((m) => m.id === id));
  const found = useMemo(
    () => (heard && program ? modulatorTracks(heard, program, partIndex, id) : []),
    [heard, program, partIndex, id],
  );
  const tracks = useSame(found, sameTracks);
  const kind = modulator ? modulatorColour(modulator) : "shape";
  const paint = useCallback(
    (s: Surface) => {
      const t = { ...timeline, width: s.width };
      paintGrid(s, t, song.meter, Infinity);
      paintTracks(s, t, tracks, (v) => s.height - 3 - v * (s.height - 8), s.palette[kind]);
    },
    [timeline, song.meter, tracks, kind],
  );
  const toY = useCallback((v: number) => 1 - v, []);
  return (
    <>
      <canvas
        ref={useCanvas(paint)}
        className={STRIP_CANVAS}
        role="img"
        aria-label={`${modulator?.name ?? ""} over the loop`}
      />
      <PlayDot timeline={timeline} tracks={tracks} toY={toY} kind={kind} />
      <HoverText
        timeline={timeline}
        describe={(tick) => {
          const v = valueAt(tracks, tick);
          return v === null ? null : formatAmount(v * 100, "%", 0);
        }}
      />
    </>
  );
}
