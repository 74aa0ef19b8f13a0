import { changesBetween } from "@/core/engine/changes";
import type { Program } from "@/core/engine/program";
import type { Watch, Watched } from "@/core/engine/watch";
import { unpackWatch } from "@/core/engine/watchPack";
import { RemoteWorker } from "./remoteWorker";
import type { WatchWorkerApi } from "./workers/watch.worker";
import workerUrl from "./workers/watch.worker.ts?sharing";

/** Watches one pass of a program in a worker of its own. */
export async function watchOnce(program: Program, watched: readonly Watched[], columns: number): Promise<Watch> {
  const worker = new RemoteWorker<WatchWorkerApi>(workerUrl);
  try {
    return unpackWatch(
      await worker.call((remote) => remote.watch(changesBetween(null, program), SAMPLE_RATE, watched, columns)),
    );
  } finally {
    worker.dispose(new Error("done"));
  }
}

const SAMPLE_RATE = 48_000;
