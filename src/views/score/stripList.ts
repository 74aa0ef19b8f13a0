import { chordName } from "@/core/pitch/chord";
import { keyName, usesFlats } from "@/core/pitch/note";
import type { CHOICES } from "@/core/patch/parameters";
import { type TargetId } from "@/core/patch/parameters";
import {
  AMP_ENVELOPE,
  type Arpeggio,
  type Modulator,
  type Note,
  type Part,
  type Restart,
  type Song,
} from "@/core/patch/project";
import { barTicks } from "@/core/time/meter";
import { noteValueName } from "@/core/time/noteValue";
import { formatSpan } from "@/core/time/span";
import type { Kind } from "@/ui/ValueRow";
import type { StripId } from "@/views/studio/viewStore";

export interface StripInfo {
  readonly id: StripId;
  readonly kind: Kind;
  readonly title: string;
  readonly subtitle: string;
  readonly height: number;
}

export const ORDER_TEXT: Record<Arpeggio["order"], string> = {
  up: "up",
  down: "down",
  upDown: "up and down",
  asPlayed: "as played",
  chord: "chord",
  random: "random",
};

export const RESTART_TEXT: Record<Restart, string> = {
  song: "with the song",
  bar: "each bar",
  note: "each note",
  once: "once a note",
};

export const WAVE_TEXT: Record<(typeof CHOICES)["osc.wave"]["options"][number], string> = {
  sine: "sine",
  triangle: "triangle",
  saw: "saw",
  pulse: "pulse",
};

export const FILTER_TEXT: Record<(typeof CHOICES)["filter.type"]["options"][number], string> = {
  lp24: "low-pass 24 dB",
  lp12: "low-pass 12 dB",
  bp12: "band-pass 12 dB",
  hp12: "high-pass 12 dB",
};

const TARGET_TEXT: Record<TargetId, string> = {
  "osc.pitch": "Pitch",
  "amp.level": "Level",
  "filter.cutoff": "Cutoff",
  "filter.resonance": "Resonance",
  "amp.pan": "Pan",
};

const HEARD: readonly TargetId[] = ["filter.cutoff", "osc.pitch", "amp.level"];

const plural = (count: number, one: string): string => `${count} ${one}${count === 1 ? "" : "s"}`;

const arpText = (a: Arpeggio): string =>
  a.on ? `${ORDER_TEXT[a.order]}, ${a.octaves} oct, ${noteValueName(a.rate)}` : "off, notes play as written";

const modulatorText = (m: Modulator): string =>
  m.kind === "shape"
    ? `${formatSpan(m.rate)}, ${RESTART_TEXT[m.restart]}`
    : `${m.id === AMP_ENVELOPE ? "level, " : ""}decay ${formatSpan(m.decay)}`;

/** What moves a target, by name. */
export function moversOf(part: Part, target: TargetId): string {
  const names = part.patch.routes
    .filter((r) => r.target === target && r.on)
    .map((r) =>
      r.source === "velocity" || r.source === "key"
        ? r.source
        : (part.patch.modulators.find((m) => m.id === r.source)?.name ?? ""),
    );
  if (target === "amp.level") names.unshift(part.patch.modulators.find((m) => m.id === AMP_ENVELOPE)?.name ?? "Amp");
  if (target === "filter.cutoff" && part.patch.values["filter.keyFollow"] > 0) names.push("key follow");
  return names.length > 0 ? names.join(" + ") : "nothing moves it";
}

/** The strips of a part, top to bottom. */
export function stripsOf(part: Part, song: Song): StripInfo[] {
  return [
    {
      id: "notes",
      kind: "notes",
      title: "Notes",
      subtitle: `${plural(part.notes.length, "note")}, ${keyName(song.key)}`,
      height: 48,
    },
    { id: "arpeggio", kind: "rhythm", title: "Arpeggio", subtitle: arpText(part.arpeggio), height: 50 },
    ...part.patch.modulators.map((m): StripInfo => ({
      id: `mod:${m.id}`,
      kind: m.kind,
      title: m.name,
      subtitle: modulatorText(m),
      height: 42,
    })),
    ...HEARD.map((t): StripInfo => ({
      id: `heard:${t}`,
      kind: "heard",
      title: `${TARGET_TEXT[t]}, as heard`,
      subtitle: moversOf(part, t),
      height: 48,
    })),
  ];
}

/** Names of the chords that the notes make, one where each bar's first chord begins. */
export function chordLabels(notes: readonly Note[], song: Song): { tick: number; text: string }[] {
  const bar = barTicks(song.meter);
  const labels: { tick: number; text: string }[] = [];
  for (let b = 0; b < song.loopBars; b++) {
    const tick = notes.reduce(
      (first, n) => (n.startTick >= b * bar && n.startTick < (b + 1) * bar ? Math.min(first, n.startTick) : first),
      Infinity,
    );
    if (tick === Infinity) continue;
    const keys = notes.filter((n) => n.startTick <= tick && tick < n.startTick + n.lengthTicks).map((n) => n.key);
    const text = keys.length > 1 ? chordName(keys, usesFlats(song.key)) : null;
    if (text) labels.push({ tick, text });
  }
  return labels;
}
