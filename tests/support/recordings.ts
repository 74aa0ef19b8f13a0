import { tableName, type SoundTable, type TableSpec } from "@/core/dsp/tableSpec";
import { tableMaker } from "@/core/dsp/tables";
import { sha256 } from "@/core/format/sha256";
import { writeWav } from "@/core/format/wav";
import type { Recording } from "@/core/format/wavRead";
import type { Binary } from "@/core/patch/project";

/** A sound made from formulas of the second, one a side. */
export const madeRecording = (
  sampleRate: number,
  seconds: number,
  ...sides: ((sec: number) => number)[]
): Recording => ({
  sampleRate,
  channels: sides.map((of) =>
    Float32Array.from({ length: Math.round(seconds * sampleRate) }, (_, i) => of(i / sampleRate)),
  ),
});

/** A short chirp: what random projects play. */
const SHORT = madeRecording(
  44_100,
  0.2,
  (t) => Math.sin(900 * t * (1 + 20 * t)) * 0.7,
  (t) => Math.sin(5000 * t * t) * 0.5,
);
export const BYTES = writeWav(SHORT.channels, { sampleRate: 44_100, bitDepth: 24 });
export const HASH = sha256(BYTES);
export const BINARY: Binary = { hash: HASH, name: "Rope", bytes: BYTES.length };
export const RECORDINGS = new Map([[HASH, SHORT]]);

const make = tableMaker(RECORDINGS);
const made = new Map<string, SoundTable | null>();
/** Makes the tables that random projects read, each once: an engine only copies them. */
export function madeTable(spec: TableSpec): SoundTable | null {
  const name = tableName(spec);
  if (!made.has(name)) made.set(name, make(spec));
  return made.get(name)!;
}
