import { randomUUID } from "node:crypto";
import { rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import Piscina from "piscina";
import { LIMITS, type Query, type RenderAnswer, type RenderJob } from "./renderJob";

/** Written by scripts/build.mjs: the worker with everything that it needs. */
const WORKER = path.join(process.cwd(), ".next", "renderWorker.mjs");

let pool: Piscina<RenderJob, RenderAnswer> | null = null;

/** Threads are started with the first render and end when there is none for a while. */
const thePool = (): Piscina<RenderJob, RenderAnswer> =>
  (pool ??= new Piscina<RenderJob, RenderAnswer>({
    filename: WORKER,
    minThreads: 0,
    maxThreads: LIMITS.atOnce,
    idleTimeout: 30_000,
    resourceLimits: { maxOldGenerationSizeMb: LIMITS.heapMegabytes },
  }));

export type Rendered =
  | { readonly ok: true; readonly path: string }
  | { readonly ok: false; readonly status: number; readonly reason: string };

/** Renders into a file of its own, which the caller removes. `signal` ends the thread at once. */
export async function renderInPool(
  body: Uint8Array<ArrayBuffer>,
  query: Query,
  signal: AbortSignal,
): Promise<Rendered> {
  const file = path.join(tmpdir(), `clovik-${randomUUID()}.wav`);
  try {
    const answer = await thePool().run({ body, query, path: file }, { transferList: [body.buffer], signal });
    if (answer.ok) return { ok: true, path: file };
    await rm(file, { force: true });
    return answer;
  } catch (error) {
    await rm(file, { force: true });
    if (signal.aborted)
      return { ok: false, status: 408, reason: `the render took longer than ${LIMITS.seconds} s; ask for fewer bars` };
    if ((error as { code?: string }).code === "ERR_WORKER_OUT_OF_MEMORY")
      return { ok: false, status: 413, reason: `the render needs more than ${LIMITS.heapMegabytes} MB; ask for less` };
    throw error;
  }
}
