// Values of fields as numbers and nodes.

import type { Plain3d } from '@/core/convert/x3d/expand';

/** Numbers of a field; `otherwise` where it says none. */
export function numbers(node: Plain3d, field: string, otherwise: readonly number[] = []): readonly number[] {
  const words = node.fields.get(field)?.words;
  if (words === undefined || words === '') return otherwise;
  return words.split(/[\s,]+/).flatMap((w) => (w === '' ? [] : Number(w)));
}

export const number = (node: Plain3d, field: string, otherwise: number): number => {
  const n = numbers(node, field)[0];
  return n === undefined || !Number.isFinite(n) ? otherwise : n;
};

export const flag = (node: Plain3d, field: string, otherwise: boolean): boolean => {
  const word = node.fields.get(field)?.words.trim().toUpperCase();
  return word === undefined || word === '' ? otherwise : word === 'TRUE';
};

export const nodes = (node: Plain3d, field: string): readonly Plain3d[] =>
  node.fields.get(field)?.nodes ?? [];
export const nodeIn = (node: Plain3d, field: string): Plain3d | undefined => nodes(node, field)[0];
export const strings = (node: Plain3d, field: string): readonly string[] =>
  node.fields.get(field)?.strings ?? [];

/** Parts of a list that end with -1, without it (IndexedFaceSet, ISO/IEC 19775-1, 13.3.6). */
export function runs(list: readonly number[]): number[][] {
  const out: number[][] = [];
  let run: number[] = [];
  for (const n of list)
    if (n < 0) {
      if (run.length > 0) out.push(run);
      run = [];
    } else run.push(n);
  if (run.length > 0) out.push(run);
  return out;
}

/** A list in groups of so many; what is left over is none. */
export function groups(list: readonly number[], size: number): number[][] {
  const out: number[][] = [];
  for (let i = 0; i + size <= list.length; i += size) out.push(list.slice(i, i + size));
  return out;
}
