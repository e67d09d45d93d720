// A path as other machines have it: a place has several heads (a drive letter here, a mounted volume there, a share), all of which mean one folder.

import { isWithin } from '../files/treePath';

export interface Place {
  name: string;
  heads: readonly string[];
}

const isWindowsPath = (path: string) => /^([A-Za-z]:|[\\/]{2})/.test(path);

/** An absolute folder as the core writes it: '/'-separated where it is a drive's or a share's, no slash at the end but of a drive: 'K:\\tex\\' is 'K:/tex', 'K:' is 'K:/'. */
export function plainHead(written: string): string {
  const path = isWindowsPath(written) ? written.replaceAll('\\', '/') : written;
  const bare = path.replace(/(?<=[^/])\/+$/, '');
  return /^[A-Za-z]:$/.test(bare) ? `${bare}/` : bare;
}

/** Whether a path lies under a head; drive letters and shares in any case, at a folder boundary. */
export function isUnderHead(path: string, head: string): boolean {
  const h = plainHead(head).replace(/\/$/, '');
  return isWindowsPath(h) ? path.toLowerCase().startsWith(`${h.toLowerCase()}/`) : isWithin(path, h);
}

export interface Elsewhere {
  place: string;
  /** The head that the path has now, and the path under each of the others. */
  head: string;
  others: { head: string; path: string }[];
}

/** An absolute path, '/'-separated, under every other head of the places it lies in; the longest head of a place counts. */
export function elsewhereOf(path: string, places: readonly Place[]): Elsewhere[] {
  return places.flatMap((place) => {
    const head = place.heads.filter((h) => isUnderHead(path, h)).sort((a, b) => b.length - a.length)[0];
    if (head === undefined) return [];
    const bare = (h: string) => plainHead(h).replace(/\/$/, '');
    const tail = path.slice(bare(head).length);
    const others = place.heads.filter((h) => h !== head).map((h) => ({ head: h, path: bare(h) + tail }));
    return others.length === 0 ? [] : [{ place: place.name, head, others }];
  });
}
