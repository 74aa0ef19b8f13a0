import type { Address } from "@/core/patch/address";
import { addressOfRow } from "@/core/patch/kinds";
import { OSCILLATOR, type Oscillator } from "@/core/patch/kinds/oscillator";

/** What of a wave is drawn as it moves. */
export const MOVED = ["position", "upward", "weighting", "bend1", "bend2", "inner", "pulseWidth"] as const;

/** The values of an oscillator's wave that routes move: what the Voice view asks the engine to work out. */
export const movedWaveAddresses = (o: Oscillator, moves: ReadonlySet<Address>): Address[] =>
  MOVED.map((key) => addressOfRow(o, OSCILLATOR.rows[key])).filter((a) => moves.has(a));
