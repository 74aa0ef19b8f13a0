import { BETWEEN, TAPS, type PeakRoom } from "../dsp/limiter";
import type { Heap } from "./heap";
import { STRETCH } from "./stretch";

/** Room in a heap for what a limiter hears, and the kernel that measures it. */
export function peakRoom(heap: Heap): PeakRoom {
  const frames = STRETCH + TAPS;
  const [left, right, tops, between] = [frames, frames, STRETCH, BETWEEN.length].map((n) => heap.take(4 * n)) as [number, number, number, number]; // prettier-ignore
  heap.float32(between, BETWEEN.length).set(BETWEEN);
  return {
    frames: STRETCH,
    left: heap.float32(left, frames),
    right: heap.float32(right, frames),
    tops: heap.float32(tops, STRETCH),
    measure: (count) => heap.kernels.truePeaks(left, right, between, count, tops),
  };
}
