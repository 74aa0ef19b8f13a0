import type { Module } from "@/core/patch/kinds";
import { createStore, type StoreApi } from "zustand/vanilla";
import type { Region } from "@/core/engine/sequencer";
import type { Address } from "@/core/patch/address";
import type { Drum } from "@/core/patch/kinds/kit";
import type { LaneId } from "@/core/patch/lanes";
import type { MIDDLE_C_OCTAVES } from "@/core/pitch/note";
import type { NoteValue } from "@/core/time/noteValue";

/** What a strip of the score shows. */
export type StripId =
  /** The part as a whole: its name and its sound. */
  | { readonly kind: "part" }
  | { readonly kind: "notes" }
  | { readonly kind: "arpeggio" }
  /** The drums that stand in for the song. */
  | { readonly kind: "backing" }
  | { readonly kind: "module"; readonly id: string }
  | { readonly kind: "heard"; readonly address: Address };

export const NOTES_STRIP: StripId = { kind: "notes" };
export const PART_STRIP: StripId = { kind: "part" };
export const BACKING_STRIP: StripId = { kind: "backing" };

export function sameStrip(a: StripId, b: StripId): boolean {
  if (a.kind === "module") return b.kind === "module" && a.id === b.id;
  if (a.kind === "heard") return b.kind === "heard" && a.address === b.address;
  return a.kind === b.kind;
}

/** The snap of notes that a project opens with. */
export const NOTE_SNAP: NoteValue = { num: 1, den: 16 };

type Theme = "system" | "day" | "night";

/** What the eyes look at: not part of the project, and not of its history. */
export interface ViewState {
  readonly partId: string;
  readonly strip: StripId;
  /** 1 shows the whole loop. */
  readonly zoom: number;
  /** First tick in sight. */
  readonly scrollTick: number;
  /** Where Play starts. */
  readonly startTick: number;
  /** The stretch of the loop that is repeated, in ticks; null for the whole. */
  readonly region: Region | null;
  /** Whether beats click, and how many bars of them come before the song. */
  readonly click: boolean;
  readonly countBars: number;
  readonly noteSnap: NoteValue;
  /** Ticks of the note that was drawn last: what the next click draws; null for one step of the snap. */
  readonly noteLength: number | null;
  readonly selectedNotes: ReadonlySet<string>;
  /** How far quantising goes, in percent, and what notes are moved by; null for the snap. */
  readonly quantiseStrength: number;
  readonly moveBy: NoteValue | null;
  /** The octave by which middle C is named. */
  readonly middleC: (typeof MIDDLE_C_OCTAVES)[number];
  /** Whether notes are heard as they are drawn, moved and chosen. */
  readonly hearNotes: boolean;
  /** Whether only keys of the scale are drawn. */
  readonly keyLock: boolean;
  /** Whether only rows that hold notes are shown. */
  readonly foldRows: boolean;
  /** The lane of the arpeggio that is drawn, and which of its steps are chosen. */
  readonly lane: LaneId;
  readonly laneSteps: ReadonlySet<number>;
  /** The step of the backing that is chosen, and its drum. */
  readonly stroke: { readonly step: number; readonly drum: Drum } | null;
  /** Whether what hands do to automated values while it plays is written. */
  readonly writing: boolean;
  /** The modulation that is heard at its full amount. */
  readonly fullRoute: string | null;
  /** The modulator whose peaks click with the song: not part of the project. */
  readonly clicking: string | null;
  /** Of macros, the one that their pad moves up and down. */
  readonly padPartner: Readonly<Record<string, string>>;
  readonly theme: Theme;
  /** The module whose name is to be typed next. */
  readonly renaming: string | null;
  /** The value that is to be given a source next. */
  readonly moving: Address | null;
  /** A MIDI or sound file that is being taken in. */
  readonly importing: File | null;
  /** The value that had the focus last. */
  readonly address: Address | null;
  /** Values that are chosen together: a hand that changes one changes all. */
  readonly chosenValues: readonly Address[];
  readonly voiceOpen: boolean;
  /** Whether the Moves view is open: it shows what every moved value does. */
  readonly movesOpen: boolean;
  /** Values of parts whose curves are strips beside the usual ones, by the parts' ids: not part of the project. */
  readonly heardStrips: Readonly<Record<string, readonly Address[]>>;
  /** Whether the curve of what is heard shows what adds to it. */
  readonly addsOpen: boolean;
  /** A source that is heard alone, and a module that is heard as it was kept: not part of the project. */
  readonly soloSource: string | null;
  readonly comparing: string | null;
  /** Modules as they were kept, by their ids. */
  readonly kept: Readonly<Record<string, Module>>;
  /** Whether there are keys to play by hand. */
  readonly handsOpen: boolean;
  readonly shortcutsOpen: boolean;
  readonly commandsOpen: boolean;
  /** What is typed for the list of commands until it is there. */
  readonly commandText: string;
}

export type ViewStore = StoreApi<ViewState>;

export const MAX_ZOOM = 32;

export const createViewStore = (): ViewStore =>
  createStore<ViewState>(() => ({
    partId: "",
    strip: NOTES_STRIP,
    zoom: 1,
    scrollTick: 0,
    startTick: 0,
    region: null,
    click: false,
    countBars: 0,
    noteSnap: NOTE_SNAP,
    noteLength: null,
    selectedNotes: new Set(),
    quantiseStrength: 100,
    moveBy: null,
    middleC: 4,
    hearNotes: true,
    keyLock: false,
    foldRows: false,
    lane: "velocity",
    laneSteps: new Set(),
    stroke: null,
    padPartner: {},
    fullRoute: null,
    clicking: null,
    writing: false,
    theme: "system",
    renaming: null,
    moving: null,
    importing: null,
    address: null,
    chosenValues: [],
    voiceOpen: false,
    movesOpen: false,
    addsOpen: false,
    heardStrips: {},
    soloSource: null,
    comparing: null,
    kept: {},
    handsOpen: false,
    shortcutsOpen: false,
    commandsOpen: false,
    commandText: "",
  }));

const NONE: readonly Address[] = [];

/** The values of a part whose curves are strips beside the usual ones. */
export const askedStrips = (v: ViewState, partId: string): readonly Address[] => v.heardStrips[partId] ?? NONE;

/** Makes the curve of a value a strip of its part, or no more. */
export const askStrip = (view: ViewStore, partId: string, address: Address, on: boolean): void =>
  view.setState((v) => {
    const others = askedStrips(v, partId).filter((a) => a !== address);
    return { heardStrips: { ...v.heardStrips, [partId]: on ? [...others, address] : others } };
  });

/** Brings a stretch of the loop into sight, as large as it fits. */
export function zoomTo(view: ViewStore, { from, to }: Region, loopTicks: number): void {
  const zoom = Math.min(MAX_ZOOM, Math.max(1, loopTicks / (to - from)));
  view.setState({ zoom, scrollTick: clampScroll(from, zoom, loopTicks) });
}

/** Zooms by a factor, keeping the tick at `anchor` (0 to 1 of the width) where it is. */
export function zoomBy(view: ViewStore, factor: number, anchor: number, loopTicks: number): void {
  const { zoom, scrollTick } = view.getState();
  const next = Math.min(MAX_ZOOM, Math.max(1, zoom * factor));
  const tick = scrollTick + (anchor * loopTicks) / zoom;
  view.setState({ zoom: next, scrollTick: clampScroll(tick - (anchor * loopTicks) / next, next, loopTicks) });
}

export const clampScroll = (tick: number, zoom: number, loopTicks: number): number =>
  Math.min(loopTicks - loopTicks / zoom, Math.max(0, tick));
