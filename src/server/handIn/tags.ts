// What goes into a bag that was checked against a list: the list, and the result, as data and as text.

import type { HandInView } from '@/wire/handIn';
import type { BagTag } from '../bags/pack';

/** Tag files. Paths of this machine are not told. */
export function handInTags({ path: _path, ...view }: HandInView, list: string): BagTag[] {
  const lines = view.points.flatMap((p) => [
    `${p.ok ? 'met' : 'NOT MET'}: ${p.asked}`,
    ...p.found.map((f) => `    ${f.path ? `${f.path} ` : ''}${f.message}`),
  ]);
  return [
    { name: 'hand-in/list.json', text: list },
    { name: 'hand-in/result.json', text: `${JSON.stringify(view, null, 2)}\n` },
    { name: 'hand-in/result.txt', text: `${view.sentence}\n\n${lines.join('\n')}\n` },
  ];
}
