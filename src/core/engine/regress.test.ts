import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";
import { bandsOf, type Bands } from "../../../tests/support/bands";
import { modulesOf } from "../patch/kinds";
import { OSCILLATOR } from "../patch/kinds/oscillator";
import { openProject } from "../patch/migrate";
import { compileProject } from "./compile";
import { renderNow } from "./render";

/**
 * Twelve projects of version 1, and what the engine of that version made of them: levels per beat and band, onsets. The
 * engine of today is held to them, except where a fault of that one was mended: waves are equally loud now, and images
 * and losses of the tables' straight lines are gone, which are heard in bands more than 30 dB below the sound.
 */
const RATE = 48_000;
const read = (name: string): unknown => JSON.parse(readFileSync(`tests/fixtures/${name}.json`, "utf8"));
const projects = read("projects-v1") as { name: string; song: { loopBars: number; tempoBpm: number } }[];
const renders = read("renders-v1") as ({ name: string } & Bands)[];

/** dB by which a wave is louder than it was: they were evened out to the saw. */
const EVENED = { saw: 0, sine: -0.25, triangle: 0.8, pulse: -4.45 } as const;
/** The highest band held the most of what is gone and of what a straight line took away. */
const TOLERANCE = [0.05, 0.1, 0.1, 0.1, 0.1, 0.1, 0.25] as const;

describe("projects of version 1 sound as they did", () => {
  test.each(projects.map((p, i) => [p.name, i] as const))("%s", (_name, i) => {
    const opened = openProject(projects[i]);
    if (!opened.ok) throw new Error(`${opened.path}: ${opened.reason}`);
    const { project } = opened;
    const { loopBars, tempoBpm } = project.song;
    const { left, right } = renderNow(compileProject(project), { sampleRate: RATE, bars: loopBars, tail: "append" });
    const is = bandsOf(left, right, RATE, (60 / tempoBpm) * RATE);
    const was = renders[i]!;
    const wave = modulesOf(project.parts[0]!.patch.modules, OSCILLATOR)[0]!.choices.wave;
    was.levels.forEach((row, beat) =>
      row.forEach((db, band) => {
        if (db < row[0]! - 30) return;
        const now = is.levels[beat]![band]! - EVENED[wave as keyof typeof EVENED];
        if (Math.abs(now - db) > TOLERANCE[band]!)
          throw new Error(`beat ${beat}, band ${band}: ${now} dB, was ${db} dB`);
      }),
    );
    // A low note's own cycles count as onsets; only lists of real ones are held.
    if (was.onsets.length < 40) expect(is.onsets).toEqual(was.onsets);
  });
});
