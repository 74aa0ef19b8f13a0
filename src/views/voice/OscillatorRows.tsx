import type { ReactNode } from "react";
import { OWN_TABLE_IDS, type OwnTable } from "@/core/dsp/ownTableIds";
import { OWN_TABLES } from "@/core/dsp/ownTables";
import { kindOf, type Module } from "@/core/patch/kinds";
import { OSCILLATOR, type Oscillator } from "@/core/patch/kinds/oscillator";
import { formatAmount } from "@/core/patch/valueText";
import { editModule } from "@/state/edits";
import { SelectRow } from "@/ui/Select";
import { usePart, useStudio } from "@/views/studio/studio";
import { ModuleChoice, ModuleRow, ModuleSelect } from "../score/inspector/rows";
import { panText } from "../score/inspector/MixSection";
import { WAVE_TEXT } from "../score/stripList";
import { CornerPad } from "./CornerPad";
import { DrawnWave } from "./DrawnWave";
import { HarmonicsRows } from "./HarmonicsRows";
import { CyclesRows } from "./CyclesRows";
import { BEND_TEXT, SPREAD_TEXT, STACK_TEXT, bendText } from "./oscillatorText";

const { rows, choices } = OSCILLATOR;
const signed = (v: number): string => (v > 0 ? `+${v}` : String(v).replace("-", "−"));

/** Rows that are seldom needed: open where they are in use. */
function Group({ title, told, open, children }: { title: string; told: string; open: boolean; children: ReactNode }) {
  return (
    <details open={open} className="border-t border-line2 pt-1">
      <summary className="flex cursor-pointer justify-between gap-2 text-[12px] font-semibold">
        <span>{title}</span>
        <span className="truncate font-normal text-ink2">{told}</span>
      </summary>
      {children}
    </details>
  );
}

const OWN_OPTIONS = OWN_TABLE_IDS.map((id) => ({ value: id, text: `${OWN_TABLES[id].name}: ${OWN_TABLES[id].about}` }));

/** Everything of an oscillator but its name and destination. */
export function OscillatorRows({ oscillator: o }: { oscillator: Oscillator }) {
  const { store } = useStudio().workspace;
  const part = usePart();
  const setData = (label: string, data: Partial<Oscillator["data"]>): void =>
    void store.edit(label, editModule(part.id, OSCILLATOR, o.id, (m) => ({ ...m, data: { ...m.data, ...data } })));
  const { wave } = o.choices;
  return (
    <div className="flex flex-col gap-1">
      <div>
        <ModuleSelect module={o} choice={choices.wave} text={(w) => WAVE_TEXT[w]} />
        {wave === "pulse" && <ModuleRow module={o} row={rows.pulseWidth} />}
        {wave === "table" && (
          <SelectRow
            label="Table"
            name={`Table of ${o.name}`}
            value={o.data.table}
            options={OWN_OPTIONS}
            onChange={(table: OwnTable) => setData(`Choose ${OWN_TABLES[table].name}`, { table })}
          />
        )}
        {(wave === "table" || wave === "cycles" || (wave === "drawn" && o.data.drawn.length > 1)) && <ModuleRow module={o} row={rows.position} />}
        {wave === "cycles" && <CyclesRows oscillator={o} />}
        {wave === "drawn" && <DrawnWave oscillator={o} onChange={setData} />}
        {wave === "harmonics" && <HarmonicsRows oscillator={o} onChange={setData} />}
        {wave === "corners" && <CornerPad oscillator={o} onChange={setData} />}
      </div>
      <SourceRows module={o} />
      <PitchRows oscillator={o} />
      <BendRows oscillator={o} />
      <TurnRows oscillator={o} onChange={setData} />
      <Group title="Unison" told={o.values.unison === 1 ? "one voice" : `${o.values.unison} voices`} open>
        <ModuleRow module={o} row={rows.unison} text={(v) => (v === 1 ? "1 voice" : `${v} voices`)} />
        <ModuleSelect module={o} choice={choices.stack} text={(s) => STACK_TEXT[s]} />
        <ModuleRow module={o} row={rows.detune} />
        <ModuleSelect module={o} choice={choices.spread} text={(s) => SPREAD_TEXT[s]} />
        <ModuleRow module={o} row={rows.blend} />
        <ModuleRow module={o} row={rows.width} />
      </Group>
      <Group title="Start of each note" told={START_TEXT[o.choices.start]} open={o.values.phase !== 0}>
        <ModuleChoice module={o} choice={choices.start} text={(s) => START_TEXT[s]} />
        {o.choices.start !== "random" && <ModuleRow module={o} row={rows.phase} />}
      </Group>
    </div>
  );
} // prettier-ignore

const START_TEXT: Record<Oscillator["choices"]["start"], string> = { fixed: "always alike", random: "random", running: "running on" }; // prettier-ignore

function PitchRows({ oscillator: o }: { oscillator: Oscillator }) {
  const fixed = o.choices.keys === "fixed";
  return (
    <div>
      {fixed ? <ModuleRow module={o} row={rows.fixed} /> : <ModuleRow module={o} row={rows.octave} text={signed} />}
      <ModuleRow module={o} row={rows.pitch} text={(v) => formatAmount(v, "st", v % 1 === 0 ? 0 : 2, true)} />
      <ModuleRow module={o} row={rows.fine} text={(v) => formatAmount(v, "ct", v % 1 === 0 ? 0 : 1, true)} />
      <ModuleChoice module={o} choice={choices.keys} text={(k) => (k === "follows" ? "follows" : "stands")} />
    </div>
  );
}

function BendRows({ oscillator: o }: { oscillator: Oscillator }) {
  const { bend1, bend2 } = o.choices;
  const used = [bend1, bend2].filter((b) => b !== "none");
  return (
    <Group title="Bends" told={used.map((b) => BEND_TEXT[b]).join(", ") || "none"} open={used.length > 0}>
      <ModuleSelect module={o} choice={choices.bend1} text={(b) => BEND_TEXT[b]} />
      {bend1 !== "none" && <ModuleRow module={o} row={rows.bend1} text={(v) => bendText(bend1, v)} />}
      <ModuleSelect module={o} choice={choices.bend2} text={(b) => BEND_TEXT[b]} />
      {bend2 !== "none" && <ModuleRow module={o} row={rows.bend2} text={(v) => bendText(bend2, v)} />}
    </Group>
  );
}

/** What turns the phase and rings: another source, the oscillator's own modulator, itself. */
function TurnRows({ oscillator: o, onChange }: { oscillator: Oscillator; onChange: (label: string, data: Partial<Oscillator["data"]>) => void }) {
  const part = usePart();
  const others = part.patch.modules.filter((m) => kindOf(m).role === "source" && m.id !== o.id);
  const name = (m: Module | undefined): string => m?.name ?? "nothing";
  const { pmFrom, ringFrom } = o.data;
  const { values } = o;
  const told = [
    pmFrom !== null && values.pm > 0 && `by ${name(others.find((m) => m.id === pmFrom))}`,
    values.inner > 0 && "within",
    values.feedback > 0 && "by itself",
    ringFrom !== null && values.ring > 0 && `rings with ${name(others.find((m) => m.id === ringFrom))}`,
  ].filter((t) => t !== false);
  const options = [{ value: "", text: "nothing" }, ...others.map((m) => ({ value: m.id, text: m.name }))];
  return (
    <Group title="Turned and rung" told={told.join(", ") || "by nothing"} open={told.length > 0}>
      <SelectRow
        label="Turned by"
        name={`What turns the phase of ${o.name}`}
        value={pmFrom !== null && others.some((m) => m.id === pmFrom) ? pmFrom : ""}
        options={options}
        onChange={(id) => onChange(id === "" ? `Turn ${o.name} by nothing` : `Turn ${o.name} by ${name(others.find((m) => m.id === id))}`, { pmFrom: id === "" ? null : id })}
      />
      {pmFrom !== null && <ModuleRow module={o} row={rows.pm} />}
      <ModuleRow module={o} row={rows.inner} />
      {values.inner > 0 && (
        <>
          <ModuleSelect module={o} choice={choices.inner} text={(w) => w} />
          <ModuleChoice module={o} choice={choices.innerPitch} text={(p) => (p === "ratio" ? "a ratio" : "fixed")} />
          <ModuleRow module={o} row={o.choices.innerPitch === "ratio" ? rows.ratio : rows.innerHz} />
        </>
      )}
      <ModuleRow module={o} row={rows.feedback} />
      <SelectRow
        label="Rings with"
        name={`What ${o.name} rings with`}
        value={ringFrom !== null && others.some((m) => m.id === ringFrom) ? ringFrom : ""}
        options={options}
        onChange={(id) => onChange(id === "" ? `Let ${o.name} ring alone` : `Ring ${o.name} with ${name(others.find((m) => m.id === id))}`, { ringFrom: id === "" ? null : id })}
      />
      {ringFrom !== null && <ModuleRow module={o} row={rows.ring} />}
    </Group>
  );
} // prettier-ignore

/** Level and place of a source. */
export function SourceRows({ module }: { module: Module }) {
  const { rows: own } = kindOf(module);
  return (
    <div>
      <ModuleRow module={module} row={own["level"]!} />
      <ModuleRow module={module} row={own["pan"]!} text={panText} />
    </div>
  );
}
