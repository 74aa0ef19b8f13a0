import { OWN_TABLE_IDS } from "@/core/dsp/ownTableIds";
import { OWN_TABLES } from "@/core/dsp/ownTables";
import { OSCILLATOR, type HarmonicWeights, type Oscillator } from "@/core/patch/kinds/oscillator";
import { row, wholeRow } from "@/core/patch/row";
import { formatAmount } from "@/core/patch/valueText";
import { SelectRow } from "@/ui/Select";
import { ModuleRow, NumberRow } from "../score/inspector/rows";
import { Bars } from "./Bars";

const ROWS = {
  place: row({ label: "Read at", unit: "%", min: 0, max: 100, default: 0, digits: 1 }),
  length: wholeRow({ label: "Pattern of", unit: "", min: 1, max: 32, default: 2, hint: "Harmonics after which the pattern comes again." }),
  every: wholeRow({ label: "Thinned to", unit: "", min: 1, max: 16, default: 1, hint: "Only every so many are left, from the first on: 2 leaves the odd ones." }),
  shift: wholeRow({ label: "Moved by", unit: "", min: -32, max: 32, default: 0, hint: "Numbers that each harmonic moves up or down." }),
  turn: row({ label: "Turned by", unit: "°", min: -180, max: 180, default: 0, step: 15, fine: 1, hint: "Degrees that each harmonic is turned more than the one below." }),
  low: wholeRow({ label: "From", unit: "", min: 1, max: 64, default: 1, hint: "Harmonics below this number are cut." }),
  high: wholeRow({ label: "To", unit: "", min: 1, max: 512, default: 512, hint: "Harmonics above this number are cut." }),
} as const; // prettier-ignore

const nth = (v: number): string => (v === 1 ? "all of them" : `every ${v}${v === 2 ? "nd" : v === 3 ? "rd" : "th"}`);

/** What is done to the harmonics of a cycle: a pattern drawn over them, and what cuts, moves and turns them. */
export function HarmonicsRows({
  oscillator: o,
  onChange,
}: {
  oscillator: Oscillator;
  onChange: (label: string, data: Partial<Oscillator["data"]>) => void;
}) {
  const { weights } = o.data;
  const set = (label: string, change: Partial<HarmonicWeights>): void => onChange(label, { weights: { ...weights, ...change } }); // prettier-ignore
  const { pattern } = weights;
  const rounded = (values: readonly number[]): number[] => values.map((v) => Math.round(v * 1000) / 1000);
  return (
    <>
      <ModuleRow module={o} row={OSCILLATOR.rows.weighting} />
      <Bars
        label={`Weights of the harmonics of ${o.name}`}
        values={pattern}
        told={(i, v) => `${i + 1} of ${pattern.length}: ${Math.round(v * 100)} %`}
        head={<span className="text-[12px]">Weights</span>}
        onDraw={(values) => set("Draw weights of harmonics", { pattern: rounded(values) })}
        onSet={(values) => set("Set the weight of a harmonic", { pattern: rounded(values) })}
      />
      <NumberRow row={ROWS.length} kind="notes" value={pattern.length} onChange={(n, label) => set(label, { pattern: Array.from({ length: n }, (_, i) => pattern[i % pattern.length]!) })} />
      <NumberRow row={ROWS.every} kind="notes" value={weights.every} text={nth} onChange={(every, label) => set(label, { every })} />
      <NumberRow row={ROWS.shift} kind="notes" value={weights.shift} text={(v) => formatAmount(v, "", 0, true)} onChange={(shift, label) => set(label, { shift })} />
      <NumberRow row={ROWS.turn} kind="notes" value={weights.turn} onChange={(turn, label) => set(label, { turn })} />
      <NumberRow row={ROWS.low} kind="notes" value={weights.low} text={(v) => `harmonic ${v}`} onChange={(low, label) => set(label, { low })} />
      <NumberRow row={ROWS.high} kind="notes" value={weights.high} text={(v) => (v === 512 ? "the top" : `harmonic ${v}`)} onChange={(high, label) => set(label, { high })} />
      <SelectRow
        label="Cycle"
        name={`Cycle of ${o.name} that is weighted`}
        value={weights.table}
        options={OWN_TABLE_IDS.map((id) => ({ value: id, text: OWN_TABLES[id].name }))}
        onChange={(table) => set(`Choose ${OWN_TABLES[table].name}`, { table })}
      />
      <NumberRow row={ROWS.place} kind="notes" value={weights.place} onChange={(place, label) => set(label, { place })} />
    </>
  );
} // prettier-ignore
