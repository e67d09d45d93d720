// Who may speak to the server: only pages of this very server, on this machine, opened by whoever started it.
//
// Three walls, each against another stranger. A page elsewhere that knows the address gives itself away by its Origin, or by its Host after DNS
// rebinding. Another account of this machine can send any header, but does not know the key that was made at this start. What may be read of
// the disk beyond that is settled by the folders that were allowed (hub.ts).

import { createHash, timingSafeEqual } from 'node:crypto';

const localHosts = new Set(['127.0.0.1', 'localhost', '[::1]']);

/** What of a request the guard looks at. */
export interface Asked {
  method: string;
  headers: { get(name: string): string | null };
}

/** Why a request is refused, with the status to do it with. */
export interface RefusedRequest {
  status: 421 | 403;
  why: string;
}

/**
 * Null lets a request through as far as its origin goes. `origins`: where people reach a server for several (a proxy with TLS stands before it, and hands
 * the name on by which it was asked for); null: this machine alone.
 */
export function refuse(
  { method, headers }: Asked,
  origins: readonly string[] | null = null,
): RefusedRequest | null {
  const host = headers.get('host') ?? '';
  const isOwn = origins
    ? origins.some((o) => new URL(o).host === host.toLowerCase())
    : localHosts.has(host.replace(/:\d+$/, '').toLowerCase());
  if (!isOwn)
    return {
      status: 421,
      why: origins
        ? 'This server answers only to the name it was set up with.'
        : 'This server answers only to 127.0.0.1 and localhost.',
    };
  const origin = headers.get('origin');
  if (origin !== null && !(origins ? origins.includes(origin) : origin === `http://${host}`))
    return { status: 403, why: 'Only pages of this server may ask.' };
  const site = headers.get('sec-fetch-site');
  const isRead = method === 'GET' || method === 'HEAD';
  // A link or a typed address may open a page; everything else must come from our own pages.
  const isNavigation = headers.get('sec-fetch-mode') === 'navigate' && isRead;
  if (site !== null && site !== 'same-origin' && site !== 'none' && !isNavigation)
    return { status: 403, why: 'Only pages of this server may ask.' };
  // A page elsewhere can send neither without asking this server first (CORS), which says no.
  const isMeant = headers.get('x-satchel') !== null || headers.get('authorization') !== null;
  if (!isRead && origin === null && site === null && !isMeant)
    return { status: 403, why: 'Changes need the header x-satchel.' };
  return null;
}

/** The key that this start of the server asks for; null: none was made, and nobody gets in. */
export const keyOfThisStart = (): string | null => process.env.SATCHEL_KEY || null;

/** The name in the address under which the key is given once, and the header for programs of one's own. */
export const keyParameter = 'key';
export const keyHeader = 'x-satchel-key';

// Cookies do not mind ports: without the port in its name a second server would take the first one's place.
const cookieName = (host: string) => `satchel-key-${/:(\d+)$/.exec(host)?.[1] ?? '80'}`;

const same = (given: string, key: string) => {
  const digest = (text: string) => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(given), digest(key));
};

/** True for a request that brings the key: in its strict cookie or its header. */
export function hasKey({ headers }: Pick<Asked, 'headers'>, key: string | null): boolean {
  if (key === null) return false;
  const given = headers.get(keyHeader);
  if (given !== null) return same(given, key);
  const name = cookieName(headers.get('host') ?? '');
  return (headers.get('cookie') ?? '').split(/;\s*/).some((pair) => {
    const [k, ...value] = pair.split('=');
    return k === name && same(value.join('='), key);
  });
}

/** The cookie to answer with to an address that brings the right key; null where it brings none, or another. */
export function cookieFor(url: URL, host: string, key: string | null): string | null {
  const given = url.searchParams.get(keyParameter);
  if (given === null || key === null || !same(given, key)) return null;
  return `${cookieName(host)}=${key}; Path=/; HttpOnly; SameSite=Strict`;
}

const plainStyle = `<style>
body { font: 17px/1.5 system-ui, sans-serif; background: #f4ecdd; color: #2b241c; margin: 0; display: grid; place-items: center; min-height: 100vh }
main { max-width: 34em; padding: 2em } h1 { font-size: 1.4em } code { background: #e6dac2; padding: .1em .35em; border-radius: 4px }
@media (prefers-color-scheme: dark) { body { background: #1d1a16; color: #eee4d2 } code { background: #3a3329 } }
</style>`;

/** What somebody sees who comes without the key. It needs nothing else of the server. */
export const wayIn = `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Loyal Satchel: locked</title>
<meta name="viewport" content="width=device-width">${plainStyle}</head><body><main><h1>Loyal Satchel is running, and locked</h1>
<p>Only whoever started it gets in. Open the address that was printed at the start: it ends in <code>?key=…</code></p>
<p>Each start makes a new key, so a page from before the last start asks for the new address, too. If the window in which it was started is
gone, stop it and start it again with <code>npm start</code>.</p></main></body></html>`;

/** What somebody sees while it cannot be told who they are. */
export const awayPage = `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Loyal Satchel: one moment</title>
<meta name="viewport" content="width=device-width"><meta http-equiv="refresh" content="5">${plainStyle}</head>
<body><main><h1>The accounts do not answer just now</h1>
<p>The database of this server is away. No file is affected; this page tries again by itself.</p></main></body></html>`;

/** The content security policy with a nonce for this answer's own scripts and styles. */
export function contentPolicy(nonce: string, dev: boolean): string {
  return [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic' 'wasm-unsafe-eval'${dev ? " 'unsafe-eval'" : ''}`,
    `style-src-elem 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' blob: data:",
    "font-src 'self'",
    "connect-src 'self' blob: data:",
    // A clip is made in a thread, and looked at before it is saved.
    "worker-src 'self'",
    'media-src blob:',
    "manifest-src 'self'",
    "base-uri 'none'",
    "form-action 'none'",
    "frame-ancestors 'none'",
    "object-src 'none'",
  ].join('; ');
}

/** For the page that tells the way in: its own style and nothing else. */
export const wayInPolicy =
  "default-src 'none'; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

/** For what is data, pictures and users' files: nothing in it runs, wherever it is opened. */
export const dataPolicy =
  "default-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'; sandbox";

/** Headers that keep every answer to this server's own pages. */
export const ownHeaders: readonly (readonly [string, string])[] = [
  ['x-content-type-options', 'nosniff'],
  ['referrer-policy', 'no-referrer'],
  ['cross-origin-opener-policy', 'same-origin'],
  ['cross-origin-resource-policy', 'same-origin'],
];
