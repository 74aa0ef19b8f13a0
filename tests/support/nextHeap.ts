import { Heap } from "@/core/engine/heap";

let last: Heap | null = null;

/** A heap for engines that sound one after the other: it takes the memory of the last one, which nobody may use any more. */
export const nextHeap = (): Heap => (last = new Heap(last));
