/**
 * Renders a project file to a WAV file, with the engine of the application:
 * npm run render -- project.json out.wav [--bars N] [--rate HZ] [--depth 16|24|32] [--tail wrap|append|cut] [--seed N]
 *   [--part ID] [--events events.json] [--heard heard.json] [--targets filter.cutoff,osc.pitch]
 */
import { readFileSync, writeFileSync } from "node:fs";
import { parseArgs } from "node:util";
import { HeardLog, type HeardNote } from "@/core/engine/heard";
import { compileProject } from "@/core/engine/program";
import { NoteLog, SAMPLE_RATES, TAILS, recorders, renderNow, type Tail } from "@/core/engine/render";
import { SUB_BLOCK } from "@/core/engine/voice";
import { writeWav, type BitDepth } from "@/core/format/wav";
import { TARGET_IDS, parameter, type TargetId } from "@/core/patch/parameters";
import { parseProjectFile } from "@/core/patch/migrate";
import type { Project } from "@/core/patch/project";

const USAGE =
  "npm run render -- project.json out.wav [--bars N] [--rate HZ] [--depth 16|24|32] [--tail wrap|append|cut] [--seed N] [--part ID] [--events FILE] [--heard FILE] [--targets a,b]";

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
const targets = (values.targets?.split(",") ?? [...TARGET_IDS]).map(
  (name) => TARGET_IDS.find((t) => t === name) ?? fail(`--targets: "${name}" is none of ${TARGET_IDS.join(", ")}`),
);

const program = orFail(() => compileProject(project, values.part));
const notes = new NoteLog(program.parts.map((p) => p.id));
const heard = new HeardLog(program);
const rendered = renderNow(program, { sampleRate, bars, tail, recorder: recorders(notes, heard) });
const bitDepth: BitDepth = depth;
const loop = tail === "wrap" ? { loopFrames: rendered.barFrames } : {};
orFail(() => writeFileSync(target, writeWav([rendered.left, rendered.right], { sampleRate, bitDepth, ...loop })));
if (values.events) writeFileSync(values.events, JSON.stringify({ sampleRate, notes: notes.notes }, null, 1));
if (values.heard) writeFileSync(values.heard, JSON.stringify(heardFile(heard.finish(), targets)));
console.log(
  `${target}: ${rendered.left.length} frames at ${sampleRate} Hz, ${notes.notes.length} notes, peak ${rendered.peakDb.toFixed(2)} dB${rendered.limited ? ", limited" : ""}`,
);

/** Values of the targets, a row per 16 frames, note by note. */
function heardFile(list: readonly HeardNote[], wanted: readonly TargetId[]): object {
  return {
    sampleRate,
    framesPerRow: SUB_BLOCK,
    // The pitch is a MIDI key, the level dB after every modulation, the rest in the parameter's unit.
    units: Object.fromEntries(wanted.map((t) => [t, t === "osc.pitch" ? "MIDI key" : parameter(t).unit])),
    notes: list.map((n) => ({
      part: program.parts[n.part]!.id,
      key: n.key,
      onSample: n.onFrame,
      firstRowSample: n.firstFrame,
      values: Object.fromEntries(
        wanted.map((t) => [
          t,
          Array.from({ length: n.rows.length / n.width }, (_, r) => n.rows[r * n.width + TARGET_IDS.indexOf(t)]!),
        ]),
      ),
    })),
  };
}
