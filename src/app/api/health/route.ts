import { rendersRunning } from "@/app/api/render/handleRender";
import { LIMITS } from "@/server/renderJob";

export const runtime = "nodejs";
export const dynamic = "force-dynamic";

/** For whoever runs the server: it answers, and how many of its places for renders are taken. */
export const GET = (): Response =>
  Response.json(
    {
      status: "ok",
      renders: { running: rendersRunning(), atOnce: LIMITS.atOnce },
      uptimeSeconds: Math.round(process.uptime()),
    },
    { headers: { "Cache-Control": "no-store" } },
  );
