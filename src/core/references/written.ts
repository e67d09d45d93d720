// What a written path says, before any disk is asked: is it relative or absolute, on which kind of system, and how is it spelt.
// Drive letters are looked for before URI schemes, since every URI parser takes `C:` for a scheme.

import type { Syntax } from '../formats/format';
import { percentDecode, percentEncodePath, splitUri } from '../text/uri';

/** An oddity in the spelling that some programs forgive and others do not. */
export type Oddity =
  | 'backslash' // '\' where the rule of the format is '/'
  | 'through-root-name' // leaves the root and comes back by the root's own name
  | 'not-decoded' // found only with percent escapes taken literally, or only after undoing escapes the format does not have
  | 'working-folder' // found only from the root, as a program's working folder
  | 'library-name' // begins with a library's name in braces, which is ours alone
  | 'home-folder' // begins with ~ for the home folder of whoever opens it
  | 'empty-file' // found, and of 0 bytes
  | 'query' // a query behind the path, which only web servers take off
  | 'outer-blanks'; // found only after blanks around the name were left out

/** A written path, understood. Paths use '/', drive letters are upper case: 'D:/work/a.png', '//server/share/a.png', '/mnt/a.png'. */
export type Understood =
  | { form: 'relative'; path: string; oddities: Oddity[]; tail: string }
  | { form: 'absolute'; path: string; system: 'windows' | 'posix'; oddities: Oddity[]; tail: string }
  | { form: 'remote'; url: string }
  | { form: 'nothing' };

const drive = /^([A-Za-z]):[\\/]/;

/** Understands a path by its format's rule. `tail` is what follows the path in a URI (query and fragment), kept on rewriting. */
export function understand(given: string, syntax: Syntax): Understood {
  if (given.trim() === '') return { form: 'nothing' };
  const oddities: Oddity[] = [];
  // \\?\C:\x is the long form of C:\x, \\?\UNC\server of \\server (Microsoft, "Naming Files, Paths, and Namespaces").
  const written = given.replace(/^[\\/]{2}\?[\\/](UNC[\\/])?/i, (_, share: string | undefined) =>
    share ? '//' : '',
  );
  if (syntax === 'native') return absoluteOrRelative(slashes(written, oddities), oddities, '');
  if (syntax === 'usd') {
    if (/^[a-z][a-z0-9+.-]+:\/\//i.test(written) && !/^file:/i.test(written))
      return { form: 'remote', url: written };
    // A file inside a package, or arguments for the reader of another format (OpenUSD, SdfLayer and ArPackageUtils).
    const cut = /:SDF_FORMAT_ARGS:|(?<=\.usdz)\[/i.exec(written)?.index ?? written.length;
    return absoluteOrRelative(slashes(written.slice(0, cut), oddities), oddities, written.slice(cut));
  }
  // file:, then any slashes, by hand: `file://..\x` and `file:C:\x` occur, and URL parsers lose `..` above the root.
  const file = /^file:/i.exec(written);
  let rest = written;
  if (file) {
    rest = written.slice(5);
    const authority = /^\/\/([^/\\]*)/.exec(rest);
    if (authority && (authority[1] === '' || authority[1]!.toLowerCase() === 'localhost'))
      rest = rest.slice(authority[0].length);
    if (/^\/[A-Za-z]:/.test(rest)) rest = rest.slice(1);
  } else if (!drive.test(rest) && !/^[A-Za-z]:/.test(rest.slice(0, 2))) {
    // A network-path reference (`//host/x`, RFC 3986 §4.2) is taken as a share, the way programs on Windows write one.
    const scheme = splitUri(rest).scheme;
    if (scheme !== null && scheme.length > 1) return { form: 'remote', url: written };
  }
  const cut = rest.search(/[?#]/);
  const path = cut < 0 ? rest : rest.slice(0, cut);
  const tail = cut < 0 ? '' : rest.slice(cut);
  if (path === '') return { form: 'nothing' };
  if (tail.startsWith('?')) oddities.push('query');
  return absoluteOrRelative(percentDecode(slashes(path, oddities)), oddities, tail);
}

function slashes(path: string, oddities: Oddity[]): string {
  if (!path.includes('\\')) return path;
  oddities.push('backslash');
  return path.replaceAll('\\', '/');
}

function absoluteOrRelative(path: string, oddities: Oddity[], tail: string): Understood {
  if (/^[A-Za-z]:/.test(path)) {
    return {
      form: 'absolute',
      system: 'windows',
      path: path[0]!.toUpperCase() + path.slice(1),
      oddities: without(oddities, 'backslash'),
      tail,
    };
  }
  if (path.startsWith('//'))
    return { form: 'absolute', system: 'windows', path, oddities: without(oddities, 'backslash'), tail };
  if (path.startsWith('/')) return { form: 'absolute', system: 'posix', path, oddities, tail };
  return { form: 'relative', path, oddities, tail };
}

function without(list: Oddity[], one: Oddity): Oddity[] {
  return list.filter((o) => o !== one);
}

/** '.' and '..' undone in an absolute path; '..' above the top is dropped, as file systems do. */
export function normaliseAbsolute(path: string): string {
  const head = /^(\/\/[^/]+\/[^/]+|[A-Za-z]:|)/.exec(path)![1]!;
  const out: string[] = [];
  for (const part of path.slice(head.length).split('/')) {
    if (part === '' || part === '.') continue;
    if (part === '..') out.pop();
    else out.push(part);
  }
  return `${head}/${out.join('/')}`;
}

/** A path as the format writes it: percent-encoded for URIs, in the style the old value had. */
export function spell(path: string, syntax: Syntax, old: string): string {
  if (syntax !== 'uri') return path;
  const rawBlanks = / /.test(old.trim());
  const escapeBeyondAscii = /%[89A-Fa-f][0-9A-Fa-f]/.test(old);
  if (/^[A-Za-z]:\//.test(path))
    return `file:///${path.slice(0, 2)}${percentEncodePath(path.slice(2), { rawBlanks: false, escapeBeyondAscii })}`;
  return percentEncodePath(path, { rawBlanks, escapeBeyondAscii });
}
