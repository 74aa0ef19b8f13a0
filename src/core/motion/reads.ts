import { log2 } from "../dsp/portableMath";
import { addressOfRow, kindOf, type Module } from "../patch/kinds";
import { AMP } from "../patch/kinds/amp";
import { MIX, type Mix } from "../patch/kinds/mix";
import { PLAYING, type Playing } from "../patch/kinds/playing";
import { keyOfRow } from "../patch/kinds/kind";
import { movesInOctaves, type Parameter } from "../patch/row";
import type { MotionCompiler } from "./compile";
import type { Input, Use } from "./program";

const NOTHING: Input = { constant: 0 };

/** What is set of a value. */
function restOf(m: Module, row: Parameter): number {
  const values: Readonly<Record<string, number>> = m.values;
  return values[keyOfRow(kindOf(m).rows, row)]!;
}

/**
 * What the modules of a patch read of their values, each as one use in the form that a runtime takes. Each method gives the
 * place of its use in `uses`.
 */
export class Reads {
  readonly uses: Use[] = [];

  constructor(
    private readonly motion: MotionCompiler,
    /** What says how the part is played. */
    private readonly playing: Playing | undefined,
  ) {}

  /** What the part's pitch adds to the keys, in semitones. */
  private get apart(): Input {
    return this.playing ? this.input(this.playing, PLAYING.rows.pitch) : NOTHING;
  }

  /** A value as a module's runtime reads it: its slot where it is moved, else what is set. Octaves count from 0. */
  private input(m: Module, row: Parameter): Input {
    return this.motion.moved(m, row, false) ?? { constant: movesInOctaves(row.move, row) ? 0 : restOf(m, row) };
  }

  private use(use: Use): number {
    return this.uses.push(use) - 1;
  }

  plain(m: Module, row: Parameter): number {
    return this.use({ address: addressOfRow(m, row), form: "plain", value: this.input(m, row) });
  }

  /** A value that nothing moves, whatever the row says. */
  constant(m: Module, row: Parameter, value: number): number {
    return this.use({ address: addressOfRow(m, row), form: "plain", value: { constant: value } });
  }

  /** Whether a value stands elsewhere than at its default, or is moved. */
  differs(m: Module, row: Parameter): boolean {
    return restOf(m, row) !== row.default || this.motion.isMoved(addressOfRow(m, row));
  }

  /** As `plain`; null where the value stands at its default and nothing moves it. */
  optional(m: Module, row: Parameter): number | null {
    return this.differs(m, row) ? this.plain(m, row) : null;
  }

  /**
   * MIDI key of a source: by the note that plays and `apart` from it in semitones, or `fixed`; then by its rows of semitones
   * and cents.
   */
  pitch(
    m: Module,
    rows: { readonly pitch: Parameter; readonly fine: Parameter },
    fixed: number | null,
    apart: number,
  ): number {
    return this.use({
      address: addressOfRow(m, rows.pitch),
      form: "pitch",
      follows: fixed === null,
      base: fixed ?? apart,
      semitones: this.input(m, rows.pitch),
      cents: this.input(m, rows.fine),
      apart: fixed === null ? this.apart : NOTHING,
    });
  }

  /** log2 of a frequency; with `follow`, the row of its key follow. */
  hz(m: Module, row: Parameter, follow?: Parameter): number {
    return this.use({
      address: addressOfRow(m, row),
      form: "log2hz",
      rest: log2(restOf(m, row)),
      follow: follow ? this.input(m, follow) : NOTHING,
      apart: follow ? this.apart : NOTHING,
      octaves: this.input(m, row),
      min: log2(row.min),
      max: log2(row.max),
    });
  }

  private levelOf(m: Module, row: Parameter, shared = false): Omit<Extract<Use, { form: "level" }>, "form"> {
    const address = addressOfRow(m, row);
    const rest = restOf(m, row);
    const { level, still, factors } = this.motion.level(address, rest, shared);
    return { address, level, off: still && rest <= row.min, floor: row.min, factors };
  }

  /** The gain of a source, by its row of dB. */
  level(m: Module, row: Parameter): number {
    return this.use({ form: "level", ...this.levelOf(m, row) });
  }

  /** Level and place of a part in the mix, which all of its notes share; null where nothing moves them. */
  mix(m: Mix): { level: number; pan: number } | null {
    const { level, pan } = MIX.rows;
    if (![level, pan].some((row) => this.motion.isMoved(addressOfRow(m, row)))) return null;
    const place = this.motion.moved(m, pan, true) ?? { constant: m.values.pan };
    return {
      level: this.use({ form: "level", ...this.levelOf(m, level, true) }),
      pan: this.use({ address: addressOfRow(m, pan), form: "plain", value: place }),
    };
  }

  /** `copies` voices of a note together are as loud as one. */
  gain(m: Extract<Module, { kind: "amp" }>, copies: number): number {
    const level = this.levelOf(m, AMP.rows.level);
    const envelope = this.motion.source(m.data.envelope);
    return this.use({ ...level, form: "gain", envelope, scale: 1 / Math.sqrt(copies) });
  }
}
