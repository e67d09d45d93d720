// Bags that belong together: volumes of one set, told by Bag-Group-Identifier and Bag-Count (RFC 8493 §2.2.2), which lie in one folder.

import fs from 'node:fs';
import path from 'node:path';
import { readInfo } from '@/core/bags/manifest';
import type { Problem } from '@/core/problem';
import { fromSystem, toSystem } from '../disk/system';
import { openBag, readTag, type OpenBag } from './openBag';

export interface BagSet {
  /** The bags that are there, in order. */
  bags: string[];
  of: number;
  /** Numbers of volumes that are not there. */
  missing: number[];
}

interface Place {
  group: string;
  n: number;
  of: number;
}

/** What a bag says of the set it is one of; null: it stands alone. */
async function placeOf(bag: OpenBag): Promise<Place | null> {
  const info = new Map(readInfo((await readTag(bag, 'bag-info.txt')) ?? ''));
  const group = info.get('Bag-Group-Identifier');
  // The total may be '?' where it was not known (RFC 8493 §2.2.2).
  const count = /^(\d{1,6}) of (\d{1,6})$/.exec(info.get('Bag-Count') ?? '');
  if (group === undefined || !count) return null;
  const [n, of] = [Number(count[1]), Number(count[2])];
  return of > 1 && n >= 1 && n <= of ? { group, n, of } : null;
}

/** The same of whatever lies at a path; null also where that is no bag. */
async function placeAt(at: string): Promise<Place | null> {
  let bag: OpenBag | null = null;
  try {
    bag = await openBag(at);
    return await placeOf(bag);
  } catch {
    return null;
  } finally {
    bag?.close();
  }
}

/** The set a bag belongs to; null: it is whole by itself. */
export async function setOf(bagPath: string): Promise<BagSet | null> {
  const own = await placeAt(bagPath);
  if (!own) return null;
  const at = new Map([[own.n, bagPath]]);
  const folder = path.dirname(toSystem(bagPath));
  for (const entry of fs.readdirSync(folder, { withFileTypes: true })) {
    const full = fromSystem(path.join(folder, entry.name));
    if (full === bagPath || !isBagLike(folder, entry)) continue;
    const place = await placeAt(full);
    if (place?.group === own.group && place.of === own.of && !at.has(place.n)) at.set(place.n, full);
  }
  const numbers = Array.from({ length: own.of }, (_, i) => i + 1);
  return {
    bags: numbers.flatMap((n) => at.get(n) ?? []),
    of: own.of,
    missing: numbers.filter((n) => !at.has(n)),
  };
}

const isBagLike = (folder: string, entry: fs.Dirent) =>
  entry.isFile()
    ? /\.zip$/i.test(entry.name)
    : entry.isDirectory() && fs.existsSync(path.join(folder, entry.name, 'bagit.txt'));

/** What is to be said of volumes that are not there. */
export function missingVolumes({ missing, of, bags }: BagSet): Problem[] {
  if (missing.length === 0) return [];
  const which = missing.slice(0, 12).join(', ') + (missing.length > 12 ? ' …' : '');
  return [
    {
      code: 'missing-volume',
      message: `Of the ${of} volumes of this bag ${missing.length === 1 ? `volume ${which} is` : `volumes ${which} are`} not in ${bags[0]!.slice(0, bags[0]!.lastIndexOf('/')) || '/'}: put all into one folder.`,
    },
  ];
}
