// What travels, as the page counts it: a line for each class and each library, with what it breaks; the folders and files at one place of the tree.

import {
  brokenBy,
  classNames,
  travelClasses,
  travellingOf,
  type TravelChoice,
  type TravelClass,
  type TravelLook,
  type Travelling,
} from '@/core/bags/travelling';

export interface ClassLine {
  id: TravelClass;
  name: string;
  files: number;
  bytes: number;
  /** Ticked in whole, in part, or not. */
  is: 'in' | 'some' | 'out';
  /** What it breaks that it is out; null: nothing. */
  breaks: { files: number; scenes: string[] } | null;
}

/** Classes of which there is something. */
export function classLines(travelling: Travelling): ClassLine[] {
  const broken = brokenBy(travelling.broken);
  return travelClasses.flatMap((id): ClassLine[] => {
    const sum = travelling.byClass.get(id);
    if (!sum) return [];
    const is = sum.travelling === sum.files ? 'in' : sum.travelling === 0 ? 'out' : 'some';
    return [
      { id, name: classNames[id], files: sum.files, bytes: sum.bytes, is, breaks: broken.get(id) ?? null },
    ];
  });
}

export const withClass = (choice: TravelChoice, id: TravelClass, isIn: boolean): TravelChoice => ({
  ...choice,
  without: isIn ? choice.without.filter((c) => c !== id) : [...choice.without, id],
});

/** A folder or a file at one place of the tree. */
export interface Place {
  name: string;
  path: string;
  isFolder: boolean;
  files: number;
  bytes: number;
  travelling: number;
}

/** What lies right in a folder ('' for the root), the largest first. */
export function placesIn(look: TravelLook, travels: readonly boolean[], folder: string): Place[] {
  const found = new Map<string, Place>();
  const prefix = folder === '' ? '' : `${folder}/`;
  look.files.forEach((f, n) => {
    if (!f.path.startsWith(prefix)) return;
    const rest = f.path.slice(prefix.length);
    const cut = rest.indexOf('/');
    const name = cut < 0 ? rest : rest.slice(0, cut);
    const place = found.get(name) ?? {
      name,
      path: prefix + name,
      isFolder: cut >= 0,
      files: 0,
      bytes: 0,
      travelling: 0,
    };
    found.set(name, place);
    place.files++;
    place.bytes += f.size;
    if (travels[n]) place.travelling++;
  });
  return [...found.values()].sort((a, b) => b.bytes - a.bytes || (a.name < b.name ? -1 : 1));
}

/** A choice by hand for a place; what was chosen below it before is taken back. */
export function byHand(choice: TravelChoice, path: string, travels: boolean): TravelChoice {
  const rest = choice.byHand.filter(
    (h) => h.path !== path && !h.path.startsWith(path === '' ? '' : `${path}/`),
  );
  return { ...choice, byHand: [...rest, { path, travels }] };
}

export const countOf = (look: TravelLook, choice: TravelChoice) => travellingOf(look, choice);
