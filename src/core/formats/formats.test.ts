// Every format keeps the same promises: no edits → the same bytes; each span decodes to what was read; after a rewrite, reading
// gives the new values; bytes outside the spans stay. Traps of each format have a case of their own.

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { applyPieces, piecesOf } from '../text/edits';
import { fullPath, type Format } from './format';
import { formatOf, readReferences } from './formats';
import { glb } from './glb';
import { gltf } from './gltf';
import { gltfUses } from './gltfUses';
import { dae } from './dae';
import { mtl } from './mtl';
import { mtlx } from './mtlx';
import { obj } from './obj';
import { otio } from './otio';
import { ply } from './ply';
import { usda } from './usda';
import { x3d } from './x3d';
import { x3dv } from './x3dv';
import { rewriteAll } from './testing/rewriteAll';
import { decodeWide, encodeText } from '../text/bytes';

const bytes = (s: string) => new TextEncoder().encode(s);
const written = (format: Format, content: string | Uint8Array) =>
  format.read(typeof content === 'string' ? bytes(content) : content).references.map((r) => r.written);

/** A GLB around JSON text. `pad`: how many blanks follow it beyond what alignment needs. */
function glbOf(json: string, pad = 0, bin = new Uint8Array([1, 2, 3, 4])): Uint8Array {
  const text = bytes(json);
  const length = text.length + ((4 - (text.length % 4)) % 4) + pad;
  const out = new Uint8Array(12 + 8 + length + 8 + bin.length).fill(0x20, 20, 20 + length);
  const view = new DataView(out.buffer);
  [
    [0, 0x46546c67],
    [4, 2],
    [8, out.length],
    [12, length],
    [16, 0x4e4f534a],
    [20 + length, bin.length],
    [24 + length, 0x004e4942],
  ].forEach(([at, v]) => view.setUint32(at!, v!, true));
  out.set(text, 20);
  out.set(bin, 28 + length);
  return out;
}

/** Text in UTF-16, low byte first, with its mark. */
const utf16 = (text: string) =>
  Uint8Array.from([0xff, 0xfe, ...[...text].flatMap((c) => [c.charCodeAt(0) & 255, c.charCodeAt(0) >> 8])]);

const samples: [Format, string, Uint8Array][] = [
  [
    gltf,
    'plain',
    bytes(
      '{"asset":{"version":"2.0"},"images":[{"uri":"a.png"},{"name":"x","uri":"../t/b%20c.png"}],"buffers":[{"uri":"a.bin","byteLength":1}]}',
    ),
  ],
  [
    gltf,
    'escapes, CRLF, byte order mark',
    bytes('\ufeff{\r\n  "images" : [ { "uri" : "t\\/\\u00e9 \\"q\\".png" } ]\r\n}'),
  ],
  [glb, 'aligned', glbOf('{"images":[{"uri":"tex/hull.png"}]}')],
  [glb, 'with a reserve of blanks', glbOf('{"images":[{"uri":"tex/hull.png"}]}', 16)],
  [
    obj,
    'several libraries',
    bytes('# x\nmtllib a.mtl my deck.mtl\nv 0 0 0\r\nusemtl a#1\nshadow_obj low.obj\nmtllib\tc.mtl  \n'),
  ],
  [
    usda,
    'layers, arcs, attributes',
    bytes(
      '#usda 1.0\n(\n  subLayers = [@./a.usda@ (offset = 10), @b.usda@]\n)\ndef Xform "Boat" (\n  prepend references = @../rig/rig.usd@</Rig>\n)\n{\n  asset inputs:file = @@@we@ird.png@@@\n}\n',
    ),
  ],
  [
    mtlx,
    'prefixes',
    bytes(
      '<?xml version="1.0"?>\n<materialx version="1.38" fileprefix="tex/">\n  <input name="a" type="filename" value="hull.png"/>\n  <input name="b" type=\'filename\' value="x &amp; y.png" fileprefix=""/>\n  <xi:include href="lib.mtlx"/>\n</materialx>\n',
    ),
  ],
  [
    dae,
    'texts and attributes',
    bytes(
      '<?xml version="1.0" encoding="utf-8"?>\r\n<COLLADA xmlns="x"><library_images><image id="h"><init_from>\r\n ./hull%20base.png </init_from></image><image id="c"><init_from><![CDATA[c&d.png]]></init_from></image></library_images><instance_geometry url="deck.dae#planks"/></COLLADA>',
    ),
  ],
  [
    dae,
    'UTF-16',
    utf16(
      '<?xml version="1.0" encoding="utf-16"?><COLLADA><image id="é"><init_from>é.png</init_from></image></COLLADA>',
    ),
  ],
  [
    x3d,
    'quoted lists',
    bytes(
      '<X3D><Scene><ImageTexture url=\'"hull.png" "old &amp;\\\\ x.png"\'/><Inline url="&quot;deck.x3d&quot;"/><MovieTexture url="a b.mp4"/></Scene></X3D>',
    ),
  ],
  [
    x3dv,
    'classic',
    bytes(
      '#VRML V2.0 utf8\nShape { appearance Appearance { texture DEF T ImageTexture { url [ "a.png", "b \\"q\\".png" ] } } } # "no.png"\nEXTERNPROTO Mast [ field SFFloat h ] "mast.wrl#Mast"\n',
    ),
  ],
  [
    ply,
    'ascii',
    bytes(
      'ply\nformat ascii 1.0\ncomment TextureFile  hull paint.png \ncomment made by hand\nelement vertex 0\nend_header\ncomment TextureFile no.png\n',
    ),
  ],
  [
    otio,
    'media',
    bytes(
      JSON.stringify({
        OTIO_SCHEMA: 'Timeline.1',
        tracks: [
          {
            OTIO_SCHEMA: 'Clip.2',
            media_references: { a: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'media/q 010.mov' } },
          },
        ],
      }),
    ),
  ],
  [
    mtl,
    'options',
    bytes(
      'newmtl oak\n\tmap_Kd -s 2 2 1 -bm 0.5 hull\\Paint 01.png\r\nmap_Bump -imfchan r -o 0.1 b.png\nrefl -type cube_top top.png\nKd spectral oak.rfl 0.5\nmap_aat on\n',
    ),
  ],
];

// New names hold blanks, but for curves, whose names end at the first one.
const renamed = (w: string, i: number) =>
  `../new${w.endsWith('.rfl') ? '' : ' folder'}/${i}_${w.split(/[\\/]/).pop()!.replaceAll('"', '')}`;
const full = (f: Format, content: Uint8Array) => f.read(content, content.length).references.map(fullPath);

describe.each(samples.map(([f, what, content]) => [f.id, what, f, content] as const))(
  '%s, %s',
  (_id, _what, f, content) => {
    test('no edits give the same bytes', () =>
      expect(applyPieces(content, piecesOf([], content.length))).toEqual(content));

    test('a rewrite reads back as the new values, and back again to the same bytes', () => {
      const before = f.read(content, content.length).references;
      expect(before.length).toBeGreaterThan(0);
      const next = rewriteAll(f, content, renamed);
      expect(full(f, next)).toEqual(before.map((r, i) => renamed(fullPath(r), i)));
      const back = rewriteAll(f, next, (_w, i) => fullPath(before[i]!));
      // JSON escapes need not come back in the old spelling; everything else does, to the byte.
      // A prefix that was switched off for one value stays off.
      if (!new TextDecoder().decode(content).includes('\\/') && !before.some((r) => r.prefix))
        expect(back).toEqual(content);
    });

    test('cut at every byte: problems or fewer references, never an exception', () => {
      for (let n = 0; n < content.length; n++) expect(() => f.read(content.subarray(0, n), n)).not.toThrow();
    });
  },
);

describe('glTF', () => {
  test('embedded data, other strings and local names are no references', () => {
    expect(
      written(
        gltf,
        '{"images":[{"uri":"DATA:image/png;base64,AA"},{"bufferView":0,"name":"uri"}],"extras":{"note":"a.png"},"nodes":[{"name":"uri"}]}',
      ),
    ).toEqual([]);
  });
  test('extensions that hold files, known and unknown', () => {
    const refs = gltf.read(
      bytes(
        '{"extensions":{"EXT_lights_ies":{"lights":[{"uri":"l.ies"}]},"ACME_x":{"deep":[{"panelUri":"p.bin"}]},"KHR_animation_pointer":{"pointer":"/a/b"}}}',
      ),
    ).references;
    expect(refs.map((r) => [r.at, r.written, r.uncertain ?? false])).toEqual([
      ['/extensions/EXT_lights_ies/lights/0/uri', 'l.ies', false],
      ['/extensions/ACME_x/deep/0/panelUri', 'p.bin', true],
    ]);
  });
  test('glTF 1.0 objects keyed by id, with pointers escaped (RFC 6901)', () => {
    expect(
      gltf
        .read(bytes('{"images":{"a/b~c":{"uri":"x.png"}},"shaders":{"s":{"uri":"s.glsl"}}}'))
        .references.map((r) => r.at),
    ).toEqual(['/images/a~1b~0c/uri', '/shaders/s/uri']);
  });
  test('of duplicate members the last one counts', () => {
    expect(written(gltf, '{"images":[{"uri":"old.png","uri":"new.png"}]}')).toEqual(['new.png']);
    expect(
      written(gltf, '{"images":[{"uri":"1.png"},{"uri":"2.png"}],"scene":0,"images":[{"uri":"3.png"}]}'),
    ).toEqual(['3.png']);
  });
  test('an escaped key is the same key; __proto__ is a name like any other', () => {
    expect(
      written(gltf, '{"images":[{"\\u0075ri":"x.png"}],"__proto__":{"images":[{"uri":"y.png"}]}}'),
    ).toEqual(['x.png']);
  });
  test('spans stand on the encoded value', () => {
    const content = bytes('{"images":[{"uri":"é/\\u0041.png"}]}');
    const [r] = gltf.read(content).references;
    expect(r!.written).toBe('é/A.png');
    expect(new TextDecoder().decode(content.subarray(...(r!.span as [number, number])))).toBe(
      'é/\\u0041.png',
    );
  });
  test.each([
    ['', 'empty-file'],
    ['<xml/>', 'not-json'],
    ['{"a":[1,2}', 'bad-json'],
    ['{"a":"b', 'truncated'],
    ['{} x', 'trailing-data'],
  ])('%j gives %s', (text, code) => {
    expect(gltf.read(bytes(text)).problems.map((p) => p.code)).toContain(code);
  });
  test('a million brackets end quickly', () => {
    expect(gltf.read(bytes(`{"a":${'['.repeat(1_000_000)}`)).problems[0]!.code).toBe('truncated');
  });
  test('agrees with JSON.parse on any document (property)', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            uri: fc.string({ minLength: 1 }).filter((s) => !/^data:/i.test(s)),
            name: fc.string(),
          }),
        ),
        fc.jsonValue(),
        (images, extra) => {
          const text = JSON.stringify({ nodes: extra, images });
          expect(written(gltf, text)).toEqual(
            (JSON.parse(text) as { images: { uri: string }[] }).images.map((i) => i.uri),
          );
        },
      ),
    );
  });
  test('uses name nodes, materials and slots', () => {
    const doc = {
      nodes: [{ name: 'hull', mesh: 0 }],
      meshes: [{ primitives: [{ material: 0 }] }],
      materials: [{ name: 'planks', pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
      textures: [{ source: 0 }],
      images: [{ uri: 'a.png' }],
    };
    expect(gltfUses(bytes(JSON.stringify(doc))).get('/images/0/uri')).toEqual([
      'hull › planks · base colour',
    ]);
  });
});

describe('GLB', () => {
  test('only the header and the JSON are asked for, whatever the size', async () => {
    const head = glbOf('{"images":[{"uri":"a.png"}]}');
    const asked: number[] = [];
    const reading = await readReferences('x.glb', 5_000_000_000, async ([from, to]) => {
      asked.push(to);
      return head.slice(from, to);
    });
    expect(reading!.references.map((r) => r.written)).toEqual(['a.png']);
    expect(Math.max(...asked)).toBeLessThanOrEqual(64 * 1024);
  });
  test('lengths stay true and the binary chunk stays to the byte', () => {
    const content = glbOf('{"images":[{"uri":"a.png"}]}');
    for (const to of ['b.png', 'abc/de.png', `${'x'.repeat(100)}.png`]) {
      const next = rewriteAll(glb, content, () => to);
      const view = new DataView(next.buffer, next.byteOffset);
      expect(view.getUint32(8, true)).toBe(next.length);
      expect(view.getUint32(12, true) % 4).toBe(0);
      expect([...next.subarray(-4)]).toEqual([1, 2, 3, 4]);
      expect(view.getUint32(20 + view.getUint32(12, true) + 4, true)).toBe(0x004e4942);
    }
  });
  test('a text file under the wrong name is read for what it is', () => {
    expect(formatOf('a.glb', bytes('{"asset":{}}'))!.id).toBe('gltf');
    expect(formatOf('a.gltf', glbOf('{}'))!.id).toBe('glb');
  });
});

describe('OBJ and MTL', () => {
  test('names with blanks, escaped blanks, quotes, tabs, continued lines', () => {
    expect(written(obj, 'mtllib my boat.mtl')).toEqual(['my boat.mtl']);
    expect(written(obj, 'mtllib a.mtl b.mtl')).toEqual(['a.mtl', 'b.mtl']);
    expect(written(obj, 'mtllib a.mtl \\\n  b.mtl\nv 1 2 3')).toEqual(['a.mtl', 'b.mtl']);
    expect(written(obj, 'mtllib "my boat.mtl"')).toEqual(['my boat.mtl']);
    expect(written(obj, '#mtllib no.mtl\nusemtl also_no.mtl\n')).toEqual([]);
  });
  test('the whole rest of an mtllib line is offered as another reading', () => {
    expect(
      obj.read(bytes('mtllib a.mtl b.mtl')).otherReadings!.map((o) => [o.reference.written, o.instead]),
    ).toEqual([['a.mtl b.mtl', [0, 1]]]);
  });
  test('what would run a program is told, not followed', () => {
    const reading = obj.read(bytes('csh rm -rf x\nscmd other'));
    expect([reading.references.length, reading.problems.map((p) => p.code)]).toEqual([
      0,
      ['runs-a-program', 'runs-a-program'],
    ]);
  });
  test.each([
    ['map_Kd -o 0.1 diffuse.jpg', 'diffuse.jpg'],
    ['map_Kd 0.1', '0.1'],
    ['map_Kd -s 1 1 1 0.1', '0.1'],
    ['map_bump -imfchan r bumpmap2.jpg -bm 1.5', 'bumpmap2.jpg'],
    ['bump -bm 1 my bump map.png', 'my bump map.png'],
    ['map_Kd -mm 0 1 a#1.png', 'a#1.png'],
    ['MAP_KD -clamp on X.PNG', 'X.PNG'],
    ['disp -texres 512 d.tga', 'd.tga'],
    ['norm n%20x.png', 'n%20x.png'],
    ['map_Kd -blendu off -cc on t.png', 't.png'],
    ['map_Kd name-with -dash.png', 'name-with -dash.png'],
  ])('%s → %s', (line, name) => expect(written(mtl, `newmtl a\n${line}\n`)).toEqual([name]));
  test('bytes that are not UTF-8 are read as Latin-1 and written so again', () => {
    const content = Uint8Array.from([...bytes('newmtl a\nmap_Kd h'), 0xfc, ...bytes('ll.png\n')]);
    expect(written(mtl, content)).toEqual(['hüll.png']);
    expect([...rewriteAll(mtl, content, () => 'm\u00fcll.png')]).toContain(0xfc);
  });
  test.each([
    ['utf-16le', [0xff, 0xfe]],
    ['utf-16be', [0xfe, 0xff]],
  ] as const)('%s is read unit by unit and written back alike', (encoding, mark) => {
    const wide = (text: string) => new Uint8Array([...mark, ...encodeText(text, encoding, () => null)!]);
    const content = wide('# b\u00f6tchen\r\nmtllib my\\ b\u00f6t\u4e2d.mtl two.mtl\r\nv 1 2 3\r\n');
    const reading = obj.read(content);
    expect(
      reading.references.map((r) => [
        r.written,
        decodeWide(content.subarray(...r.span!), encoding),
        r.encoding,
      ]),
    ).toEqual([
      ['my\\ b\u00f6t\u4e2d.mtl', 'my\\ b\u00f6t\u4e2d.mtl', encoding],
      ['two.mtl', 'two.mtl', encoding],
    ]);
    expect(reading.otherReadings!.map((o) => o.reference.written)).toEqual([
      'my b\u00f6t\u4e2d.mtl',
      'my\\ b\u00f6t\u4e2d.mtl two.mtl',
    ]);
    expect(rewriteAll(obj, content, (w) => (w === 'two.mtl' ? '\u00fcber.mtl' : w))).toEqual(
      wide('# b\u00f6tchen\r\nmtllib my\\ b\u00f6t\u4e2d.mtl \u00fcber.mtl\r\nv 1 2 3\r\n'),
    );
    expect(mtl.read(wide('newmtl a\nmap_Kd -s 1 1 1 a b.png\n')).references.map((r) => r.written)).toEqual([
      'a b.png',
    ]);
  });
  test('a line longer than any path is told, and what stands around it is read', () => {
    const reading = mtl.read(bytes(`newmtl a\nmap_Kd ${'x'.repeat(300_000)}\nmap_Ks b.png\n`));
    expect([reading.references.map((r) => r.written), reading.problems.map((p) => [p.code, p.span])]).toEqual(
      [['b.png'], [['line-too-long', [9, 300_016]]]],
    );
  });
  test('an object named without its extension has both readings', () => {
    const reading = obj.read(bytes('shadow_obj hull\ntrace_obj t.obj\n'));
    expect(reading.references.map((r) => r.written)).toEqual(['hull', 't.obj']);
    expect(reading.otherReadings).toEqual([
      { reference: { ...reading.references[0]!, suffix: '.obj' }, instead: [0] },
    ]);
  });
  test('what a line cannot hold is refused', () => {
    const [r] = mtl.read(bytes('map_Kd a.png')).references;
    expect([mtl.encode('a\nb', r!), mtl.encode(' a', r!)]).toEqual([null, null]);
    expect(new TextDecoder().decode(mtl.encode('-x.png', r!)!)).toBe('./-x.png');
  });
  test('a large file is read in parts, offsets and numbers as in one piece', async () => {
    const line = 'v 0.123456 0.123456 0.123456\n';
    const content = bytes(`mtllib first.mtl\n${line.repeat(700_000)}mtllib last.mtl\n`);
    const reading = await readReferences('x.obj', content.length, async ([a, b]) => content.subarray(a, b));
    expect(
      reading!.references.map((r) => [
        r.at,
        new TextDecoder().decode(content.subarray(...(r.span as [number, number]))),
      ]),
    ).toEqual([
      ['mtllib 0', 'first.mtl'],
      ['mtllib 1', 'last.mtl'],
    ]);
  });
});
