/** What a bend makes of a sine, sample by sample in float64: at a phase of 0 to 1, by an amount of 0 to 1. */
export const BENT_SINE: Readonly<Record<string, (p: number, a: number) => number>> = {
  sync: (p, a) => Math.sin(2 * Math.PI * ((p * 16 ** a) % 1)),
  squeeze: (p, a) => {
    const d = 0.5 * (1 - 0.95 * a);
    return Math.sin(2 * Math.PI * (p < d ? (0.5 * p) / d : 0.5 + (0.5 * (p - d)) / (1 - d)));
  },
  pulse: (p, a) => {
    const d = 1 - 0.9 * a;
    const x = Math.min(1, Math.max(0, (p - (1 - d) / 2) / d));
    return Math.sin(2 * Math.PI * (x + a * (x * x * (3 - 2 * x) - x)));
  },
  mirror: (p, a) => (1 - a) * Math.sin(2 * Math.PI * p) + a * Math.sin(2 * Math.PI * (1 - Math.abs(2 * p - 1))),
  fold: (p, a) => {
    const x = Math.sin(2 * Math.PI * p) * (1 + 7 * a);
    const v = (((x + 1) % 4) + 4) % 4;
    return 1 - Math.abs(v - 2);
  },
  quantise: (p, a) => a * a * Math.round(Math.sin(2 * Math.PI * p) / (a * a)),
};
