// Scenes of the demo in the other open formats, small and whole: each opens in a program that reads its format.

import { zipSync } from 'fflate';
import { usdc } from '../src/core/formats/usdc';
import { applyPieces, piecesOf } from '../src/core/text/edits';

/** USD: a quay from a look layer, tiles of one wall, and the sea as a value clip. */
export const quayLayer = `#usda 1.0
(
    defaultPrim = "Quay"
    metersPerUnit = 1
    upAxis = "Y"
    subLayers = [
        @./quay_look.usda@
    ]
)

def Xform "Quay"
{
    def Mesh "Wall"
    {
        int[] faceVertexCounts = [4]
        int[] faceVertexIndices = [0, 1, 2, 3]
        point3f[] points = [(0, 0, 0), (12, 0, 0), (12, 3, 0), (0, 3, 0)]
    }

    def Shader "WallPaint"
    {
        uniform token info:id = "UsdUVTexture"
        asset inputs:file = @../textures/quay_wall.<UDIM>.png@
    }

    def Xform "Sea" (
        clips = {
            dictionary default = {
                string primPath = "/Sea"
                string templateAssetPath = "../caches/sea/sea.####.ply"
            }
        }
    )
    {
    }
}
`;

export const quayLook = `#usda 1.0

over "Quay"
{
    def Shader "StonePaint"
    {
        uniform token info:id = "UsdUVTexture"
        asset inputs:file = @../textures/stone_base.png@
    }
}
`;

/** COLLADA 1.4.1: a boathouse of one wall. */
export const boathouse = `<?xml version="1.0" encoding="utf-8"?>
<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
  <asset><unit name="meter" meter="1"/><up_axis>Y_UP</up_axis></asset>
  <library_images>
    <image id="boards"><init_from>../textures/crate_wood.png</init_from></image>
    <image id="marks"><init_from>../textures/crate%20marks.png</init_from></image>
  </library_images>
  <library_visual_scenes><visual_scene id="boathouse"/></library_visual_scenes>
  <scene><instance_visual_scene url="#boathouse"/></scene>
</COLLADA>
`;

/** MaterialX: timber, with the folder of its pictures said once. */
export const timber = `<?xml version="1.0"?>
<materialx version="1.38" fileprefix="../textures/">
  <image name="boards" type="color3">
    <input name="file" type="filename" value="hull_planks_base.png"/>
  </image>
  <image name="grain" type="vector3">
    <input name="file" type="filename" value="hull_planks_normal.png"/>
  </image>
</materialx>
`;

/** X3D: a buoy; its paint is here or on the web, its sticker on the web only. */
export const buoy = `<?xml version="1.0" encoding="UTF-8"?>
<X3D profile="Interchange" version="3.3">
  <Scene>
    <Shape><Appearance><ImageTexture url='"../textures/signal_red.png" "https://example.org/harbour/signal_red.png"'/></Appearance><Sphere radius="0.4"/></Shape>
    <Shape><Appearance><ImageTexture DEF="sticker" url='"https://example.org/harbour/sticker.png"'/></Appearance><Box size="0.2 0.1 0.01"/></Shape>
  </Scene>
</X3D>
`;

/** VRML97: two buoys by the same file. */
export const buoyField = `#VRML V2.0 utf8
Transform { translation 2 0 0 children Inline { url "buoy.x3d" } }
Transform { translation -2 0 1 children [ DEF B Shape { geometry Sphere { radius 0.4 } } ] }
`;

/** PLY: a scan of a rope coil, three points. */
export const ropeCoil = `ply
format ascii 1.0
comment TextureFile ../textures/iron_base.png
element vertex 3
property float x
property float y
property float z
element face 1
property list uchar int vertex_indices
end_header
0 0 0
0.3 0 0
0.1 0.2 0
3 0 1 2
`;

/** OpenTimelineIO: the review of the lamp, six frames of which one is not there. */
export const review = `${JSON.stringify(
  {
    OTIO_SCHEMA: 'Timeline.1',
    name: 'lamp review',
    tracks: {
      OTIO_SCHEMA: 'Stack.1',
      children: [
        {
          OTIO_SCHEMA: 'Track.1',
          kind: 'Video',
          children: [
            {
              OTIO_SCHEMA: 'Clip.1',
              name: 'lamp',
              media_reference: {
                OTIO_SCHEMA: 'ImageSequenceReference.1',
                target_url_base: '../renders/lamp',
                name_prefix: 'lamp.',
                name_suffix: '.png',
                start_frame: 1,
                frame_step: 1,
                rate: 24,
                frame_zero_padding: 4,
                available_range: {
                  OTIO_SCHEMA: 'TimeRange.1',
                  start_time: { OTIO_SCHEMA: 'RationalTime.1', rate: 24, value: 1 },
                  duration: { OTIO_SCHEMA: 'RationalTime.1', rate: 24, value: 6 },
                },
              },
            },
          ],
        },
      ],
    },
  },
  null,
  2,
)}\n`;

// fixtures/usdc/arcs.usdc: one prim with sublayers, references and a payload.
const crate = [
  'UFhSLVVTREMACAAAAAAAAJgDAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAACgCAAAAAAAAAAAAAAACAAAAAAAAAAAAAAAAAAAAAADw',
  'PwAAAAAAAAAAAQAAAAAAAAAAAAAAAAAAAAAAAAAAAPA/AAAAAAAAAAABAAAAAAAAAAIAAAAAAAAAAAAAAAAAAAAAAAAAAADwPwAAAAAAAAAAAAAAAAAAAAMBAAAAAAAAAAMAAAADAAAAAAAAAAAAAEAAAAAAAADw',
  'PwAAAAAAAAACAAAAAAAAAAQAAAAFAAAAAgAAAAAAAAAAAAAAAAAkQAAAAAAAAPA/AAAAAAAAAAAAAAAAAADwPwEAAAAAAAAABwAAAAAAAAASAAAAAAAAAKAAAAAAAAAAowAAAAAAAAAA8JE7LSkALi4vcmlnLnVz',
  'ZABodWxsLnVzZABvbGQudXNkAGhlYXZ5LnVzZGMALi9sb29rLnVzZGEAYi51c2RhAEJvYXQAcHJpbUNoaWxkcmVuAHN1YkxheWVycwBzdWJMYXllck9mZnNldHMAc3BlY2lmaWVyAFhmb3JtAHR5cGVOYW1lAHJl',
  'ZmVyZW5jZXMAcGF5bG9hZABSaWcASGVhdnkAAAAAAAAGAAAAAAAAAAEAAAACAAAAAwAAAAQAAAAFAAAABgAAAAcAAAAAAAAAJQAAAAAAAAAA8BMAAAAA/z8IAAAAAQAAAAEAAAABAAAAAgAAAAEAAAABAAAAOwAA',
  'AAAAAAAA8CkwAQAAAAApAPgAAAAAADIACAEAAAAAMQAAAAAAAAAqQAwAAAAAAAtAWAAAAAAAIwDQAAAAAAA3AAkAAAAAAAAALgAAAAAAAAAA8BwAAAAA//8DAAAAAAEAAAABAAAA/f///wQAAAABAAAAAQAAAAEA',
  'AAD5////AAAEAAAAAAAAAAQAAAAAAAAAGAAAAAAAAAAA8AYAAAAA/wAAAAABAAAAAQAAAAEAAAAYAAAAAAAAAADwBgAAAAD/AAAAAAcAAAAJAAAAAQAAABgAAAAAAAAAAPAGAAAAAP//////AQAAAAAAAAD+////',
  'AgAAAAAAAAAPAAAAAAAAAADQAAAAAA8AAAAAAQAAAA8AAAAAAAAAANAAAAAADwAAAAAEAAAADwAAAAAAAAAA0AAAAAAPBwAAAP////8AAAAGAAAAAAAAAFRPS0VOUwAAAAAAAAAAAABAAQAAAAAAALsAAAAAAAAA',
  'U1RSSU5HUwAAAAAAAAAAAAACAAAAAAAAIAAAAAAAAABGSUVMRFMAAAAAAAAAAAAAIAIAAAAAAAB4AAAAAAAAAEZJRUxEU0VUUwAAAAAAAACYAgAAAAAAAD4AAAAAAAAAUEFUSFMAAAAAAAAAAAAAANgCAAAAAAAA',
  'cAAAAAAAAABTUEVDUwAAAAAAAAAAAAAASAMAAAAAAABNAAAAAAAAAA==',
].join('');

/** USD, binary: the moorings of the boat, by the same way in which paths are changed in a user's file. */
export async function moorings(): Promise<Buffer> {
  const bytes = new Uint8Array(Buffer.from(crate, 'base64'));
  const reading = await usdc.readParts!(async ([from, to]) => bytes.subarray(from, to), bytes.length);
  const to: Record<string, string> = {
    './look.usda': './quay_look.usda',
    'b.usda': './quay.usda',
    '../rig.usd': '../models/signal_set.usdz',
    'hull.usd': './quay_look.usda',
    'old.usd': './quay.usda',
    'heavy.usdc': '../models/signal_set.usdz',
  };
  const edits = reading.rewrite!(reading.references.map((r) => ({ at: r.at, value: to[r.written]! })))!;
  return Buffer.from(applyPieces(bytes, piecesOf(edits, bytes.length)));
}

/** USD package: a signal with its picture inside; entries stored, their data at multiples of 64 bytes. */
export function signalSet(picture: Buffer): Buffer {
  const layer =
    '#usda 1.0\n(\n    defaultPrim = "Signal"\n    metersPerUnit = 1\n)\n\ndef Xform "Signal"\n{\n    def Shader "Paint"\n    {\n        uniform token info:id = "UsdUVTexture"\n        asset inputs:file = @textures/paint.png@\n    }\n}\n';
  let at = 0;
  const aligned = (name: string, bytes: Uint8Array) => {
    const over = (at + 30 + name.length + 4) % 64;
    const padding = over === 0 ? 0 : 64 - over;
    at += 30 + name.length + 4 + padding + bytes.length;
    return [
      bytes,
      {
        level: 0 as const,
        mtime: new Date(2026, 10, 20, 10, 30),
        extra: { 0x1986: new Uint8Array(padding) },
      },
    ] as const;
  };
  const files = {
    'signal.usda': aligned('signal.usda', new TextEncoder().encode(layer)),
    'textures/paint.png': aligned('textures/paint.png', new Uint8Array(picture)),
  };
  return Buffer.from(zipSync(files as unknown as Parameters<typeof zipSync>[0]));
}

/** 3MF: a hook of one triangle to be printed, complete by itself. */
export function hook(): Buffer {
  const text = (t: string) =>
    [new TextEncoder().encode(t), { mtime: new Date(2026, 10, 20, 10, 33) }] as [Uint8Array, { mtime: Date }];
  return Buffer.from(
    zipSync({
      '[Content_Types].xml': text(
        '<?xml version="1.0" encoding="UTF-8"?>\n<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>\n',
      ),
      '_rels/.rels': text(
        '<?xml version="1.0" encoding="UTF-8"?>\n<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r0" Target="/3D/hook.model" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>\n',
      ),
      '3D/hook.model': text(
        '<?xml version="1.0" encoding="UTF-8"?>\n<model unit="millimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources><object id="1" type="surface"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="40" y="0" z="0"/><vertex x="0" y="60" z="0"/></vertices><triangles><triangle v1="0" v2="1" v3="2"/></triangles></mesh></object></resources><build><item objectid="1"/></build></model>\n',
      ),
    }),
  );
}
