import { handleRender } from "./handleRender";

export const runtime = "nodejs";
export const dynamic = "force-dynamic";

export const POST = (request: Request): Promise<Response> => handleRender(request);
