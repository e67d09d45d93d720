// Each format's own traps: what looks like a path and is none, what is one and does not look so, what breaks.

import { describe, expect, test } from '@jest/globals';
import { dae } from './dae';
import { fullPath, type Format } from './format';
import { formatOf } from './formats';
import { mtlx } from './mtlx';
import { otio } from './otio';
import { ply } from './ply';
import { rewriteAll } from './testing/rewriteAll';
import { usda } from './usda';
import { x3d } from './x3d';
import { x3dv } from './x3dv';

const bytes = (s: string) => new TextEncoder().encode(s);
const refs = (f: Format, text: string) => f.read(bytes(text)).references;
const written = (f: Format, text: string) => refs(f, text).map((r) => r.written);
const codes = (f: Format, text: string | Uint8Array) =>
  f.read(typeof text === 'string' ? bytes(text) : text).problems.map((p) => p.code);
const rewritten = (f: Format, text: string, to: (w: string) => string) =>
  new TextDecoder().decode(rewriteAll(f, bytes(text), to));

describe('USD text', () => {
  const layer = (body: string) => `#usda 1.0\n${body}\n`;
  test('strings, documentation and comments hold no paths', () => {
    expect(
      written(
        usda,
        layer(
          '(\n doc = """see @BigSet.usda@"""\n)\n# @no.usda@\n// @no.usda@\n/* @no.usda@ */\ndef "A" (\n "a comment with @no.usda@"\n)\n{\n string s = "@no.png@"\n token t = \'@no.png@\'\n rel m = </A.b>\n asset empty = @@\n}',
        ),
      ),
    ).toEqual([]);
  });
  test('marks by one and by three', () => {
    expect(
      written(
        usda,
        layer(
          'asset a = @x y#"\\.png@\nasset b = @@@me@home.png@@@\nasset c = @@@x@@@@\nasset d = @@@a\\@@@b@@@',
        ),
      ),
    ).toEqual(['x y#"\\.png', 'me@home.png', 'x@', 'a@@@b']);
    expect(rewritten(usda, layer('asset a = @x.png@'), () => 'a@b.png')).toContain('@@@a@b.png@@@');
    expect(rewritten(usda, layer('asset a = @@@x.png@@@'), () => 'y@@@.png')).toContain('@@@y\\@@@.png@@@');
  });
  test('places and kinds', () => {
    const text = layer(`(
    subLayers = [
        @./look.usda@ (offset = 10; scale = 2),
        @base.usd@,
    ]
    customLayerData = {
        dictionary inner = { asset thumb = @t.png@ }
    }
)
def Xform "Boat" (
    delete references = @old.usd@</Old>
    prepend payload = [@../rig.usd@</Rig> (offset = 1), @b.usd@]
    references = </Local>
    variants = { string detail = "high" }
    prepend variantSets = "detail"
)
{
    def Shader "Tex"
    {
        asset inputs:file = @../t/hull.<UDIM>.exr@ (
            colorSpace = "raw"
        )
        asset[] many = [@a.png@, @b.png@]
        asset x.timeSamples = { 1: @f1.png@, 2: None }
    }
    variantSet "detail" = {
        "high" (
            references = @high.usdc@
        ) {
            asset v = @v.vdb@
        }
    }
}`);
    expect(refs(usda, text).map((r) => [r.at, r.kind, r.written])).toEqual([
      ['subLayers', 'scene', './look.usda'],
      ['subLayers (2)', 'scene', 'base.usd'],
      ['customLayerData:inner:thumb', 'texture', 't.png'],
      ['/Boat.delete references', 'scene', 'old.usd'],
      ['/Boat.prepend payload', 'scene', '../rig.usd'],
      ['/Boat.prepend payload (2)', 'scene', 'b.usd'],
      ['/Boat/Tex.inputs:file', 'texture', '../t/hull.<UDIM>.exr'],
      ['/Boat/Tex.many', 'texture', 'a.png'],
      ['/Boat/Tex.many (2)', 'texture', 'b.png'],
      ['/Boat/Tex.x.timeSamples', 'texture', 'f1.png'],
      ['/Boat{detail=high}.references', 'scene', 'high.usdc'],
      ['/Boat{detail=high}.v', 'cache', 'v.vdb'],
    ]);
  });
  test('value clips: a template is a string, and a reference', () => {
    const text = layer(
      'def "A" (\n clips = {\n  dictionary default = {\n   asset[] assetPaths = [@c.1.usd@]\n   string templateAssetPath = "./clip.###.usd"\n   string primPath = "/A"\n  }\n }\n)\n{\n}',
    );
    expect(refs(usda, text).map((r) => [r.at, r.written])).toEqual([
      ['/A.clips:default:assetPaths', 'c.1.usd'],
      ['/A.clips:default:templateAssetPath', './clip.###.usd'],
    ]);
  });
  test('expressions are told and left alone', () => {
    expect([
      written(usda, layer('asset a = @`"${V}.usda"`@')),
      codes(usda, layer('asset a = @`"${V}.usda"`@')),
    ]).toEqual([[], ['expression']]);
  });
  test('what is broken is said, with the rest still read', () => {
    expect(codes(usda, 'def "A" {}')).toContain('not-usda');
    expect(written(usda, layer('asset a = @open\nasset b = @b.png@'))).toEqual(['b.png']);
    expect(codes(usda, layer('asset a = @open\n'))).toEqual(['truncated']);
    expect(codes(usda, layer('def "A" {'))).toEqual(['truncated']);
    expect(codes(usda, layer('def "A" { ]'))).toEqual(['bad-structure']);
    expect(codes(usda, '')).toEqual(['empty-file']);
  });
  test('CRLF and what stands around a path stay', () =>
    expect(rewritten(usda, '#usda 1.0\r\nasset a = @x.png@ # @x.png@\r\n', () => './y.png')).toBe(
      '#usda 1.0\r\nasset a = @./y.png@ # @x.png@\r\n',
    ));
});

describe('COLLADA', () => {
  const doc = (body: string) => `<?xml version="1.0"?><COLLADA>${body}</COLLADA>`;
  test('images of both versions; ids and local names are none', () => {
    expect(
      written(
        dae,
        doc(
          '<library_images><image id="a"><init_from>a.png</init_from></image><image id="b"><init_from><ref>b%20c.png</ref></init_from></image><image id="e"><init_from/></image><image id="d"><create_2d><init_from><ref>d.png</ref></init_from></create_2d></image></library_images>' +
            '<effect><newparam><surface type="2D"><init_from>a</init_from></surface></newparam></effect><instance_geometry url="#g"/><input source="#s"/><channel target="node/translate.X" source="#x"/>',
        ),
      ),
    ).toEqual(['a.png', 'b%20c.png', 'd.png']);
  });
  test('other documents by URL, with their fragment; shader files', () => {
    expect(
      refs(
        dae,
        doc(
          '<instance_geometry url="deck.dae#planks"/><instance_node url="./rig.dae#a" proxy="low.dae#b"/><skin source="g.dae#m"/><include sid="v" url="sea.cg"/><instance_material symbol="m" target="mats.dae#oak"/>',
        ),
      ).map((r) => [r.kind, r.written]),
    ).toEqual([
      ['scene', 'deck.dae#planks'],
      ['scene', './rig.dae#a'],
      ['scene', 'low.dae#b'],
      ['scene', 'g.dae#m'],
      ['other', 'sea.cg'],
      ['scene', 'mats.dae#oak'],
    ]);
  });
  test('entities, CDATA, comments, prefixes, provenance', () => {
    expect(
      written(
        dae,
        '<c:COLLADA xmlns:c="x"><c:image><c:init_from>a&amp;b&#x20;c&#233;.png</c:init_from></c:image></c:COLLADA>',
      ),
    ).toEqual(['a&b cé.png']);
    expect(
      written(
        dae,
        doc(
          '<!-- <image><init_from>no.png</init_from></image> --><asset><contributor><source_data>file:///C:/x.max</source_data></contributor></asset>',
        ),
      ),
    ).toEqual([]);
    expect(
      rewritten(dae, doc('<image><init_from> <![CDATA[a.png]]> </init_from></image>'), () => 'x&y.png'),
    ).toContain('<init_from> <![CDATA[x&y.png]]> </init_from>');
    expect(rewritten(dae, doc('<image><init_from>a.png</init_from></image>'), () => 'x&<y>.png')).toContain(
      '<init_from>x&amp;&lt;y&gt;.png</init_from>',
    );
  });
  test('a file in Latin-1 gets a character reference for what it lacks', () => {
    const latin = Uint8Array.from(
      [
        ...'<?xml version="1.0" encoding="ISO-8859-1"?><COLLADA><image><init_from>h\u00fcll.png</init_from></image></COLLADA>',
      ].map((c) => c.charCodeAt(0)),
    );
    expect(dae.read(latin).references[0]!.written).toBe('hüll.png');
    expect(String.fromCharCode(...rewriteAll(dae, latin, () => 'ü船.png'))).toContain(
      '<init_from>\u00fc&#x8239;.png</init_from>',
    );
  });
  test('an entity bomb stays as small as it is written', () => {
    const bomb = `<?xml version="1.0"?><!DOCTYPE lolz [<!ENTITY a "aaaaaaaaaa">${Array.from({ length: 9 }, (_, i) => `<!ENTITY a${i + 1} "${`&a${i || ''};`.repeat(10)}">`).join('')}]><COLLADA><image><init_from>&a9;</init_from></image></COLLADA>`;
    expect(written(dae, bomb)).toEqual(['&a9;']);
  });
  test.each([
    ['', 'empty-file'],
    ['hello', 'not-xml'],
    ['<COLLADA><image>', 'truncated'],
    ['<COLLADA></image>', 'bad-xml'],
    ['<COLLADA><!-- ', 'truncated'],
    ['\x1f\x8b\x08', 'compressed'],
  ])('%j gives %s', (text, code) => {
    expect(codes(dae, Uint8Array.from([...text].map((c) => c.charCodeAt(0))))).toContain(code);
  });
});

describe('MaterialX', () => {
  const doc = (body: string) => `<materialx version="1.38">${body}</materialx>`;
  test('the nearest prefix counts, an empty one switches it off', () => {
    const list = refs(
      mtlx,
      doc(
        '<nodegraph name="g" fileprefix="tex/"><image name="i"><input name="file" type="filename" value="a.png"/></image><image name="j" fileprefix="other/"><input name="file" type="filename" value="b.png"/><input name="file2" type="filename" value="c.png" fileprefix=""/></image></nodegraph>',
      ),
    );
    expect(list.map((r) => [fullPath(r), r.at])).toEqual([
      ['tex/a.png', 'g / i / file / value'],
      ['other/b.png', 'g / j / file / value'],
      ['c.png', 'g / j / file2 / value'],
    ]);
  });
  test('a new path keeps the prefix where it can, and switches it off for itself where it cannot', () => {
    const text = doc('<g fileprefix="tex/"><input type="filename" value="a.png"/></g>');
    expect(rewritten(mtlx, text, () => 'tex/b.png')).toBe(text.replace('a.png', 'b.png'));
    const off = rewritten(mtlx, text, () => '../b.png');
    expect(off).toBe(text.replace('value="a.png"', 'value="../b.png" fileprefix=""'));
    expect(refs(mtlx, off).map(fullPath)).toEqual(['../b.png']);
  });
  test('shader sources, includes, tokens; strings and empty values are none', () => {
    expect(
      refs(
        mtlx,
        doc(
          '<implementation name="IM" file="mx.glsl"/><xi:include href="lib.mtlx"/><input name="s" type="string" value="x.png"/><input name="e" type="filename" value=""/><input name="t" type="filename" value="a.&lt;UDIM&gt;.exr"/>',
        ),
      ).map((r) => [r.kind, r.written]),
    ).toEqual([
      ['other', 'mx.glsl'],
      ['material', 'lib.mtlx'],
      ['texture', 'a.<UDIM>.exr'],
    ]);
    expect(codes(mtlx, doc('<input type="filename" value="[kind].png"/>'))).toEqual(['token']);
  });
  test('bare ampersands, as in the published libraries, are read', () =>
    expect(written(mtlx, doc('<input doc="a && b" type="filename" value="a.png"/>'))).toEqual(['a.png']));
});

describe('X3D and VRML', () => {
  test('lists of alternatives, in all quotings', () => {
    const url = (v: string) => written(x3d, `<X3D><ImageTexture url=${v}/></X3D>`);
    expect(url(`'"a.png" "b.png"'`)).toEqual(['a.png', 'b.png']);
    expect(url(`"&quot;a.png&quot;,&quot;b \\&quot;q\\&quot;.png&quot;"`)).toEqual(['a.png', 'b "q".png']);
    expect(url(`"a.png b.png"`)).toEqual(['a.png b.png']);
    expect(url(`'"data:image/png;base64,AA" ""'`)).toEqual([]);
  });
  test('nodes that name files, and those that do not', () => {
    expect(
      refs(
        x3d,
        `<X3D><Inline url='"a.x3d#V"'/><Anchor url='"no.html"'/><Background frontUrl='"f.png"' url='"no.png"'/><Script url='"ecmascript: function f(){}"'/><AudioClip url='"s.wav"'/><ExternProtoDeclare name='M' url='"m.x3d#M"'/><GeoLOD child1Url='"t.x3d"'/></X3D>`,
      ).map((r) => [r.kind, r.written]),
    ).toEqual([
      ['scene', 'a.x3d#V'],
      ['texture', 'f.png'],
      ['audio', 's.wav'],
      ['scene', 'm.x3d#M'],
      ['scene', 't.x3d'],
    ]);
    expect(
      refs(
        x3dv,
        '#X3D V3.3 utf8\nInline { url "a.wrl" }\nAnchor { url "no.html" children [ Inline { url [ "b.wrl" ] } ] }\nTransform { children DEF T Shape {} } # url "no"\nScript { url "javascript: x" }',
      ).map((r) => r.written),
    ).toEqual(['a.wrl', 'b.wrl']);
  });
  test('prototypes from other files', () => {
    expect(
      refs(
        x3dv,
        '#VRML V2.0 utf8\nEXTERNPROTO Mast [ field SFFloat h field MFString u ] [ "mast.wrl#Mast", "urn:x" ]\nMast { h 2 }\nInline { url "c.wrl" }',
      ).map((r) => [r.at, r.written]),
    ).toEqual([
      ['EXTERNPROTO url', 'mast.wrl#Mast'],
      ['Inline url', 'c.wrl'],
    ]);
  });
  const told = (format: Format, text: string) =>
    refs(format, text).map((r) => [r.at, r.kind, r.written, r.uncertain ?? false, r.choice ?? null]);
  test('a field of a prototype that a url IS: its default and what an instance says (ISO/IEC 19775-1, 4.4.4)', () => {
    const said = [
      ['Tile picture', 'texture', 'a.png', true],
      ['Tile picture (2)', 'texture', 'a2.png', true],
      ['Tile picture (3)', 'texture', 'b.png', false],
      ['Inline far url', 'scene', 'c.wrl', false],
    ];
    const short = ([at, kind, path, , choice]: unknown[]) => [at, kind, path, choice !== null];
    expect(
      told(
        x3dv,
        `#VRML V2.0 utf8
PROTO Tile [ field SFString title "no.png" exposedField MFString picture [ "a.png" "a2.png" ] field MFNode more [ Group { } ] eventIn MFString set_picture ]
{ Shape { appearance Appearance { texture ImageTexture { url IS picture } } geometry Text { string IS title } } }
Tile { title "x.png" picture "b.png" } DEF far Inline { url "c.wrl" }`,
      ).map(short),
    ).toEqual(said);
    expect(
      told(
        x3d,
        `<X3D><Scene><ProtoDeclare name="Tile"><ProtoInterface><field name="title" type="SFString" accessType="initializeOnly" value="no.png"/><field name="picture" type="MFString" accessType="inputOutput" value='"a.png" "a2.png"'/></ProtoInterface><ProtoBody><Shape><Appearance><ImageTexture><IS><connect nodeField="url" protoField="picture"/></IS></ImageTexture></Appearance></Shape></ProtoBody></ProtoDeclare>
<ProtoInstance name="Tile"><fieldValue name="title" value="x.png"/><fieldValue name="picture" value='"b.png"'/></ProtoInstance><Inline DEF="far" url='"c.wrl"'/></Scene></X3D>`,
      ).map(short),
    ).toEqual(said);
  });
  test('through a prototype in a prototype; a field of the same name elsewhere names nothing', () => {
    expect(
      told(
        x3dv,
        `#X3D V3.3 utf8
PROTO Inner [ inputOutput MFString file "i.png" ] { ImageTexture { url IS file } }
PROTO Outer [ inputOutput MFString pic "o.png" ] { Group { children [ Inner { file IS pic } ] } }
PROTO Other [ inputOutput MFString pic "no.png" ] { Text { string IS pic } }
Outer { pic [ "p.png" ] } Other { pic "no.png" }`,
      ).map((r) => r[2]),
    ).toEqual(['i.png', 'o.png', 'p.png']);
  });
  test('url fields of nodes that are not known are guesses; those of known ones that lead nowhere are none', () => {
    expect(
      told(
        x3dv,
        `#VRML V2.0 utf8
EXTERNPROTO Lamp [ field MFString url field SFString name ] "urn:x"
Lamp { url "glow.png" name "no.png" }
Hologram { url [ "h.png" "h2.png" ] frontUrl "f.jpg" label "no.png" }
Anchor { url "no.html" }`,
      ).map((r) => [r[1], r[2], r[3]]),
    ).toEqual([
      ['texture', 'glow.png', true],
      ['texture', 'h.png', true],
      ['texture', 'h2.png', true],
      ['texture', 'f.jpg', true],
    ]);
    expect(
      told(
        x3d,
        `<X3D><head><meta name="url" content="no.png"/></head><Scene><Hologram DEF="H" url='"h.png"'/><Anchor url='"no.html"'/><ExternProtoDeclare name="Lamp" url='"lamp.x3d"'/><ProtoInstance name="Lamp"><fieldValue name="url" value='"glow.png"'/><fieldValue name="name" value="no.png"/></ProtoInstance></Scene></X3D>`,
      ),
    ).toEqual([
      ['Hologram H url', 'texture', 'h.png', true, null],
      ['ExternProtoDeclare Lamp url', 'scene', 'lamp.x3d', false, null],
      ['Lamp url', 'texture', 'glow.png', true, null],
    ]);
  });
  test('VRML 1.0 has other names', () =>
    expect(
      refs(
        x3dv,
        '#VRML V1.0 ascii\nSeparator { Texture2 { filename "a.gif" } WWWInline { name "b.wrl" } }',
      ).map((r) => [r.kind, r.written]),
    ).toEqual([
      ['texture', 'a.gif'],
      ['scene', 'b.wrl'],
    ]));
  test('what breaks is said', () => {
    expect(codes(x3dv, '#VRML V2.0 utf8\nShape { url "a')).toContain('truncated');
    expect(codes(x3dv, '#VRML V2.0 utf8\nShape {')).toContain('truncated');
    expect(codes(x3dv, '#VRML V2.0 utf8\n}')).toContain('bad-structure');
  });
});

describe('PLY and OpenTimelineIO', () => {
  test('pictures in the header only, blanks around the name left out', () => {
    expect(
      written(
        ply,
        'ply\rformat ascii 1.0\rcomment TextureFile   fuze uv.jpg \rend_header\rcomment TextureFile no.png\r',
      ),
    ).toEqual(['fuze uv.jpg']);
    expect(codes(ply, 'ply\nformat ascii 1.0\n')).toEqual(['truncated']);
    expect(codes(ply, 'solid x')).toEqual(['not-ply']);
  });
  test('media by URL and by plain path, frames behind a folder', () => {
    const doc = {
      OTIO_SCHEMA: 'Timeline.1',
      metadata: { target_url: 'no' },
      tracks: [
        { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'file:///shots/a%20b.mov' },
        { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'b 100%.wav' },
        {
          OTIO_SCHEMA: 'ImageSequenceReference.1',
          target_url_base: 'frames',
          name_prefix: 'q.',
          name_suffix: '.exr',
          start_frame: 10,
          frame_step: 2,
          frame_zero_padding: 4,
          available_range: { duration: { value: 5 } },
        },
      ],
    };
    expect(
      refs(otio, JSON.stringify(doc)).map((r) => [r.at, r.kind, r.syntax, fullPath(r), r.frames]),
    ).toEqual([
      ['/tracks/0/target_url', 'video', 'uri', 'file:///shots/a%20b.mov', undefined],
      ['/tracks/1/target_url', 'audio', 'native', 'b 100%.wav', undefined],
      ['/tracks/2/target_url_base', 'texture', 'native', 'frames/q.####.exr', [10, 14, 2]],
    ]);
    expect(codes(otio, '{"OTIO_SCHEMA":"Timeline.1"')).toEqual(['truncated']);
  });
});

test('a file under another format’s name is read for what it is', () => {
  expect(formatOf('a.dae', bytes('<?xml version="1.0"?><X3D></X3D>'))!.id).toBe('x3d');
  expect(formatOf('a.x3d', bytes('#VRML V2.0 utf8'))!.id).toBe('x3dv');
  expect(formatOf('a.gltf', bytes('ply\nformat'))!.id).toBe('ply');
  expect(formatOf('a.usd', bytes('#usda 1.0'))!.id).toBe('usda');
  expect(formatOf('a.txt', bytes('ply\nformat'))).toBeNull();
});
