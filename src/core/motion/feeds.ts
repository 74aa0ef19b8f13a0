import { AMOUNT, addressOf, splitAddress, type Address } from "../patch/address";
import { addressOfRow, modulesOf, type Module } from "../patch/kinds";
import { AUTOMATION, type Automation } from "../patch/kinds/automation";
import type { Envelope } from "../patch/kinds/envelope";
import { MACRO } from "../patch/kinds/macro";
import type { Patch, Route } from "../patch/project";
import { targetAt } from "../patch/targets";
import { isSharedShape } from "./shape";

/**
 * A route as it is compiled. One whose source stands elsewhere for the right side is four: both sides' halves in the middle
 * of the value, and their difference in the row that sets the sides apart.
 */
export interface Feed extends Route {
  /** How much of the amount it brings. */
  readonly share: number;
  /** Whether it reads the source where that stands for the right side. */
  readonly right: boolean;
}

/** A route that no document has: its amount is another value. */
export interface MadeRoute extends Route {
  readonly amountAt: Address;
}

/** Where the amount of a route stands. */
export const amountAt = (r: Route): Address => ("amountAt" in r ? (r as MadeRoute).amountAt : addressOf(r.id, AMOUNT));

/** What moves what in a patch: the routes that are on and the automations, by their target, and what each note has of its own. */
export class Feeds {
  readonly modules: ReadonlyMap<string, Module>;
  private readonly byTarget: ReadonlyMap<Address, readonly Feed[]>;
  /** What stands in for values at rest. */
  private readonly lines: ReadonlyMap<Address, Automation>;
  private readonly perNote: ReadonlyMap<string, boolean>;

  constructor(
    private readonly patch: Patch,
    private readonly songModules: readonly Module[],
    /** The envelope that shapes the level: each note's own, whatever it says. */
    private readonly levelEnvelope: string,
  ) {
    this.modules = new Map([...songModules, ...patch.modules].map((m) => [m.id, m]));
    const feeds = new Map<Address, Feed[]>();
    for (const r of patch.routes.filter((r) => r.on && this.isOn(r.source)))
      for (const feed of this.feedsOf(r)) feeds.set(feed.target, [...(feeds.get(feed.target) ?? []), feed]);
    this.byTarget = feeds;
    this.lines = new Map(modulesOf(patch.modules, AUTOMATION).filter((a) => a.on).map((a) => [a.data.target, a])); // prettier-ignore
    this.perNote = this.findPerNote();
  }

  /** The routes to an address that are on. */
  to(address: Address): readonly Feed[] {
    return this.byTarget.get(address) ?? [];
  }

  /** What automates an address. */
  line(address: Address): Automation | undefined {
    return this.lines.get(address);
  }

  isMoved(address: Address): boolean {
    return this.byTarget.has(address) || this.lines.has(address);
  }

  /** Whether a route brings a value of each note's own. */
  isPerNote(route: string): boolean {
    return this.perNote.get(route) === true;
  }

  private feedsOf(r: Route): Feed[] {
    const m = this.modules.get(r.source);
    const apart = m?.kind === "shape" && !r.amplitude ? m.values.sides : 0;
    const sides = apart > 0 ? targetAt(this.patch, this.songModules, r.target)?.move.sides : undefined;
    if (!sides) return [{ ...r, share: 1, right: false }];
    const target = addressOf(splitAddress(r.target).owner, sides.row);
    const tap = (r.tap + apart) % 360;
    return [
      { ...r, share: 0.5, right: false },
      { ...r, share: 0.5, right: true, tap },
      { ...r, share: -sides.per, right: false, target },
      { ...r, share: sides.per, right: true, tap, target },
    ];
  }

  private isOn(source: string): boolean {
    return this.modules.get(source)?.on ?? true;
  }

  /** Which routes bring a value of each note's own. Amounts may depend on routes in a circle, so this is repeated until it stands. */
  private findPerNote(): ReadonlyMap<string, boolean> {
    const known = new Map(this.patch.routes.map((r) => [r.id, false]));
    for (let changed = true; changed;) {
      changed = false;
      for (const r of this.patch.routes) {
        if (known.get(r.id)) continue;
        const amounts = this.to(amountAt(r));
        const own =
          r.atStart ||
          this.sourcePerNote(r.source, known) ||
          (r.scaledBy !== null && this.sourcePerNote(r.scaledBy, known)) ||
          amounts.some((a) => known.get(a.id));
        if (own) {
          known.set(r.id, true);
          changed = true;
        }
      }
    }
    return known;
  }

  /** Whether a source has a value of each note's own. */
  sourcePerNote(id: string, known: ReadonlyMap<string, boolean> = this.perNote): boolean {
    const m = this.modules.get(id);
    switch (m?.kind) {
      case "gate":
      case "follower":
        return false;
      case "envelope":
        return !this.isShared(m);
      case "shape":
      case "steps":
        return !isSharedShape(m.choices.restart);
      case "random":
        return m.choices.draws === "note";
      case "macro":
        return this.to(addressOfRow(m, MACRO.rows.value)).some((r) => known.get(r.id));
      default:
        return true;
    }
  }

  /** Whether all notes share an envelope; the one that shapes the level is each note's own. */
  isShared(m: Envelope): boolean {
    return m.choices.restart !== "note" && m.id !== this.levelEnvelope;
  }
}
