import { GUARDS } from "@/server/guards.mjs";
import { NextResponse, type NextRequest } from "next/server";

/**
 * A strict Content-Security-Policy with a nonce per request. 'wasm-unsafe-eval' lets the SIMD kernels be compiled, and
 * nothing else. Development needs eval, inline styles and its socket.
 */
function policy(nonce: string): string {
  const dev = process.env.NODE_ENV === "development";
  return [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}' 'wasm-unsafe-eval'${dev ? " 'unsafe-eval'" : ""}`,
    dev ? "style-src 'self' 'unsafe-inline'" : `style-src 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    `connect-src 'self'${dev ? " ws:" : ""}`,
    "media-src 'self' blob:",
    "worker-src 'self'",
    "manifest-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join("; ");
}

export function proxy(request: NextRequest): NextResponse {
  const { pathname, search } = request.nextUrl;
  if (pathname.length > 1 && pathname.endsWith("/")) {
    const redirect = NextResponse.redirect(new URL(pathname.replace(/\/+$/, "") + search, request.url), 308);
    for (const { key, value } of GUARDS) redirect.headers.set(key, value);
    redirect.headers.set("Content-Security-Policy", "default-src 'none'");
    return redirect;
  }
  const value = policy(btoa(crypto.randomUUID()));
  const headers = new Headers(request.headers);
  headers.set("Content-Security-Policy", value);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set("Content-Security-Policy", value);
  return response;
}

export const config = { matcher: ["/((?!_next/static|icon.svg).*)"] };
