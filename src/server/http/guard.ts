// Who may speak to the server: only pages of this very server, on this machine. A page elsewhere that knows the address can
// neither read answers nor make the server act: its Origin or its Host (after DNS rebinding) gives it away.

const localHosts = new Set(['127.0.0.1', 'localhost', '[::1]']);

/** Status to refuse a request with; null lets it through. */
export function refuse(
  method: string,
  headers: { get(name: string): string | null },
): { status: 421 | 403; why: string } | null {
  const host = headers.get('host') ?? '';
  const name = host.replace(/:\d+$/, '').toLowerCase();
  if (!localHosts.has(name))
    return { status: 421, why: 'This server answers only to 127.0.0.1 and localhost.' };
  const origin = headers.get('origin');
  if (origin !== null && origin !== `http://${host}`)
    return { status: 403, why: 'Only pages of this server may ask.' };
  const site = headers.get('sec-fetch-site');
  const isRead = method === 'GET' || method === 'HEAD';
  // A link or a typed address may open a page; everything else must come from our own pages.
  const isNavigation = headers.get('sec-fetch-mode') === 'navigate' && isRead;
  if (site !== null && site !== 'same-origin' && site !== 'none' && !isNavigation)
    return { status: 403, why: 'Only pages of this server may ask.' };
  if (!isRead && origin === null && site === null && headers.get('x-satchel') === null)
    return { status: 403, why: 'Changes need the header x-satchel.' };
  return null;
}

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
    "manifest-src 'self'",
    "base-uri 'none'",
    "form-action 'none'",
    "frame-ancestors 'none'",
    "object-src 'none'",
  ].join('; ');
}
