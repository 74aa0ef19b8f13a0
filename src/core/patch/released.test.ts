import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { GROOVES } from "../pattern/grooves";
import { newEnvelope, newFollower, newGate, newMacro, newOscillator, newPart, newPluck, newProject, newRandom, newRoute, newShape, newSilent, newSteps, newVibrato } from "./defaults"; // prettier-ignore
import { LANE_IDS, LANES, newLane } from "./lanes";
import { KINDS } from "./kinds";
import type { KindShape } from "./kinds/kind";
import type { Parameter } from "./row";
import { ARPEGGIO_ROWS, NOTE_ROWS, PART_ROWS, SONG_ROWS } from "./rows";

/**
 * What files hold and mean: a value that a file lacks takes its row's default, and one that it has must lie in the row's
 * range. So defaults never change once they are released, ranges and reaches only widen, and what is new is added here.
 * Steps and first amounts are no part of files, but of what hands are used to.
 */
const RELEASED = JSON.parse(readFileSync("tests/fixtures/rows.json", "utf8")) as Record<string, unknown>;

const moved = ({ reach, unit, first, sides }: NonNullable<Parameter["move"]>): unknown[] => [reach, unit, first, ...(sides ? [sides] : [])]; // prettier-ignore
const numberRow = (r: Parameter): unknown => [r.min, r.max, r.default, r.unit, [r.taper, r.step, r.fine, r.digits], ...(r.move ? moved(r.move) : [])]; // prettier-ignore

function rowsOfKind(k: KindShape): [string, unknown][] {
  return [
    [k.kind, [k.least, k.most]],
    ...Object.entries(k.rows).map(([id, r]): [string, unknown] => [`${k.kind}.${id}`, numberRow(r)]),
    ...Object.entries(k.choices).map(([id, c]): [string, unknown] => [`${k.kind}.${id}`, [c.default, ...c.options]]),
    ...Object.entries(k.times).map(([id, t]): [string, unknown] => [
      `${k.kind}.${id} (time)`,
      [t.min, t.max, t.default, t.hz, ...(t.move ? moved(t.move) : [])],
    ]),
  ];
}

const lanes = Object.fromEntries(Object.entries(LANES).map(([id, lane]) => [id, lane.row]));
const NOW: Record<string, unknown> = Object.fromEntries([
  ...KINDS.flatMap(rowsOfKind),
  ...Object.entries({
    song: SONG_ROWS,
    arpeggio: ARPEGGIO_ROWS,
    part: PART_ROWS,
    note: NOTE_ROWS,
    lane: lanes,
  }).flatMap(([of, rows]) =>
    Object.entries<Parameter>(rows).map(([id, r]): [string, unknown] => [`${of}: ${id}`, numberRow(r)]),
  ),
]);

test("what was released stays, and what is new is listed", () => {
  expect(NOW).toEqual(RELEASED);
});

/** What hands begin from is what they are used to: new things, and the grooves that are offered. */
test("what is new begins as it did", () => {
  const made = {
    envelope: newEnvelope("m", "M"), oscillator: newOscillator("m", "M"), shape: newShape("m", "M"), vibrato: newVibrato("m", "M"),
    silent: newSilent("m", "M"), pluck: newPluck("m", "M"), gate: newGate("m", "M"), steps: newSteps("m", "M"), random: newRandom("m", "M"),
    follower: newFollower("m", "M"), macro: newMacro("m", "M"), route: newRoute("r", "m", "filter.cutoff", 1), part: newPart("p", "P"),
    project: newProject("p", "P", 1), lanes: Object.fromEntries(LANE_IDS.map((id) => [id, newLane(id, 3)])),
  }; // prettier-ignore
  const begun = JSON.parse(JSON.stringify({ ...made, grooves: GROOVES })) as Record<string, unknown>;
  expect(begun).toEqual(JSON.parse(readFileSync("tests/fixtures/defaults.json", "utf8")));
});
