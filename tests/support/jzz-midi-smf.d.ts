declare module "jzz-midi-smf" {
  /** Adds JZZ.MIDI.SMF. */
  export default function addSmf(jzz: unknown): void;
}
