import { NextResponse } from 'next/server';
import type { NextRequest } from 'next/server';

/**
 * Every page has a policy of its own: scripts are the framework's, by a number that is used once, and what those load; nothing
 * comes from elsewhere, nobody frames the page. Styles are written into the page by the interface's package.
 */
export function proxy(request: NextRequest): Response {
  try {
    decodeURIComponent(request.nextUrl.pathname);
  } catch {
    return new NextResponse('This address is not written as one: an escape (%) in it is cut short.', { status: 400 });
  }
  const nonce = Buffer.from(crypto.randomUUID()).toString('base64');
  const policy = [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic' 'wasm-unsafe-eval'${process.env.NODE_ENV === 'development' ? " 'unsafe-eval'" : ''}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    "connect-src 'self' data: blob:",
    "worker-src 'self' blob:",
    "media-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  // The framework reads the number for its own scripts from here.
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  return response;
}

/** Pages, and whatever is not written plainly: files of the build and of the demo film are no pages, and the same for everybody. */
export const config = { matcher: ['/((?!_next/static|_next/image|api/demo/[\\w./-]+$|favicon.ico).*)'] };
