import { createContext, use, useMemo, useSyncExternalStore } from "react";
import { useStore } from "zustand";
import { createStore, type StoreApi } from "zustand/vanilla";
import { WatchService } from "@/audio/watchService";
import { AudioSession, type SoundState } from "@/audio/session";
import { Compiler } from "@/core/engine/compile";
import type { PartProgram, Program } from "@/core/engine/program";
import type { Watch, Watched } from "@/core/engine/watch";
import { addedName } from "@/core/motion/program";
import type { Address } from "@/core/patch/address";
import { modulesOf } from "@/core/patch/kinds";
import { OSCILLATOR } from "@/core/patch/kinds/oscillator";
import { SHAPE } from "@/core/patch/kinds/shape";
import type { Part, Patch, Project, Route } from "@/core/patch/project";
import { NOTE_SOURCES } from "@/core/patch/targets";
import { patternOf, type Pattern } from "@/core/pattern/events";
import { keysOfNote } from "@/core/pitch/noteChord";
import type { ProjectState } from "@/state/projectStore";
import { Workspace, type Note } from "@/state/workspace";
import { keepMoving, onFrame } from "@/ui/frames";
import { InTurn } from "@/ui/inTurn";
import { heardValue, sidesOf } from "@/views/score/heardTracks";
import { heardAddresses, heardStripAddresses } from "@/views/score/heardStrips";
import { allModulators } from "@/views/score/stripList";
import { movedWaveAddresses } from "@/views/voice/movedWaves";
import { HeardApart } from "./heardApart";
import { keptView } from "./keptView";
import { askedStrips, createViewStore, NOTE_SNAP, NOTES_STRIP, type ViewState, type ViewStore } from "./viewStore";

export interface SoundStatus {
  readonly playing: boolean;
  readonly state: SoundState;
  /** Why the sound was paused or stopped by itself. */
  readonly reason: string | null;
}

export interface HeardState {
  readonly heard: Watch | null;
  readonly program: Program | null;
}

const MOST_COLUMNS = 16_384;
/** Columns that a loop's curves are cut into: one a pixel or more of what the strips of this screen show. */
const columnsFor = (zoom: number): number =>
  Math.min(MOST_COLUMNS, 2 ** Math.ceil(Math.log2(Math.max(1024, (globalThis.innerWidth - 512) * zoom))));

/** Moments that are marked for measurements: the last of each name is kept. */
type Moment = "edit" | "heard" | "painted";
let newest: Moment | null = null;
function mark(moment: Moment): void {
  newest = moment;
  performance.clearMarks(`clovik:${moment}`);
  performance.mark(`clovik:${moment}`);
}

/** Marks that an as-heard curve was painted: not one that waits for what an edit makes of it. */
export function markPainted(): void {
  if (newest !== "edit") mark("painted");
}

/** How long a note is heard that is drawn, moved or chosen. */
const HEARD_MS = 300;

/** Everything that the views share: the project, its sound, its as-heard curves, and what is being looked at. */
export class Studio {
  readonly sound: StoreApi<SoundStatus> = createStore<SoundStatus>(() => ({
    playing: false,
    state: "idle",
    reason: null,
  }));
  readonly session = new AudioSession((state, reason) => {
    this.sound.setState({ state, reason, playing: state !== "failed" && this.session.snapshot()?.playing === true });
    keepMoving();
  }, keepMoving);
  readonly view: ViewStore = createViewStore();
  readonly heard: StoreApi<HeardState> = createStore<HeardState>(() => ({ heard: null, program: null }));
  readonly heardInTurn = new InTurn(this.heard);
  readonly workspace: Workspace;
  private readonly watchService: WatchService;
  private readonly compiler = new Compiler();
  private readonly apart = new HeardApart();
  /** The animation frame until which edits wait, and whether one does. */
  private frame = 0;
  private waiting = false;
  private placed = false;
  private begun = false;
  private sampleRate: number;
  private columns = 0;

  constructor(readonly tell: (note: Note) => void) {
    this.workspace = new Workspace(tell);
    this.sampleRate = this.session.sampleRate;
    this.watchService = new WatchService(
      (heard, program) => {
        this.heard.setState({ heard, program });
        mark("heard");
      },
      (error) =>
        tell({
          kind: "error",
          text: `The as-heard curves could not be worked out: ${error.message}. The next edit tries again.`,
        }),
    );
    const { store } = this.workspace;
    store.subscribe((state, before) => {
      if (state.opened !== before.opened) {
        this.forget(state.project);
        // Loaded anew, this tab finds itself where it was; what is opened later begins at its start.
        if (!this.placed) this.view.setState(keptView(state.project));
        this.placed = true;
      }
      if (state.project !== before.project) this.compileSoon();
    });
    // Zoomed in, a curve needs more columns; another part has curves of its own.
    this.view.subscribe((state, before) => {
      const finer = state.zoom !== before.zoom && columnsFor(state.zoom) !== this.columns;
      if (state.partId !== before.partId) this.session.show(state.partId);
      const apart =
        state.soloSource !== before.soloSource ||
        state.comparing !== before.comparing ||
        state.fullRoute !== before.fullRoute ||
        state.voiceOpen !== before.voiceOpen ||
        state.movesOpen !== before.movesOpen ||
        state.addsOpen !== before.addsOpen ||
        state.heardStrips !== before.heardStrips ||
        (state.addsOpen && state.strip !== before.strip);
      if (finer || apart || state.partId !== before.partId) this.compileSoon();
      if (state.region !== before.region || state.click !== before.click)
        this.session.setTransport(state.region, state.click);
    });
    onFrame(() => {
      if (this.session.sounding) keepMoving();
    });
    this.workspace.recordings.store.subscribe(({ known }) => this.session.setRecordings(known));
    this.forget(store.getState().project);
  }

  /** The project that stands is worked on from now on: before that it may be another one's place. */
  begin(): void {
    this.begun = true;
    this.compile();
  }

  /** A new document: what was selected or playing belongs to the last one. */
  private forget(project: Project): void {
    if (this.sound.getState().playing) this.stop();
    const part = project.parts[0]!;
    const shape = modulesOf(part.patch.modules, SHAPE)[0];
    this.view.setState({
      partId: part.id,
      strip: shape ? { kind: "module", id: shape.id } : NOTES_STRIP,
      zoom: 1,
      scrollTick: 0,
      startTick: 0,
      region: null,
      address: null,
      chosenValues: [],
      soloSource: null,
      comparing: null,
      fullRoute: null,
      clicking: null,
      kept: {},
      heardStrips: {},
      selectedNotes: new Set(),
      laneSteps: new Set(),
      noteSnap: NOTE_SNAP,
      noteLength: null,
    });
  }

  /** The first edit goes to the engine at once; those of the same frame follow together with the next one. */
  private compileSoon(): void {
    if (!this.begun) return;
    if (this.frame !== 0) {
      this.waiting = true;
      return;
    }
    mark("edit");
    this.compile();
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      if (this.waiting) this.compileSoon();
    });
  }

  private compile(): void {
    this.waiting = false;
    const { partId, soloSource, comparing, kept, fullRoute } = this.view.getState();
    const project = this.apart.of(this.workspace.store.getState().project, partId, {
      solo: soloSource,
      kept: comparing === null ? null : (kept[comparing] ?? null),
      full: fullRoute,
    });
    const program = this.compiler.compile(project);
    this.session.setProgram(program);
    this.watch(project, program);
  }

  /** Asks for what the strips of the part in view show. */
  private watch(project: Project, program: Program): void {
    const { zoom, partId, voiceOpen, movesOpen, addsOpen, strip } = this.view.getState();
    const opened = addsOpen && strip.kind === "heard" ? strip.address : null;
    this.columns = columnsFor(zoom);
    const watched = project.parts.map(({ id, patch }, i): Watched =>
      id === partId
        ? {
            addresses: [
              ...new Set([
                ...heardStripAddresses(patch, askedStrips(this.view.getState(), id), project.song),
                ...sidesApart(patch, program.parts[i]!),
                ...(voiceOpen ? movedWaves(patch, program.parts[i]!) : []),
                ...(movesOpen ? movedValues(patch, program.parts[i]!) : []),
              ]),
            ],
            adds: addsOf(
              patch.routes.filter((r) => r.target === opened || (movesOpen && isOfNotes(r.source))),
              program.parts[i]!,
            ),
            sources: allModulators(patch, project.modules).map((m) => m.id),
          }
        : { addresses: [], sources: [] },
    );
    this.watchService.request({ program, sampleRate: this.session.sampleRate, watched, columns: this.columns });
  }

  async play(): Promise<void> {
    try {
      const { startTick, countBars } = this.view.getState();
      // A song that plays already is only set somewhere else.
      const counted = this.sound.getState().playing ? 0 : countBars;
      await this.session.play(startTick, counted * this.workspace.store.getState().project.song.meter.beats);
      this.sound.setState({ playing: true });
      if (this.session.sampleRate !== this.sampleRate) {
        // The curves were worked out before the sound card's rate was known.
        this.sampleRate = this.session.sampleRate;
        this.compile();
      }
    } catch (error) {
      this.sound.setState({ playing: false });
      this.tellSilent(error);
    }
  }

  private tellSilent(error: unknown): void {
    const reason = error instanceof Error ? error.message : String(error);
    this.tell({
      kind: "error",
      text: `The sound could not be started: ${reason}. Check the browser's sound device and try again.`,
    });
  }

  /** The part that is being worked on, now. */
  get part(): Part {
    return shownOf(this.workspace.store.getState(), this.view.getState().partId);
  }

  /** Plays a note by hand until `noteOff`; says so when there is no sound to play it. */
  noteOn(partId: string, key: number, velocity: number): void {
    this.noteOff(partId, key);
    const keys = this.chordOn(partId, key);
    this.held.set(`${partId} ${key}`, keys);
    for (const k of keys) this.session.noteOn(partId, k, velocity).catch((error: unknown) => this.tellSilent(error));
  }

  noteOff(partId: string, key: number): void {
    const place = `${partId} ${key}`;
    for (const k of this.held.get(place) ?? []) this.session.noteOff(partId, k);
    this.held.delete(place);
  }
  /** What each key that is held by hand plays: what a note stands for may be changed meanwhile. */
  private readonly held = new Map<string, readonly number[]>();

  /** The keys that a part plays for one. */
  private chordOn(partId: string, key: number): readonly number[] {
    const { parts, song } = this.workspace.store.getState().project;
    return keysOfNote(key, parts.find((p) => p.id === partId)?.noteChord ?? null, song.key);
  }

  /** Lets notes be heard for a moment, as they are drawn, moved or chosen; the ones before end. */
  hear(partId: string, keys: readonly number[], velocity: number): void {
    if (!this.view.getState().hearNotes) return;
    this.unhear?.();
    const played = [...new Set(keys.flatMap((key) => this.chordOn(partId, key)))];
    // Without sound there is nothing to hear: Play says so.
    for (const key of played) void this.session.noteOn(partId, key, velocity).catch(() => undefined);
    const timer = setTimeout(() => this.unhear?.(), HEARD_MS);
    this.unhear = () => {
      clearTimeout(timer);
      this.unhear = null;
      for (const key of played) this.session.noteOff(partId, key);
    };
  }
  private unhear: (() => void) | null = null;

  /** Starts the sound again after it was paused or stopped by itself; what played goes on. */
  async wake(): Promise<void> {
    try {
      await this.session.start();
    } catch (error) {
      this.tellSilent(error);
    }
  }

  stop(): void {
    this.session.stop();
    this.sound.setState({ playing: false });
  }

  toggle(): void {
    if (this.sound.getState().playing) this.stop();
    else void this.play();
  }

  undo(): void {
    const label = this.workspace.store.undo();
    if (label) this.tell({ kind: "info", text: `Undone: ${label.toLowerCase()}` });
  }

  redo(): void {
    const label = this.workspace.store.redo();
    if (label) this.tell({ kind: "info", text: `Done again: ${label.toLowerCase()}` });
  }
}

/** The rows that set the sides of what is heard apart, where the engine reads them. */
function sidesApart(patch: Patch, part: PartProgram): Address[] {
  const read = new Set<string>(part.sound.motion.uses.map((u) => u.address));
  return heardAddresses(patch).flatMap((a) => {
    const value = heardValue(patch, a);
    const sides = value && sidesOf(value);
    return sides !== null && read.has(sides) ? [sides] : [];
  });
}

/** What the waves of a part's oscillators are moved by, where the engine reads it. */
function movedWaves(patch: Patch, part: PartProgram): Address[] {
  const read = new Set(part.sound.motion.uses.map((u) => u.address));
  const moves = new Set(patch.routes.filter((r) => r.on && read.has(r.target)).map((r) => r.target));
  return modulesOf(patch.modules, OSCILLATOR).flatMap((o) => movedWaveAddresses(o, moves));
}

/** Every value of a part that something moves, where the engine has it. */
function movedValues(patch: Patch, part: PartProgram): Address[] {
  const { uses, targets } = part.sound.motion;
  const known = new Set<string>([...uses.map((u) => u.address), ...Object.keys(targets)]);
  return patch.routes.map((r) => r.target).filter((a) => known.has(a));
}

/** Names of what routes add, where the engine has it. */
function addsOf(routes: readonly Route[], part: PartProgram): string[] {
  const { adds } = part.sound.motion;
  return routes.flatMap((r) => [false, true].map((right) => addedName(r.id, right))).filter((name) => name in adds);
}

/** Whether a source has no curve of its own: each note brings it along. */
const isOfNotes = (source: string): boolean => NOTE_SOURCES.some((s) => s.id === source);

export const StudioContext = createContext<Studio | null>(null);

export function useStudio(): Studio {
  const studio = use(StudioContext);
  if (!studio) throw new Error("a view stands outside the studio");
  return studio;
}

export const useProject = <T>(select: (state: ProjectState) => T): T => useStore(useStudio().workspace.store, select);
export const useView = <T>(select: (state: ViewState) => T): T => useStore(useStudio().view, select);
export const useSound = <T>(select: (state: SoundStatus) => T): T => useStore(useStudio().sound, select);

/** What is heard, with the program that it is heard of: it comes to one reader after the other, to curves of it `first`. */
export function useHeard(first = false): HeardState {
  const { heardInTurn } = useStudio();
  const reader = useMemo(() => heardInTurn.reader(first), [heardInTurn, first]);
  return useSyncExternalStore(reader.subscribe, reader.get, reader.get);
}

const shownOf = ({ project }: ProjectState, id: string): Part =>
  project.parts.find((p) => p.id === id) ?? project.parts[0]!;

/** Something of the part that is being worked on; drawn anew when that changes, not with every edit of the part. */
export function useOfPart<T>(select: (part: Part, project: Project) => T): T {
  const id = useView((v) => v.partId);
  return useProject((s) => select(shownOf(s, id), s.project));
}

/** The part that is being worked on. */
export const usePart = (): Part => useOfPart((part) => part);

/** Its place among the parts. */
export const usePartIndex = (): number => useOfPart((part, project) => project.parts.indexOf(part));

/** What the part that is worked on plays: its own pattern, or that of the part that it follows. */
export function usePattern(): Pattern {
  const part = usePart();
  const parts = useProject((s) => s.project.parts);
  return useMemo(() => patternOf(part, parts), [part, parts]);
}

/** Whether this tab may edit. */
export const useEditable = (): boolean => useProject((s) => s.readOnly === null);
