// Outside files held in memory, by absolute path.

import { AppError } from '../../errors';
import { digestOf } from '../../files/digest';
import type { OutsideFiles } from '../../files/fileTree';

/** Files by absolute path; modified times are 1000 ms. */
export function memoryOutside(files: Record<string, string | Uint8Array>): OutsideFiles {
  const held = new Map(
    Object.entries(files).map(([p, c]) => [p, typeof c === 'string' ? new TextEncoder().encode(c) : c]),
  );
  const isFolder = (p: string) => p === '/' || [...held.keys()].some((k) => k.startsWith(`${p}/`));
  const read = async (p: string, r?: readonly [number, number]) => {
    const bytes = held.get(p);
    if (!bytes) throw new AppError('not-found', `${p} is not there.`);
    return r ? bytes.slice(r[0], r[1]) : bytes;
  };
  return {
    kind: async (p) => (held.has(p) ? 'file' : isFolder(p) ? 'folder' : null),
    stat: async (p) => (held.has(p) ? { size: held.get(p)!.length, modified: 1000 } : null),
    async entries(f) {
      if (!isFolder(f)) return null;
      const prefix = f === '/' ? '/' : `${f}/`;
      const names = new Map<string, 'file' | 'folder'>();
      for (const k of held.keys())
        if (k.startsWith(prefix)) {
          const rest = k.slice(prefix.length);
          names.set(rest.split('/')[0]!, rest.includes('/') ? 'folder' : 'file');
        }
      return [...names].map(([name, kind]) => ({ name, kind }));
    },
    read,
    async *stream(p, r) {
      yield await read(p, r);
    },
    digest: async (p) => (held.has(p) ? digestOf(held.get(p)!) : null),
  };
}
