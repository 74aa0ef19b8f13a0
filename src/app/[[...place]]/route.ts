import { isPlace, pageAt } from "@/server/page";

export const runtime = "nodejs";
export const dynamic = "force-dynamic";

const HTML = { "Content-Type": "text/html; charset=utf-8", "Cache-Control": "no-cache" };

const NOWHERE = `<!doctype html>
<html lang="en">
  <head><meta charset="utf-8"><title>Not found: Clovik</title></head>
  <body><h1>Nothing is at this address</h1><p><a href="/">Open Clovik</a></p></body>
</html>
`;

/** The page, at the address of each of its views. */
export async function GET(request: Request): Promise<Response> {
  const { pathname, search } = new URL(request.url);
  const place = pathname.replace(/(?<=.)\/+$/, "");
  if (!isPlace(place)) return new Response(NOWHERE, { status: 404, headers: HTML });
  if (place !== pathname) return new Response(null, { status: 308, headers: { Location: place + search } });
  return new Response(await pageAt(place), { headers: HTML });
}
