// URI references after RFC 3986: splitting (§3, appendix B), resolving (§5.2, strict), percent-encoding (§2.1).
// For file paths `..` above the root must stay visible, so resolving on disk happens in resolve.ts, not here.

import { decodeText, utf8 } from './bytes';

/** The five components; null where absent. */
export interface UriParts {
  scheme: string | null;
  authority: string | null;
  path: string;
  query: string | null;
  fragment: string | null;
}

/** Splits a URI reference (RFC 3986 appendix B). Never fails: every string has a path, maybe empty. */
export function splitUri(text: string): UriParts {
  const m = /^(?:([A-Za-z][A-Za-z0-9+.-]*):)?(?:\/\/([^/?#]*))?([^?#]*)(?:\?([^#]*))?(?:#(.*))?$/s.exec(
    text,
  )!;
  return {
    scheme: m[1] ?? null,
    authority: m[2] ?? null,
    path: m[3] ?? '',
    query: m[4] ?? null,
    fragment: m[5] ?? null,
  };
}

/** Puts components together (RFC 3986 §5.3). */
export function joinUri(parts: UriParts): string {
  return (
    (parts.scheme === null ? '' : `${parts.scheme}:`) +
    (parts.authority === null ? '' : `//${parts.authority}`) +
    parts.path +
    (parts.query === null ? '' : `?${parts.query}`) +
    (parts.fragment === null ? '' : `#${parts.fragment}`)
  );
}

/** Removes '.' and '..' segments (RFC 3986 §5.2.4). */
export function removeDotSegments(path: string): string {
  const out: string[] = [];
  const segments = path.split('/');
  segments.forEach((segment, i) => {
    const last = i === segments.length - 1;
    if (segment === '.') {
      if (last) out.push('');
    } else if (segment === '..') {
      if (out.length > 1 || (out.length === 1 && out[0] !== '')) out.pop();
      if (last) out.push('');
    } else out.push(segment);
  });
  const joined = out.join('/');
  return path.startsWith('/') && !joined.startsWith('/') ? `/${joined}` : joined;
}

/** Resolves a reference against an absolute base (RFC 3986 §5.2.2, strict). */
export function resolveUri(base: string, reference: string): string {
  const b = splitUri(base);
  const r = splitUri(reference);
  if (r.scheme !== null) return joinUri({ ...r, path: removeDotSegments(r.path) });
  if (r.authority !== null) return joinUri({ ...r, scheme: b.scheme, path: removeDotSegments(r.path) });
  if (r.path === '') return joinUri({ ...b, query: r.query ?? b.query, fragment: r.fragment });
  const merged = r.path.startsWith('/')
    ? r.path
    : b.authority !== null && b.path === ''
      ? `/${r.path}`
      : b.path.slice(0, b.path.lastIndexOf('/') + 1) + r.path;
  return joinUri({
    scheme: b.scheme,
    authority: b.authority,
    path: removeDotSegments(merged),
    query: r.query,
    fragment: r.fragment,
  });
}

/** Undoes percent-encoding; sequences that are no valid escape or no UTF-8 stay as they are written. */
export function percentDecode(text: string): string {
  if (!text.includes('%')) return text;
  return text.replace(/(?:%[0-9A-Fa-f]{2})+/g, (run) => {
    const bytes = Uint8Array.from(run.slice(1).split('%'), (h) => parseInt(h, 16));
    const decoded = decodeText(bytes);
    return decoded.encoding === 'utf-8' ? decoded.text : run;
  });
}

// What must be escaped in a path: blanks, the delimiters of a URI, and what RFC 3986 does not allow raw.
const mustEscape = /[\u0000-\u0020"<>\\^`{|}%#?[\]\u007f]/g;

/** Percent-encodes what a path in a URI reference cannot hold; letters beyond ASCII stay, as IRIs (RFC 3987) allow. */
export function percentEncodePath(
  path: string,
  style: { rawBlanks: boolean; escapeBeyondAscii: boolean } = { rawBlanks: false, escapeBeyondAscii: false },
): string {
  const escape = (c: string) =>
    [...utf8(c)].map((b) => `%${b.toString(16).toUpperCase().padStart(2, '0')}`).join('');
  let out = path.replace(mustEscape, (c) => (c === ' ' && style.rawBlanks ? c : escape(c)));
  if (style.escapeBeyondAscii) out = out.replace(/[^\u0000-\u007f]/gu, escape);
  // A first segment with a colon would read as a scheme (RFC 3986 §4.2).
  return /^[^/]*:/.test(out) ? `./${out}` : out;
}
