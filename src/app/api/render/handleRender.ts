import { open, rm } from "node:fs/promises";
import { SAMPLE_RATES, TAILS } from "@/core/engine/render";
import { LIMITS, type Query } from "@/server/renderJob";
import { renderInPool } from "@/server/renderPool";

/**
 * POST a project file, get a WAV. Query: bars (1 to 64; the loop's length), rate (Hz), depth (16, 24 or 32), tail
 * (wrap, append or cut), part (an id), backing (on or off). Every limit is answered with a 4xx and a JSON body { error }.
 */

let running = 0;
let bodies = 0;

/** Renders that are under way: for whoever watches the server. */
export const rendersRunning = (): number => running;

const refuse = (status: number, error: string, headers: Readonly<Record<string, string>> = {}): Response =>
  Response.json({ error }, { status, headers: { "Cache-Control": "no-store", ...headers } });

const busy = (reason: string): Response => refuse(429, reason, { "Retry-After": "5" });

/** Why a request is not one of this page or of a program: browsers tell where theirs come from. Null for a good one. */
function foreign(request: Request): Response | null {
  const site = request.headers.get("sec-fetch-site");
  const origin = request.headers.get("origin");
  const host = request.headers.get("host");
  const elsewhere = origin !== null && (!URL.canParse(origin) || new URL(origin).host !== host);
  if (elsewhere || (site !== null && site !== "same-origin" && site !== "none"))
    return refuse(403, "requests from other sites are not answered");
  if (!/^application\/json\s*(;|$)/i.test(request.headers.get("content-type") ?? ""))
    return refuse(415, "the body must be a project file, sent as application/json");
  return null;
}

/** Reads a body within its bounds of size and time; the answer that refuses it otherwise. */
async function readBody(request: Request): Promise<Uint8Array<ArrayBuffer> | Response> {
  const tooLarge = (): Response => refuse(413, `a project may have ${LIMITS.bodyBytes} bytes at the most`);
  if (Number(request.headers.get("content-length") ?? 0) > LIMITS.bodyBytes) return tooLarge();
  const reader = request.body?.getReader();
  if (!reader) return new Uint8Array(0);
  const late = Symbol("late");
  const deadline = new Promise<typeof late>((resolve) => setTimeout(resolve, LIMITS.bodySeconds * 1000, late));
  const chunks: Uint8Array[] = [];
  let size = 0;
  for (;;) {
    const next = await Promise.race([reader.read(), deadline]);
    if (next === late) {
      void reader.cancel().catch(() => undefined);
      return refuse(408, `the project did not arrive within ${LIMITS.bodySeconds} s`);
    }
    if (next.done) return Uint8Array.from(Buffer.concat(chunks));
    size += next.value.length;
    if (size > LIMITS.bodyBytes) {
      void reader.cancel().catch(() => undefined);
      return tooLarge();
    }
    chunks.push(next.value);
  }
}

function readQuery(url: URL): Query | string {
  const get = (name: string): string | null => url.searchParams.get(name);
  const bars = get("bars") === null ? null : Number(get("bars"));
  if (bars !== null && !(Number.isInteger(bars) && bars >= 1 && bars <= LIMITS.bars))
    return `bars must be a whole number from 1 to ${LIMITS.bars}`;
  const sampleRate = Number(get("rate") ?? 48_000);
  if (!SAMPLE_RATES.some((r) => r === sampleRate)) return `rate must be one of ${SAMPLE_RATES.join(", ")}`;
  const bitDepth = Number(get("depth") ?? 24);
  if (bitDepth !== 16 && bitDepth !== 24 && bitDepth !== 32) return "depth must be 16, 24 or 32";
  const tail = TAILS.find((t) => t === (get("tail") ?? "wrap"));
  if (!tail) return `tail must be one of ${TAILS.join(", ")}`;
  const backing = get("backing") ?? "off";
  if (backing !== "on" && backing !== "off") return "backing must be on or off";
  return { bars, sampleRate, bitDepth, tail, part: get("part") ?? undefined, backing: backing === "on" };
}

export async function handleRender(request: Request): Promise<Response> {
  const stranger = foreign(request);
  if (stranger) return stranger;
  const query = readQuery(new URL(request.url));
  if (typeof query === "string") return refuse(400, query);
  if (running >= LIMITS.atOnce) return busy(`${LIMITS.atOnce} renders are running; try again when one is done`);
  if (bodies >= LIMITS.bodies) return busy(`${LIMITS.bodies} projects are being sent; try again when one has arrived`);
  bodies++;
  const body = await readBody(request).finally(() => bodies--);
  if (body instanceof Response) return body;
  // Others may have arrived meanwhile.
  if (running >= LIMITS.atOnce) return busy(`${LIMITS.atOnce} renders are running; try again when one is done`);
  running++;
  // Signals made by AbortSignal.timeout and any are held weakly, and one was lost while a render ran on for minutes.
  const order = new AbortController();
  const stop = (): void => order.abort();
  const timer = setTimeout(stop, LIMITS.seconds * 1000);
  request.signal.addEventListener("abort", stop);
  try {
    const rendered = await renderInPool(body, query, order.signal);
    return rendered.ok ? await fileResponse(rendered.path) : refuse(rendered.status, rendered.reason);
  } finally {
    clearTimeout(timer);
    request.signal.removeEventListener("abort", stop);
    running--;
  }
}

/** Streams a file in slices; it is gone from the disk as soon as it is open. */
async function fileResponse(path: string): Promise<Response> {
  const file = await open(path);
  await rm(path, { force: true });
  const { size } = await file.stat();
  let at = 0;
  const stream = new ReadableStream<Uint8Array>(
    {
      async pull(controller) {
        const { bytesRead, buffer } = await file.read(new Uint8Array(65_536), 0, 65_536, at);
        at += bytesRead;
        if (bytesRead > 0) controller.enqueue(buffer.subarray(0, bytesRead));
        if (at >= size || bytesRead === 0) {
          await file.close();
          controller.close();
        }
      },
      cancel: () => file.close(),
    },
    { highWaterMark: 0 },
  );
  return new Response(stream, {
    headers: { "Content-Type": "audio/wav", "Content-Length": String(size), "Cache-Control": "no-store" },
  });
}
