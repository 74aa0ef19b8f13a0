/**
 * Renders a project file to a WAV file, with the engine of the application:
 * npm run render -- project.json out.wav [--bars N] [--rate HZ] [--depth 16|24|32] [--tail wrap|append|cut] [--seed N]
 *   [--part ID] [--backing] [--events events.json] [--heard heard.json] [--targets filter.cutoff,osc.pitch]
 */
import { closeSync, openSync, readFileSync, writeFileSync, writeSync } from "node:fs";
import { parseArgs } from "node:util";
import { compileProject } from "@/core/engine/compile";
import { NoteLog, SAMPLE_RATES, TAILS, listeners, type Tail } from "@/core/engine/render";
import { HeardLog, framesOfBars } from "@/core/engine/watch";
import { MAX_WAV_BYTES, tooLarge, wavBytes, type BitDepth } from "@/core/format/wav";
import type { Address } from "@/core/patch/address";
import { kindOf } from "@/core/patch/kinds";
import { parseProjectFile, recordingsOf } from "@/core/format/projectFile";
import type { Project } from "@/core/patch/project";
import { targetAt } from "@/core/patch/targets";
import { writeSoundFile } from "@/server/soundFile";

const USAGE =
  "npm run render -- project.json out.wav [--bars N] [--rate HZ] [--depth 16|24|32] [--tail wrap|append|cut] [--seed N] [--part ID] [--backing] [--events FILE] [--heard FILE] [--targets a,b]";

function fail(message: string): never {
  console.error(message);
  process.exit(2);
}

/** Runs `read` and ends with its complaint, rather than a stack, when it fails. */
function orFail<T>(read: () => T): T {
  try {
    return read();
  } catch (error) {
    return fail(error instanceof Error ? error.message : String(error));
  }
}

const option = { type: "string" } as const;
const { values, positionals } = orFail(() =>
  parseArgs({
    allowPositionals: true,
    options: {
      bars: option,
      rate: option,
      depth: option,
      tail: option,
      seed: option,
      part: option,
      backing: { type: "boolean" },
      events: option,
      heard: option,
      targets: option,
    },
  }),
);

function whole(
  name: "bars" | "seed" | "rate" | "depth",
  text: string | undefined,
  fallback: number,
  min: number,
  max: number,
): number {
  const value = text === undefined ? fallback : Number(text);
  return Number.isInteger(value) && value >= min && value <= max
    ? value
    : fail(`--${name} takes a whole number from ${min} to ${max}`);
}

const [source, target, extra] = positionals;
if (!source || !target || extra) fail(USAGE);
const opened = parseProjectFile(orFail(() => readFileSync(source, "utf8")));
if (!opened.ok) fail(`${source}: ${opened.path}: ${opened.reason}`);
const project: Project = { ...opened.project, seed: whole("seed", values.seed, opened.project.seed, 0, 0xffffffff) };
const bars = whole("bars", values.bars, project.song.loopBars, 1, 4096);
const sampleRate = whole("rate", values.rate, 48_000, 8000, 192_000);
if (!SAMPLE_RATES.some((r) => r === sampleRate)) fail(`--rate is one of ${SAMPLE_RATES.join(", ")}`);
const depth = whole("depth", values.depth, 24, 16, 32);
if (depth !== 16 && depth !== 24 && depth !== 32) fail("--depth is 16, 24 or 32");
const tail: Tail = TAILS.find((t) => t === (values.tail ?? "wrap")) ?? fail(`--tail is one of ${TAILS.join(", ")}`);

const program = orFail(() => compileProject(project, values.part));
/** What a part's curves can show: every value that the engine reads or that is moved. */
const heardOf = (id: string): string[] => {
  const { motion } = program.parts.find((p) => p.id === id)!.sound;
  return [...new Set([...motion.uses.map((u) => u.address), ...Object.keys(motion.targets)])];
};
const known = [...new Set(program.parts.flatMap((p) => heardOf(p.id)))];
const targets = (
  values.targets?.split(",") ?? [
    ...new Set(program.parts.flatMap((p) => p.sound.motion.uses.map((u): string => u.address))),
  ]
).map(
  (name) => known.find((t) => t === name) ?? fail(`--targets: "${name}" is none of ${known.join(", ")}`),
) as Address[];
const bitDepth: BitDepth = depth;
const size = wavBytes(framesOfBars(program, bars, sampleRate), 2, bitDepth, tail === "wrap");
if (size > MAX_WAV_BYTES) fail(`${target}: ${tooLarge(size)}`);

const notes = new NoteLog(program.parts.map((p) => p.id));
const heard = values.heard === undefined ? null : heardFile(values.heard);
const log = heard ? listeners(notes, heard.log) : notes;
const out = orFail(() => openSync(target, "w"));
const rendered = writeSoundFile(
  out,
  program,
  {
    sampleRate,
    bars,
    tail,
    listener: log,
    recordings: recordingsOf(opened.content),
    backing: values.backing === true,
  },
  bitDepth,
);
closeSync(out);
heard?.finish();
if (values.events) writeFileSync(values.events, JSON.stringify({ sampleRate, notes: notes.notes }, null, 1));
console.log(
  `${target}: ${rendered.frames} frames at ${sampleRate} Hz, ${notes.notes.length} notes, peak ${rendered.peakDb.toFixed(2)} dB${rendered.limited ? ", limited" : ""}`,
);

/** Writes the values of the targets note by note, as each one ends. */
function heardFile(file: string): { log: HeardLog; finish: () => void } {
  const to = orFail(() => openSync(file, "w"));
  const unitOf = (address: Address): string => {
    const found = project.parts.map((p) => targetAt(p.patch, project.modules, address)).find((t) => t !== null);
    if (!found) return "";
    // A pitch is a MIDI key, a level dB after every modulation, the rest in the unit of the row.
    const isPitch = project.parts.some((p) =>
      p.patch.modules.some((m) => m.kind === "oscillator" && found.row === kindOf(m).rows["pitch"]),
    );
    return isPitch ? "MIDI key" : (found.row?.unit ?? found.move.unit);
  };
  const units = Object.fromEntries(targets.map((t) => [t, unitOf(t)]));
  writeSync(to, `{"sampleRate":${sampleRate},"units":${JSON.stringify(units)},"notes":[`);
  let first = true;
  const heardLog = new HeardLog(
    program,
    program.parts.map(() => ({ addresses: targets, sources: [] })),
    (n) => {
      const values = Object.fromEntries(
        targets.map((t, i) => [t, Array.from(n.frames, (_, r) => n.rows[r * targets.length + i]!)]),
      );
      const note = {
        part: program.parts[n.part]!.id,
        key: n.key,
        onSample: n.onFrame,
        rowSamples: [...n.frames],
        values,
      };
      writeSync(to, `${first ? "" : ","}\n${JSON.stringify(note)}`);
      first = false;
    },
  );
  return {
    log: heardLog,
    finish: () => {
      heardLog.finish();
      writeSync(to, "\n]}\n");
      closeSync(to);
    },
  };
}
