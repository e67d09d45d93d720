// What lies in a package (USDZ, ZAE, ZIP), seen as files in a folder of its own, so that scenes in it are read and carried like any others; and the steps that write
// them, from the package as it is. Nothing is unpacked to disk. Source: PKWARE APPNOTE 6.3.9.

import { putBytes, type Source, type Step } from '../changes/plan';
import { made } from '../convert/made';
import { AppError } from '../errors';
import type { Digest, Hashing } from '../files/digest';
import type { Entry, OutsideFiles } from '../files/fileTree';
import { isTreePath, nameOf } from '../files/treePath';
import { packageTrouble, readDirectory, type ZipEntry } from '../formats/zip';
import { isLitter } from '../names/litter';
import { foldName } from '../names/portable';
import { crc32 } from '../text/crc32';
import { applyPieces, type Piece } from '../text/edits';
import { bytesOfText } from '../text/bytes';

export interface PackageFiles {
  /** A folder that is nowhere. */
  root: string;
  /** Its files, by paths below that folder. */
  files: string[];
  outside: OutsideFiles;
  /** The step as it can be done: from the package itself. */
  step(step: Step): Promise<Step>;
}

const mostInside = 512 * 1024 * 1024;
const mostRewritten = 64 * 1024 * 1024;

/** Opens it. Throws AppError where it is none, or holds what leads out of it. */
export async function openPackage(
  outside: OutsideFiles,
  path: string,
  startHash: () => Hashing,
): Promise<PackageFiles> {
  const stat = await outside.stat(path);
  if (!stat) throw new AppError('not-found', `${path} is not there.`);
  const directory = await readDirectory((range) => outside.read(path, range), stat.size);
  const trouble = packageTrouble(directory, stat.size);
  if (!directory || trouble)
    throw new AppError('unsupported', trouble?.message ?? `${nameOf(path)} is no package.`);
  const root = `/${nameOf(path)} as a folder`;
  const entries = new Map<string, ZipEntry>();
  const folded = new Set<string>();
  let isZae = false;
  for (const e of directory) {
    if (e.name.endsWith('/')) continue;
    if (!isTreePath(e.name) || e.name.includes('\\'))
      throw new AppError(
        'hostile-archive',
        `${e.name} in ${nameOf(path)} leads out of it: nothing is taken.`,
      );
    if (folded.has(foldName(e.name)))
      throw new AppError(
        'clashing-names',
        `${e.name} stands twice in ${nameOf(path)}, perhaps in other letters: nothing is taken.`,
      );
    folded.add(foldName(e.name));
    isZae ||= e.name === 'manifest.xml' && /\.zae$/i.test(path);
    if (!isLitter(nameOf(e.name)) && !e.name.startsWith('__MACOSX/')) entries.set(`${root}/${e.name}`, e);
  }
  if (isZae) entries.delete(`${root}/manifest.xml`);
  const contents = new Map<string, Promise<Uint8Array>>();
  const contentOf = (at: string): Promise<Uint8Array> => {
    let known = contents.get(at);
    if (!known) contents.set(at, (known = contentOfEntry(outside, path, entries.get(at)!)));
    return known;
  };
  const state = { ...stat, digest: null };
  return {
    root,
    files: [...entries.keys()],
    outside: filesOf(entries, stat.modified, contentOf, startHash),
    async step(step) {
      if (step.do !== 'put' || step.from.from !== 'outside') return step;
      const entry = entries.get(step.from.path)!;
      const span = [entry.at, entry.at + entry.packed] as const;
      const { pieces } = step.from;
      if (entry.method === 0) {
        const copied = (pieces ?? (entry.size > 0 ? [{ copy: [0, entry.size] as const }] : [])).map((p) =>
          'latin1' in p ? p : { file: 0, copy: [p.copy[0] + entry.at, p.copy[1] + entry.at] as const },
        );
        const from: Source = { from: 'files', files: [{ path, state, outside: true }], pieces: copied };
        return { ...step, modified: null, from };
      }
      const content = await contentOf(step.from.path);
      if (!pieces) {
        const from: Source = {
          from: 'made',
          path,
          outside: true,
          state,
          making: { form: 'inflate', span },
          digest: idOf(startHash, content),
        };
        return { ...step, modified: null, from };
      }
      if (step.size > mostRewritten)
        throw new AppError('unsupported', `${entry.name} is too large to be rewritten out of a package.`);
      const written = applyPieces(
        content,
        pieces.map((p): Piece => ('latin1' in p ? { bytes: bytesOfText(p.latin1) } : p)),
      );
      return putBytes(step.path, written);
    },
  };
}

function idOf(startHash: () => Hashing, bytes: Uint8Array): Digest {
  const hash = startHash();
  hash.update(bytes);
  return hash.digest();
}

async function contentOfEntry(outside: OutsideFiles, path: string, entry: ZipEntry): Promise<Uint8Array> {
  if (entry.method !== 0 && entry.method !== 8)
    throw new AppError('unsupported', `${entry.name} is packed in a way that is not known.`);
  if (entry.size > mostInside)
    throw new AppError('unsupported', `${entry.name} is too large to be unpacked here.`);
  const bytes = await outside.read(path, [entry.at, entry.at + entry.packed]);
  const content = entry.method === 0 ? bytes : await made({ form: 'inflate' }, bytes);
  if ('refused' in content || content.length !== entry.size || crc32(content) !== crcIn(entry))
    throw new AppError('unsupported', `${entry.name} in ${nameOf(path)} is damaged.`);
  return content;
}

/** The checksum that the central directory tells (APPNOTE §4.3.12). */
export const crcIn = ({ central }: Pick<ZipEntry, 'central'>): number =>
  new DataView(central.buffer, central.byteOffset, central.length).getUint32(16, true);

function filesOf(
  entries: ReadonlyMap<string, ZipEntry>,
  modified: number,
  contentOf: (at: string) => Promise<Uint8Array>,
  startHash: () => Hashing,
): OutsideFiles {
  const listed = (folder: string): Entry[] => {
    const found = new Map<string, Entry>();
    for (const path of entries.keys()) {
      if (!path.startsWith(`${folder}/`)) continue;
      const [name, ...rest] = path.slice(folder.length + 1).split('/');
      found.set(name!, { name: name!, kind: rest.length > 0 ? 'folder' : 'file' });
    }
    return [...found.values()];
  };
  const isFolder = (path: string) => [...entries.keys()].some((p) => p.startsWith(`${path}/`));
  return {
    kind: (path) => Promise.resolve(entries.has(path) ? 'file' : isFolder(path) ? 'folder' : null),
    stat: (path) => {
      const entry = entries.get(path);
      return Promise.resolve(entry ? { size: entry.size, modified } : null);
    },
    entries: (folder) => Promise.resolve(isFolder(folder) ? listed(folder) : null),
    read: async (path, [from, to] = [0, Infinity]) => (await contentOf(path)).subarray(from, to),
    async *stream(path, range) {
      const content = await contentOf(path);
      yield range ? content.subarray(...range) : content;
    },
    digest: async (path) => (entries.has(path) ? idOf(startHash, await contentOf(path)) : null),
  };
}
