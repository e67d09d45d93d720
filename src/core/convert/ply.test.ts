// PLY between its forms: every number the same, there and back to the byte, and read alike by three.js' PLYLoader.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import fs from 'node:fs';
import path from 'node:path';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { utf8 } from '../text/bytes';
import { plyAs, plyForms, readPlyHead, shortest, type PlyForm } from './ply';
import { deepTest, howMany } from '../files/testing/depth';

const samples = process.env.SATCHEL_SAMPLES ?? path.resolve('.cache/samples');
const as = (bytes: Uint8Array, form: PlyForm) => {
  const made = plyAs(bytes, form);
  if ('refused' in made) throw new Error(made.refused);
  return made;
};
const said = (b: Uint8Array) => Buffer.from(b).toString('latin1');

describe('numbers', () => {
  test('any float32 is written so that it reads back to the same bits, and no longer than nine digits', () => {
    fc.assert(
      fc.property(fc.float(), (f) => {
        const text = shortest('float32', f);
        const back =
          text === 'nan'
            ? NaN
            : text === 'inf'
              ? Infinity
              : text === '-inf'
                ? -Infinity
                : Math.fround(Number(text));
        expect(Object.is(back, f)).toBe(true);
        expect(text.replace(/e.*|[^\d]/g, '').replace(/^0+/, '').length).toBeLessThanOrEqual(22);
      }),
      { numRuns: howMany(2000) },
    );
    expect(
      [0.1, 1e-7, 16777216, -0, 3.4028234663852886e38].map((v) => shortest('float32', Math.fround(v))),
    ).toEqual(['0.1', '1e-7', '16777216', '-0', '3.4028235e+38']);
  });
});

const scalar = fc.constantFrom(
  'char',
  'uchar',
  'short',
  'ushort',
  'int',
  'uint',
  'float',
  'double',
  'int16',
  'float64',
);
const property = fc.record({ list: fc.boolean(), type: scalar });
const ranges: Record<string, readonly [number, number]> = {
  char: [-128, 127],
  uchar: [0, 255],
  short: [-32768, 32767],
  int16: [-32768, 32767],
  ushort: [0, 65535],
  int: [-(2 ** 31), 2 ** 31 - 1],
  uint: [0, 2 ** 32 - 1],
};
/** A text PLY of any elements, with numbers in their shortest form. */
const anyPly = fc
  .array(
    fc.record({
      count: fc.integer({ min: 0, max: 4 }),
      properties: fc.array(property, { minLength: 1, maxLength: 4 }),
    }),
    { minLength: 1, maxLength: 3 },
  )
  .chain((elements) => {
    const value = (type: string): fc.Arbitrary<string> => {
      const range = ranges[type];
      if (range) return fc.integer({ min: range[0], max: range[1] }).map(String);
      return type === 'float'
        ? fc.float().map((f) => shortest('float32', f))
        : fc.double().map((d) => shortest('float64', d));
    };
    const line = (properties: { list: boolean; type: string }[]) =>
      fc
        .tuple(
          ...properties.map(({ list, type }) =>
            list
              ? fc.array(value(type), { maxLength: 5 }).map((v) => [v.length, ...v].join(' '))
              : value(type),
          ),
        )
        .map((parts) => parts.join(' '));
    return fc
      .tuple(
        fc.constantFrom('\n', '\r\n'),
        ...elements.map((e) => fc.array(line(e.properties), { minLength: e.count, maxLength: e.count })),
      )
      .map(([newline, ...bodies]) => {
        const head = [
          'ply',
          'format ascii 1.0',
          'comment format ascii in a comment ü',
          ...elements.flatMap((e, i) => [
            `element e${i} ${e.count}`,
            ...e.properties.map((p, j) => `property ${p.list ? 'list uchar ' : ''}${p.type} p${j}`),
          ]),
          'end_header',
        ];
        return utf8([...head, ...(bodies as string[][]).flat(), ''].join(newline as string));
      });
  });

test('any file, to each form, to the others, and back to the byte', () => {
  fc.assert(
    fc.property(anyPly, fc.shuffledSubarray([...plyForms]), (text, way) => {
      let now = text;
      for (const form of way) {
        now = as(now, form);
        expect((readPlyHead(now) as { form: string }).form).toBe(form);
      }
      expect(said(as(now, 'ascii'))).toBe(said(text));
    }),
    { numRuns: 300 },
  );
});

test('big-endian is what another program would write', () => {
  const text = utf8(
    'ply\nformat ascii 1.0\nelement v 1\nproperty short a\nproperty float b\nproperty list uchar int c\nend_header\n-2 1.5 2 1 -1\n',
  );
  expect([...as(text, 'binary_big_endian').subarray(-15)]).toEqual([
    0xff, 0xfe, 0x3f, 0xc0, 0, 0, 2, 0, 0, 0, 1, 0xff, 0xff, 0xff, 0xff,
  ]);
});

test.each([
  ['no', 'does not begin'],
  ['ply\nformat ascii 1.0\n', 'does not end'],
  ['ply\nformat ascii 2.0\nend_header\n', 'is not known'],
  ['ply\nformat ascii 1.0\nelement v 1\nproperty half x\nend_header\n1\n', 'is no property'],
  ['ply\nformat ascii 1.0\nelement v 2\nproperty uchar x\nend_header\n1\n', 'ends before'],
  ['ply\nformat ascii 1.0\nelement v 1\nproperty uchar x\nend_header\n256\n', 'is no uint8'],
  ['ply\nformat ascii 1.0\nelement v 1\nproperty uchar x\nend_header\n1.5\n', 'is no uint8'],
  ['ply\nformat ascii 1.0\nelement v 1\nproperty float x\nend_header\n1e39\n', 'too large'],
  ['ply\nformat ascii 1.0\nelement v 1\nproperty float x\nend_header\n0x1\n', 'is no number'],
  ['ply\nformat ascii 1.0\nelement v 1\nproperty list int float x\nend_header\n-1\n', 'length of -1'],
  ['ply\nformat ascii 1.0\nelement v 1\nproperty float x\nend_header\n1 2\n', 'belong to nothing'],
])('%j is refused: %s', (text, why) => {
  expect((plyAs(utf8(text), 'binary_little_endian') as { refused: string }).refused).toContain(why);
});

describe('real files (assimp-testmodels 5.2.5)', () => {
  const found = fs.existsSync(samples)
    ? fs
        .readdirSync(samples, { recursive: true, encoding: 'utf8' })
        .filter((f) => f.toLowerCase().endsWith('.ply'))
    : [];
  const there = found.length > 0 ? deepTest : test.skip;
  there('three.js reads the same from every form', () => {
    let whole = 0;
    for (const file of found) {
      const bytes = new Uint8Array(fs.readFileSync(path.join(samples, file)));
      const head = readPlyHead(bytes);
      if ('refused' in head) continue;
      const forms = plyForms.map((form) => plyAs(bytes, form));
      if (forms.some((f) => 'refused' in f)) continue;
      const positions = (b: Uint8Array) => {
        const read = new PLYLoader().parse(new Uint8Array(b).buffer);
        return { at: read.getAttribute('position')?.array, index: read.index?.array };
      };
      const first = positions(bytes);
      for (const form of forms as Uint8Array[]) expect([file, positions(form)]).toEqual([file, first]);
      // The same form again is the same numbers.
      expect(said(as(as(forms[1] as Uint8Array, 'ascii'), 'binary_little_endian'))).toBe(
        said(forms[1] as Uint8Array),
      );
      whole++;
    }
    expect(whole).toBeGreaterThan(5);
  });
});
