import { row, wholeRow } from "../row";
import { defineKind, type ModuleOf } from "./kind";

/** How notes are played. */
export const PLAYING = defineKind({
  kind: "playing",
  label: "Playing",
  role: "rule",
  least: 0,
  most: 1,
  rows: {
    pitch: row({ label: "Part pitch", unit: "st", min: -48, max: 48, default: 0, digits: 2, fine: 0.01, hint: "Of all that follows the keys, filters included. Notes stay where they are.", move: { unit: "st", reach: 48, first: 12 } }),
    velocityCurve: row({ label: "Velocity", unit: "%", min: -100, max: 100, default: 0, step: 5, fine: 1, hint: "How velocities are taken: above nothing soft notes count as harder ones, below it hard ones as softer." }),
    /** Copies of the whole voice that a note starts; the place of each, -1 to 1, is a source. */
    copies: wholeRow({ label: "Copies", unit: "", min: 1, max: 8, default: 1 }),
    copiesDetune: row({
      label: "Copies detune",
      unit: "ct",
      min: 0,
      max: 100,
      default: 0,
      digits: 1,
      hint: "How far the outermost copies lie from the key. Anything else is spread by a route from Copy.",
      move: { unit: "ct", reach: 100, first: 20 },
    }),
    copiesWidth: row({
      label: "Copies width",
      unit: "%",
      min: 0,
      max: 100,
      default: 0,
      step: 5,
      fine: 1,
      hint: "How far the outermost copies stand to the sides.",
      move: { unit: "%", reach: 100, first: 50 },
    }),
    /** Notes that may ring on after they were let go; the oldest of more is faded. */
    ringing: wholeRow({
      label: "Ring on",
      unit: "",
      min: 0,
      max: 16,
      default: 16,
      hint: "How many notes may ring on after they were let go. Held ones are not counted.",
    }),
    /** How far the pitch bend of the hands goes either way. */
    bendRange: wholeRow({ label: "Bend range", unit: "st", min: 0, max: 48, default: 2 }),
  },
  choices: {
    /** Every note has voices of its own, or one note sounds at a time. */
    voices: { label: "Plays", options: ["chords", "one"], default: "chords" },
    /** Which note is faded where more would sound than may: of those that were let go, if there are any. */
    makesWay: { label: "Makes way", options: ["oldest", "quietest"], default: "oldest" },
    /** Which of the held notes sounds where one sounds at a time. */
    priority: { label: "Of held notes", options: ["last", "high", "low"], default: "last" },
    /** Whether a note that begins while another one is held starts envelopes and phases again. */
    overlap: { label: "Overlapping notes", options: ["restart", "tied"], default: "restart" },
    glides: { label: "Glides", options: ["always", "overlapping"], default: "always" },
    /** The time that is set is that of each glide, or of an octave. */
    glideTime: { label: "Time of", options: ["glide", "octave"], default: "glide" },
  },
  times: {
    glide: { label: "Glide", default: { unit: "ms", ms: 0 }, min: 0, max: 5000, hz: false, move: { unit: "oct", reach: 8, first: 1 } },
  },
  data: {},
}); // prettier-ignore

export type Playing = ModuleOf<typeof PLAYING>;
