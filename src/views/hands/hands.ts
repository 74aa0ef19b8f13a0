import { createStore, type StoreApi } from "zustand/vanilla";
import { openMidi, type MidiInputs } from "@/audio/midiInput";
import type { HandEvent } from "@/core/format/midiMessage";
import { addNotes } from "@/core/pattern/noteEdit";
import { loopTicks, songSwing } from "@/core/pattern/events";
import { recordedNote } from "@/core/pattern/record";
import type { Note } from "@/core/patch/project";
import { noteValueTicks } from "@/core/time/noteValue";
import { ticksPerSecond } from "@/core/time/span";
import { editNotes } from "@/state/edits";
import { newId } from "@/state/ids";
import { newGesture } from "@/ui/gesture";
import type { AudioSession } from "@/audio/session";
import type { Note as Message, Workspace } from "@/state/workspace";
import type { ViewStore } from "@/views/studio/viewStore";

interface HandsState {
  /** Keys that are held by hand, with their velocity. */
  readonly held: ReadonlyMap<number, number>;
  readonly bend: number;
  readonly wheel: number;
  readonly pressure: number;
  /** Octaves that the typed keys lie above where they begin, at C3. */
  readonly octave: number;
  readonly recording: boolean;
  /** Whether notes are added to those there are; else a recording begins with none. */
  readonly overdub: boolean;
  readonly quantiseIn: boolean;
  /** Instruments that are listened to; null before the browser was asked. */
  readonly midi: readonly string[] | null;
}

/** What hands play on: the sound, the project, and what is looked at. */
interface Host {
  readonly sound: Pick<StoreApi<{ readonly playing: boolean }>, "getState" | "subscribe">;
  readonly view: ViewStore;
  readonly session: AudioSession;
  readonly workspace: Workspace;
  readonly tell: (message: Message) => void;
  play(): Promise<void>;
  noteOn(partId: string, key: number, velocity: number): void;
  noteOff(partId: string, key: number): void;
}

/** A key that is held while it is recorded. */
interface Pressed {
  readonly tick: number;
  readonly atMs: number;
  readonly velocity: number;
}

/** What hands play: typed keys, the keys on the screen and MIDI instruments, heard at once and recorded if wanted. */
class Hands {
  readonly state: StoreApi<HandsState> = createStore<HandsState>(() => ({
    held: new Map(),
    bend: 0,
    wheel: 0,
    pressure: 0,
    octave: 0,
    recording: false,
    overdub: true,
    quantiseIn: true,
    midi: null,
  }));
  private readonly pressed = new Map<number, Pressed>();
  /** Keys that were let go while the pedal holds them. */
  private readonly sustained = new Set<number>();
  private pedal = false;
  private inputs: MidiInputs | null = null;
  private gesture = "";
  /** When the song begins that is being counted in. */
  private beginsMs = 0;
  /** The part that is played: another one that is chosen meanwhile does not take over what is held. */
  private partId = "";

  constructor(private readonly studio: Host) {
    studio.sound.subscribe((now, before) => {
      if (before.playing && !now.playing) this.stopRecording();
    });
    studio.view.subscribe((now, before) => {
      if (now.partId !== before.partId) this.letGo();
    });
  }

  take(event: HandEvent): void {
    switch (event.type) {
      case "press":
        return this.press(event.key, event.velocity);
      case "release":
        return this.release(event.key);
      case "bend":
        return this.move({ bend: event.value });
      case "wheel":
        return this.move({ wheel: event.value });
      case "pressure":
        return this.move({ pressure: event.value });
      case "pedal":
        this.pedal = event.down;
        if (!event.down) for (const key of [...this.sustained]) this.release(key);
        return;
      case "allOff":
        return this.letGo();
      default:
        return event satisfies never;
    }
  }

  press(key: number, velocity: number): void {
    const { studio } = this;
    this.sustained.delete(key);
    if (this.pressed.has(key)) this.finish(key);
    this.partId = studio.view.getState().partId;
    studio.noteOn(this.partId, key, velocity);
    this.pressed.set(key, { tick: this.tickNow(), atMs: performance.now(), velocity });
    this.show();
  }

  release(key: number): void {
    if (this.pedal) return void this.sustained.add(key);
    this.sustained.delete(key);
    this.studio.noteOff(this.partId, key);
    this.finish(key);
    this.show();
  }

  /** Lets go of everything. */
  letGo(): void {
    this.pedal = false;
    for (const key of [...this.pressed.keys()]) this.release(key);
    this.move({ bend: 0, pressure: 0 });
  }

  private show(): void {
    this.state.setState({ held: new Map([...this.pressed].map(([key, p]) => [key, p.velocity])) });
  }

  /** Pitch bend, -1 to 1, mod wheel and pressure, 0 to 1; what is not named stays. */
  move(to: Partial<Pick<HandsState, "bend" | "wheel" | "pressure">>): void {
    this.state.setState(to);
    const { bend, wheel, pressure } = this.state.getState();
    this.studio.session.hands(this.studio.view.getState().partId, bend, wheel, pressure);
  }

  /** Where the song is heard now; while it is counted in, where it will begin. NaN while nothing plays. */
  private tickNow(): number {
    const snapshot = this.studio.session.snapshot();
    if (snapshot?.playing) return snapshot.loopTick;
    const early = (this.beginsMs - performance.now()) / 1000;
    const { project } = this.studio.workspace.store.getState();
    const beat = 60 / project.song.tempoBpm;
    return early > 0 && early < beat / 2 ? this.studio.view.getState().startTick : NaN;
  }

  /** A key is let go: what was held is recorded, if the song played. */
  private finish(key: number): void {
    const pressed = this.pressed.get(key);
    this.pressed.delete(key);
    const { recording, quantiseIn } = this.state.getState();
    if (!pressed || !recording || Number.isNaN(pressed.tick)) return;
    const { workspace, view } = this.studio;
    const { song } = workspace.store.getState().project;
    const { region, noteSnap, quantiseStrength } = view.getState();
    const perSecond = ticksPerSecond(song.tempoBpm);
    const heldTicks = ((performance.now() - pressed.atMs) / 1000) * perSecond;
    const played = { tick: pressed.tick, heldTicks, key, velocity: pressed.velocity };
    const note = recordedNote(played, {
      snapTicks: quantiseIn ? noteValueTicks(noteSnap) : null,
      strength: quantiseStrength / 100,
      from: region?.from ?? 0,
      to: region?.to ?? loopTicks(song),
      swing: songSwing(song),
    });
    const write = (): void => this.write({ ...note, id: newId() });
    // A note that was brought to a later place would be played at once: it is written when that has gone by.
    const ahead = note.startTick - pressed.tick - heldTicks;
    if (ahead > 0) setTimeout(write, (ahead / perSecond) * 1000 + WRITE_LATE_MS);
    else write();
  }

  private write(note: Note): void {
    const { workspace } = this.studio;
    const { overdub } = this.state.getState();
    const { gesture } = this;
    const fresh = !overdub && this.replaces;
    this.replaces = false;
    workspace.store.edit(
      "Record notes",
      editNotes(this.partId, (notes) => addNotes(fresh ? [] : notes, [note])),
      gesture,
    );
  }
  /** Whether the next note that is recorded takes the place of all there were. */
  private replaces = false;

  /** Records from here on; plays the song, counted in as the ruler is set, if it does not play. */
  async record(): Promise<void> {
    const { studio } = this;
    this.gesture = newGesture();
    this.replaces = true;
    this.state.setState({ recording: true });
    if (studio.sound.getState().playing) return;
    const { song } = studio.workspace.store.getState().project;
    const beats = studio.view.getState().countBars * song.meter.beats;
    const beatSec = (60 / song.tempoBpm) * (4 / song.meter.unit);
    await studio.play();
    this.beginsMs = performance.now() + beats * beatSec * 1000;
  }

  stopRecording(): void {
    if (!this.state.getState().recording) return;
    // What is still held belongs to the recording.
    for (const key of [...this.pressed.keys()]) this.finish(key);
    this.state.setState({ recording: false });
    this.show();
  }

  toggleRecording(): void {
    if (this.state.getState().recording) this.stopRecording();
    else void this.record();
  }

  /** Asks the browser for MIDI instruments, and tells why there are none. */
  async connect(): Promise<void> {
    this.inputs?.close();
    try {
      this.inputs = await openMidi(
        (event) => this.take(event),
        (midi) => this.state.setState({ midi }),
      );
      this.state.setState({ midi: this.inputs.names });
      if (this.inputs.names.length === 0)
        this.studio.tell({ kind: "info", text: "No MIDI instrument is connected. One that you plug in is heard at once." });
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error);
      this.studio.tell({ kind: "error", text: `MIDI instruments can't be used: ${reason}.` });
    }
  } // prettier-ignore
}

/** After a note's place has gone by, it is written so much later. */
const WRITE_LATE_MS = 20;

const hands = new WeakMap<Host, Hands>();

/** The hands that play on a studio. */
export function handsOf(studio: Host): Hands {
  const known = hands.get(studio) ?? new Hands(studio);
  hands.set(studio, known);
  return known;
}
