// X3D in XML ↔ classic. Judged by tovrmlx3d of view3dscene 4.2 (Debian): it prints the XML, our classic form of it and our XML of that as one and the same scene. Scenes: the X3D of
// assimp-testmodels, what tovrmlx3d makes of the VRML of whitedune-docs, a scene made here with all that the encodings say differently, and generated ones.

import { afterAll, describe, expect } from '@jest/globals';
import fc from 'fast-check';
import { spawnSync } from 'node:child_process';
import fs from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { SaxesParser } from 'saxes';
import { latin1, utf8 } from '../../text/bytes';
import { classicOf, xmlOf } from './convert';
import { valueOf, type Item, type Node3d, type SceneOf3d, type Value } from './model';
import { readClassic } from './readClassic';
import { readXml } from './readXml';
import { writeClassic } from './writeClassic';
import { writeXml } from './writeXml';
import { deepTest, test } from '../../files/testing/depth';

const contentOf = (made: ReturnType<typeof classicOf>): Uint8Array => {
  if ('refused' in made) throw new Error(made.refused);
  return made.content;
};
const everything = new Uint8Array(
  fs.readFileSync(path.resolve('src/core/convert/x3d/testing/everything.x3d')),
);

function* filesBelow(dir: string, ending: RegExp): Iterable<string> {
  if (!fs.existsSync(dir)) return;
  for (const e of fs.readdirSync(dir, { withFileTypes: true })) {
    const full = path.join(dir, e.name);
    if (e.isDirectory()) yield* filesBelow(full, ending);
    else if (ending.test(full)) yield full;
  }
}

const judge = spawnSync('tovrmlx3d', ['--version'], { stdio: 'ignore' }).status === 0;
const folder = fs.mkdtempSync(path.join(os.tmpdir(), 'satchel-x3d-'));
afterAll(() => fs.rmSync(folder, { recursive: true, force: true }));

/** The XML that tovrmlx3d writes of a file. */
function printed(name: string, bytes: Uint8Array): string {
  const file = path.join(folder, name);
  fs.writeFileSync(file, bytes);
  const run = spawnSync('tovrmlx3d', ['--force-x3d', '--encoding=xml', file], { maxBuffer: 2 ** 28 });
  return run.stdout.toString();
}

/** Elements, attributes by name and texts, one a line; what it says of itself and of the file's name left out. */
function plain(xml: string): string[] {
  const lines: string[] = [];
  let depth = 0;
  const parser = new SaxesParser();
  parser.on('opentag', ({ name, attributes }) => {
    const said = Object.entries(attributes)
      .sort()
      .map(([k, v]) => `${k}=${v}`);
    if (name !== 'meta') lines.push(`${' '.repeat(depth)}${name} ${said.join(' ')}`);
    depth++;
  });
  parser.on('closetag', () => depth--);
  parser.on('text', (t) => t.trim() !== '' && lines.push(t));
  parser.on('cdata', (t) => lines.push(t));
  parser.write(xml).close();
  return lines;
}

(judge ? describe : describe.skip)('beside tovrmlx3d', () => {
  const real = [
    ...[...filesBelow(path.resolve('.cache/samples'), /\.x3d$/i)].map(
      (f) => new Uint8Array(fs.readFileSync(f)),
    ),
    // Every third of a hundred, and what is declared in them.
    ...[...filesBelow(path.resolve('.cache/vrml'), /\.(?:wrl|x3dv)$/i)]
      .filter((_, n) => n % 3 === 0)
      .map((f) =>
        utf8(
          spawnSync('tovrmlx3d', ['--force-x3d', '--encoding=xml', f], {
            maxBuffer: 2 ** 28,
          }).stdout.toString(),
        ),
      )
      .filter((b) => b.length > 100),
  ];

  deepTest(
    'each real scene is the same in both forms',
    () => {
      let compared = 0;
      for (const [n, xml] of real.entries()) {
        // It writes instances of some prototypes as elements of their own, which X3D does not have.
        const classic = classicOf(xml);
        if ('refused' in classic) {
          expect(classic.refused).toBe('InlineLoadControl is no node of X3D that is known here.');
          continue;
        }
        const back = contentOf(xmlOf(classic.content));
        const before = plain(printed(`${n}.x3d`, xml));
        expect(plain(printed(`${n}.x3dv`, classic.content))).toEqual(before);
        expect(plain(printed(`${n}b.x3d`, back))).toEqual(before);
        // Once more and nothing changes.
        expect(latin1(contentOf(classicOf(back)))).toBe(latin1(classic.content));
        compared++;
      }
      expect(compared).toBeGreaterThan(30);
    },
    120_000,
  );

  test('prototypes, scripts, routes, metadata, strings and lists', () => {
    const classic = contentOf(classicOf(everything));
    const before = plain(printed('all.x3d', everything));
    expect(before.length).toBeGreaterThan(50);
    expect(plain(printed('all.x3dv', classic))).toEqual(before);
    expect(plain(printed('allb.x3d', contentOf(xmlOf(classic))))).toEqual(before);
  });
});

test('what only XML has is named', () => {
  const made = classicOf(
    utf8(
      `<X3D version='4.0' profile='Core'><Scene><Group DEF='G' class='red' style='x'><Shape id='s'/></Group></Scene></X3D>`,
    ),
  );
  expect(made).toMatchObject({ left: ['class of G', 'style of G', 'id of Shape'] });
});

test('words stay the words they are, as they are set out', () => {
  const xml = `<X3D version='3.3' profile='Core'><Scene><Coordinate point='0.10 -0, 1e-7\n     +1. .5 0x10'/></Scene></X3D>`;
  const classic = contentOf(classicOf(utf8(xml)));
  expect(latin1(classic)).toContain('point [ 0.10 -0, 1e-7\n     +1. .5 0x10 ]');
  const { scene } = readXml(contentOf(xmlOf(classic)));
  expect(scene).toEqual(readXml(utf8(xml)).scene);
});

describe('refused with the reason', () => {
  test.each([
    ['<X3D><Scene><Boat/></Scene></X3D>', /Boat is no node/],
    ['<X3D><Scene><Shape><Box/><Sphere/></Shape></Scene></X3D>', /two nodes as its geometry/],
    ['<X3D><Scene><Shape><Group/></Shape></Scene></X3D>', /Shape has no field children for Group/],
    ["<X3D><Scene><ProtoInstance name='Late'/></Scene></X3D>", /Late is not declared/],
    ['<X3D><Scene><Shape>', /ends before/],
    ['<svg/>', /no X3D scene/],
    ['', /empty/],
  ])('%s', (xml, why) => {
    expect(classicOf(utf8(xml))).toEqual({ refused: expect.stringMatching(why) });
  });
  test.each([
    ['#VRML V2.0 utf8\nGroup {}', /does not begin/],
    ['#X3D V3.3 utf8\nPROFILE Core\nBoat {}', /Boat is no node.*line 3/],
    ['#X3D V3.3 utf8\nGroup { children [ USE A ] }', /USE A stands before/],
    ['#X3D V3.3 utf8\nGroup { children [', /should stand/],
    ['#X3D V3.3 utf8\nWorldInfo { title "a', /inside a string/],
    ['#X3D V3.3 utf8\nWorldInfo { title "a\u0001" }', /control character/],
    [`#X3D V3.3 utf8\n${'Group { children '.repeat(20_000)}`, /nested too deeply/],
  ])('%#: classic', (classic, why) => {
    expect(xmlOf(utf8(classic))).toEqual({ refused: expect.stringMatching(why) });
  });
});

// Generated scenes: what is written is read again, in both forms.
const name = fc.stringMatching(/^[A-Za-z_][A-Za-z0-9_-]{0,6}$/);
const words = fc
  .string({ unit: 'grapheme', maxLength: 12 })
  .map((s) => s.replace(/[\u0000-\u001f\u007f-\u009f\ufffe\uffff]/g, '').trim());
const number = fc.oneof(
  fc.double({ noNaN: true, noDefaultInfinity: true }).map(String),
  fc.integer().map(String),
);
const field = (n: string, value: fc.Arbitrary<Value>) =>
  value.map((v) => ({ is: 'field' as const, name: n, value: v }));
const comment = words
  .filter((w) => !w.includes('--') && !w.endsWith('-'))
  .map((text) => ({ is: 'comment' as const, text }));
const node = (type: string, parts: readonly fc.Arbitrary<Node3d['parts'][number]>[]): fc.Arbitrary<Node3d> =>
  fc.tuple(fc.subarray([...parts.keys()]), fc.tuple(...parts)).map(([kept, all]) => ({
    is: 'node',
    type,
    ofProto: false,
    def: null,
    use: null,
    parts: kept.map((n) => all[n]!),
  }));
const numbers = (n: number) => fc.array(number, { minLength: n, maxLength: n }).map((w) => w.join(' '));
const { group } = fc.letrec<{ group: Node3d }>((tie) => ({
  group: fc.oneof(
    { maxDepth: 3 },
    node('WorldInfo', [
      field(
        'title',
        words.map((s) => valueOf('SFString', { strings: [s] })),
      ),
      field(
        'info',
        fc.array(words, { maxLength: 3 }).map((strings) => valueOf('MFString', { strings })),
      ),
    ]),
    node('Transform', [
      field(
        'translation',
        numbers(3).map((w) => valueOf('SFVec3f', { words: w })),
      ),
      field(
        'visible',
        fc.boolean().map((b) => valueOf('SFBool', { words: b ? 'TRUE' : 'FALSE' })),
      ),
      field(
        'metadata',
        node('MetadataSet', [
          field(
            'value',
            node('MetadataFloat', [
              field(
                'value',
                numbers(4).map((w) => valueOf('MFFloat', { words: w })),
              ),
            ]).map((n) => valueOf('MFNode', { nodes: [n] })),
          ),
        ]).map((n) => valueOf('SFNode', { nodes: [n] })),
      ),
      field(
        'children',
        fc
          .array(fc.oneof(tie('group'), comment), { minLength: 1, maxLength: 3 })
          .map((nodes) =>
            valueOf('MFNode', {
              nodes: [...nodes.filter((n) => n.is === 'comment'), ...nodes.filter((n) => n.is === 'node')],
            }),
          )
          .filter((v) => v.nodes.some((n) => n?.is === 'node')),
      ),
    ]),
  ),
}));
const scene: fc.Arbitrary<SceneOf3d> = fc.record({
  version: fc.constantFrom('3.0', '3.3', '4.0'),
  profile: fc.constantFrom('Core', 'Interchange', 'Immersive'),
  components: fc.array(fc.record({ name, level: fc.constantFrom('1', '2') }), { maxLength: 2 }),
  units: fc.array(fc.record({ category: fc.constant('length'), name, factor: fc.constant('0.01') }), {
    maxLength: 1,
  }),
  metas: fc.array(fc.record({ name: words, content: words }), { maxLength: 2 }),
  body: fc.array(
    fc.oneof(
      group as fc.Arbitrary<Item>,
      comment,
      fc.record({ is: fc.constant('route' as const), from: name, fromField: name, to: name, toField: name }),
      fc.record({ is: fc.constant('import' as const), inline: name, name, as: name }),
      fc.record({ is: fc.constant('export' as const), name, as: name }),
    ),
    { maxLength: 4 },
  ),
});

test('what is written is what was meant, in both forms', () => {
  fc.assert(
    fc.property(scene, (s) => {
      expect(readClassic(writeClassic(s))).toEqual(s);
      expect(readXml(writeXml(s))).toEqual({ scene: s, left: [] });
    }),
    { numRuns: 300 },
  );
});

deepTest('damaged scenes end, as a scene or with a reason', () => {
  const classic = contentOf(classicOf(everything));
  fc.assert(
    fc.property(
      fc.boolean(),
      fc.nat(20_000),
      fc.constantFrom('"', '{', '}', '[', ']', '#', '<', "'", 'DEF ', 'IS ', '\0'),
      fc.nat(40),
      (xml, at, put, cut) => {
        const bytes = xml ? everything : classic;
        const n = at % bytes.length;
        const damaged = Uint8Array.from([...bytes.subarray(0, n), ...utf8(put), ...bytes.subarray(n + cut)]);
        const made = xml ? classicOf(damaged) : xmlOf(damaged);
        expect('refused' in made || made.content.length > 0).toBe(true);
      },
    ),
    { numRuns: 400 },
  );
});
