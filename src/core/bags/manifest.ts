// Manifests and tag files of a bag after RFC 8493 (BagIt 1.0): what each line means, and how paths are written in it.

/** RFC 8493 §2.1.1: the bag declaration, exactly two lines. */
export const declaration = 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n';

/** Algorithms that are understood, strongest first, with the hex digits of a digest. */
export const algorithms = { sha512: 128, sha256: 64, sha1: 40, md5: 32 } as const;
export type Algorithm = keyof typeof algorithms;

/** RFC 8493 §2.1.3: in paths only CR, LF and '%' are percent-encoded. */
export function encodePath(path: string): string {
  return path.replace(/[%\r\n]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase().padStart(2, '0')}`);
}

/** Undoes encodePath; other escapes stay as they are. */
export function decodePath(path: string): string {
  return path.replace(/%(0[dD]|0[aA]|25)/g, (_, code: string) => String.fromCharCode(parseInt(code, 16)));
}

/** A manifest's text: 'digest  path' lines, in path order. */
export function writeManifest(entries: readonly { path: string; digest: string }[]): string {
  return [...entries]
    .sort((a, b) => (a.path < b.path ? -1 : 1))
    .map((e) => `${e.digest}  ${encodePath(e.path)}\n`)
    .join('');
}

/** Reads a manifest; lines that cannot be read are named by number. Digests in lower case. */
export function readManifest(text: string): {
  entries: { path: string; digest: string }[];
  badLines: number[];
} {
  const entries: { path: string; digest: string }[] = [];
  const badLines: number[] = [];
  text
    .replace(/^\uFEFF/, '')
    .split(/\r\n|\r|\n/)
    .forEach((line, i) => {
      if (line.trim() === '') return;
      // [^] also matches U+2028 and U+2029, which a file name may contain.
      const match = /^([0-9A-Fa-f]+)[ \t]+\*?([^]+)$/.exec(line);
      if (match)
        entries.push({ digest: match[1]!.toLowerCase(), path: decodePath(match[2]!.replace(/^\.\//, '')) });
      else badLines.push(i + 1);
    });
  return { entries, badLines };
}

/** The algorithm a manifest's file name speaks of: 'manifest-sha512.txt'. Null for other files. */
export function manifestOf(name: string): { algorithm: string; tags: boolean } | null {
  const match = /^(tag)?manifest-([a-z0-9-]+)\.txt$/i.exec(name);
  return match ? { algorithm: match[2]!.toLowerCase(), tags: match[1] !== undefined } : null;
}

/** Label: value lines of bag-info.txt (RFC 8493 §2.2.2); lines that begin with a blank continue the one before. */
export function readInfo(text: string): [label: string, value: string][] {
  const out: [string, string][] = [];
  for (const line of text.split(/\r\n|\r|\n/)) {
    if (/^[ \t]/.test(line) && out.length > 0) out[out.length - 1]![1] += ` ${line.trim()}`;
    else {
      const colon = line.indexOf(':');
      if (colon > 0) out.push([line.slice(0, colon), line.slice(colon + 1).trim()]);
    }
  }
  return out;
}

/** The text of bag-info.txt. A value with line ends goes on in lines that begin with a blank (RFC 8493 §2.2.2). */
export function bagInfo(lines: readonly (readonly [label: string, value: string])[]): string {
  return lines
    .map(([label, value]) => `${label}: ${value.trim().replace(/\s*[\r\n]+\s*/g, '\n  ')}\n`)
    .join('');
}

/** Name of the tag file that lists empty folders, one a line: bags cannot hold them (RFC 8493 §2.1.3 lists files only). */
export const emptyFoldersFile = 'empty-folders.txt';
