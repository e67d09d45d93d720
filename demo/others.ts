// Scenes of the demo in the other open formats, small and whole: each opens in a program that reads its format.

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
export const review = `${JSON.stringify({
  OTIO_SCHEMA: 'Timeline.1', name: 'lamp review',
  tracks: { OTIO_SCHEMA: 'Stack.1', children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children: [{
    OTIO_SCHEMA: 'Clip.1', name: 'lamp', media_reference: {
      OTIO_SCHEMA: 'ImageSequenceReference.1', target_url_base: '../renders/lamp', name_prefix: 'lamp.', name_suffix: '.png', start_frame: 1, frame_step: 1, rate: 24, frame_zero_padding: 4,
      available_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: { OTIO_SCHEMA: 'RationalTime.1', rate: 24, value: 1 }, duration: { OTIO_SCHEMA: 'RationalTime.1', rate: 24, value: 6 } },
    },
  }] }] },
}, null, 2)}\n`;
