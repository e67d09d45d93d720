// What scenes say of themselves, and the report of it as a page and a table.

import { expect, test } from '@jest/globals';
import type { FormatId } from '../formats/format';
import { utf8 } from '../text/bytes';
import { reportPage } from './page';
import { reportTable, type Report } from './report';
import { saysOf, type Says } from './says';

const plain: Says = { version: null, programs: [], required: [], used: [], fonts: [], unit: null };
test.each<[FormatId, string, Partial<Says> | null]>([
  [
    'gltf',
    '\ufeff{"asset":{"version":"2.0","generator":"A 1.2"},"extensionsUsed":["X","Y"],"extensionsRequired":["X"]}',
    { version: '2.0', programs: ['A 1.2'], required: ['X'], used: ['Y'], unit: 'metres, Y up' },
  ],
  ['gltf', '{"asset":', null],
  [
    'dae',
    '<COLLADA version="1.4.1"><asset><contributor><authoring_tool>B &amp; C</authoring_tool></contributor><unit meter="0.01" name="cm"/><up_axis>Z_UP</up_axis></asset><technique profile="OWN"/></COLLADA>',
    { version: '1.4.1', programs: ['B & C'], used: ['profile OWN'], unit: '0.01 m, Z up' },
  ],
  [
    'x3d',
    `<X3D profile='Immersive' version='3.3'><head><component name='NURBS' level='2'/><meta name='generator' content='D'/></head><Scene><Text><FontStyle family='"Atkinson" "SANS"'/></Text></Scene></X3D>`,
    {
      version: '3.3',
      programs: ['D'],
      required: ['NURBS:2', 'profile Immersive'],
      fonts: ['Atkinson', 'SANS'],
    },
  ],
  [
    'x3dv',
    '#X3D V3.3 utf8\nPROFILE Full\nCOMPONENT NURBS:2\nMETA "generator" "E"\nText { fontStyle FontStyle { family [ "Atkinson" ] } }\n',
    { version: '3.3', programs: ['E'], required: ['NURBS:2', 'profile Full'], fonts: ['Atkinson'] },
  ],
  [
    'usda',
    '#usda 1.0\n(\n    doc = "Exported by F"\n    metersPerUnit = 1\n    upAxis = "Z"\n)\ndef Mesh "A" (\n    prepend apiSchemas = ["SkelBindingAPI", "MaterialBindingAPI"]\n)\n{\n}\n',
    {
      version: '1.0',
      programs: ['Exported by F'],
      used: ['MaterialBindingAPI', 'SkelBindingAPI'],
      unit: '1 m, Z up',
    },
  ],
  ['usda', '#usda 1.0\n', { version: '1.0', unit: '0.01 m, Y up' }],
  ['mtlx', '<?xml version="1.0"?><materialx version="1.39"/>', { version: '1.39' }],
  ['obj', '# G v2\nv 0 0 0\n', { programs: ['G v2'] }],
  ['ply', 'ply\nformat ascii 1.0\ncomment Created by H\nend_header\n', { programs: ['Created by H'] }],
  ['otio', '{}', null],
])('%s', (format, text, says) => {
  expect(saysOf(format, utf8(text))).toEqual(says && { ...plain, ...says });
});

const report: Report = {
  format: 1,
  name: '<script>alert(1)</script>',
  made: '2026-11-27T10:00:00.000Z',
  files: [
    {
      path: 'a "b", c.png',
      size: 1200,
      blake3: 'ab',
      kind: 'texture',
      chosen: false,
      was: '=cmd()',
      neededBy: [{ scene: 's/<i>.gltf', at: '/images/0' }],
      programs: ['<u>painter</u>'],
      fonts: ['Quay'],
    },
    {
      path: 's/<i>.gltf',
      size: 5,
      blake3: null,
      kind: 'scene',
      chosen: true,
      was: 's/<i>.gltf',
      neededBy: [],
      programs: [],
      fonts: [],
    },
  ],
  left: [
    {
      why: 'missing',
      files: 1,
      what: '-x.png',
      size: 0,
      neededBy: [{ scene: 's/<i>.gltf', at: '/images/1' }],
    },
  ],
  scenes: [{ path: 's/<i>.gltf', format: 'gltf', ...plain, programs: ['"><img src=x onerror=alert(1)>'] }],
};

test('names never become markup', () => {
  const page = reportPage(report, new Map([['a "b", c.png', 'data:image/webp;base64,AA']]));
  expect(page).not.toMatch(/<script|<i>|<img src=x|onerror=alert\(1\)>"/);
  expect(page).toContain('&lt;script&gt;alert(1)&lt;/script&gt;');
  expect(page).toContain('<img alt="" src="data:image/webp;base64,AA">');
});

// RFC 4180, §2; that a table program takes = + - @ for the begin of a formula is common practice.
test('the table quotes what needs it, and holds no formula', () => {
  expect(reportTable(report).split('\r\n')).toEqual([
    'here,path,kind,bytes,blake3,came from,needed by',
    'yes,"a ""b"", c.png",texture,1200,ab,\'=cmd(),s/<i>.gltf',
    'yes,s/<i>.gltf,scene,5,,s/<i>.gltf,',
    "missing,'-x.png,,0,,,s/<i>.gltf",
    '',
  ]);
});
