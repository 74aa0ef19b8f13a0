import { splitAddress } from "@/core/patch/address";
import { kindOf, type Module } from "@/core/patch/kinds";
import { newRoute } from "@/core/patch/defaults";
import { MAX_ROUTES, type Part, type Project } from "@/core/patch/project";
import { ARPEGGIO_ROWS, SONG_ROWS } from "@/core/patch/rows";
import type { Parameter } from "@/core/patch/row";
import { targetsOf } from "@/core/patch/targets";
import { formatValue, parseAmount, parseValue } from "@/core/patch/valueText";
import { formatSpan, parseSpan, type Span } from "@/core/time/span";
import { addRoute, editArpeggio, editSong, setField, setTrim } from "@/state/edits";
import type { Edit } from "@/state/projectStore";

/** Something that can be found by its name and done; values take what is typed behind the name. */
export interface Command {
  readonly name: string;
  /** What stands beside it: a value, or the keys that do the same. */
  readonly beside: string;
  readonly run: () => void;
  /** The edit that a typed value makes; null when it cannot be read. */
  readonly set?: (text: string) => (() => void) | null;
}

type Store = (label: string, edit: Edit) => void;

const rowCommand = (
  of: string,
  row: Parameter,
  value: number,
  show: () => void,
  set: (v: number) => void,
): Command => ({
  name: `${of} ${row.label.toLowerCase()}`.trim(),
  beside: formatValue(row, value),
  run: show,
  set: (text) => {
    const read = parseValue(row, text);
    return read === null ? null : () => set(read);
  },
});

/** Every value of the song, of what its parts share, and of a part. `show` brings a module, or the arpeggio (null), into view. */
export function valueCommands(
  project: Project,
  part: Part,
  store: Store,
  show: (module: Module | null) => void,
): Command[] {
  const { song } = project;
  const ofModule = (m: Module): Command[] => {
    const kind = kindOf(m);
    const values: Readonly<Record<string, number>> = m.values;
    const times: Readonly<Record<string, Span>> = m.times;
    const open = (): void => show(m);
    return [
      ...Object.entries(kind.rows).map(([key, row]) =>
        rowCommand(m.name, row, values[key]!, open, (v) =>
          store(`Set ${row.label.toLowerCase()} of ${m.name}`, setField(part.id, m.id, "values", key, v)),
        ),
      ),
      ...Object.entries(kind.times).map(([key, time]): Command => ({
        name: `${m.name} ${time.label.toLowerCase()}`,
        beside: formatSpan(times[key]!),
        run: open,
        set: (text) => {
          const span = parseSpan(text);
          if (!span || (span.unit === "hz" && !time.hz)) return null;
          const held: Span =
            span.unit === "ms" ? { unit: "ms", ms: Math.min(time.max, Math.max(time.min, span.ms)) } : span;
          return () =>
            store(`Set ${time.label.toLowerCase()} of ${m.name}`, setField(part.id, m.id, "times", key, held));
        },
      })),
    ];
  };
  const none = (): void => undefined;
  const arp = (): void => show(null);
  return [
    rowCommand("", { ...SONG_ROWS.tempo, label: "Tempo" }, song.tempoBpm, none, (v) => store("Set tempo", editSong({ tempoBpm: v }))),
    rowCommand("", { ...SONG_ROWS.loopBars, label: "Loop" }, song.loopBars, none, (v) => store("Set loop", editSong({ loopBars: v }))),
    rowCommand("", { ...SONG_ROWS.swing, label: "Swing" }, song.swing.percent, none, (v) => store("Set swing", editSong({ swing: { ...song.swing, percent: v } }))),
    rowCommand("", { ...SONG_ROWS.trim, label: "Trim" }, project.outputTrim, none, (v) => store("Set trim", setTrim(v))),
    rowCommand("Arpeggio", ARPEGGIO_ROWS.octaves, part.arpeggio.octaves, arp, (v) => store("Set octaves of the arpeggio", editArpeggio(part.id, { octaves: v }))),
    rowCommand("Arpeggio", ARPEGGIO_ROWS.gate, part.arpeggio.gate, arp, (v) => store("Set gate of the arpeggio", editArpeggio(part.id, { gate: v }))),
    ...[...part.patch.modules, ...project.modules, ...(project.backing ? [project.backing] : [])].flatMap(ofModule),
  ]; // prettier-ignore
}

/** Every modulation that a source could make; what is typed behind its name is the amount. `show` brings the source into view. */
export function routeCommands(
  project: Project,
  part: Part,
  source: { readonly id: string; readonly name: string },
  store: Store,
  newId: () => string,
  show: () => void,
): Command[] {
  if (part.patch.routes.length >= MAX_ROUTES) return [];
  return targetsOf(part.patch, project.modules)
    .filter((t) => t.role !== "route" && splitAddress(t.address).owner !== source.id)
    .map((t): Command => {
      const label = `Add ${source.name} to ${t.label}`;
      const add = (amount: number): void => {
        store(label, addRoute(part.id, newRoute(newId(), source.id, t.address, amount)));
        show();
      };
      return {
        name: `Move ${t.label.toLowerCase()}${t.role === "modulator" ? ` of ${t.of}` : ""} with ${source.name}`,
        beside: "modulation",
        run: () => add(0),
        set: (text) => {
          const amount = parseAmount(text, t.move.unit);
          return amount === null || Math.abs(amount) > t.move.reach ? null : () => add(amount);
        },
      };
    });
}

export interface Found {
  readonly command: Command;
  /** Sets the value that was typed behind the name; null when none was. */
  readonly set: (() => void) | null;
  readonly typed: string | null;
}

const words = (text: string): string[] => text.toLowerCase().split(/\s+/).filter(Boolean);

/** Whether every word begins one of the name's, the better the earlier; null when one does not. */
function rank(name: string, wanted: readonly string[]): number | null {
  const has = words(name);
  let sum = 0;
  for (const w of wanted) {
    const at = has.findIndex((h) => h.startsWith(w));
    if (at === -1) return null;
    sum += at;
  }
  return sum + has.length / 100;
}

/** The commands that a text names, best first; "cutoff 1.2k" names one and the value for it. */
export function findCommands(commands: readonly Command[], text: string, most: number): Found[] {
  const wanted = words(text);
  const found: { hit: Found; rank: number }[] = [];
  for (const command of commands) {
    const whole = rank(command.name, wanted);
    if (whole !== null) found.push({ hit: { command, set: null, typed: null }, rank: whole });
    if (!command.set) continue;
    for (let n = wanted.length - 1; n >= 1; n--) {
      const named = rank(command.name, wanted.slice(0, n));
      if (named === null) continue;
      const typed = text.trim().split(/\s+/).slice(n).join(" ");
      const set = command.set(typed);
      if (!set) continue;
      found.push({ hit: { command, set, typed }, rank: named - 10 });
      break;
    }
  }
  return found
    .sort((a, b) => a.rank - b.rank)
    .slice(0, most)
    .map((f) => f.hit);
}
