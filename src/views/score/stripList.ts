import { chordName } from "@/core/pitch/chord";
import { keyName, usesFlats } from "@/core/pitch/note";
import type { Address } from "@/core/patch/address";
import { addressOfRow, isModulator, modulesOf, type Module, type Modulator } from "@/core/patch/kinds";
import { automationOf } from "@/core/patch/automation";
import { AUTOMATION } from "@/core/patch/kinds/automation";
import { AMP, type Amp } from "@/core/patch/kinds/amp";
import { FILTER, type Filter } from "@/core/patch/kinds/filter";
import { NOISE, type Noise } from "@/core/patch/kinds/noise";
import { RECORDING, type RecordingModule } from "@/core/patch/kinds/recording";
import type { Random } from "@/core/patch/kinds/random";
import type { Envelope } from "@/core/patch/kinds/envelope";
import type { Steps } from "@/core/patch/kinds/steps";
import type { Kit } from "@/core/patch/kinds/kit";
import { MACRO } from "@/core/patch/kinds/macro";
import { SUB, type Sub } from "@/core/patch/kinds/sub";
import { OSCILLATOR, type Oscillator } from "@/core/patch/kinds/oscillator";
import type { Restart, Shape } from "@/core/patch/kinds/shape";
import type { Arpeggio, Note, Part, Patch, Project, Song } from "@/core/patch/project";
import { formatAmount, formatValue } from "@/core/patch/valueText";
import { cyclesOf } from "@/core/motion/cycles";
import { repeatReport, type Drift } from "@/core/time/repeat";
import { barTicks } from "@/core/time/meter";
import { noteValueName } from "@/core/time/noteValue";
import { formatSpan, ticksPerSecond } from "@/core/time/span";
import type { Kind } from "@/ui/ValueRow";
import type { StripId } from "@/views/studio/viewStore";
import { heardAddresses, heardStripAddresses, heardTitle, moversOf } from "./heardStrips";

export interface StripInfo {
  readonly id: StripId;
  readonly kind: Kind;
  readonly title: string;
  readonly subtitle: string;
  readonly height: number;
  /** Whether title and subtitle share a line. */
  readonly flat?: boolean;
  /** Whether a click may remove it: a modulator that does not shape the level. */
  readonly removable: boolean;
}

export const ORDER_TEXT: Record<Arpeggio["order"], string> = {
  up: "up",
  down: "down",
  upDown: "up and down",
  downUp: "down and up",
  outsideIn: "outside in",
  insideOut: "inside out",
  asPlayed: "as played",
  chord: "chord",
  random: "random",
  shuffle: "random, none twice",
  drawn: "as drawn",
};

export const RESTART_TEXT: Record<Restart, string> = {
  song: "with the song",
  bar: "each bar",
  chord: "each chord",
  rest: "after a rest",
  note: "each note",
  once: "once a note",
  triggers: "at triggers",
  hand: "by hand",
};

export const WAVE_TEXT: Record<Oscillator["choices"]["wave"], string> = {
  sine: "sine",
  triangle: "triangle",
  saw: "saw",
  pulse: "pulse",
  table: "wave table",
  drawn: "drawn",
  corners: "four waves",
  cycles: "from a recording",
  harmonics: "weighted harmonics",
};

export const FILTER_TEXT: Record<Filter["choices"]["type"], string> = {
  lp24: "low-pass 24 dB",
  lp12: "low-pass 12 dB",
  bp12: "band-pass 12 dB",
  hp12: "high-pass 12 dB",
  hp24: "high-pass 24 dB",
  bp24: "band-pass 24 dB",
  notch12: "notch 12 dB",
  notch24: "notch 24 dB",
  ladder: "driven four-pole",
  combUp: "comb",
  combDown: "comb, negative",
  vowel: "vowel",
  allpass: "all-pass",
};

/** Whether a module is the envelope that shapes the level: it cannot be removed. */
export const shapesLevel = (patch: Patch, id: string): boolean =>
  modulesOf(patch.modules, AMP).some((m) => m.data.envelope === id);

/** Envelopes and shapes, those that shape the level first. */
export const modulatorsOf = (patch: Patch): Modulator[] =>
  patch.modules.filter(isModulator).sort((a, b) => Number(shapesLevel(patch, b.id)) - Number(shapesLevel(patch, a.id)));

/** A part's own, then those of the song, which all parts share. */
export const allModulators = (patch: Patch, songModules: readonly Module[]): Modulator[] => [
  ...modulatorsOf(patch),
  ...songModules.filter(isModulator),
];

const plural = (count: number, one: string): string => `${count} ${one}${count === 1 ? "" : "s"}`;

export const arpText = (a: Arpeggio): string =>
  a.on ? `${ORDER_TEXT[a.order]}, ${a.octaves} oct, ${noteValueName(a.rate)}` : "off, notes play as written";

/** How many steps of what, so that "of 1/4" is not taken for "in 1/4". */
export const stepsText = (m: Steps): string =>
  `${m.data.steps.length} steps ${m.choices.rateOf === "step" ? "of" : "in"} ${formatSpan(m.times.rate)}`;

export const randomText = (m: Random): string =>
  m.choices.draws === "note" ? "a new value each note" : `a new value each ${formatSpan(m.times.rate)}`;

export const restartText = (m: Shape | Steps | Envelope): string =>
  m.choices.restart === "bar" && m.values.every > 1 ? `every ${m.values.every} bars` : RESTART_TEXT[m.choices.restart];

export function modulatorText(patch: Patch, m: Modulator): string {
  switch (m.kind) {
    case "shape":
      return `${formatSpan(m.times.rate)}, ${restartText(m)}`;
    case "gate":
      return `${m.data.steps.length} × ${formatSpan(m.times.step)}, ${RESTART_TEXT[m.choices.restart]}`;
    case "steps":
      return `${stepsText(m).replace("steps ", "")}, ${restartText(m)}`;
    case "random":
      return randomText(m);
    case "follower":
      return `release ${formatSpan(m.times.release)}`;
    case "macro":
      return automationOf(patch, addressOfRow(m, MACRO.rows.value))?.on
        ? "automated"
        : `${formatValue(MACRO.rows.value, m.values.value)}, set by hand`;
    case "envelope":
      return shapesLevel(patch, m.id)
        ? `level, decay ${formatSpan(m.times.decay)}`
        : m.choices.restart === "note"
          ? `decay ${formatSpan(m.times.decay)}`
          : `${formatSpan(m.times.decay)}, ${restartText(m)}`;
    default:
      return m satisfies never;
  }
}

const COLOURS = { envelope: "envelope", shape: "shape", random: "shape", follower: "envelope", steps: "rhythm", gate: "rhythm", macro: "notes" } as const satisfies Record<Modulator["kind"], Kind>; // prettier-ignore

/** The colour of a modulator: steps and gates are rhythm, random values shapes, and what hands set is ink. */
export const modulatorColour = (m: Modulator): Kind => COLOURS[m.kind];

/** The colour of a module's values: that of its kind where it moves others. */
export const colourOf = (module: Module): Kind =>
  isModulator(module) ? modulatorColour(module) : module.kind === "kit" ? "rhythm" : "notes";

/** What the patch's sound goes through, from source to output, each with a word about it. */
export function soundPath(
  patch: Patch,
): { module: Oscillator | Noise | Sub | RecordingModule | Filter | Amp; address: Address; text: string }[] {
  return [
    ...modulesOf(patch.modules, OSCILLATOR).map((m) => ({
      module: m,
      address: addressOfRow(m, OSCILLATOR.rows.pitch),
      text: m.values.unison > 1 ? `${WAVE_TEXT[m.choices.wave]} × ${m.values.unison}` : WAVE_TEXT[m.choices.wave],
    })),
    ...modulesOf(patch.modules, NOISE).map((m) => ({
      module: m,
      address: addressOfRow(m, NOISE.rows.level),
      text: m.choices.colour,
    })),
    ...modulesOf(patch.modules, SUB).map((m) => ({
      module: m,
      address: addressOfRow(m, SUB.rows.pitch),
      text: subText(m),
    })),
    ...modulesOf(patch.modules, RECORDING).map((m) => ({
      module: m,
      address: addressOfRow(m, RECORDING.rows.pitch),
      text: m.choices.plays,
    })),
    ...modulesOf(patch.modules, FILTER).map((m) => ({
      module: m,
      address: addressOfRow(m, FILTER.rows.cutoff),
      text: `${FILTER_TEXT[m.choices.type]}, ${formatValue(FILTER.rows.cutoff, m.values.cutoff)}`,
    })),
    ...modulesOf(patch.modules, AMP).map((m) => ({
      module: m,
      address: addressOfRow(m, AMP.rows.level),
      text: formatValue(AMP.rows.level, m.values.level),
    })),
  ];
}

/** A sub in a few words. */
export const subText = (m: Sub): string =>
  `${m.choices.wave}, ${m.choices.below === "one" ? "an octave" : "two octaves"} down`;

/** By how much what runs on slides off the bar; null for what does not. */
export function slideText({ slidTicks }: Drift, song: Song): string | null {
  if (slidTicks === null) return null;
  const ms = (Math.abs(slidTicks) / ticksPerSecond(song.tempoBpm)) * 1000;
  return `${formatAmount(ms, "ms", ms < 10 ? 1 : 0)} ${slidTicks > 0 ? "late" : "early"} each bar`;
}

/** What cuts a cycle short that does not fit. */
export const cutText = ({ everyBars }: Drift, { loopBars }: Song): string =>
  everyBars === 1 ? "the bar" : everyBars === loopBars ? "the loop" : `its ${everyBars} bars`;

const backingStrip = (kit: Kit): StripInfo => ({
  id: { kind: "backing" },
  kind: "rhythm",
  title: kit.name,
  subtitle: `${kit.on ? "" : "off, "}${kit.data.steps.length} × ${formatSpan(kit.times.step)}`,
  height: 28,
  flat: true,
  removable: false,
});

/** The strips of a part, top to bottom, below what stands in for the song. */
export function stripsOf(
  part: Part,
  { modules: songModules, song, backing }: Pick<Project, "modules" | "song" | "backing">,
  asked: readonly Address[] = [],
): StripInfo[] {
  const { patch } = part;
  const { drifts } = repeatReport(cyclesOf([...patch.modules, ...songModules], song), 1, song.meter, song.loopBars);
  const slides = (m: Modulator): string => {
    const drift = drifts.find((d) => d.id === m.id);
    return drift ? `, ${slideText(drift, song) ?? `cut by ${cutText(drift, song)}`}` : "";
  };
  return [
    ...(backing ? [backingStrip(backing)] : []),
    {
      id: { kind: "notes" },
      kind: "notes",
      title: "Notes",
      subtitle: part.follows ? "another part's" : `${plural(part.notes.length, "note")}, ${keyName(song.key)}`,
      height: 48,
      removable: false,
    },
    {
      id: { kind: "arpeggio" },
      kind: "rhythm",
      title: part.follows ? "Played" : "Arpeggio",
      subtitle: part.follows ? "as it follows" : arpText(part.arpeggio),
      height: 50,
      removable: false,
    },
    ...allModulators(patch, songModules).map((m): StripInfo => ({
      id: { kind: "module", id: m.id },
      kind: modulatorColour(m),
      title: m.name,
      subtitle: `${songModules.includes(m) ? "the song's, " : ""}${modulatorText(patch, m)}${slides(m)}`,
      // What drifts has two lines to say.
      height: slides(m) === "" ? 42 : 48,
      removable: !shapesLevel(patch, m.id),
    })),
    ...modulesOf(patch.modules, AUTOMATION).map((m): StripInfo => ({
      id: { kind: "module", id: m.id },
      kind: "notes",
      title: m.name,
      subtitle: m.on ? "automation" : "automation, off",
      height: 42,
      removable: true,
    })),
    ...heardStripAddresses(patch, asked, song).map((address): StripInfo => ({
      id: { kind: "heard", address },
      kind: "heard",
      title: `${heardTitle(patch, address)}, as heard`,
      subtitle: moversOf(part, songModules, address),
      height: 48,
      removable: asked.includes(address) && !heardAddresses(patch).includes(address),
    })),
  ];
}

/** The strips as they are now; those that are what they were are the same objects. */
export const keptStrips = (before: readonly StripInfo[], now: readonly StripInfo[]): readonly StripInfo[] =>
  now.map((strip) => before.find((b) => JSON.stringify(b) === JSON.stringify(strip)) ?? strip);

/** Names of the chords that the notes make, one where each bar's first chord begins. */
export function chordLabels(notes: readonly Note[], song: Song): { tick: number; text: string }[] {
  const bar = barTicks(song.meter);
  const first = new Array<number>(song.loopBars).fill(Infinity);
  for (const n of notes) {
    const b = Math.floor(n.startTick / bar);
    if (b < first.length) first[b] = Math.min(first[b]!, n.startTick);
  }
  // Each note is asked only of the bars that it lasts over: there may be thousands of notes.
  const keys = first.map((): number[] => []);
  for (const n of notes) {
    const end = n.startTick + n.lengthTicks;
    for (let b = Math.floor(n.startTick / bar); b < first.length && b * bar < end; b++)
      if (n.startTick <= first[b]! && first[b]! < end) keys[b]!.push(n.key);
  }
  return first.flatMap((tick, b) => {
    const text = keys[b]!.length > 1 ? chordName(keys[b]!, usesFlats(song.key)) : null;
    return text ? [{ tick, text }] : [];
  });
}
