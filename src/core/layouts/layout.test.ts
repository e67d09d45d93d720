// Layouts as text: reading, refusing, round trip.

import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { fileKinds, homeOf } from './homes';
import { readLayout, shippedLayouts, writeLayout } from './layout';
import { findRoot } from './workspace';

test('nesting by indent, by tab and by slash; homes; comments', () => {
  const l = readLayout('# ours\nscenes = scene\ntextures = texture, reference\n  work\n\t\traw\r\nrenders/stills = render\n\n', 'x', 'X');
  expect(l.folders).toEqual(['scenes', 'textures', 'textures/work', 'textures/work/raw', 'renders', 'renders/stills']);
  expect(l.homes).toEqual({ scene: 'scenes', texture: 'textures', reference: 'textures', render: 'renders/stills' });
});

test.each([['a:b', 'Line 1'], ['ok\nCON', 'Line 2'], ['x = chairs', 'no kind'], ['Tex\ntex', 'letter case'], ['', 'no folder'], ['.satchel', 'kept for'], ['a/../b', 'Line 1']])('%j is refused with its place', (text, says) => {
  expect(() => readLayout(text, 'x', 'X')).toThrow(says);
});

test('what is written is read back to the same (property)', () => {
  const name = fc.stringMatching(/^[a-z][a-z0-9 _]{0,8}[a-z0-9]$/).filter((n) => !/^(con|prn|aux|nul|com\d|lpt\d)$/.test(n));
  fc.assert(fc.property(fc.uniqueArray(fc.array(name, { minLength: 1, maxLength: 3 }).map((p) => p.join('/')), { minLength: 1, maxLength: 8 }), (paths) => {
    const once = readLayout(paths.join('\n'), 'x', 'X');
    const again = readLayout(writeLayout(once), 'x', 'X');
    expect([again.folders, again.homes]).toEqual([once.folders, once.homes]);
  }));
});

test('every shipped layout gives every kind a home', () => {
  for (const l of shippedLayouts) for (const kind of fileKinds) expect(l.folders).toContain(homeOf(kind, l.homes));
});

test('the root is found from any depth, on drives too', async () => {
  const at = (root: string) => async (folder: string) => folder === root;
  expect(await findRoot('/w/own/boat/scenes/x', at('/w/own/boat'))).toBe('/w/own/boat');
  expect(await findRoot('D:/work/boat/scenes', at('D:/work/boat'))).toBe('D:/work/boat');
  expect(await findRoot('/a/b', at('/none'))).toBeNull();
});
