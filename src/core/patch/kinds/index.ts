import { addressOf, type Address } from "../address";
import { AUTOMATION, type Automation } from "./automation";
import { AMP, type Amp } from "./amp";
import { ENVELOPE, type Envelope } from "./envelope";
import { FOLLOWER, type Follower } from "./follower";
import { FILTER, type Filter } from "./filter";
import { GATE, type Gate } from "./gate";
import { keyOfRow, type KindShape } from "./kind";
import { KIT, type Kit } from "./kit";
import { NOISE, type Noise } from "./noise";
import { OSCILLATOR, type Oscillator } from "./oscillator";
import { PLAYING, type Playing } from "./playing";
import { RECORDING, type RecordingModule } from "./recording";
import { MACRO, type Macro } from "./macro";
import { MIX, type Mix } from "./mix";
import { RANDOM, type Random } from "./random";
import { SUB, type Sub } from "./sub";
import { STEPS, type Steps } from "./steps";
import { SHAPE, type Shape } from "./shape";

/** Every kind of module. A new one is a file beside this, a line here, and a runtime in the engine. */
export const KINDS = [
  OSCILLATOR,
  NOISE,
  RECORDING,
  SUB,
  FILTER,
  AMP,
  MIX,
  PLAYING,
  ENVELOPE,
  SHAPE,
  STEPS,
  RANDOM,
  FOLLOWER,
  GATE,
  MACRO,
  AUTOMATION,
  KIT,
] as const;

/** What moves values. */
export type Modulator = Envelope | Shape | Steps | Random | Follower | Gate | Macro;
export type Module =
  Oscillator | Noise | RecordingModule | Sub | Filter | Amp | Mix | Playing | Automation | Kit | Modulator;
export type KindName = Module["kind"];

const BY_NAME: ReadonlyMap<string, KindShape> = new Map(KINDS.map((k) => [k.kind, k]));

/** What a module's kind declares. Throws RangeError for a kind that does not exist. */
export function kindOf(module: { readonly kind: string }): KindShape {
  const found = BY_NAME.get(module.kind);
  if (!found) throw new RangeError(`there is no kind of module called ${module.kind}`);
  return found;
}

export const isModulator = (m: Module): m is Modulator => kindOf(m).role === "modulator";

/** The address of a module's value or time, by its row. Throws RangeError for a row of another kind. */
export function addressOfRow(module: Module, row: object): Address {
  const { rows, times } = kindOf(module);
  return addressOf(module.id, keyOfRow({ ...rows, ...times }, row));
}

/** The modules of one kind, in the order of the list. */
export const modulesOf = <K extends KindName>(
  modules: readonly Module[],
  kind: { readonly kind: K },
): Extract<Module, { kind: K }>[] => modules.filter((m): m is Extract<Module, { kind: K }> => m.kind === kind.kind);
