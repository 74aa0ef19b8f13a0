import { exp } from "../dsp/portableMath";

/** Curvature at full tension: the exponent of e over one segment. Above this the segment is a step to the eye. */
const FULL_TENSION_EXPONENT = 8;
/** Below this the curve is a straight line within 1e-7, and 1 - e^-k would lose its digits. */
const STRAIGHT = 1e-6;

/** The exponent of a tension in percent, -100 to 100: positive starts fast and settles, negative starts slowly. */
export const tensionExponent = (tensionPercent: number): number => (tensionPercent / 100) * FULL_TENSION_EXPONENT;

/** 1 / (1 - e^-k), the factor that makes `bend` end at 1; 0 marks a straight line. */
export const bendScale = (k: number): number => (Math.abs(k) < STRAIGHT ? 0 : 1 / (1 - exp(-k)));

/** Exponential segment from 0 at t = 0 to 1 at t = 1: (1 - e^-kt) / (1 - e^-k). `scale` is `bendScale(k)`. */
export const bend = (t: number, k: number, scale: number): number => (scale === 0 ? t : (1 - exp(-k * t)) * scale);
