import { compileProject } from "@/core/engine/compile";
import { SAMPLE_RATES, TAILS, renderProgram, type Piece, type RenderSummary, type Tail } from "@/core/engine/render";
import { WavWriter, type BitDepth } from "@/core/format/wav";
import { parseProjectFile } from "@/core/format/projectFile";

/**
 * POST a project file, get a WAV. Query: bars (1 to 64; the loop's length), rate (Hz), depth (16, 24 or 32), tail
 * (wrap, append or cut), part (an id). Every limit is answered with a 4xx and a JSON body { error }.
 */

const LIMITS = { bodyBytes: 2_000_000, bars: 64, atOnce: 2, seconds: 30, audioSeconds: 600 } as const;

let running = 0;

const refuse = (status: number, error: string): Response => Response.json({ error }, { status });

/** Reads a body of at most `bodyBytes`; null when it is larger. */
async function readBody(request: Request): Promise<string | null> {
  if (Number(request.headers.get("content-length") ?? 0) > LIMITS.bodyBytes) return null;
  const reader = request.body?.getReader();
  if (!reader) return "";
  const chunks: Uint8Array[] = [];
  let size = 0;
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    size += value.length;
    if (size > LIMITS.bodyBytes) {
      await reader.cancel();
      return null;
    }
    chunks.push(value);
  }
  return new TextDecoder().decode(Buffer.concat(chunks));
}

interface Query {
  readonly bars: number | null;
  readonly sampleRate: number;
  readonly bitDepth: BitDepth;
  readonly tail: Tail;
  readonly part: string | undefined;
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
  return { bars, sampleRate, bitDepth, tail, part: get("part") ?? undefined };
}

export async function handleRender(request: Request): Promise<Response> {
  const query = readQuery(new URL(request.url));
  if (typeof query === "string") return refuse(400, query);
  if (running >= LIMITS.atOnce) return refuse(429, `${LIMITS.atOnce} renders are running; try again when one is done`);
  running++;
  try {
    const body = await readBody(request);
    if (body === null) return refuse(413, `a project may have ${LIMITS.bodyBytes} bytes at the most`);
    const opened = parseProjectFile(body);
    if (!opened.ok) return refuse(422, `${opened.path}: ${opened.reason}`);
    const { project } = opened;
    if (query.part !== undefined && !project.parts.some((p) => p.id === query.part))
      return refuse(400, `part: there is no part "${query.part}"`);
    const program = compileProject(project, query.part);
    const bars = query.bars ?? project.song.loopBars;
    const seconds = (bars * program.song.barTicks) / program.song.ticksPerSec;
    if (seconds > LIMITS.audioSeconds)
      return refuse(400, `${bars} bars last ${Math.round(seconds)} s; at most ${LIMITS.audioSeconds} s are rendered`);
    const writer = new WavWriter(2, { sampleRate: query.sampleRate, bitDepth: query.bitDepth });
    const pieces: { at: number; bytes: Uint8Array<ArrayBuffer> }[] = [];
    const done = await runWithin(
      renderProgram(program, { sampleRate: query.sampleRate, bars, tail: query.tail }),
      (p) => pieces.push({ at: p.at, bytes: writer.frames([p.left, p.right], p.at) }),
      request.signal,
    );
    if (!done) return refuse(408, `the render took longer than ${LIMITS.seconds} s; ask for fewer bars`);
    const { head, foot } = writer.around(done.frames, query.tail === "wrap" ? { loopFrames: done.barFrames } : {});
    pieces.sort((a, b) => a.at - b.at);
    const file = new Blob([head, ...pieces.map((p) => p.bytes), foot]);
    return new Response(file, { headers: { "Content-Type": "audio/wav", "Cache-Control": "no-store" } });
  } finally {
    running--;
  }
}

/** Runs a render in slices, so that the server answers others meanwhile. Null when its time is up or nobody waits for it. */
async function runWithin(
  steps: Generator<Piece, RenderSummary>,
  take: (piece: Piece) => void,
  signal: AbortSignal,
): Promise<RenderSummary | null> {
  const until = Date.now() + LIMITS.seconds * 1000;
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
    take(step.value);
    if (Date.now() > until || signal.aborted) return null;
    await new Promise((resolve) => setImmediate(resolve));
  }
}
