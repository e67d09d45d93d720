// Runs before every page and every file of a page: refuses strangers, sets the headers that keep pages to themselves. What lies below /api is
// guarded by its own application (server/http/app.ts): a body that passes here would be held in memory, and cut off at ten megabytes.

import { NextResponse, type NextRequest } from 'next/server';
import { builtServer } from '@/server/built/load';

// Paths below /api with an escape come by here for one thing: one that is no text ends here, the framework would answer that it failed.
export const config = { matcher: ['/((?!api/).*)', '/api/(.*%.*)'] };

export async function proxy(request: NextRequest): Promise<NextResponse> {
  const server = await builtServer();
  const { ownHeaders } = server;
  const at = server.door();
  const refused = at.refuse(request);
  if (refused)
    return new NextResponse(refused.why, {
      status: refused.status,
      headers: { 'content-type': 'text/plain' },
    });
  const { pathname } = request.nextUrl;
  const cookie = at.isForSeveral
    ? null
    : server.cookieFor(request.nextUrl, request.headers.get('host') ?? '', server.keyOfThisStart());
  const isOpen = at.isForSeveral && server.isOpenPage(pathname);
  if (cookie === null && !isOpen) {
    const who = await at.who(request).catch(() => 'unknown' as const);
    if (who === 'unknown') return plainPage(server, server.awayPage, 503);
    if (who === 'nobody')
      return at.isForSeveral ? toSignIn(request, at.origin) : plainPage(server, server.wayIn, 401);
  }
  if (pathname.startsWith('/api/')) return isText(pathname) ? NextResponse.next() : notHere(server, pathname);
  const nonce = btoa(crypto.randomUUID());
  const policy = server.contentPolicy(nonce, process.env.NODE_ENV === 'development');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  // A page for those who are not in yet: without the window around the others.
  headers.delete('x-bare');
  if (isOpen) headers.set('x-bare', 'yes');
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  for (const [name, value] of ownHeaders) response.headers.set(name, value);
  if (cookie !== null) {
    response.headers.append('set-cookie', cookie);
    response.headers.set('cache-control', 'no-store');
  }
  return response;
}

type Server = Awaited<ReturnType<typeof builtServer>>;

/** The framework wants an answer of its own kind. */
const notHere = (server: Server, pathname: string) => {
  const answer = server.nothingAt(pathname);
  return new NextResponse(answer.body, answer);
};

/** A page that needs nothing else of the server. */
const plainPage = ({ ownHeaders, wayInPolicy }: Server, page: string, status: number) =>
  new NextResponse(page, {
    status,
    headers: {
      ...Object.fromEntries(ownHeaders),
      'content-type': 'text/html; charset=utf-8',
      'content-security-policy': wayInPolicy,
      'cache-control': 'no-store',
    },
  });

/** To the page where one signs in, and from there to the one that was asked for. */
function toSignIn(request: NextRequest, origin: string): NextResponse {
  // Asked for by a page that is open, it would come to stand within that one's window: without an answer it is loaded anew.
  if ((request.headers.get('sec-fetch-mode') ?? 'navigate') !== 'navigate')
    return new NextResponse(null, { status: 401 });
  const { pathname, search } = request.nextUrl;
  const back = pathname === '/' && search === '' ? '' : `?to=${encodeURIComponent(pathname + search)}`;
  return NextResponse.redirect(`${origin}/sign-in${back}`, {
    status: 303,
    headers: { 'cache-control': 'no-store' },
  });
}

/** False where the escapes of a path make no UTF-8. */
function isText(pathname: string): boolean {
  try {
    decodeURIComponent(pathname);
    return true;
  } catch {
    return false;
  }
}
