import { describe, expect, test } from "vitest";
import { RATE } from "../../../tests/support/heardMotion";
import { makeProject, note, type Made } from "../../../tests/support/projects";
import type { Address } from "../patch/address";
import type { Project } from "../patch/project";
import { PLAIN_MAPPING } from "../pitch/tuning";
import { compileProject } from "./compile";
import { Sequencer } from "./sequencer";
import { HeardLog, type HeardNote } from "./watch";

/** What hands play, read from the motion of each note: frames and values from its start to its end. */

const SUB = 16;
const MS = RATE / 1000;
const ms = (n: number) => ({ unit: "ms", ms: n }) as const;

class Played {
  readonly project: Project;
  readonly sequencer: Sequencer;
  private readonly log: HeardLog;
  private readonly ended: HeardNote[] = [];
  private readonly id: string;

  constructor(
    made: Made,
    private readonly addresses: readonly Address[] = ["osc.pitch"],
  ) {
    this.project = makeProject({ notes: [], ...made });
    this.id = this.project.parts[0]!.id;
    const program = compileProject(this.project);
    this.log = new HeardLog(program, [{ addresses, sources: [] }], (n) => this.ended.push(n));
    this.sequencer = new Sequencer(RATE, this.log);
    this.sequencer.load(program);
  }

  on(key: number, velocity = 100): this {
    this.sequencer.noteOn(this.id, key, velocity);
    return this;
  }
  off(key: number): this {
    this.sequencer.noteOff(this.id, key);
    return this;
  }
  hands(bend: number, wheel: number, pressure: number): this {
    this.sequencer.hands(this.id, bend, wheel, pressure);
    return this;
  }
  /** Another document takes its place while notes sound. */
  edited(change: (p: Project) => Project): this {
    this.sequencer.load(compileProject(change(this.project)));
    return this;
  }
  wait(milliseconds: number): this {
    this.sequencer.run(milliseconds * MS);
    return this;
  }
  /** All notes, in order of their starts: the values of an address by milliseconds since the first start. */
  notes(): readonly { readonly from: number; readonly to: number; readonly at: (sec: number, address?: number) => number }[] {
    this.log.finish();
    const list = this.ended.toSorted((a, b) => a.onFrame - b.onFrame);
    const width = this.addresses.length;
    return list.map((n) => ({
      from: n.onFrame / MS,
      to: n.frames.at(-1)! / MS,
      at: (milliseconds, address = 0) => {
        const k = n.frames.findIndex((f) => f >= milliseconds * MS - SUB / 2);
        return n.rows[k * width + address]!;
      },
    }));
  } // prettier-ignore
}

describe("bend, wheel and pressure", () => {
  test("what stands where it is told to stand is no edit, and each of them that moves is one", () => {
    const played = new Played({});
    const { bank } = played.sequencer.parts[0]!;
    const plain = bank.edited.bind(bank);
    let edits = 0;
    bank.edited = () => {
      edits++;
      plain();
    };
    const places = [[0.3, 0.6, 0.8], [0.3, 0.6, 0.8], [0.4, 0.6, 0.8], [0.4, 0.7, 0.8], [0.4, 0.7, 0.9], [0.4, 0.7, 0.9]]; // prettier-ignore
    const counted = places.map(([bend, wheel, pressure]) => {
      played.hands(bend!, wheel!, pressure!);
      return edits;
    });
    expect(counted).toEqual([1, 1, 2, 3, 4, 4]);
  });
  const routes = (["wheel", "pressure", "bend"] as const).map((source, i) => ({ source, target: (["filter.resonance", "amp.pan", "filter.cutoff"] as const)[i]!, amount: [50, 60, 2][i]! })); // prettier-ignore
  const played = () => new Played({ values: { "filter.resonance": 0, "filter.cutoff": 500, "playing.bendRange": 2 }, routes }, ["filter.resonance", "amp.pan", "filter.cutoff", "osc.pitch"]); // prettier-ignore
  test.each([
    ["the wheel alone", [0, 0.5, 0], [25, 0, 500, 60]],
    ["the pressure alone", [0, 0, 0.5], [0, 30, 500, 60]],
    ["the bend alone", [0.5, 0, 0], [0, 0, 1000, 61]],
    ["all of them", [-1, 1, 1], [50, 60, 125, 58]],
  ] as const)("%s reaches what sounds, within 60 ms", (_name, [bend, wheel, pressure], values) => {
    const one = played().on(60).wait(50).hands(bend, wheel, pressure).wait(100);
    const [n] = one.notes();
    values.forEach((value, i) => {
      const [before, after] = [n!.at(49, i), n!.at(140, i)];
      expect(before).toBeCloseTo([0, 0, 500, 60][i]!, 6);
      expect(after / value || 1).toBeCloseTo(1, 3);
      // It glides there.
      if (value !== before) expect(Math.abs(n!.at(52, i) - before)).toBeLessThan(0.8 * Math.abs(value - before));
    });
  });
  test("where the bend moves no pitch, what it moves beside it hears it all the same", () => {
    const still = { values: { "filter.cutoff": 500, "playing.bendRange": 0 }, routes: routes.slice(2) };
    const [n] = new Played(still, ["filter.cutoff", "osc.pitch"]).on(60).wait(50).hands(0.5, 0, 0).wait(100).notes();
    expect([Math.round(n!.at(140, 0)), n!.at(140, 1)]).toEqual([1000, 60]);
  });
  test("one after the other, each keeps what the others said; back at rest they are gone", () => {
    const one = played().on(60).wait(50).hands(0, 0.5, 0).wait(100).hands(0.5, 0.5, 0).wait(100).hands(0.5, 0.5, 1).wait(100).hands(0, 0, 0).wait(100); // prettier-ignore
    const [n] = one.notes();
    expect([0, 1, 2, 3].map((i) => Number(n!.at(340, i).toFixed(2)))).toEqual([25, 60, 1000, 61]);
    expect([0, 1, 2, 3].map((i) => Number(n!.at(440, i).toFixed(2)))).toEqual([0, 0, 500, 60]);
  });
});

describe("one note at a time, by hand", () => {
  const one = (choices: NonNullable<Made["playing"]>["choices"], glide = 40): Played =>
    new Played({ playing: { choices: { voices: "one", ...choices }, glide: ms(glide) }, amp: { attack: ms(30), decay: ms(0), release: ms(400) } }, ["osc.pitch", "amp.level"]); // prettier-ignore

  test("tied, the same voice goes on to the next key and back; a key past the last one lets it go", () => {
    const notes = one({ overlap: "tied" })
      .on(60)
      .wait(100)
      .on(72)
      .wait(100)
      .off(72)
      .wait(100)
      .off(60)
      .wait(600)
      .notes();
    expect(notes).toHaveLength(1);
    const { at, to } = notes[0]!;
    expect([90, 120, 160, 220, 270].map((t) => Math.round(at(t)))).toEqual([60, 66, 72, 66, 60]);
    // Nothing rises anew.
    for (const t of [95, 105, 130, 205, 240]) expect(at(t, 1)).toBeCloseTo(at(90, 1), 3);
    expect(to).toBeGreaterThan(650);
    expect(to).toBeLessThan(750);
  });

  test("the bend moves a key that glides from nowhere, and one that has glided", () => {
    const [first, second] = one({}).hands(0.5, 0, 0).on(60).wait(100).on(72).wait(200).notes();
    expect([first!.at(90), second!.at(280)]).toEqual([61, 73].map((key) => expect.closeTo(key, 3) as number));
  });

  test("tied to what is held, what still rings of a key before stays where it is", () => {
    const notes = one({ overlap: "tied" }, 10).on(50).wait(60).off(50).wait(40).on(60).wait(20).on(70).wait(50).notes();
    expect(notes.map((n) => n.from)).toEqual([0, 100]);
    // The first one was taken by the second; what is left of it keeps its key.
    expect(notes[0]!.at(notes[0]!.to)).toBeCloseTo(50, 6);
    expect(notes[1]!.at(160)).toBeCloseTo(70, 3);
    // Even while the one that was taken is fading.
    const soon = one({ overlap: "tied" }, 1).on(50).wait(60).off(50).wait(40).on(60).wait(2).on(70).wait(50).notes();
    expect(soon[0]!.at(soon[0]!.to)).toBeCloseTo(50, 6);
    expect(soon.at(-1)!.at(130)).toBeCloseTo(70, 3);
  });

  test("started anew, each key has a voice of its own, the one before fades within 6 ms", () => {
    const notes = one({ overlap: "restart" }).on(60).wait(100).on(72).wait(100).notes();
    expect(notes.map((n) => n.from)).toEqual([0, 100]);
    expect(notes[0]!.to).toBeLessThan(110);
    expect(notes[1]!.at(103, 1)).toBeLessThan(notes[0]!.at(95, 1) - 10);
  });

  test.each([
    ["always", "always", [66, 66]],
    ["where keys overlap", "overlapping", [72, 66]],
  ] as const)("glides %s", (_name, glides, [apart, tied]) => {
    const from = (overlapping: boolean): number => {
      const p = one({ overlap: "tied", glides }, 40).on(60).wait(100);
      if (overlapping) p.on(72);
      else p.off(60).on(72);
      return p.wait(100).notes().at(-1)!.at(120);
    };
    expect([from(false), from(true)].map(Math.round)).toEqual([apart, tied]);
  });

  test("once all is let go, no key comes back behind the next one", () => {
    const played = new Played({ playing: { choices: { voices: "one", overlap: "tied" } } });
    played.on(60).wait(100).on(64).wait(100);
    played.sequencer.stop();
    played.wait(200).on(67).wait(100).off(67).wait(200);
    expect(played.sequencer.voiceCount).toBe(0);
  });

  test("by the octave, the glide lasts as often as keys lie octaves apart, up or down", () => {
    const arrives = (key: number): number => {
      const p = one({ overlap: "tied", glideTime: "octave" }, 100).on(60).wait(50).on(key).wait(400);
      const [n] = p.notes();
      let t = 50;
      while (Math.abs(n!.at(t) - key) > 1e-6) t++;
      return t - 50;
    };
    expect(Math.abs(arrives(72) - 100)).toBeLessThan(2);
    expect(Math.abs(arrives(66) - 50)).toBeLessThan(2);
    expect(Math.abs(arrives(36) - 200)).toBeLessThan(2);
  });
});

test("a key that a hand holds sounds on over the end of the pass, and of a stretch only to its end", () => {
  const played = new Played({ song: { tempoBpm: 240 }, notes: [note(0, 480, 60)], amp: { release: ms(5) } });
  played.sequencer.play(0);
  const held = played.on(72).wait(1500).notes();
  expect(held.find((n) => n.at(n.from) > 71)!.to).toBeGreaterThan(1490);
});

test("keys by hand bring no values of lanes with them", () => {
  const routes = [{ source: "freeA", target: "filter.resonance", amount: 100 }, { source: "freeB", target: "amp.pan", amount: 100 }] as const; // prettier-ignore
  const [n] = new Played({ values: { "filter.resonance": 0 }, routes }, ["filter.resonance", "amp.pan"]).on(60).wait(20).notes(); // prettier-ignore
  expect([n!.at(10, 0), n!.at(10, 1)]).toEqual([0, 0]);
});

test("a tuning that is chosen while a key is held moves it there, and back", () => {
  const sharp = (cents: number) => (p: Project): Project => ({ ...p, song: { ...p.song, tuning: { ...PLAIN_MAPPING, name: "Sharp", cents: Array.from({ length: 12 }, (_, i) => 100 * (i + 1)), referenceHz: 440 * 2 ** (cents / 1200) } } }); // prettier-ignore
  const [n] = new Played({})
    .on(60)
    .wait(50)
    .edited(sharp(50))
    .wait(100)
    .edited((p) => p)
    .wait(100)
    .notes();
  expect([49, 140, 245].map((t) => Number(n!.at(t).toFixed(3)))).toEqual([60, 60.5, 60]);
});
