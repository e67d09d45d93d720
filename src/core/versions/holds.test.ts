// Holds of scenes: what the log says is held, whatever was torn in it, and what plans say of it.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Plan } from '../changes/plan';
import { treePath } from '../files/treePath';
import { holdNotes } from '../plans/holdNotes';
import { heldNow, readHolds, writeHold, type HoldLine } from './holds';

const line = (what: HoldLine['do'], scene: string, by: string, why = ''): HoldLine => ({
  ...{ do: what, scene: treePath(scene), by, why },
  time: '2026-11-28T10:20:30.000Z',
});
const now = (...lines: HoldLine[]) => [...heldNow(lines).values()].map((h) => `${h.scene} ${h.by}`);

describe('what is held', () => {
  test('the first who holds it; let go by them alone, broken by anybody', () => {
    const boat = line('hold', 'scenes/boat.gltf', 'Aya', 'rig');
    expect(now(boat, line('hold', 'scenes/boat.gltf', 'Cem'))).toEqual(['scenes/boat.gltf Aya']);
    expect(now(boat, line('release', 'scenes/boat.gltf', 'Cem'))).toEqual(['scenes/boat.gltf Aya']);
    expect(now(boat, line('release', 'scenes/boat.gltf', 'Aya'))).toEqual([]);
    expect(
      now(boat, line('break', 'scenes/boat.gltf', 'Cem', 'ill'), line('hold', 'scenes/boat.gltf', 'Cem')),
    ).toEqual(['scenes/boat.gltf Cem']);
  });
  test('lines come back as they were written, also around one that was torn anywhere', () => {
    const name = fc.string({ unit: 'grapheme', minLength: 1, maxLength: 40 });
    const any = fc
      .array(
        fc.record({
          do: fc.constantFrom('hold' as const, 'release' as const, 'break' as const),
          by: name,
          why: name,
        }),
      )
      .map((all) => all.map((l, i): HoldLine => ({ ...line(l.do, `s${i}.gltf`, l.by, l.why) })));
    fc.assert(
      fc.property(any, any, fc.nat(), (before, after, cut) => {
        const torn = writeHold(line('hold', 'torn.gltf', 'x')).slice(0, 1 + (cut % 40));
        const text = before.map(writeHold).join('') + torn + after.map(writeHold).join('');
        expect(readHolds(text)).toEqual([...before, ...after]);
      }),
    );
    expect(
      readHolds('\n{"do":"hold","scene":"../out","by":"x","time":"2026-11-28","why":""}\nnull\n[]\n7'),
    ).toEqual([]);
  });
});

test('a plan that touches what somebody else holds says so, in whatever way it does', () => {
  const held = heldNow([line('hold', 'scenes/boat.gltf', 'Aya', 'rig')]);
  const plan = (...steps: object[]) => ({ steps }) as unknown as Plan;
  const said = (p: Plan, by: string | null) => holdNotes(p, held, by).map((n) => n.path);
  const put = { do: 'put', path: 'scenes/boat.gltf', from: { from: 'text' } };
  expect(said(plan(put), 'Cem')).toEqual(['scenes/boat.gltf']);
  expect(said(plan(put), null)).toEqual(['scenes/boat.gltf']);
  expect(said(plan(put), 'Aya')).toEqual([]);
  expect(
    said(
      plan({ do: 'put', path: 'scenes/boat_v2.gltf', from: { from: 'tree', path: 'scenes/boat.gltf' } }),
      'Cem',
    ),
  ).toEqual(['scenes/boat.gltf']);
  // Another version of the same scene, and another scene beside it.
  expect(said(plan({ do: 'put', path: 'scenes/boat_v007.gltf', from: { from: 'text' } }), 'Cem')).toEqual([
    'scenes/boat.gltf',
  ]);
  expect(said(plan({ do: 'put', path: 'scenes/boats.gltf', from: { from: 'text' } }), 'Cem')).toEqual([]);
  expect(said(plan({ do: 'move-folder', path: 'scenes', to: 'old' }), 'Cem')).toEqual(['scenes/boat.gltf']);
  expect(said(plan({ do: 'put', path: 'scenes/boat.gltf2', from: { from: 'text' } }), 'Cem')).toEqual([]);
});
